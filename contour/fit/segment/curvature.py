"""How the scan bends around every facet, and how well one bend explains its surroundings.

A symmetric tensor S with dn = S dx is fitted to the smoothed normals of the patch around a facet; its misfit is small inside
plain surfaces and large across edges, so that it tells where to begin to look for surfaces.
"""

from __future__ import annotations

import numba as nb
import numpy as np
from numpy.typing import NDArray

from contour.geometry.surface_rows import across_axis

__all__ = ["bending"]

_PATCH = 40


@nb.njit(cache=True, nogil=True, fastmath=True)
def bending(
    across: NDArray[np.int32], centroids: NDArray[np.float64], normals: NDArray[np.float64], size: int = _PATCH
) -> NDArray[np.float64]:
    """(n, 3): both main curvatures (1/mm, the larger by size first) and the misfit of the normals (radians)."""
    n = len(centroids)
    out = np.empty((n, 3))
    stamp = np.full(n, -1, np.int32)
    queue = np.empty(size, np.int64)
    u, v = np.zeros(3), np.zeros(3)
    for f in range(n):
        queue[0] = f
        stamp[f] = f
        m, head = 1, 0
        while head < m and m < size:
            g = queue[head]
            head += 1
            for k in range(3):
                if across[g, k] < 0:
                    continue
                w = across[g, k] // 3
                if stamp[w] != f and m < size:
                    stamp[w] = f
                    queue[m] = w
                    m += 1
        across_axis(normals[f], u, v)
        xx, xy, yy = 1e-9, 0.0, 1e-9
        a, b, c, total = 0.0, 0.0, 0.0, 0.0
        for i in range(1, m):
            g = queue[i]
            x, y, s, t = 0.0, 0.0, 0.0, 0.0
            for d in range(3):
                away = centroids[g, d] - centroids[f, d]
                turn = normals[g, d] - normals[f, d]
                x += away * u[d]
                y += away * v[d]
                s += turn * u[d]
                t += turn * v[d]
            xx += x * x
            xy += x * y
            yy += y * y
            a += s * x
            b += s * y + t * x
            c += t * y
            total += s * s + t * t
        # Normal equations of (Sxx, Sxy, Syy), solved by hand: [[xx, xy, 0], [xy, xx + yy, xy], [0, xy, yy]].
        det = xx * ((xx + yy) * yy - xy * xy) - xy * xy * yy
        if abs(det) < 1e-30:
            out[f] = 0.0
            continue
        p = (a * ((xx + yy) * yy - xy * xy) - xy * (b * yy - xy * c)) / det
        q = (xx * (b * yy - c * xy) - a * xy * yy) / det
        r = (xx * ((xx + yy) * c - xy * b) - xy * (xy * c) + a * xy * xy) / det
        middle, apart = (p + r) / 2, np.sqrt(((p - r) / 2) ** 2 + q * q)
        k1, k2 = middle + apart, middle - apart
        if abs(k1) < abs(k2):
            k1, k2 = k2, k1
        out[f, 0], out[f, 1] = k1, k2
        out[f, 2] = np.sqrt(max(total - (p * a + q * b + r * c), 0.0) / m)
    return out
