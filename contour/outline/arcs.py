"""Arcs given by three points: circle through them, and points along them."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

__all__ = ["arc_length", "arc_points", "arc_sweep", "circle_through"]

Point2 = tuple[float, float]


def circle_through(start: Point2, mid: Point2, end: Point2) -> tuple[NDArray[np.float64], float]:
    """Centre (2,) and radius; a whole circle has start == end and mid opposite."""
    a, m, b = np.array(start), np.array(mid), np.array(end)
    if start == end:
        return (a + m) / 2, float(np.linalg.norm(m - a) / 2)
    rows = 2 * np.array([m - a, b - a])
    centre = np.linalg.solve(rows, [m @ m - a @ a, b @ b - a @ a])
    return centre, float(np.linalg.norm(a - centre))


def _angle(p: Point2, centre: NDArray[np.float64]) -> float:
    return float(np.arctan2(p[1] - centre[1], p[0] - centre[0]))


def arc_sweep(start: Point2, mid: Point2, end: Point2, centre: NDArray[np.float64]) -> tuple[float, float]:
    """(angle at the start, signed angle to the end over mid), radians; start == end goes all the way round.

    centre (2,), mm.
    """
    a, m, b = _angle(start, centre), _angle(mid, centre), _angle(end, centre)
    turn = 2 * np.pi
    sweep = turn if start == end else (b - a) % turn
    return a, sweep - turn if start != end and (m - a) % turn > sweep else sweep


def _straight(start: Point2, mid: Point2, end: Point2) -> bool:
    """Three points on a line, to rounding: there is no circle through them."""
    a, m, b = np.array(start), np.array(mid), np.array(end)
    cross = (m[0] - a[0]) * (b[1] - a[1]) - (m[1] - a[1]) * (b[0] - a[0])
    return start != end and abs(cross) <= 1e-12 * float((m - a) @ (m - a) + (b - a) @ (b - a))


def arc_length(start: Point2, mid: Point2, end: Point2) -> float:
    """Over mid; along the line where the three points lie on one. mm."""
    if _straight(start, mid, end):
        return float(np.linalg.norm(np.subtract(mid, start)) + np.linalg.norm(np.subtract(end, mid)))
    centre, radius = circle_through(start, mid, end)
    return radius * abs(arc_sweep(start, mid, end, centre)[1])


def arc_points(start: Point2, mid: Point2, end: Point2, *, step_deg: float) -> NDArray[np.float64]:
    """Points from start over mid to end, (n, 2), both ends exact; the three themselves where they lie on a line."""
    if _straight(start, mid, end):
        return np.array([start, mid, end])
    centre, radius = circle_through(start, mid, end)
    a, sweep = arc_sweep(start, mid, end, centre)
    n = max(3, int(np.ceil(abs(np.degrees(sweep)) / step_deg)) + 1)
    t = a + np.linspace(0, sweep, n)
    out: NDArray[np.float64] = centre + radius * np.column_stack([np.cos(t), np.sin(t)])
    out[0], out[-1] = start, end
    return out
