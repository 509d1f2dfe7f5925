"""What has an axis."""

from __future__ import annotations

from typing import Annotated

from contour.recipe.reference.model import FaceRef, Points, Ref, ReferenceKind

__all__ = ["KIND", "AxisRef"]

KIND = ReferenceKind(
    "axis",
    "an axis",
    accepts=("axis", "region"),
    layer="surfaces",
    shapes=("cylinder", "cone", "torus"),
    faces=True,
    needs="a construction axis, a round region or a round face",
)
AxisRef = Annotated[Ref | FaceRef, Points(KIND)]
