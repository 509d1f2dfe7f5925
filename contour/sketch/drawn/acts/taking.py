"""Pieces of a section that are taken over: entities that share their corners, with the relations that nearly hold among them."""

from __future__ import annotations

import math
from typing import Annotated, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from contour.recipe.problem import ContourError
from contour.sketch.drawn.acts.linking import let_go
from contour.sketch.drawn.acts.outlined import entity_of
from contour.sketch.drawn.acts.pen import Act, Pen
from contour.sketch.drawn.acts.relating import relate
from contour.sketch.taken import TakenLoop

__all__ = ["Taking", "take"]

Point2 = tuple[float, float]
Array = NDArray[np.float64]


class TakeOver(Act):
    """loops: as a section has them, those pieces that are meant marked as taken · within: mm that relations may be off by · relate: whether any are
    looked for."""

    act: Literal["take"]
    loops: tuple[TakenLoop, ...] = Field(min_length=1, max_length=500)
    within: float = Field(gt=0, le=100)
    relate: bool = True


class Detach(Act):
    """Pieces that follow the scan, a body or another sketch no longer."""

    act: Literal["detach"]
    of: tuple[str, ...] = Field(min_length=1, max_length=5000)


Taking = Annotated[TakeOver | Detach, Field(discriminator="act")]


def take(pen: Pen, taking: Taking) -> None:
    """Raises ContourError (no-profile) where no piece is meant."""
    if isinstance(taking, Detach):
        gone = set(taking.of)
        let_go(pen, taking.of)
        pen.taken = [
            loop.model_copy(
                update={"pieces": [p.model_copy(update={"taken": p.taken and p.id not in gone}) for p in loop.pieces]}
            )
            for loop in pen.taken
        ]
        pen.chosen = list(taking.of)
        return
    new: list[str] = []
    for loop in taking.loops:
        if any(p.taken for p in loop.pieces):
            own, names = _taken(pen, loop)
            pen.taken.append(own)
            new += names
    if not new:
        raise ContourError(
            "no-profile",
            "none of the pieces is to be taken",
            got="0 pieces",
            need="at least one piece of the section",
            remedy="point to a piece of the section",
        )
    if taking.relate:
        relate(pen, new, taking.within)
    pen.chosen = new


def _taken(pen: Pen, loop: TakenLoop) -> tuple[TakenLoop, list[str]]:
    """The loop under the ids that its pieces have in the drawing, and those of the taken ones."""
    pieces, names = [], []
    corners: dict[tuple[float, float], str] = {}

    def corner(p: tuple[float, float]) -> str:
        near = next((name for q, name in corners.items() if math.dist(p, q) < 1e-6), None)
        if near is None:
            near = corners[p] = pen.point(p)
        return near

    for piece in loop.pieces:
        pen.made += 1
        name = f"e{pen.made}"
        pieces.append(piece.model_copy(update={"id": name}))
        if piece.taken:
            entity = entity_of(pen, piece, corner, full=loop.full)
            pen.entities[name] = entity
            names.append(name)
    renamed = {old.id: new.id for old, new in zip(loop.pieces, pieces, strict=True)}
    relations = [
        r.model_copy(update={"first": renamed.get(r.first, r.first), "second": renamed.get(r.second, r.second)})
        for r in loop.relations
    ]
    return loop.model_copy(update={"pieces": pieces, "relations": relations, "name": ""}), names
