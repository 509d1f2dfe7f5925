"""A face of a body, by its lasting name."""

from __future__ import annotations

from typing import Annotated

from contour.recipe.reference.model import FaceRef, Points, ReferenceKind

__all__ = ["KIND", "OneFace"]

KIND = ReferenceKind("face", "a face", accepts=("body",), layer="faces", parts=("face",), needs="a face of a body")
OneFace = Annotated[FaceRef, Points(KIND)]
