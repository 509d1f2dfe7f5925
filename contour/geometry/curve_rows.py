"""Edges as rows of numbers, for compiled loops: the nearest place of each kind, once for all.

A line's row is its two ends (6); an arc's is centre, x direction, y direction, radius, first and last angle (12); any other curve
is a run of places, joined by straight pieces.
"""

from __future__ import annotations

import numba as nb
import numpy as np

__all__ = ["ARC", "LINE", "POLYLINE", "ROW", "edge_foot"]

LINE, ARC, POLYLINE = 1, 2, 3
ROW = 12


@nb.njit(cache=True, nogil=True, error_model="numpy")
def edge_foot(kind, data, polyline, a, b, px, py, pz, out):  # type: ignore[no-untyped-def]
    """Foot on the edge in out[0:3], direction of the edge there in out[3:6], of the run polyline[a:b] where it is one. Returns the
    squared distance (mm²)."""
    if kind == LINE:
        dx, dy, dz = data[3] - data[0], data[4] - data[1], data[5] - data[2]
        length = dx * dx + dy * dy + dz * dz
        t = ((px - data[0]) * dx + (py - data[1]) * dy + (pz - data[2]) * dz) / (length + 1e-300)
        t = min(max(t, 0.0), 1.0)
        length = np.sqrt(length) + 1e-300
        out[0], out[1], out[2] = data[0] + t * dx, data[1] + t * dy, data[2] + t * dz
        out[3], out[4], out[5] = dx / length, dy / length, dz / length
    elif kind == ARC:  # centre, x axis, y axis, radius, first and last angle
        wx, wy, wz = px - data[0], py - data[1], pz - data[2]
        x = wx * data[3] + wy * data[4] + wz * data[5]
        y = wx * data[6] + wy * data[7] + wz * data[8]
        r, first, last = data[9], data[10], data[11]
        angle = np.arctan2(y, x)
        turn = 2 * np.pi
        while angle < first - 1e-12:
            angle += turn
        while angle >= first + turn:
            angle -= turn
        if angle > last:
            # outside the arc: the nearer end
            angle = last if angle - last < first + turn - angle else first
        c, s = np.cos(angle), np.sin(angle)
        for d in range(3):
            out[d] = data[d] + r * (c * data[3 + d] + s * data[6 + d])
            out[3 + d] = -s * data[3 + d] + c * data[6 + d]
    else:
        best = 1e300
        for i in range(a, b - 1):
            dx, dy, dz = (
                polyline[i + 1, 0] - polyline[i, 0],
                polyline[i + 1, 1] - polyline[i, 1],
                polyline[i + 1, 2] - polyline[i, 2],
            )
            length = dx * dx + dy * dy + dz * dz + 1e-300
            t = ((px - polyline[i, 0]) * dx + (py - polyline[i, 1]) * dy + (pz - polyline[i, 2]) * dz) / length
            t = min(max(t, 0.0), 1.0)
            x, y, z = polyline[i, 0] + t * dx, polyline[i, 1] + t * dy, polyline[i, 2] + t * dz
            d2 = (x - px) ** 2 + (y - py) ** 2 + (z - pz) ** 2
            if d2 < best:
                best = d2
                length = np.sqrt(length)
                out[0], out[1], out[2] = x, y, z
                out[3], out[4], out[5] = dx / length, dy / length, dz / length
    return (out[0] - px) ** 2 + (out[1] - py) ** 2 + (out[2] - pz) ** 2
