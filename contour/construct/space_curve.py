"""Curves in space through points: smooth ones, and straight pieces with round corners.

A smooth one is the cubic spline of least bending for the distances between its points (natural at its ends, periodic where it closes); reference:
de Boor, A Practical Guide to Splines, 1978, chapter IV.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import BSpline, CubicSpline, make_interp_spline

from contour.geometry import curves
from contour.geometry.curves import Line, Oval
from contour.geometry.vectors import Vec3, triple, unit
from contour.recipe.problem import ContourError, Where

__all__ = ["SpacePiece", "SpaceSpline", "drawn", "smooth_through", "straight_through"]

Array = NDArray[np.float64]
_SAME_MM = 1e-6
_DRAWN = 24  # places of a stretch of a spline, and of an arc, that it is drawn by
_MOST_DRAWN = 600  # of a spline: they travel with everything that is told of the job
_STRAIGHT = 1 - 1e-12


@dataclass(frozen=True, slots=True)
class SpaceSpline:
    """A cubic B-spline in space, mm. knots: with those at its ends four times · poles: its control points."""

    knots: tuple[float, ...]
    poles: tuple[Vec3, ...]

    @property
    def kind(self) -> str:
        return "spline"

    def curve(self) -> BSpline:
        """Of its parameter, which is about the length along it."""
        return BSpline(np.array(self.knots), np.array(self.poles), 3)


SpacePiece = Line | Oval | SpaceSpline


def _apart(points: Array, closed: bool) -> None:
    """Raises ContourError (bad-params) where two points that follow each other are one, or there are too few."""
    least = 3 if closed else 2
    if len(points) < least:
        raise ContourError(
            "bad-params",
            "a curve needs more points",
            where=Where(param="points"),
            got="nothing" if len(points) == 0 else f"{len(points)}",
            need=f"at least {least}",
            remedy="pick the points that it is to go through, one after the other",
        )
    nexts = np.roll(points, -1, axis=0) if closed else points[1:]
    gaps = np.linalg.norm(nexts - points[: len(nexts)], axis=1)
    if gaps.min() < _SAME_MM:
        k = int(np.argmin(gaps))
        raise ContourError(
            "bad-params",
            "two points that follow each other are one",
            where=Where(param=f"points[{(k + 1) % len(points)}]", point=triple(points[k])),
            got="0 mm apart",
            need="points apart from each other",
            remedy="take one of them out",
        )


def smooth_through(points: Array, *, closed: bool) -> tuple[SpacePiece, ...]:
    """One smooth curve through points (n, 3) in their order, mm. Raises ContourError (bad-params)."""
    _apart(points, closed)
    if len(points) == 2:
        return (Line(triple(points[0]), triple(points[1])),)
    through = np.vstack([points, points[:1]]) if closed else points
    at = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(through, axis=0), axis=1))])
    if closed:
        # The periodic one has one slope where it closes; with that at both ends the spline through the same points is the same.
        slope = CubicSpline(at, through, bc_type="periodic")(0.0, 1)
        ends: list[tuple[int, Array]] = [(1, slope)]
    else:
        ends = [(2, np.zeros(3))]
    found = make_interp_spline(at, through, k=3, bc_type=(ends, ends))
    return (SpaceSpline(tuple(map(float, found.t)), tuple(triple(c) for c in found.c)),)


def straight_through(points: Array, *, closed: bool, radius: float) -> tuple[SpacePiece, ...]:
    """Straight pieces from point to point (n, 3), their corners rounded with a radius (0: sharp), mm.

    Raises ContourError (bad-params) with the corner where the round is longer than the pieces beside it.
    """
    _apart(points, closed)
    n = len(points)
    corners = range(n) if closed else range(1, n - 1)
    takes = np.zeros(n)  # of the pieces on both sides of a point
    rounds: dict[int, Oval] = {}
    for k in corners if radius > 0 else ():
        before, after = unit(points[k - 1] - points[k]), unit(points[(k + 1) % n] - points[k])
        if abs(float(before @ after)) > _STRAIGHT:
            continue
        half = math.acos(float(np.clip(before @ after, -1, 1))) / 2
        takes[k] = radius / math.tan(half)
        rounds[k] = _round(points[k], before, after, half, radius, float(takes[k]))
    for k in range(n if closed else n - 1):
        m = (k + 1) % n
        length = float(np.linalg.norm(points[m] - points[k]))
        if takes[k] + takes[m] > length + _SAME_MM:
            worse = k if takes[k] >= takes[m] else m
            raise ContourError(
                "bad-params",
                "the corners are rounded more than the pieces between them are long",
                where=Where(param="radius", point=triple(points[worse])),
                got=f"{takes[k] + takes[m]:.3f} mm of {length:.3f} mm",
                need=f"a radius of at most {radius * length / (takes[k] + takes[m]):.3f} mm there",
                remedy="type a smaller radius, or move the points apart",
            )
    return tuple(_pieces(points, rounds, takes, closed))


def _round(corner: Array, before: Array, after: Array, half: float, radius: float, take: float) -> Oval:
    """The arc from the piece before a corner to the one after it."""
    centre = corner + unit(before + after) * radius / math.sin(half)
    x = unit(corner + take * before - centre)
    end = unit(corner + take * after - centre)
    y = unit(end - float(end @ x) * x)
    return Oval(triple(centre), triple(x), triple(y), radius, radius, 0.0, math.pi - 2 * half)


def _pieces(points: Array, rounds: dict[int, Oval], takes: Array, closed: bool) -> list[SpacePiece]:
    out: list[SpacePiece] = []
    n = len(points)
    for k in range(n if closed else n - 1):
        m = (k + 1) % n
        along = unit(points[m] - points[k])
        a, b = points[k] + takes[k] * along, points[m] - takes[m] * along
        if float(np.linalg.norm(b - a)) > _SAME_MM:
            out.append(Line(triple(a), triple(b)))
        if m in rounds:
            out.append(rounds[m])
    return out


def drawn(pieces: Sequence[SpacePiece]) -> Array:
    """Places (n, 3) along them from end to end, close enough to be drawn, mm."""
    rows: list[Array] = []
    for piece in pieces:
        if isinstance(piece, Line):
            rows.append(np.array([piece.start, piece.end]))
        elif isinstance(piece, Oval):
            rows.append(curves.places(piece, np.linspace(piece.first, piece.last, _DRAWN)))
        else:
            spans = np.unique(piece.knots)
            each = max(3, min(_DRAWN, _MOST_DRAWN // (len(spans) - 1)))
            at = np.concatenate([np.linspace(a, b, each, endpoint=False) for a, b in pairwise(spans)])
            rows.append(piece.curve()(np.append(at, spans[-1])))
    return np.concatenate(rows)
