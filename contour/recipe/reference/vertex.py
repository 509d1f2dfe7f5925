"""A corner of a body, by the names of the faces that meet in it."""

from __future__ import annotations

from contour.recipe.reference.model import ReferenceKind

__all__ = ["KIND"]

KIND = ReferenceKind(
    "vertex", "a corner", accepts=("body",), layer="vertices", parts=("vertex",), needs="a corner of a body"
)
