"""Whatever has a place in space."""

from __future__ import annotations

from typing import Annotated

from contour.recipe.reference.model import FaceRef, Points, Ref, ReferenceKind

__all__ = ["KIND", "PlaceRef"]

KIND = ReferenceKind(
    "place",
    "a place",
    accepts=("plane", "axis", "point", "region", "sketch"),
    layer="surfaces",
    faces=True,
    needs="a plane, axis, point, region, sketch or face",
)
PlaceRef = Annotated[Ref | FaceRef, Points(KIND)]
