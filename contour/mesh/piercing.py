"""Facets that pass through each other, found by walking one bounding-volume tree against itself."""

from __future__ import annotations

import itertools
import os
from concurrent.futures import ThreadPoolExecutor

import numba as nb
import numpy as np
from numpy.typing import NDArray

from contour.mesh.nearest import build_tree

__all__ = ["pierced_pairs"]

_EPS = 1e-9
_THREADS = min(os.cpu_count() or 1, 4)
_MOST_LOOKS = 30_000  # boxes and facets one facet is held against; where more lie over each other, these say enough
_MOST_IN_ALL = 500  # and per facet of the whole, in the mean


@nb.njit(nogil=True, inline="always")
def _through(px, py, pz, qx, qy, qz, t):  # type: ignore[no-untyped-def]
    """The segment passes strictly through the triangle's inside. Reference: Möller and Trumbore 1997."""
    dx, dy, dz = qx - px, qy - py, qz - pz
    ux, uy, uz = t[3] - t[0], t[4] - t[1], t[5] - t[2]
    vx, vy, vz = t[6] - t[0], t[7] - t[1], t[8] - t[2]
    hx, hy, hz = dy * vz - dz * vy, dz * vx - dx * vz, dx * vy - dy * vx
    det = ux * hx + uy * hy + uz * hz
    size = (dx * dx + dy * dy + dz * dz) * (ux * ux + uy * uy + uz * uz) * (vx * vx + vy * vy + vz * vz)
    if det * det <= 1e-20 * size:
        return False
    sx, sy, sz = px - t[0], py - t[1], pz - t[2]
    a = (sx * hx + sy * hy + sz * hz) / det
    if a <= _EPS or a >= 1 - _EPS:
        return False
    gx, gy, gz = sy * uz - sz * uy, sz * ux - sx * uz, sx * uy - sy * ux
    b = (dx * gx + dy * gy + dz * gz) / det
    if b <= _EPS or a + b >= 1 - _EPS:
        return False
    c = (vx * gx + vy * gy + vz * gz) / det
    return c > _EPS and c < 1 - _EPS


@nb.njit(nogil=True, inline="always")
def _beside(a, b):  # type: ignore[no-untyped-def]
    """All of b lies strictly on one side of a's plane."""
    ux, uy, uz = a[3] - a[0], a[4] - a[1], a[5] - a[2]
    vx, vy, vz = a[6] - a[0], a[7] - a[1], a[8] - a[2]
    nx, ny, nz = uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx
    p = nx * (b[0] - a[0]) + ny * (b[1] - a[1]) + nz * (b[2] - a[2])
    q = nx * (b[3] - a[0]) + ny * (b[4] - a[1]) + nz * (b[5] - a[2])
    r = nx * (b[6] - a[0]) + ny * (b[7] - a[1]) + nz * (b[8] - a[2])
    return (p > 0 and q > 0 and r > 0) or (p < 0 and q < 0 and r < 0)


@nb.njit(nogil=True, inline="always")
def _cross(a, b):  # type: ignore[no-untyped-def]
    """Some side of one triangle (nine numbers) passes through the other."""
    for d in range(3):  # boxes apart
        if max(a[d], a[3 + d], a[6 + d]) < min(b[d], b[3 + d], b[6 + d]) or max(b[d], b[3 + d], b[6 + d]) < min(
            a[d], a[3 + d], a[6 + d]
        ):
            return False
    if _beside(a, b) or _beside(b, a):
        return False
    for k in range(3):
        i, j = 3 * k, 3 * ((k + 1) % 3)
        if _through(a[i], a[i + 1], a[i + 2], a[j], a[j + 1], a[j + 2], b):
            return True
        if _through(b[i], b[i + 1], b[i + 2], b[j], b[j + 1], b[j + 2], a):
            return True
    return False


@nb.njit(cache=True, nogil=True)
def _ranks(boxes, left, spans, corners):  # type: ignore[no-untyped-def]
    """Size of each facet's box by slot, and the greatest in each node."""
    n = len(corners)
    size = np.empty(n, np.float32)
    for i in range(n):
        t = corners[i]
        size[i] = (
            max(t[0], t[3], t[6])
            - min(t[0], t[3], t[6])
            + max(t[1], t[4], t[7])
            - min(t[1], t[4], t[7])
            + max(t[2], t[5], t[8])
            - min(t[2], t[5], t[8])
        )
    most = np.zeros(len(left), np.float32)
    for q in range(len(left) - 1, -1, -1):  # children stand after their parent
        if left[q] >= 0:
            most[q] = max(most[left[q]], most[left[q] + 1])
        else:
            for j in range(spans[q, 0], spans[q, 1]):
                most[q] = max(most[q], size[j])
    return size, most


@nb.njit(cache=True, nogil=True)
def _pairs(boxes, left, spans, corners, order, facets, asked, some, size, largest, first, last, most):  # type: ignore[no-untyped-def]
    """Of the facets in slots first..last. A pair is looked at from the smaller of the two (or the one asked for): a large
    facet over thousands of small ones would meet them all."""
    out = np.empty((1024, 2), np.int64)
    count, looks = 0, 0
    stack = np.empty(256, np.int32)
    for i in range(first, last):
        t = corners[i]
        x0, x1 = min(t[0], t[3], t[6]), max(t[0], t[3], t[6])
        y0, y1 = min(t[1], t[4], t[7]), max(t[1], t[4], t[7])
        z0, z1 = min(t[2], t[5], t[8]), max(t[2], t[5], t[8])
        f = order[i]
        if not asked[f]:
            continue
        if looks > _MOST_IN_ALL * (last - first) + 20_000_000:
            break
        before = looks
        stack[0] = 0
        top = 1
        while top > 0 and looks - before < _MOST_LOOKS:
            top -= 1
            looks += 1
            q = stack[top]
            if not some and largest[q] < size[i]:
                continue
            if (
                boxes[q, 0] > x1
                or boxes[q, 3] < x0
                or boxes[q, 1] > y1
                or boxes[q, 4] < y0
                or boxes[q, 2] > z1
                or boxes[q, 5] < z0
            ):
                continue
            if left[q] >= 0:
                stack[top], stack[top + 1] = left[q], left[q] + 1
                top += 2
                continue
            for j in range(spans[q, 0], spans[q, 1]):
                looks += 1
                g = order[j]
                if g == f or ((size[j] < size[i] or (size[j] == size[i] and j < i)) and (not some or asked[g])):
                    continue
                shared = 0
                for a in range(3):
                    for b in range(3):
                        shared += facets[f, a] == facets[g, b]
                if shared >= 2:
                    continue
                if _cross(t, corners[j]):
                    if count == len(out):
                        more = np.empty((2 * count, 2), np.int64)
                        more[:count] = out
                        out = more
                    out[count, 0], out[count, 1] = f, g
                    count += 1
                    if count >= most:
                        return out[:count].copy()
    return out[:count].copy()


def pierced_pairs(
    vertices: NDArray[np.float64],
    facets: NDArray[np.int32],
    *,
    only: NDArray[np.bool_] | None = None,
    most: int = 200_000,
) -> NDArray[np.int64]:
    """Pairs (k, 2) of facets that pass through each other, at most `most` of them; with `only`, pairs one of which is in it.

    Facets that share an edge are a matter of folds, not of this; facets that only touch do not count. Where tens of
    thousands of facets lie over each other not every pair is looked at: the time stays bounded.
    """
    if len(facets) < 2 or (only is not None and not only.any()):
        return np.empty((0, 2), np.int64)
    tree = build_tree(vertices, facets)
    asked = np.ones(len(facets), np.bool_) if only is None else only
    size, largest = _ranks(tree.boxes, tree.left, tree.spans, tree.corners)
    names = np.ascontiguousarray(facets)

    def part(span: tuple[int, int]) -> NDArray[np.int64]:
        found: NDArray[np.int64] = _pairs(
            tree.boxes,
            tree.left,
            tree.spans,
            tree.corners,
            tree.order,
            names,
            asked,
            only is not None,
            size,
            largest,
            *span,
            most,
        )
        return found

    # More parts than threads: crowded places lie together in the tree's order.
    cuts = np.linspace(0, len(facets), 4 * _THREADS + 1).astype(int)
    with ThreadPoolExecutor(_THREADS) as pool:
        return np.vstack(list(pool.map(part, itertools.pairwise(cuts.tolist()))))[:most]
