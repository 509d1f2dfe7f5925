"""A surface that something ends at or is cut by."""

from __future__ import annotations

from typing import Annotated

from contour.recipe.reference.model import Points, Ref, ReferenceKind

__all__ = ["KIND", "SurfaceRef"]

KIND = ReferenceKind(
    "surface", "a surface", accepts=("region", "plane"), layer="surfaces", needs="a region or a construction plane"
)
SurfaceRef = Annotated[Ref, Points(KIND)]
