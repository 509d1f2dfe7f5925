"""Pieces of outlines and of sketches as shapes of a flat file."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from typing import Protocol

import numpy as np
from scipy.interpolate import make_interp_spline

from contour.exchange.flat.shapes import Arc, Ellipse, Line, Path, Piece, Place, Shape, Spline
from contour.outline.arcs import circle_through

__all__ = ["Outlined", "flat_pieces"]


class Outlined(Protocol):
    """A piece by its ends; mid, on arcs and ellipses; points of free pieces; ellipse: see `contour.outline.ellipses`."""

    @property
    def kind(self) -> str: ...
    @property
    def start(self) -> Place: ...
    @property
    def end(self) -> Place: ...
    @property
    def mid(self) -> Place | None: ...
    @property
    def points(self) -> Sequence[Place]: ...
    @property
    def ellipse(self) -> tuple[float, float, float, float, float] | None: ...


def flat_pieces(outline: Iterable[Outlined], layer: str) -> list[Piece]:
    """On one layer; a free piece is the cubic through its points."""
    return [Piece(_shape(p), layer) for p in outline]


def _shape(p: Outlined) -> Shape:
    if p.kind == "line":
        return Line(p.start, p.end)
    if p.ellipse is not None and p.mid is not None:
        return _ellipse(p.ellipse, p.start, p.mid, p.end)
    if p.kind == "arc" and p.mid is not None:
        if math.dist(p.start, p.end) < 1e-9:
            centre = ((p.start[0] + p.mid[0]) / 2, (p.start[1] + p.mid[1]) / 2)
            return Arc(centre, math.dist(p.start, p.mid) / 2)
        found, radius = circle_through(p.start, p.mid, p.end)
        centre = (float(found[0]), float(found[1]))
        angles = [math.atan2(q[1] - centre[1], q[0] - centre[0]) for q in (p.start, p.mid, p.end)]
        return Arc(centre, float(radius), *_between(*angles))
    return _free(p)


def _between(start: float, mid: float, end: float) -> tuple[float, float]:
    """The way from one angle to another, counter-clockwise, on which a third lies; else the way back."""
    turn, within = (end - start) % math.tau, (mid - start) % math.tau
    if within <= turn:
        return start, start + turn
    return end, end + (start - end) % math.tau


def _ellipse(numbers: tuple[float, float, float, float, float], start: Place, mid: Place, end: Place) -> Shape:
    x, y, a, b, turn = numbers
    whole = Ellipse((x, y), (a * math.cos(turn), a * math.sin(turn)), b / a)
    if math.dist(start, end) < 1e-9:
        return whole
    c, s = math.cos(turn), math.sin(turn)

    def angle(p: Place) -> float:
        u, v = p[0] - x, p[1] - y
        return math.atan2((-u * s + v * c) / b, (u * c + v * s) / a)

    return Ellipse(whole.centre, whole.major, whole.ratio, *_between(angle(start), angle(mid), angle(end)))


def _free(p: Outlined) -> Shape:
    rows = np.array(p.points if len(p.points) else [p.start, p.end], float)
    steps = np.linalg.norm(np.diff(rows, axis=0), axis=1)
    rows = rows[np.concatenate([[True], steps > 1e-9])]
    if len(rows) < 4:
        return Path(rows)
    at = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(rows, axis=0), axis=1))])
    through = make_interp_spline(at / at[-1], rows, k=3, bc_type="natural")
    return Spline(3, np.asarray(through.t), np.asarray(through.c))
