"""A solid from a file."""

from __future__ import annotations

from typing import Annotated

from contour.recipe.reference.model import Points, Ref, ReferenceKind

__all__ = ["KIND", "SolidRef"]

KIND = ReferenceKind(
    "solid", "a solid from a file", accepts=("solid",), layer="bodies", needs="a STEP or IGES file of the job"
)
SolidRef = Annotated[Ref, Points(KIND)]
