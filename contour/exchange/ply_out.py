"""Binary PLY out: shared vertices in double precision."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

__all__ = ["write_ply"]

_FACE = np.dtype([("count", "u1"), ("corners", "<i4", 3)])


def write_ply(
    path: Path,
    bodies: Sequence[tuple[str, NDArray[np.float64], NDArray[np.int32]]],
    *,
    factor: float = 1.0,
    unit: str = "mm",
) -> int:
    """Write (name, vertices (n, 3), triangles (m, 3)) per body, coordinates multiplied by `factor`, into one mesh.

    PLY knows neither unit nor bodies, so that comments say them. Returns the number of triangles.
    """
    count = sum(len(v) for _, v, _ in bodies)
    facets = sum(len(t) for _, _, t in bodies)
    names = [f"comment body {n.encode('ascii', 'replace').decode()}".replace("\n", " ") for n, _, _ in bodies]
    head = [
        "ply",
        "format binary_little_endian 1.0",
        f"comment Usable Contour, lengths in {unit}",
        *names,
        f"element vertex {count}",
        *(f"property double {a}" for a in "xyz"),
        f"element face {facets}",
        "property list uchar int vertex_indices",
        "end_header",
    ]
    base = 0
    with path.open("wb") as out:
        out.write(("\n".join(head) + "\n").encode())
        for _, vertices, _ in bodies:
            out.write((vertices * factor).astype("<f8").tobytes())
        for _, vertices, triangles in bodies:
            record = np.empty(len(triangles), _FACE)
            record["count"] = 3
            record["corners"] = triangles + base
            out.write(record.tobytes())
            base += len(vertices)
    return facets
