"""Fine alignment of points to a surface: iterated nearest points with planes, robust against what does not belong.

Reference: Chen and Medioni 1991 (point to plane); Tukey's weights with a scale that shrinks to the noise.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from contour.geometry.rigid import moved, small_motion
from contour.mesh.nearest import TriangleTree, build_tree, nearest_on_triangles
from contour.mesh.topology import facet_geometry

__all__ = ["Settled", "Target", "settle", "target_of"]

Array = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Target:
    """A surface to settle on: triangles with their tree and unit normals; barred are triangles on an open border."""

    tree: TriangleTree
    normals: Array
    barred: NDArray[np.bool_] | None = None


@dataclass(frozen=True, slots=True)
class Settled:
    """matrix: T_target_source · scale_mm: robust spread of the distances that count · share: of points that count ·
    rounds it took."""

    matrix: Array
    scale_mm: float
    share: float
    rounds: int


def target_of(vertices: Array, facets: NDArray[np.int32], *, across: NDArray[np.int32] | None = None) -> Target:
    """`across` (of an open mesh) bars its border facets: what has its nearest point there lies beyond the surface.

    vertices (n, 3) mm, facets (m, 3).
    """
    _, normals, _ = facet_geometry(vertices, facets)
    return Target(build_tree(vertices, facets), normals, None if across is None else (across == -1).any(axis=1))


def settle(
    target: Target,
    points: Array,
    start: Array,
    *,
    normals: Array | None = None,
    reach_mm: float,
    least_mm: float,
    rounds: int = 40,
) -> Settled:
    """Move `points` (n, 3) from `start` onto the target.

    Points farther than the reach do not count; the reach shrinks to some three times the spread, never below
    `least_mm`. With `normals`, partners must face alike within 60 degrees.
    """
    matrix = start.copy()
    reach, spread, share = reach_mm, reach_mm / 3, 0.0
    turns = 0
    while turns < rounds:
        turns += 1
        p = moved(matrix, points)
        feet, owner = nearest_on_triangles(target.tree, p)
        n = target.normals[owner]
        gap = np.einsum("ij,ij->i", p - feet, n)
        away = np.linalg.norm(p - feet, axis=1)
        counts = away < reach
        if normals is not None:
            counts &= np.einsum("ij,ij->i", normals @ matrix[:3, :3].T, n) > 0.5
        if target.barred is not None:
            counts &= ~target.barred[owner]
        share = float(counts.mean())
        if counts.sum() < 12:
            break
        spread = 1.4826 * float(np.median(np.abs(gap[counts])))
        weight = np.where(counts, (1 - np.minimum(away / reach, 1) ** 2) ** 2, 0.0)
        middle = (weight @ p) / weight.sum()
        rows = np.hstack([np.cross(p - middle, n), n])
        size = np.linalg.norm(np.ptp(p, axis=0)) / 2
        rows[:, :3] /= size  # rotation and shift of like size keep the equations sound
        normal = rows.T @ (rows * weight[:, None])
        # What the surface does not hold (a plane alone slides) must not move.
        step = np.linalg.lstsq(normal + 1e-9 * np.trace(normal) * np.eye(6), -rows.T @ (weight * gap), rcond=None)[0]
        step[:3] /= size
        about = np.eye(4)
        about[:3, 3] = middle
        back = np.eye(4)
        back[:3, 3] = -middle
        matrix = about @ small_motion(step) @ back @ matrix
        motion = float(np.linalg.norm(step[3:]) + size * np.linalg.norm(step[:3]))
        narrower = max(least_mm, min(reach, 3.5 * spread, 0.8 * reach if share > 0.3 else reach))
        if motion < 1e-3 * max(spread, 1e-6) and narrower > 0.98 * reach:
            break
        reach = narrower
    return Settled(matrix, spread, share, turns)
