"""A curve in space."""

from __future__ import annotations

from typing import Annotated

from contour.recipe.reference.model import Points, Ref, ReferenceKind

__all__ = ["KIND", "CurveRef"]

KIND = ReferenceKind("curve", "a curve in space", accepts=("curve",), layer="steps")
CurveRef = Annotated[Ref, Points(KIND)]
