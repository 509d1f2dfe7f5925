"""Facets that lie in one plane to the file's own rounding: planes grown from the largest facet on, never along a chain of small turns."""

from __future__ import annotations

from typing import Any

import numba as nb
import numpy as np
from numpy.typing import NDArray

from contour.mesh.prepare import PreparedScan

__all__ = ["flat_groups"]

_jit = nb.njit(cache=True, nogil=True)

_FACING = 0.866  # cosine of the most that a facet of a plane may lean by its own normal: slivers have no better one


@_jit
def _grown(vertices, facets, across, centroids, normals, areas, thin, order, tolerance):  # type: ignore[no-untyped-def]
    group = np.full(len(facets), -1, np.int64)
    queue = np.empty(len(facets), np.int64)
    normal = np.empty(3)
    centre = np.empty(3)
    total = np.empty(3)
    moment = np.empty(3)
    count = 0
    for s in order:
        if group[s] >= 0:
            continue
        normal[:] = normals[s]
        centre[:] = centroids[s]
        total[:] = normals[s] * areas[s]
        moment[:] = centroids[s] * areas[s]
        area, size, farthest = areas[s], thin[s], 0.0
        queue[0] = s
        group[s] = count
        head, tail, again = 0, 1, 4
        while head < tail:
            f = queue[head]
            head += 1
            for k in range(3):
                mate = across[f, k]
                if mate < 0:
                    continue
                g = mate // 3
                if group[g] >= 0:
                    continue
                facing = normal[0] * normals[g, 0] + normal[1] * normals[g, 1] + normal[2] * normals[g, 2]
                if facing < _FACING and thin[g] > 20 * tolerance:
                    continue
                # However far the plane is trusted: a bend that can be seen between neighbours is one.
                bend = 1.0 - (
                    normals[f, 0] * normals[g, 0] + normals[f, 1] * normals[g, 1] + normals[f, 2] * normals[g, 2]
                )
                if bend > 0:
                    if np.sqrt(2 * bend) * min(thin[f], thin[g]) > 2 * tolerance:
                        continue
                fits = True
                reach = 0.0
                for j in range(3):
                    off, far = 0.0, 0.0
                    for d in range(3):
                        w = vertices[facets[g, j], d] - centre[d]
                        off += w * normal[d]
                        far += w * w
                    far = np.sqrt(far)
                    reach = max(reach, far)
                    # What the plane is known from says how far it can be trusted.
                    if abs(off) > tolerance * (1.0 + far / max(size, 1e-12)):
                        fits = False
                        break
                if not fits:
                    continue
                group[g] = count
                queue[tail] = g
                tail += 1
                farthest = max(farthest, reach)
                area += areas[g]
                size = max(size, thin[g])
                for d in range(3):
                    total[d] += normals[g, d] * areas[g]
                    moment[d] += centroids[g, d] * areas[g]
            if tail >= again and area > 0:
                again = 2 * tail
                length = np.sqrt(total[0] ** 2 + total[1] ** 2 + total[2] ** 2)
                for d in range(3):
                    normal[d] = total[d] / length
                    centre[d] = moment[d] / area
                if farthest > 0:
                    size = max(size, min(area / farthest, np.sqrt(area)))
        count += 1
    return group, count


def flat_groups(scan: PreparedScan, tolerance_mm: float) -> tuple[NDArray[np.int64], int]:
    """(Group of each facet (n,), how many there are). A facet that shares its plane with none is a group of its own."""
    corners = scan.vertices[scan.facets]
    longest = np.linalg.norm(corners - np.roll(corners, -1, axis=1), axis=2).max(axis=1)
    thin = 2 * scan.areas / np.maximum(longest, 1e-300)
    order = np.argsort(-scan.areas, kind="stable")
    made: Any = _grown(
        scan.vertices, scan.facets, scan.across, scan.centroids, scan.normals, scan.areas, thin, order, tolerance_mm
    )
    return made[0], int(made[1])
