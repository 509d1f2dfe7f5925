"""Places along polylines, and how far from them others lie."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import LineString

__all__ = ["path_distance", "placed_along"]

Array = NDArray[np.float64]


def path_distance(points: Array, path: Array) -> Array:
    """Distances (n,) of points (n, 2) to a polyline (m, 2)."""
    return np.asarray(shapely.distance(shapely.points(points), LineString(path)))


def placed_along(points: Array, path: Array) -> Array:
    """How far along a polyline (m, 2) the places of it nearest to points (n, 2) lie, (n,) mm."""
    return np.asarray(shapely.line_locate_point(LineString(path), shapely.points(points)))
