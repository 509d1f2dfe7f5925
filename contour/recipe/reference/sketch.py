"""A sketch."""

from __future__ import annotations

from typing import Annotated

from contour.recipe.reference.model import Points, Ref, ReferenceKind

__all__ = ["KIND", "SketchRef"]

KIND = ReferenceKind("sketch", "a sketch", accepts=("sketch",), layer="sketches")
SketchRef = Annotated[Ref, Points(KIND)]
