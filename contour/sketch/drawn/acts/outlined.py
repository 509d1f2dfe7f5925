"""Pieces that explain an outline, as entities of a drawing."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from contour.outline.arcs import circle_through
from contour.sketch.drawn.acts.pen import Pen
from contour.sketch.drawn.text import Arc, Circle, Ellipse, Entity, Line, Spline
from contour.sketch.taken import TakenPiece

__all__ = ["entity_of"]

Point2 = tuple[float, float]
Array = NDArray[np.float64]
_SPLINE_POINTS = 40


def entity_of(pen: Pen, piece: TakenPiece, corner: Callable[[Point2], str], *, full: bool) -> Entity:
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
