"""What has a middle."""

from __future__ import annotations

from typing import Annotated

from contour.recipe.reference.model import EdgeRef, EntityRef, FaceRef, Points, Ref, ReferenceKind, VertexRef

__all__ = ["KIND", "PointRef"]

KIND = ReferenceKind(
    "point",
    "a point",
    accepts=("point", "region"),
    layer="spots",
    shapes=("sphere",),
    parts=("face", "edge", "vertex", "entity"),
    needs="a construction point, a sphere, a corner, the centre of a round edge or arc, or the middle of a straight one",
)
PointRef = Annotated[Ref | FaceRef | EdgeRef | EntityRef | VertexRef, Points(KIND)]
