"""What a drawing brings in of a body: an edge, or all edges around a face."""

from __future__ import annotations

from typing import Annotated

from contour.recipe.reference.model import EdgeRef, FaceRef, Points, ReferenceKind

__all__ = ["KIND", "LinkedRef"]

KIND = ReferenceKind(
    "linked",
    "an edge or a face",
    accepts=("body",),
    layer="edges",
    parts=("edge", "face"),
    needs="an edge or a face of a body",
)
LinkedRef = Annotated[EdgeRef | FaceRef, Points(KIND)]
