"""An edge of a body, by the names of its faces."""

from __future__ import annotations

from typing import Annotated

from contour.recipe.reference.model import EdgeRef, Points, ReferenceKind

__all__ = ["KIND", "OneEdge"]

KIND = ReferenceKind("edge", "an edge", accepts=("body",), layer="edges", parts=("edge",), needs="an edge of a body")
OneEdge = Annotated[EdgeRef, Points(KIND)]
