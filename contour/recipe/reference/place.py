"""Whatever has a place in space."""

from __future__ import annotations

from typing import Annotated

from contour.recipe.reference.model import EdgeRef, EntityRef, FaceRef, Points, Ref, ReferenceKind, VertexRef

__all__ = ["KIND", "PlaceRef"]

KIND = ReferenceKind(
    "place",
    "a place",
    accepts=("plane", "axis", "point", "region", "sketch"),
    layer="surfaces",
    parts=("face", "edge", "vertex", "entity"),
    needs="a plane, axis, point, region, sketch or a piece of one, face, edge or corner",
)
PlaceRef = Annotated[Ref | FaceRef | EdgeRef | EntityRef | VertexRef, Points(KIND)]
