"""Pieces laid on walls that stand: what was measured twice comes out a few micrometres apart, and a body made of both has slivers there."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from pydantic import Field

from contour.sketch.drawn.acts.linking import BringIn, bring_in
from contour.sketch.drawn.acts.pen import Act, Pen
from contour.sketch.drawn.acts.relating import ask_together
from contour.sketch.drawn.linked import Link, LinkedPiece
from contour.sketch.drawn.text import Arc, Circle, Constraint, ConstraintKind, Line

__all__ = ["LieFlush", "lie_flush"]

_MOST = 60  # pieces: the drawing settles after each
_STEEP = math.radians(1.0)  # lines that cross at more are not one, however short they are
_ASKED: dict[str, tuple[ConstraintKind, ...]] = {"line": ("collinear",), "ring": ("concentric", "equal")}


class Wall(Act):
    """link: what it is of · piece: how it is seen on the plane."""

    link: Link
    piece: LinkedPiece


class LieFlush(Act):
    """of: pieces of the drawing; none means all that were taken over · walls: edges of bodies · within: mm that pieces may lie beside them. Each is laid on the
    nearest that it lies along, which is brought in for it; where that cannot hold with what is asked already, it stays where it is."""

    act: Literal["lie-flush"]
    of: tuple[str, ...] | None = Field(default=None, max_length=5000)
    walls: tuple[Wall, ...] = Field(max_length=5000)
    within: float = Field(gt=0, le=100)


@dataclass(frozen=True, slots=True)
class _Carrier:
    """A line by two places on it, or a ring by its middle and radius. mm."""

    a: np.ndarray
    b: np.ndarray | None = None
    radius: float = 0.0


def lie_flush(pen: Pen, act: LieFlush) -> None:
    """What lies flush now is chosen."""
    taken = [p.id for loop in pen.taken for p in loop.pieces if p.taken]
    names = [n for n in (taken if act.of is None else act.of) if n in pen.entities and not pen.entities[n].linked]
    walls = [(wall, on) for wall in act.walls if (on := _of_wall(wall.piece)) is not None]
    laid = []
    for name in names[:_MOST]:
        own = _of_entity(pen, name)
        if own is None or _lies_already(pen, name):
            continue
        near = [(off, k) for k, (_, on) in enumerate(walls) if (off := _off(own, on)) is not None and off <= act.within]
        if near and _laid(pen, name, walls[min(near)[1]][0], min(near)[0], act.within):
            laid.append(name)
    pen.chosen = laid


def _of_wall(piece: LinkedPiece) -> _Carrier | None:
    at = np.array(piece.points)
    match piece.kind:
        case "line":
            return _Carrier(at[0], at[1])
        case "circle":
            return _Carrier(at[0], radius=piece.size)
        case "arc":
            return _Carrier(at[0], radius=float(np.linalg.norm(at[1] - at[0])))
        case _:
            return None


def _of_entity(pen: Pen, name: str) -> _Carrier | None:
    match e := pen.entities[name]:
        case Line():
            return _Carrier(pen.at(e.start), pen.at(e.end))
        case Circle():
            return _Carrier(pen.at(e.centre), radius=e.radius)
        case Arc():
            return _Carrier(pen.at(e.centre), radius=float(np.linalg.norm(pen.at(e.start) - pen.at(e.centre))))
        case _:
            return None


def _off(own: _Carrier, wall: _Carrier) -> float | None:
    """How far a piece lies beside a wall at most, mm; none where they are of two kinds, or lie along another stretch of one line."""
    if (own.b is None) != (wall.b is None):
        return None
    if own.b is None or wall.b is None:
        return float(np.linalg.norm(own.a - wall.a)) + abs(own.radius - wall.radius)
    length = float(np.linalg.norm(wall.b - wall.a))
    if length < 1e-9:
        return None
    way = (wall.b - wall.a) / length
    along, across = np.array([(p - wall.a) @ np.column_stack([way, [-way[1], way[0]]]) for p in (own.a, own.b)]).T
    if abs(math.atan2(abs(across[1] - across[0]), abs(along[1] - along[0]))) > _STEEP:
        return None
    if min(along) > length or max(along) < 0.0:
        return None
    return float(np.abs(across).max())


def _lies_already(pen: Pen, name: str) -> bool:
    """Whether something asks it to lie on what was brought in."""
    return any(
        c.kind in ("collinear", "concentric")
        and name in c.of
        and any(n in pen.entities and pen.entities[n].linked for n in c.of)
        for c in pen.constraints
    )


def _laid(pen: Pen, name: str, wall: Wall, off: float, within: float) -> bool:
    """Brings the wall in and asks the piece to lie on it; where that cannot hold, nothing has happened."""
    entities, links, made = dict(pen.entities), list(pen.links), pen.made
    bring_in(pen, BringIn(act="bring-in", link=wall.link, pieces=(wall.piece,)))
    (on,) = pen.chosen
    kinds = _ASKED["line" if isinstance(pen.entities[on], Line) else "ring"]
    asked: Sequence[tuple[float, Constraint]] = [(off, Constraint(kind=kind, of=(on, name))) for kind in kinds]
    before = len(pen.constraints)
    if ask_together(pen, [name], asked, within) and len(pen.constraints) > before:
        return True
    pen.entities, pen.links, pen.made = entities, links, made
    return False
