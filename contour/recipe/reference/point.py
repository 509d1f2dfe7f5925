"""What has a middle."""

from __future__ import annotations

from typing import Annotated

from contour.recipe.reference.model import FaceRef, Points, Ref, ReferenceKind

__all__ = ["KIND", "PointRef"]

KIND = ReferenceKind(
    "point",
    "a point",
    accepts=("point", "region"),
    layer="spots",
    shapes=("sphere",),
    faces=True,
    needs="a construction point or a ball region",
)
PointRef = Annotated[Ref | FaceRef, Points(KIND)]
