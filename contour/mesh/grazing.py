"""Section planes that run along a face: there a scan is cut into islands of noise, and an exact mesh into its rounding."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numba as nb
import numpy as np
from numpy.typing import NDArray

from contour.mesh.prepare import PreparedScan

__all__ = ["Grazing", "grazing", "grazing_facets"]

Array = NDArray[np.float64]
_ALONG = math.cos(math.radians(12.0))  # a face steeper than this is cut in a line, whatever its noise
_SHARE, _PART = 0.25, 0.01


@dataclass(frozen=True, slots=True)
class Grazing:
    """share: of the cut that runs in facets of the face · area: of the face there, mm² · below, above: how far the plane must move
    against and along its normal to cut the part cleanly, mm; none where nothing is left of the part on that side."""

    share: float
    area: float
    below: float | None
    above: float | None


@nb.njit(cache=True, nogil=True)
def _measured(vertices, facets, smooth, areas, origin, normal, cosine):  # type: ignore[no-untyped-def]
    """Lowest and highest corner of every facet over the plane (n, 2) f32; its area where it lies along the plane, else 0 (n,) f32."""
    n = len(facets)
    span = np.empty((n, 2), np.float32)
    flat = np.zeros(n, np.float32)
    for f in range(n):
        low, high = 1e300, -1e300
        for k in range(3):
            h = 0.0
            for d in range(3):
                h += (vertices[facets[f, k], d] - origin[d]) * normal[d]
            low, high = min(low, h), max(high, h)
        span[f, 0], span[f, 1] = low, high
        if abs(smooth[f, 0] * normal[0] + smooth[f, 1] * normal[1] + smooth[f, 2] * normal[2]) > cosine:
            flat[f] = areas[f]
    return span, flat


@nb.njit(cache=True, nogil=True)
def _along(span, flat, areas, offset, band):  # type: ignore[no-untyped-def]
    """(area of the facets along the plane at that offset, rough length of the cut in them, and of all of it)."""
    area, mine, total = 0.0, 0.0, 0.0
    for f in range(len(span)):
        low, high = span[f, 0] - offset, span[f, 1] - offset
        crosses = low < 0.0 < high
        if crosses:
            total += np.sqrt(areas[f])
        if flat[f] > 0.0 and low >= -band and high <= band:
            area += flat[f]
            if crosses:
                mine += np.sqrt(areas[f])
    return area, mine, total


def _band(scan: PreparedScan) -> float:
    return max(4.0 * scan.noise_mm, 1e-6 * float(np.ptp(scan.vertices, axis=0).max()))


def grazing(scan: PreparedScan, origin: Array, normal: Array) -> Grazing | None:
    """Whether a plane runs along a face of the scan, and where beside it a plane would not; none where it cuts cleanly.

    origin, normal (3,), mm, the scan's frame. One pass over the facets, and one over their heights for every offset tried.
    """
    n = np.asarray(normal, float) / np.linalg.norm(normal)
    span, flat = _measured(
        scan.vertices, scan.facets, scan.smooth_normals, scan.areas, np.asarray(origin, float), n, _ALONG
    )
    band = _band(scan)
    size = np.sort(np.ptp(scan.vertices, axis=0))[1:]
    least = _PART * float(size[0] * size[1])

    def told(offset: float) -> tuple[bool, float, float, bool]:
        area, mine, total = _along(span, flat, scan.areas, offset, band)
        share = mine / total if total > 0 else 0.0
        return area > least or (share > _SHARE and area > 0.02 * least), share, area, total > 0

    found, share, area, _ = told(0.0)
    if not found:
        return None
    low, high = float(span[:, 0].min()), float(span[:, 1].max())

    def clear(way: int) -> float | None:
        step = max(1.5 * band, 0.25 * min(scan.edge_mm, 0.05 * (high - low)), 0.01)
        for _ in range(24):
            offset = way * math.ceil(step * 100 - 1e-9) / 100  # a figure that can be typed again
            if not low < offset < high:
                return None
            still, _, _, cuts = told(offset)
            if cuts and not still:
                # A little further on: scanners round the face's edge off, and there the cut is not the part's yet.
                more = round(1.6 * offset, 2)
                beyond = told(more) if low < more < high else (True, 0.0, 0.0, False)
                return more if beyond[3] and not beyond[0] else offset
            step *= 1.35
        return None

    return Grazing(share, area, clear(-1), clear(1))


def grazing_facets(scan: PreparedScan, origin: Array, normal: Array, facets: NDArray[np.int64]) -> NDArray[np.bool_]:
    """Which of some facets lie along the plane, within its band.

    origin (3,) mm, normal (3,) unit; facets: ids (k,), answer (k,).
    """
    n = np.asarray(normal, float) / np.linalg.norm(normal)
    height = (scan.vertices[scan.facets[facets]] - origin) @ n
    return np.asarray((np.abs(scan.smooth_normals[facets] @ n) > _ALONG) & (np.abs(height) <= _band(scan)).all(axis=1))
