"""Pieces of a section that are taken over: entities that share their corners, with the relations that nearly hold among them."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Annotated, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from contour.outline.arcs import circle_through
from contour.recipe.problem import ContourError
from contour.sketch.drawn.acts.linking import let_go
from contour.sketch.drawn.acts.pen import Act, Pen
from contour.sketch.drawn.acts.relating import relate
from contour.sketch.drawn.text import Arc, Circle, Ellipse, Entity, Line, Spline
from contour.sketch.taken import TakenLoop, TakenPiece

__all__ = ["Taking", "take"]

Point2 = tuple[float, float]
Array = NDArray[np.float64]
_SPLINE_POINTS = 40


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
            entity = _entity(pen, piece, corner, full=loop.full)
            pen.entities[name] = entity
            names.append(name)
    renamed = {old.id: new.id for old, new in zip(loop.pieces, pieces, strict=True)}
    relations = [
        r.model_copy(update={"first": renamed.get(r.first, r.first), "second": renamed.get(r.second, r.second)})
        for r in loop.relations
    ]
    return loop.model_copy(update={"pieces": pieces, "relations": relations, "name": ""}), names


def _entity(pen: Pen, piece: TakenPiece, corner: Callable[[Point2], str], *, full: bool) -> Entity:
    """full: a part of a circle or ellipse of which all is meant."""
    whole = math.dist(piece.start, piece.end) < 1e-9
    if piece.kind == "line":
        return Line(start=corner(piece.start), end=corner(piece.end))
    if piece.kind == "free" or (piece.kind == "ellipse" and piece.ellipse is None):
        path = np.array(piece.points or [piece.start, piece.end])
        inner = path[np.unique(np.linspace(0, len(path) - 1, min(len(path), _SPLINE_POINTS)).astype(int))][1:-1]
        start = corner(piece.start)
        return Spline(through=(start, *(pen.point(p) for p in inner), start if whole else corner(piece.end)))
    if piece.ellipse is not None:
        x, y, major, minor, turn = piece.ellipse
        tip = pen.point((x + major * math.cos(turn), y + major * math.sin(turn)))
        shape = Ellipse(centre=pen.point((x, y)), major=tip, minor=minor)
        if whole or full:
            return shape
        first, last = _counter_clockwise(piece, np.array([x, y]))
        return shape.model_copy(update={"start": corner(first), "end": corner(last)})
    assert piece.mid is not None
    if whole:
        across = np.array([piece.start, piece.mid])
        return Circle(centre=pen.point(across.mean(axis=0)), radius=float(math.dist(piece.start, piece.mid)) / 2)
    m, radius = circle_through(piece.start, piece.mid, piece.end)
    if full:
        return Circle(centre=pen.point(m), radius=float(radius))
    first, last = _counter_clockwise(piece, np.asarray(m))
    return Arc(centre=pen.point(m), start=corner(first), end=corner(last))


def _counter_clockwise(piece: TakenPiece, centre: Array) -> tuple[tuple[float, float], tuple[float, float]]:
    """The ends of a round piece, in the order in which it runs counter-clockwise about its centre."""
    assert piece.mid is not None
    a, m, b = (float(np.arctan2(*(np.array(p) - centre)[::-1])) for p in (piece.start, piece.mid, piece.end))
    ahead = (m - a) % (2 * np.pi) < (b - a) % (2 * np.pi)
    return (piece.start, piece.end) if ahead else (piece.end, piece.start)
