"""Scans of threaded walls for tests: made once for all that look at them."""

from __future__ import annotations

from functools import cache

import numpy as np

from contour.mesh.facets import Mesh
from contour.mesh.prepare import PreparedScan, prepare_mesh
from contour.simulate.threaded import ThreadedPart, threaded_scan

__all__ = ["axis_of", "scan_of"]


@cache
def _made(part: ThreadedPart, spacing_mm: float, noise_mm: float):
    vertices, facets, point, axis = threaded_scan(part, spacing_mm=spacing_mm, noise_mm=noise_mm, seed=3)
    mesh = Mesh(vertices, facets, np.arange(len(facets), dtype=np.int64))
    return prepare_mesh(mesh, pose=np.eye(4), raw_facets=len(facets)), point, axis


def scan_of(part: ThreadedPart, spacing_mm: float = 0.4, noise_mm: float = 0.02) -> PreparedScan:
    return _made(part, spacing_mm, noise_mm)[0]


def axis_of(part: ThreadedPart, spacing_mm: float = 0.4, noise_mm: float = 0.02) -> tuple[np.ndarray, np.ndarray]:
    return _made(part, spacing_mm, noise_mm)[1:]
