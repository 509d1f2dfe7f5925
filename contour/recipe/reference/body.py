"""A body, as it is just above the step."""

from __future__ import annotations

from typing import Annotated

from contour.recipe.reference.model import Points, Ref, ReferenceKind

__all__ = ["KIND", "BodyRef"]

KIND = ReferenceKind("body", "a body", accepts=("body",), layer="bodies")
BodyRef = Annotated[Ref, Points(KIND)]
