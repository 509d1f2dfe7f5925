"""Binary STL out of triangles."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from numpy.typing import NDArray

__all__ = ["write_stl"]

_RECORD = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("attribute", "<u2")])


def write_stl(path: Path, vertices: NDArray[np.float64], triangles: NDArray[np.int32], *, factor: float = 1.0) -> int:
    """Write triangles, coordinates multiplied by `factor`; returns how many were written.

    Triangles that collapse in single precision are left out: readers would find holes in them otherwise.
    vertices (n, 3) mm, triangles (m, 3).
    """
    corners = (vertices * factor).astype(np.float32)[triangles]
    a, b, c = corners[:, 0], corners[:, 1], corners[:, 2]
    keep = ~((a == b).all(axis=1) | (b == c).all(axis=1) | (c == a).all(axis=1))
    corners = corners[keep]
    cross = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]).astype(np.float64)
    record = np.zeros(len(corners), _RECORD)
    record["normal"] = cross / (np.linalg.norm(cross, axis=1, keepdims=True) + 1e-300)
    record["corners"] = corners
    header = b"Usable Contour".ljust(80, b" ")
    path.write_bytes(header + np.uint32(len(record)).tobytes() + record.tobytes())
    return len(record)
