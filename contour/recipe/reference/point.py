"""What has a middle."""

from __future__ import annotations

from typing import Annotated

from contour.recipe.reference.model import EdgeRef, FaceRef, Points, Ref, ReferenceKind, VertexRef

__all__ = ["KIND", "PointRef"]

KIND = ReferenceKind(
    "point",
    "a point",
    accepts=("point", "region"),
    layer="spots",
    shapes=("sphere",),
    parts=("face", "edge", "vertex"),
    needs="a construction point, a sphere, a corner, or a round edge's centre",
)
PointRef = Annotated[Ref | FaceRef | EdgeRef | VertexRef, Points(KIND)]
