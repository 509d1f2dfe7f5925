"""Edges of a body: one, those that run on from it without a bend, or all around a face."""

from __future__ import annotations

from typing import Annotated

from contour.recipe.reference.model import ChainRef, EdgeRef, FaceRef, Points, ReferenceKind

__all__ = ["KIND", "EdgesRef"]

KIND = ReferenceKind(
    "chain",
    "edges",
    accepts=("body",),
    layer="edges",
    parts=("edge", "chain", "face"),
    needs="edges, chains of edges, or faces whose edges are all meant",
)
EdgesRef = Annotated[EdgeRef | ChainRef | FaceRef, Points(KIND)]
