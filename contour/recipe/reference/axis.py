"""What has an axis."""

from __future__ import annotations

from typing import Annotated

from contour.recipe.reference.model import EdgeRef, FaceRef, Points, Ref, ReferenceKind

__all__ = ["KIND", "AxisRef"]

KIND = ReferenceKind(
    "axis",
    "an axis",
    accepts=("axis", "region"),
    layer="surfaces",
    shapes=("cylinder", "cone", "torus"),
    parts=("face", "edge"),
    needs="a construction axis, a cylinder, cone or torus, or a straight or round edge",
)
AxisRef = Annotated[Ref | FaceRef | EdgeRef, Points(KIND)]
