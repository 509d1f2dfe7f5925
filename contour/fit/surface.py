"""Robust fits of planes, cylinders, cones, spheres and tori to points."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from contour.fit.primitives import NOISY, face_side, guess, refine
from contour.geometry.surface_rows import CODES
from contour.geometry.surfaces import Surface, SurfaceKind

__all__ = ["fit_surface"]

Array = NDArray[np.float64]


def fit_surface(
    points: Array, normals: Array, *, kind: SurfaceKind, huber_mm: float = 0.0
) -> tuple[Surface, float] | None:
    """Fit one surface to points (n, 3) with their normals; returns it with the rms, or None when none fits."""
    code = CODES[kind]
    ids = np.arange(len(points))
    p = np.zeros(9)
    points, normals = np.ascontiguousarray(points), np.ascontiguousarray(normals)
    if len(points) < 6 or not guess(code, p, points, normals, ids, len(ids), NOISY):
        return None
    rms = refine(code, p, points, ids, len(ids), 30, 0.0)
    if huber_mm > 0:
        rms = refine(code, p, points, ids, len(ids), 20, huber_mm)
    face_side(code, p, points, normals, ids, len(ids))
    return Surface.unpacked(code, p), float(rms)
