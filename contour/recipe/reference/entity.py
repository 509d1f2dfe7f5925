"""A line, arc or curve of a sketch."""

from __future__ import annotations

from contour.recipe.reference.model import ReferenceKind

__all__ = ["KIND"]

KIND = ReferenceKind(
    "entity", "a line or curve", accepts=("sketch",), layer="entities", parts=("entity",), needs="a piece of a sketch"
)
