"""Ellipses: what an oblique section of a bore or a shaft is. Fit, distance, and points along one.

An ellipse is five numbers: centre x, y, longer and shorter half-axis (mm), angle of the longer one (radians).
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

__all__ = [
    "Ellipse",
    "ellipse_gap",
    "ellipse_path",
    "fit_ellipse",
    "is_oval",
    "nearest_on_ellipse",
    "through_points",
    "turn_around",
]

Array = NDArray[np.float64]
Ellipse = tuple[float, float, float, float, float]
_ROUND, _SLENDER = (
    1.03,
    12.0,
)  # ratios of the half-axes between which it is an ellipse, and not a circle or a pair of lines


def _own_axes(e: Ellipse, points: Array) -> Array:
    c, s = np.cos(e[4]), np.sin(e[4])
    d = points - np.array(e[:2])
    return np.column_stack([d[:, 0] * c + d[:, 1] * s, -d[:, 0] * s + d[:, 1] * c])


def _in_plane(e: Ellipse, own: Array) -> Array:
    c, s = np.cos(e[4]), np.sin(e[4])
    return np.column_stack([own[:, 0] * c - own[:, 1] * s, own[:, 0] * s + own[:, 1] * c]) + np.array(e[:2])


def _parameter(e: Ellipse, own: Array) -> Array:
    """Eccentric angle of the nearest point, by Newton on the derivative of the squared distance from the best of a ring of starts."""
    a, b = e[2], e[3]
    ring = np.linspace(-np.pi, np.pi, 48, endpoint=False)
    path = np.column_stack([a * np.cos(ring), b * np.sin(ring)])
    t = ring[np.argmin(((own[:, None] - path[None]) ** 2).sum(axis=2), axis=1)]
    for _ in range(8):
        c, s = np.cos(t), np.sin(t)
        slope = (a * a - b * b) * c * s - own[:, 0] * a * s + own[:, 1] * b * c
        bend = (a * a - b * b) * (c * c - s * s) - own[:, 0] * a * c - own[:, 1] * b * s
        # slope = -d/dt (squared distance) / 2: where the bend has the wrong sign a Newton step would climb.
        t = t - np.clip(np.where(bend < -1e-12, slope / np.minimum(bend, -1e-12), 0.0), -0.2, 0.2)
    return t


def nearest_on_ellipse(e: Ellipse, points: Array) -> tuple[Array, Array]:
    """(nearest points (n, 2), signed distances (n,), positive outside)."""
    own = _own_axes(e, np.atleast_2d(points))
    t = _parameter(e, own)
    foot = np.column_stack([e[2] * np.cos(t), e[3] * np.sin(t)])
    outside = (own[:, 0] / e[2]) ** 2 + (own[:, 1] / e[3]) ** 2 > 1
    return _in_plane(e, foot), np.where(outside, 1.0, -1.0) * np.linalg.norm(own - foot, axis=1)


def ellipse_gap(e: Ellipse, points: Array) -> Array:
    """Signed distances of points (n, 2)."""
    return nearest_on_ellipse(e, points)[1]


def _direct(points: Array) -> Ellipse | None:
    """Algebraic fit that is always an ellipse (Halíř & Flusser, Numerically stable direct least squares fitting of ellipses, 1998)."""
    middle = points.mean(axis=0)
    size = float(np.abs(points - middle).max()) or 1.0
    x, y = ((points - middle) / size).T
    quadratic, linear = np.column_stack([x * x, x * y, y * y]), np.column_stack([x, y, np.ones(len(x))])
    s2, s3 = quadratic.T @ linear, linear.T @ linear
    if np.linalg.cond(s3) > 1e12:
        return None
    back = -np.linalg.solve(s3, s2.T)
    m = quadratic.T @ quadratic + s2 @ back
    values, vectors = np.linalg.eig(np.array([m[2] / 2, -m[1], m[0] / 2]))
    is_ellipse = 4 * vectors[0] * vectors[2] - vectors[1] ** 2
    good = np.flatnonzero((np.abs(np.imag(values)) < 1e-9) & (np.real(is_ellipse) > 0))
    if len(good) == 0:
        return None
    a, b, c = np.real(vectors[:, good[0]])
    d, f, g = back @ np.array([a, b, c])
    det = 4 * a * c - b * b
    cx, cy = (b * f - 2 * c * d) / det, (b * d - 2 * a * f) / det
    level = a * cx * cx + b * cx * cy + c * cy * cy - g
    w, axes = np.linalg.eigh(np.array([[a, b / 2], [b / 2, c]]))
    with np.errstate(invalid="ignore", divide="ignore"):
        half = np.sqrt(level / w)
    if not np.isfinite(half).all():
        return None
    k = int(np.argmax(half))
    angle = float(np.arctan2(axes[1, k], axes[0, k]))
    return (
        float(middle[0] + size * cx),
        float(middle[1] + size * cy),
        float(size * half[k]),
        float(size * half[1 - k]),
        angle,
    )


def _derivatives(e: Array, points: Array) -> tuple[Array, Array]:
    """Signed distances (n,) and their derivatives (n, 5) by the ellipse's five numbers."""
    foot, gap = nearest_on_ellipse(tuple(e), points)  # type: ignore[arg-type]
    own = _own_axes(tuple(e), foot)  # type: ignore[arg-type]
    normal = own / e[2:4] ** 2
    normal /= np.linalg.norm(normal, axis=1)[:, None] + 1e-300
    c, s = np.cos(e[4]), np.sin(e[4])
    shape = normal * own / e[2:4]
    turn = normal[:, 1] * own[:, 0] - normal[:, 0] * own[:, 1]
    return gap, -np.column_stack(
        [normal[:, 0] * c - normal[:, 1] * s, normal[:, 0] * s + normal[:, 1] * c, shape, turn]
    )


def through_points(e: Ellipse, points: Array) -> Ellipse:
    """The ellipse moved by the least that lets it pass through some points (fewer than five) it nearly passes through.

    points (n, 2), mm.
    """
    out = np.array(e)
    scale = np.array([1.0, 1.0, 1.0, 1.0, 1.0 / e[2]])
    for _ in range(12):
        gap, rows = _derivatives(out, points)
        if np.abs(gap).max() < 1e-12:
            break
        out = out + scale * np.linalg.lstsq(rows * scale, -gap, rcond=1e-12)[0]
    moved = tuple(float(x) for x in out)
    good = np.isfinite(out).all() and out[2] >= out[3] > 0 and np.abs(ellipse_gap(moved, points)).max() < 1e-9  # type: ignore[arg-type]
    return moved if good else e  # type: ignore[return-value]


def _first_order(e: Ellipse, points: Array) -> float:
    """rms distance to first order (Sampson): near enough where it is small."""
    own = _own_axes(e, points)
    value = (own[:, 0] / e[2]) ** 2 + (own[:, 1] / e[3]) ** 2 - 1
    slope = 2 * np.hypot(own[:, 0] / e[2] ** 2, own[:, 1] / e[3] ** 2)
    return float(np.sqrt(np.mean((value / np.maximum(slope, 1e-12)) ** 2)))


def is_oval(e: Ellipse | Array) -> bool:
    """Whether an ellipse, as (5,) mm and radians, is told from a circle by more than its figures."""
    return bool(e[2] / e[3] > _ROUND)


def fit_ellipse(
    points: Array, *, near_mm: float | None = None, round_too: bool = False
) -> tuple[Ellipse, float] | None:
    """(ellipse, rms of the orthogonal distances, mm) of at least 8 points (n, 2); none when they are straight, on a circle, or say too
    little. Gauss-Newton on orthogonal distances from the algebraic fit. near_mm: none at once where even that strays further (rms) · round_too:
    also one that is nearly a circle."""
    if len(points) < 8:
        return None
    start = _direct(points)
    if start is None:
        return None
    if near_mm is not None and _first_order(start, points) > near_mm:
        return None
    e = np.array(start)
    for _ in range(15):
        gap, rows = _derivatives(e, points)
        step = np.linalg.lstsq(rows, -gap, rcond=1e-12)[0]
        e = e + step
        if not np.isfinite(e).all() or e[2:4].min() <= 0:
            return None
        if np.abs(step[:4]).max() < 1e-9 * e[2]:
            break
    if e[3] > e[2]:
        e = np.array([e[0], e[1], e[3], e[2], e[4] + np.pi / 2])
    if not (round_too or is_oval(e)) or e[2] / e[3] >= _SLENDER:
        return None
    cx, cy, a, b, angle = (float(x) for x in e)
    found: Ellipse = (cx, cy, a, b, (angle + np.pi / 2) % np.pi - np.pi / 2)
    return found, float(np.sqrt(np.mean(ellipse_gap(found, points) ** 2)))


def turn_around(e: Ellipse, points: Array) -> float:
    """How far points in order run around an ellipse, radians of its eccentric angle, with sign. points (n, 2), mm."""
    t = np.unwrap(_parameter(e, _own_axes(e, points)))
    return float(t[-1] - t[0])


def ellipse_path(e: Ellipse, start: Array, mid: Array, end: Array, *, step_deg: float) -> Array:
    """Points from start over mid to end, (n, 2), both ends exact; start == end goes all the way round, over mid's side first."""
    ends = np.array([start, mid, end], dtype=np.float64)
    a, m, b = _parameter(e, _own_axes(e, ends))
    turn = 2 * np.pi
    whole = bool(np.allclose(ends[0], ends[2]))
    sweep = turn if whole else (b - a) % turn
    if not whole and (m - a) % turn > sweep:
        sweep -= turn
    n = max(3, int(np.ceil(abs(np.degrees(sweep)) / step_deg)) + 1)
    t = a + np.linspace(0, sweep, n)
    out = _in_plane(e, np.column_stack([e[2] * np.cos(t), e[3] * np.sin(t)]))
    out[0], out[-1] = ends[0], ends[2]
    return out
