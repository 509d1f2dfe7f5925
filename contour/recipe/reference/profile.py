"""A closed profile of a sketch."""

from __future__ import annotations

from contour.recipe.reference.model import ReferenceKind

__all__ = ["KIND"]

KIND = ReferenceKind(
    "profile",
    "a profile",
    accepts=("sketch",),
    layer="sketches",
    parts=("profile",),
    needs="a closed profile of a sketch",
)
