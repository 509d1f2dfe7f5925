"""Points and directions in space."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

__all__ = ["Vec3", "square_to", "triple", "unit"]

Array = NDArray[np.float64]
Vec3 = tuple[float, float, float]


def triple(p: Array) -> Vec3:
    """A point (3,) as plain numbers, same unit."""
    return float(p[0]), float(p[1]), float(p[2])


def unit(v: Array) -> Array:
    """The direction of a vector that is known to have one."""
    return np.asarray(v / np.linalg.norm(v))


def square_to(n: Array) -> tuple[Array, Array]:
    """Two unit vectors across n and across each other."""
    e = np.eye(3)[int(np.argmin(np.abs(n)))]
    a = unit(np.cross(n, e))
    return a, np.cross(n, a)
