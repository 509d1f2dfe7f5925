"""Circles with members at equal angles: through those that are there, with room for those that are not.

The circle through points: least squares of its equation (Coope 1993). The angle it starts at: the mean of what members are off their places.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

__all__ = ["EvenCircle", "circle_through", "even_circle"]

Array = NDArray[np.float64]


@dataclass(frozen=True, slots=True, eq=False)
class EvenCircle:
    """centre (2,), radius, mm · start: angle of its first member, radians · off: how far the worst member is off its place, mm."""

    centre: Array
    radius: float
    start: float
    off: float


def circle_through(points: Array) -> tuple[Array, float] | None:
    """(centre (2,), radius) of the circle nearest to points (n, 2), mm; none where they lie in a line."""
    rows = np.column_stack([2 * points, np.ones(len(points))])
    if np.linalg.matrix_rank(rows, tol=1e-6 * np.abs(rows).max()) < 3:
        return None
    x, *_ = np.linalg.lstsq(rows, (points**2).sum(axis=1), rcond=None)
    squared = float(x[2] + x[:2] @ x[:2])
    return (x[:2], math.sqrt(squared)) if squared > 0 else None


def even_circle(points: Array, count: int) -> EvenCircle | None:
    """The circle of `count` even places that these members (n, 2), mm, n at least 3, lie on; the first is its first member. None for a line."""
    found = circle_through(points)
    if found is None:
        return None
    centre, radius = found
    step = 2 * math.pi / count
    around = np.arctan2(*(points - centre).T[::-1]) - math.atan2(*(points[0] - centre)[::-1])
    turns = np.round(around / step)
    start = math.atan2(*(points[0] - centre)[::-1]) + float(np.mean(around - turns * step))
    angles = start + turns * step
    places = centre + radius * np.column_stack([np.cos(angles), np.sin(angles)])
    return EvenCircle(centre, radius, start, float(np.linalg.norm(points - places, axis=1).max()))
