"""What has a plane."""

from __future__ import annotations

from typing import Annotated

from contour.recipe.reference.model import FaceRef, Points, Ref, ReferenceKind

__all__ = ["KIND", "PlaneRef"]

KIND = ReferenceKind(
    "plane",
    "a plane",
    accepts=("plane", "region", "sketch"),
    layer="surfaces",
    shapes=("plane",),
    parts=("face",),
    needs="a construction plane, a plane region, a sketch's plane or a flat face",
)
PlaneRef = Annotated[Ref | FaceRef, Points(KIND)]
