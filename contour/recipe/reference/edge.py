"""An edge of a body, by the names of its faces."""

from __future__ import annotations

from contour.recipe.reference.model import ReferenceKind

__all__ = ["KIND"]

KIND = ReferenceKind("edge", "an edge", accepts=("body",), layer="edges", parts=("edge",), needs="an edge of a body")
