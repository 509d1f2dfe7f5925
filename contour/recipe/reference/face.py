"""A face of a body, by its lasting name."""

from __future__ import annotations

from contour.recipe.reference.model import FaceRef, ReferenceKind

__all__ = ["KIND", "FaceRef"]

KIND = ReferenceKind("face", "a face", accepts=("body",), layer="faces", faces=True, needs="a face of a body")
