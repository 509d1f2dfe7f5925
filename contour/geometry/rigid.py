"""Rigid placements: 4x4 matrices ``T_b_a`` that take points of frame a into frame b."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.spatial.transform import Rotation

__all__ = [
    "angle_between_deg",
    "best_rigid",
    "inverse",
    "moved",
    "placement",
    "reflection",
    "rotation",
    "small_motion",
    "turned",
]

Array = NDArray[np.float64]


def placement(rotation: Array, shift: Array) -> Array:
    """4x4 from a rotation (3, 3) and a shift (3,)."""
    out = np.eye(4)
    out[:3, :3], out[:3, 3] = rotation, shift
    return out


def reflection(at: Array, normal: Array) -> Array:
    """4x4 of the reflection in a plane: at, normal (3,), mm and of any length."""
    n = normal / np.linalg.norm(normal)
    return placement(np.eye(3) - 2 * np.outer(n, n), 2 * float(at @ n) * n)


def rotation(at: Array, along: Array, radians: float) -> Array:
    """4x4 of the right-handed turn about the axis through `at` (3,), mm, along the unit vector `along` (3,)."""
    turn = np.asarray(Rotation.from_rotvec(radians * along).as_matrix())
    return placement(turn, at - turn @ at)


def moved(matrix: Array, points: Array) -> Array:
    """Points (n, 3) or (3,) taken along."""
    return points @ matrix[:3, :3].T + matrix[:3, 3]


def turned(matrix: Array, directions: Array) -> Array:
    """Directions (n, 3) or (3,) taken along: no shift."""
    return directions @ matrix[:3, :3].T


def inverse(matrix: Array) -> Array:
    """Inverse of a rigid placement. (4, 4), mm."""
    r = matrix[:3, :3].T
    return placement(r, -r @ matrix[:3, 3])


def best_rigid(source: Array, target: Array, weights: Array | None = None) -> Array:
    """The rigid placement that brings points (n, 3) nearest to their partners. Reference: Kabsch 1976."""
    w = np.ones(len(source)) if weights is None else weights
    w = w / w.sum()
    a, b = w @ source, w @ target
    u, _, vt = np.linalg.svd((source - a).T @ ((target - b) * w[:, None]))
    flip = np.diag([1.0, 1.0, np.sign(np.linalg.det(vt.T @ u.T)) or 1.0])
    rotation = vt.T @ flip @ u.T
    return placement(rotation, b - rotation @ a)


def small_motion(step: Array) -> Array:
    """Placement of a rotation vector (3) followed by a shift (3)."""
    return placement(np.asarray(Rotation.from_rotvec(step[:3]).as_matrix()), step[3:])


def angle_between_deg(a: Array, b: Array) -> float:
    """Angle of the rotation that leads from one placement (or rotation) to the other, degrees.

    a, b (3, 3) or (4, 4).
    """
    r = a[:3, :3].T @ b[:3, :3]
    return float(np.degrees(np.arccos(np.clip((np.trace(r) - 1) / 2, -1, 1))))
