"""A face of a body, by its lasting name."""

from __future__ import annotations

from contour.recipe.reference.model import ReferenceKind

__all__ = ["KIND"]

KIND = ReferenceKind("face", "a face", accepts=("body",), layer="faces", parts=("face",), needs="a face of a body")
