"""Axes that a wall of facets may wind about, and which of the facets are the wall.

A helical motion moves a thread along itself, so that its velocity at every facet is at right angles to the facet's normal: linear in
the motion's six components, and the least eigenvector of the normals' line coordinates is the motion (Pottmann and Randrup, Rotational
and helical surface approximation for reverse engineering, Computing 60, 1998).
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.linalg import eigh

from contour.geometry.vectors import square_to

__all__ = ["FEWEST", "axes_of", "wall_about"]

Array = NDArray[np.float64]
FEWEST = 150  # facets of a wall
_FACING = 0.25  # cosine to the radius: flanks have 0.5, faces across the axis 0


def _motion_axes(points: Array, normals: Array, weights: Array) -> list[tuple[Array, Array]]:
    """(point, direction) of the helical motions that move the facets most nearly along themselves, best first."""
    middle = weights @ points / weights.sum()
    size = float(np.sqrt(weights @ ((points - middle) ** 2).sum(axis=1) / weights.sum()))
    p = (points - middle) / size
    lines = np.hstack([np.cross(p, normals), normals])
    m = (lines * weights[:, None]).T @ lines / weights.sum()
    turning, mixed, moving = m[:3, :3], m[:3, 3:], m[3:, 3:] + 1e-9 * np.eye(3)
    left = turning - mixed @ np.linalg.solve(moving, mixed.T)
    _, vectors = np.linalg.eigh(left)
    out = []
    for k in range(3):
        c = vectors[:, k]
        shift = -np.linalg.solve(moving, mixed.T @ c)
        out.append((middle + size * np.cross(c, shift), c))
    return out


def _normal_axes(points: Array, normals: Array, weights: Array) -> list[tuple[Array, Array]]:
    """(point, direction) where the normals single a direction out, and the point that their lines pass most nearly."""
    _, vectors = eigh((normals * weights[:, None]).T @ normals)
    out = []
    for k in (2, 0, 1):
        axis = vectors[:, k]
        rows = np.cross(axis, normals)
        wanted = (rows * points).sum(axis=1)
        system = (rows * weights[:, None]).T @ rows + 1e-9 * weights.sum() * np.eye(3)
        out.append((np.linalg.solve(system, rows.T @ (weights * wanted)), axis))
    return out


def axes_of(points: Array, normals: Array, weights: Array) -> list[tuple[Array, Array]]:
    """(point (3,), direction (3,)) of axes to try. points (n, 3) mm, normals (n, 3), weights (n,)."""
    return _motion_axes(points, normals, weights)[:2] + _normal_axes(points, normals, weights)


def wall_about(
    points: Array, normals: Array, weights: Array, point: Array, axis: Array, band: float
) -> NDArray[np.bool_]:
    """(n,) facets of the wall about an axis: within the band of radii that holds most area of those that face it or away from it.

    points (n, 3) mm, normals (n, 3), weights (n,); point, axis (3,); band: how wide, in radii.
    """
    a, b = square_to(axis)
    d = points - point
    x, y = d @ a, d @ b
    r = np.hypot(x, y)
    radial = (normals @ a * x + normals @ b * y) / np.maximum(r, 1e-12)
    best = np.zeros(len(r), np.bool_)
    most = 0.0
    for side in (1, -1):
        facing = np.flatnonzero(side * radial > _FACING)
        if len(facing) < FEWEST // 3:
            continue
        facing = facing[np.argsort(r[facing])]
        sums = np.concatenate([[0.0], np.cumsum(weights[facing])])
        until = np.searchsorted(r[facing], r[facing] * (1 + band), side="right")
        held = sums[until] - sums[:-1]
        k = int(np.argmax(held))
        if held[k] > most:
            most = float(held[k])
            best = (r >= r[facing[k]]) & (r <= r[facing[k]] * (1 + band)) & (side * radial > 0)
    return best
