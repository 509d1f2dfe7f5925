"""Places along polylines, and how far from them others lie."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import LineString

__all__ = ["densely", "path_distance", "placed_along"]

Array = NDArray[np.float64]


def densely(path: Array, step_mm: float) -> Array:
    """Points (k, 2) evenly along a polyline (n, 2), from its first to its last, no farther apart than step_mm."""
    lengths = np.concatenate([[0], np.cumsum(np.linalg.norm(np.diff(path, axis=0), axis=1))])
    at = np.linspace(0, lengths[-1], max(2, int(np.ceil(lengths[-1] / step_mm)) + 1))
    return np.column_stack([np.interp(at, lengths, path[:, k]) for k in range(2)])


def path_distance(points: Array, path: Array) -> Array:
    """Distances (n,) of points (n, 2) to a polyline (m, 2)."""
    return np.asarray(shapely.distance(shapely.points(points), LineString(path)))


def placed_along(points: Array, path: Array) -> Array:
    """How far along a polyline (m, 2) the places of it nearest to points (n, 2) lie, (n,) mm."""
    return np.asarray(shapely.line_locate_point(LineString(path), shapely.points(points)))
