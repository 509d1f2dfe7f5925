"""Pieces of a section that are taken over: entities that share their corners, with the relations that nearly hold among them."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import Annotated, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from contour.recipe.problem import ContourError
from contour.sketch.drawn.acts.linking import let_go
from contour.sketch.drawn.acts.outlined import entity_of
from contour.sketch.drawn.acts.pen import Act, Pen
from contour.sketch.drawn.acts.relating import ask_together, nearly_related, tangents
from contour.sketch.drawn.acts.sector import held_sector, seam_pieces
from contour.sketch.drawn.text import Constraint, ConstraintKind
from contour.sketch.taken import TakenLoop

__all__ = ["Taking", "take"]

Point2 = tuple[float, float]
Array = NDArray[np.float64]
_HELD_MM = 1e-3  # joints that miss being tangent by less were fitted so
_ASKED: Mapping[str, ConstraintKind] = {
    "parallel": "parallel",
    "square": "perpendicular",
    "equal radius": "equal",
    "concentric": "concentric",
}


class TakeOver(Act):
    """loops: as a section has them, those pieces that are meant marked as taken · within: mm that relations may be off by · relate: whether any are
    looked for; without, only what holds already is asked for: joints that are tangent, and what the loops were held to."""

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
    loops = _renamed(pen, taking.loops)
    pen.taken += loops
    new = [name for loop in loops for name in _drawn(pen, loop)]
    if not new:
        raise ContourError(
            "no-profile",
            "none of the pieces is to be taken",
            got="0 pieces",
            need="at least one piece of the section",
            remedy="point to a piece of the section",
        )
    # A loop's mirror image is held by its fit alone: the line that it is mirrored at is not drawn.
    held = [
        (0.0, Constraint(kind=_ASKED[r.kind], of=(r.first, r.second)))
        for loop in loops
        for r in loop.relations
        if r.kind in _ASKED and {r.first, r.second} <= set(new)
    ]
    held += [row for loop in loops for row in held_sector(pen, loop)]
    seam = seam_pieces(loops)
    free = [n for n in new if n not in seam]
    nearly = [*nearly_related(pen, free, taking.within), *tangents(pen, sorted(seam), _HELD_MM)]
    if not taking.relate or not ask_together(pen, new, [*held, *nearly], taking.within):
        ask_together(pen, new, [*held, *tangents(pen, new, _HELD_MM)], taking.within)
    pen.chosen = new


def _renamed(pen: Pen, loops: Sequence[TakenLoop]) -> list[TakenLoop]:
    """Loops of which something is meant, under the ids that their pieces have in the drawing."""
    meant = [loop for loop in loops if any(p.taken for p in loop.pieces)]
    own: list[dict[str, str]] = []
    for loop in meant:
        first = pen.made + 1
        pen.made += len(loop.pieces)
        own.append({p.id: f"e{k}" for k, p in enumerate(loop.pieces, first)})
    every = {old: new for names in own for old, new in names.items()}
    out = []
    for loop, names in zip(meant, own, strict=True):
        known = every | names
        held = [r for r in loop.relations if {r.first, r.second} <= known.keys()]
        relations = [r.model_copy(update={"first": known[r.first], "second": known[r.second]}) for r in held]
        pieces = [p.model_copy(update={"id": names[p.id]}) for p in loop.pieces]
        out.append(loop.model_copy(update={"pieces": pieces, "relations": relations, "name": ""}))
    return out


def _drawn(pen: Pen, loop: TakenLoop) -> list[str]:
    """The ids of the pieces that are drawn now."""
    corners: dict[tuple[float, float], str] = {}

    def corner(p: tuple[float, float]) -> str:
        near = next((name for q, name in corners.items() if math.dist(p, q) < 1e-6), None)
        if near is None:
            near = corners[p] = pen.point(p)
        return near

    meant = [p for p in loop.pieces if p.taken]
    for piece in meant:
        pen.entities[piece.id] = entity_of(pen, piece, corner, full=loop.full)
    return [p.id for p in meant]
