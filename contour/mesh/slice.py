"""Cutting a scan with a plane: ordered polylines by walking from facet to facet."""

from __future__ import annotations

from dataclasses import dataclass

import numba as nb
import numpy as np
from numpy.typing import NDArray

from contour.mesh.prepare import PreparedScan

__all__ = ["Polyline", "slice_scan"]


@dataclass(frozen=True, slots=True)
class Polyline:
    """One connected cut: points (n, 3) float64, mm, in order; a closed one does not repeat its first point."""

    points: NDArray[np.float64]
    closed: bool
    facets: NDArray[np.int64]  # (n,) the facet that each point's outgoing chord lies on


@nb.njit(cache=True, nogil=True)
def _heights(vertices, origin, normal):  # type: ignore[no-untyped-def]
    out = np.empty(len(vertices))
    for i in range(len(vertices)):
        h = 0.0
        for d in range(3):
            h += (vertices[i, d] - origin[d]) * normal[d]
        # No vertex may lie exactly on the plane: each crossing is then inside one edge.
        out[i] = h if h != 0.0 else 1e-12
    return out


@nb.njit(cache=True, nogil=True)
def _walk(vertices, facets, across, height):  # type: ignore[no-untyped-def]
    n = len(facets)
    crossed = np.zeros(n, np.uint8)
    hits = np.empty(n, np.int32)
    count = 0
    for f in range(n):
        a, b, c = height[facets[f, 0]] > 0, height[facets[f, 1]] > 0, height[facets[f, 2]] > 0
        if a != b or b != c:
            crossed[f] = 1
            hits[count] = f
            count += 1
    points = np.empty((2 * count + 1, 3))
    owner = np.empty(2 * count + 1, np.int64)
    starts = np.empty(count + 1, np.int64)
    closed = np.empty(count, np.uint8)
    used, chains = 0, 0
    # Chains that begin at a border first, and there with the material to the left of the way; then those that facets turned round begin otherwise;
    # what is left are closed loops.
    for turn in range(3):
        for q in range(count):
            first = hits[q]
            if crossed[first] != 1:
                continue
            entry = -1
            for k in range(3):
                here, there = height[facets[first, k]] > 0, height[facets[first, (k + 1) % 3]] > 0
                if here != there and (here or turn > 0):
                    if turn == 2 or across[first, k] < 0 or crossed[across[first, k] // 3] != 1:
                        entry = k
                        break
            if entry < 0:
                continue
            starts[chains] = used
            f, side = first, entry
            is_closed = 0
            while True:
                i, j = facets[f, side], facets[f, (side + 1) % 3]
                t = height[i] / (height[i] - height[j])
                for d in range(3):
                    points[used, d] = vertices[i, d] + t * (vertices[j, d] - vertices[i, d])
                owner[used] = f
                used += 1
                crossed[f] = 2
                out = -1
                for k in range(3):
                    if k != side and (height[facets[f, k]] > 0) != (height[facets[f, (k + 1) % 3]] > 0):
                        out = k
                beyond = across[f, out]
                if beyond >= 0 and crossed[beyond // 3] == 1:
                    f, side = beyond // 3, beyond % 3
                    continue
                if beyond >= 0 and beyond // 3 == first and beyond % 3 == entry:
                    is_closed = 1
                else:
                    i, j = facets[f, out], facets[f, (out + 1) % 3]
                    t = height[i] / (height[i] - height[j])
                    for d in range(3):
                        points[used, d] = vertices[i, d] + t * (vertices[j, d] - vertices[i, d])
                    owner[used] = f
                    used += 1
                break
            closed[chains] = is_closed
            chains += 1
    starts[chains] = used
    return points[:used], owner[:used], starts[: chains + 1], closed[:chains]


def slice_scan(scan: PreparedScan, origin: NDArray[np.float64], normal: NDArray[np.float64]) -> list[Polyline]:
    """All cuts of the scan with a plane, longest first; holes in the scan leave open polylines. Seen from where the normal points to, the
    material lies to the left of an open one, as the facets face that it runs over.

    origin (3,) mm, normal (3,) unit.
    """
    n = np.asarray(normal, dtype=np.float64)
    height = _heights(scan.vertices, np.asarray(origin, dtype=np.float64), n / np.linalg.norm(n))
    points, owner, starts, closed = _walk(scan.vertices, scan.facets, scan.across, height)
    lines = [
        Polyline(points[a:b], bool(c), owner[a:b]) for a, b, c in zip(starts[:-1], starts[1:], closed, strict=True)
    ]
    return sorted(lines, key=lambda line: -len(line.points))
