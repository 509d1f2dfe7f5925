"""Nearest point on triangles: an own bounding-volume tree that knows which triangle, exact in float64."""

from __future__ import annotations

from dataclasses import dataclass

import numba as nb
import numpy as np
from numpy.typing import NDArray

__all__ = ["TriangleTree", "box_gap", "build_tree", "nearest_on_triangles", "triangle_foot"]

_jit = nb.njit(cache=True, nogil=True, fastmath=True)


@dataclass(frozen=True, slots=True)
class TriangleTree:
    """Flat tree: boxes (k, 6), left child (k,; right is left + 1; -1 in a leaf), range (k, 2) into `order`, and
    corners (n, 9) of the triangles in that order."""

    boxes: NDArray[np.float64]
    left: NDArray[np.int32]
    spans: NDArray[np.int32]
    order: NDArray[np.int64]
    corners: NDArray[np.float64]


@nb.njit(cache=True, nogil=True)
def _build(low, high, leaf):  # type: ignore[no-untyped-def]
    n = len(low)
    order = np.arange(n)
    most = max(2 * n, 2)
    boxes = np.empty((most, 6))
    left = np.full(most, -1, np.int32)
    spans = np.zeros((most, 2), np.int32)
    spans[0, 1] = n
    count = 1
    todo = [0]
    while len(todo) > 0:
        q = todo.pop()
        a, b = spans[q]
        axis, widest = 0, -1.0
        for d in range(3):
            lo, hi, c0, c1 = 1e300, -1e300, 1e300, -1e300
            for i in range(a, b):
                t = order[i]
                lo, hi = min(lo, low[t, d]), max(hi, high[t, d])
                c = low[t, d] + high[t, d]
                c0, c1 = min(c0, c), max(c1, c)
            boxes[q, d], boxes[q, 3 + d] = lo, hi
            if c1 - c0 > widest:
                widest, axis = c1 - c0, d
        if b - a <= leaf:
            continue
        part = order[a:b].copy()
        order[a:b] = part[np.argsort(low[part, axis] + high[part, axis])]
        middle = (a + b) // 2
        left[q] = count
        spans[count, 0], spans[count, 1] = a, middle
        spans[count + 1, 0], spans[count + 1, 1] = middle, b
        todo.append(count)
        todo.append(count + 1)
        count += 2
    return boxes[:count].copy(), left[:count].copy(), spans[:count].copy(), order


def build_tree(vertices: NDArray[np.float64], triangles: NDArray[np.int32]) -> TriangleTree:
    """Median splits over the widest axis, at most 4 triangles in a leaf. vertices (n, 3) mm, triangles (m, 3)."""
    corners = vertices[triangles]
    boxes, left, spans, order = _build(corners.min(axis=1), corners.max(axis=1), 4)
    return TriangleTree(boxes, left, spans, order, np.ascontiguousarray(corners[order].reshape(-1, 9)))


@nb.njit(nogil=True, fastmath=True, inline="always")
def triangle_foot(px, py, pz, t):  # type: ignore[no-untyped-def]
    """Nearest point of one triangle (nine numbers). Reference: Ericson, Real-Time Collision Detection, 5.1.5."""
    abx, aby, abz = t[3] - t[0], t[4] - t[1], t[5] - t[2]
    acx, acy, acz = t[6] - t[0], t[7] - t[1], t[8] - t[2]
    apx, apy, apz = px - t[0], py - t[1], pz - t[2]
    d1 = abx * apx + aby * apy + abz * apz
    d2 = acx * apx + acy * apy + acz * apz
    if d1 <= 0 and d2 <= 0:
        return t[0], t[1], t[2]
    bpx, bpy, bpz = px - t[3], py - t[4], pz - t[5]
    d3 = abx * bpx + aby * bpy + abz * bpz
    d4 = acx * bpx + acy * bpy + acz * bpz
    if d3 >= 0 and d4 <= d3:
        return t[3], t[4], t[5]
    vc = d1 * d4 - d3 * d2
    if vc <= 0 and d1 >= 0 and d3 <= 0:
        v = d1 / (d1 - d3 + 1e-300)
        return t[0] + v * abx, t[1] + v * aby, t[2] + v * abz
    cpx, cpy, cpz = px - t[6], py - t[7], pz - t[8]
    d5 = abx * cpx + aby * cpy + abz * cpz
    d6 = acx * cpx + acy * cpy + acz * cpz
    if d6 >= 0 and d5 <= d6:
        return t[6], t[7], t[8]
    vb = d5 * d2 - d1 * d6
    if vb <= 0 and d2 >= 0 and d6 <= 0:
        w = d2 / (d2 - d6 + 1e-300)
        return t[0] + w * acx, t[1] + w * acy, t[2] + w * acz
    va = d3 * d6 - d5 * d4
    if va <= 0 and (d4 - d3) >= 0 and (d5 - d6) >= 0:
        w = (d4 - d3) / ((d4 - d3) + (d5 - d6) + 1e-300)
        return t[3] + w * (t[6] - t[3]), t[4] + w * (t[7] - t[4]), t[5] + w * (t[8] - t[5])
    whole = va + vb + vc
    if whole == 0:
        return t[0], t[1], t[2]
    v, w = vb / whole, vc / whole
    return t[0] + abx * v + acx * w, t[1] + aby * v + acy * w, t[2] + abz * v + acz * w


@nb.njit(nogil=True, fastmath=True, inline="always")
def box_gap(boxes, q, px, py, pz):  # type: ignore[no-untyped-def]
    """Squared distance from a point to a node's box."""
    x = max(boxes[q, 0] - px, 0.0, px - boxes[q, 3])
    y = max(boxes[q, 1] - py, 0.0, py - boxes[q, 4])
    z = max(boxes[q, 2] - pz, 0.0, pz - boxes[q, 5])
    return x * x + y * y + z * z


@_jit
def nearest_slot(boxes, left, spans, corners, px, py, pz, first, stack):  # type: ignore[no-untyped-def]
    """Slot (position in the tree's order) of the nearest triangle, its foot and squared distance.

    `first` is a slot to start from: the answer for a neighbouring point prunes most of the tree at once.
    """
    x, y, z = triangle_foot(px, py, pz, corners[first])
    best = (x - px) ** 2 + (y - py) ** 2 + (z - pz) ** 2
    slot = first
    fx, fy, fz = x, y, z
    top = 1
    stack[0] = 0
    while top > 0:
        top -= 1
        q = stack[top]
        if box_gap(boxes, q, px, py, pz) >= best:
            continue
        child = left[q]
        if child < 0:
            for i in range(spans[q, 0], spans[q, 1]):
                x, y, z = triangle_foot(px, py, pz, corners[i])
                d = (x - px) ** 2 + (y - py) ** 2 + (z - pz) ** 2
                if d < best:
                    best, slot = d, i
                    fx, fy, fz = x, y, z
        else:
            near, far = child, child + 1
            a, b = box_gap(boxes, near, px, py, pz), box_gap(boxes, far, px, py, pz)
            if b < a:
                near, far = far, near
            stack[top] = far
            stack[top + 1] = near
            top += 2
    return slot, fx, fy, fz, best


@_jit
def _nearest(boxes, left, spans, corners, order, points):  # type: ignore[no-untyped-def]
    n = len(points)
    feet = np.empty((n, 3))
    owner = np.empty(n, np.int64)
    stack = np.empty(128, np.int32)
    slot = 0
    for i in range(n):
        slot, x, y, z, _ = nearest_slot(
            boxes, left, spans, corners, points[i, 0], points[i, 1], points[i, 2], slot, stack
        )
        feet[i, 0], feet[i, 1], feet[i, 2] = x, y, z
        owner[i] = order[slot]
    return feet, owner


def nearest_on_triangles(
    tree: TriangleTree, points: NDArray[np.float64]
) -> tuple[NDArray[np.float64], NDArray[np.int64]]:
    """Nearest points (n, 3) and the triangle each lies on (n,)."""
    return _nearest(tree.boxes, tree.left, tree.spans, tree.corners, tree.order, np.ascontiguousarray(points))
