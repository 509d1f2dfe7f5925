"""Points and directions in space."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

__all__ = ["Vec3", "cross", "square_to", "triple", "unit"]

Array = NDArray[np.float64]
Vec3 = tuple[float, float, float]


def triple(p: Array) -> Vec3:
    """A point (3,) as plain numbers, same unit."""
    return float(p[0]), float(p[1]), float(p[2])


def cross(a: Array, b: Array) -> Array:
    """a x b of two single vectors (3,): numpy's own takes ten times as long, which counts where it is asked once per edge."""
    (ax, ay, az), (bx, by, bz) = a.tolist(), b.tolist()
    return np.array([ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx])


def unit(v: Array) -> Array:
    """The direction of a vector that is known to have one."""
    return np.asarray(v / np.linalg.norm(v))


def square_to(n: Array) -> tuple[Array, Array]:
    """Two unit vectors across n and across each other."""
    e = np.eye(3)[int(np.argmin(np.abs(n)))]
    a = unit(np.cross(n, e))
    return a, np.cross(n, a)
