"""Binary buffers for the view: a small JSON head, then arrays at 8-byte boundaries. docs/formats.md describes it."""

from __future__ import annotations

import json
import struct
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from contour.mesh.coarse import MOST_SHOWN, coarse_mesh
from contour.mesh.prepare import PreparedScan

__all__ = ["VIEW_VERSION", "read_view", "scan_view", "surface_arrays", "write_view"]

VIEW_VERSION = 1
_MAGIC = b"UCV1"


def write_view(path: Path, arrays: dict[str, NDArray], origin: NDArray[np.float64]) -> None:
    """Write arrays (float32, uint32, int32); positions are relative to `origin` so that float32 is enough."""
    sections = {}
    offset = 0
    for name, array in arrays.items():
        sections[name] = {"dtype": array.dtype.str[1:], "offset": offset, "count": int(array.size)}
        offset += -(-array.nbytes // 8) * 8
    head = json.dumps({"version": VIEW_VERSION, "origin": origin.tolist(), "sections": sections}).encode()
    head += b" " * (-(8 + len(head)) % 8)
    with path.open("wb") as f:
        f.write(_MAGIC + struct.pack("<I", len(head)) + head)
        for array in arrays.values():
            data = np.ascontiguousarray(array).tobytes()
            f.write(data + b"\0" * (-len(data) % 8))


def read_view(path: Path) -> tuple[dict[str, NDArray], NDArray[np.float64]]:
    """Arrays and origin back; raises ValueError when it is no such buffer. The origin (3,), mm."""
    data = path.read_bytes()
    if data[:4] != _MAGIC:
        raise ValueError("not a view buffer")
    size = struct.unpack("<I", data[4:8])[0]
    head = json.loads(data[8 : 8 + size])
    arrays = {
        name: np.frombuffer(data, "<" + s["dtype"], s["count"], 8 + size + s["offset"])
        for name, s in head["sections"].items()
    }
    return arrays, np.array(head["origin"])


def surface_arrays(
    vertices: NDArray[np.float64],
    facets: NDArray[np.int32] | NDArray[np.int64],
    origin: NDArray[np.float64],
    deviation: NDArray[np.float64] | None = None,
) -> dict[str, NDArray]:
    """Sections of a surface: as it is, or, a huge one, reduced for the eye with the relation between what is shown and what
    is computed with (`vertex_of`, `facet_of`, `shown_by`).

    vertices (n, 3) mm, facets (m, 3), deviation (n,) mm.
    """
    relation: dict[str, NDArray] = {}
    if len(facets) > MOST_SHOWN:
        coarse = coarse_mesh(vertices, facets.astype(np.int32))
        relation = {k: getattr(coarse, k).astype("<u4") for k in ("vertex_of", "facet_of", "shown_by")}
        vertices, facets = vertices[coarse.vertex_of], coarse.facets
        if deviation is not None:  # a map is looked at, never picked on
            deviation, relation = deviation[coarse.vertex_of], {}
    surface = {"positions": (vertices - origin).astype("<f4").ravel(), "indices": facets.astype("<u4").ravel()}
    return surface | ({} if deviation is None else {"deviation": deviation.astype("<f4")}) | relation


def scan_view(path: Path, scan: PreparedScan) -> None:
    """Positions and facet corners of a prepared scan, in its own facet order."""
    origin = np.round((scan.vertices.min(axis=0) + scan.vertices.max(axis=0)) / 2, 3)
    write_view(path, surface_arrays(scan.vertices, scan.facets, origin), origin)
