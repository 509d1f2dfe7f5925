"""Nearest point on triangles: an own bounding-volume tree that knows which triangle, exact in float64."""

from __future__ import annotations

from dataclasses import dataclass

import numba as nb
import numpy as np
from numpy.typing import NDArray

__all__ = [
    "TriangleTree",
    "box_gap",
    "build_tree",
    "near_slots",
    "nearest_on_triangles",
    "nearest_slot",
    "triangle_foot",
]

_BINS = 16
_SLIVER = 1e-10  # squared sine of the least angle at a corner
_DEEP = 64  # from here on halves by number, so that no search needs a longer stack than 128

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
def _bounds(low, high, order, a, b, out):  # type: ignore[no-untyped-def]
    """Box of the triangles order[a:b] into out (6,)."""
    for d in range(3):
        lo, hi = 1e300, -1e300
        for i in range(a, b):
            t = order[i]
            lo, hi = min(lo, low[t, d]), max(hi, high[t, d])
        out[d], out[3 + d] = lo, hi


@nb.njit(cache=True, nogil=True)
def _split(low, high, order, a, b, bins, counts):  # type: ignore[no-untyped-def]
    """(Axis, place) that parts the triangles order[a:b] most cheaply: both halves' surface times their counts is least, over 16 bins of
    the widest axis (Wald, On fast construction of SAH-based bounding volume hierarchies, 2007). Axis -1 where all lie in one place."""
    widest, axis, begin = 0.0, -1, 0.0
    for d in range(3):
        c0, c1 = 1e300, -1e300
        for i in range(a, b):
            c = low[order[i], d] + high[order[i], d]
            c0, c1 = min(c0, c), max(c1, c)
        if c1 - c0 > widest:
            widest, axis, begin = c1 - c0, d, c0
    if axis < 0:
        return axis, begin
    counts[:] = 0
    bins[:, :3] = 1e300
    bins[:, 3:] = -1e300
    scale = _BINS * (1 - 1e-9) / widest
    for i in range(a, b):
        t = order[i]
        k = int((low[t, axis] + high[t, axis] - begin) * scale)
        counts[k] += 1
        for d in range(3):
            bins[k, d] = min(bins[k, d], low[t, d])
            bins[k, 3 + d] = max(bins[k, 3 + d], high[t, d])
    best, place = 1e300, begin
    for cut in range(1, _BINS):
        cost = 0.0
        for first, last in ((0, cut), (cut, _BINS)):
            x0, y0, z0, x1, y1, z1, n = 1e300, 1e300, 1e300, -1e300, -1e300, -1e300, 0
            for k in range(first, last):
                if counts[k]:
                    n += counts[k]
                    x0, y0, z0 = min(x0, bins[k, 0]), min(y0, bins[k, 1]), min(z0, bins[k, 2])
                    x1, y1, z1 = max(x1, bins[k, 3]), max(y1, bins[k, 4]), max(z1, bins[k, 5])
            if n:
                x, y, z = x1 - x0, y1 - y0, z1 - z0
                cost += n * (x * y + y * z + z * x)
        if cost < best:
            best, place = cost, begin + cut / scale
    return axis, place


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
    todo = [(0, 0)]
    bins, counts = np.empty((_BINS, 6)), np.zeros(_BINS, np.int64)
    while len(todo) > 0:
        q, depth = todo.pop()
        a, b = spans[q]
        _bounds(low, high, order, a, b, boxes[q])
        if b - a <= leaf:
            continue
        axis, place = _split(low, high, order, a, b, bins, counts) if depth < _DEEP else (-1, 0.0)
        middle = a
        if axis >= 0:
            for i in range(a, b):
                t = order[i]
                if low[t, axis] + high[t, axis] < place:
                    order[i], order[middle] = order[middle], t
                    middle += 1
        if middle == a or middle == b:
            middle = (a + b) // 2
        left[q] = count
        spans[count, 0], spans[count, 1] = a, middle
        spans[count + 1, 0], spans[count + 1, 1] = middle, b
        todo.append((count, depth + 1))
        todo.append((count + 1, depth + 1))
        count += 2
    return boxes[:count].copy(), left[:count].copy(), spans[:count].copy(), order


def build_tree(vertices: NDArray[np.float64], triangles: NDArray[np.int32]) -> TriangleTree:
    """Split where both halves are smallest, at most 4 triangles in a leaf. vertices (n, 3) mm, triangles (m, 3)."""
    corners = vertices[triangles]
    boxes, left, spans, order = _build(corners.min(axis=1), corners.max(axis=1), 4)
    return TriangleTree(boxes, left, spans, order, np.ascontiguousarray(corners[order].reshape(-1, 9)))


@_jit
def _nearest_side(px, py, pz, t):  # type: ignore[no-untyped-def]
    best, x, y, z = 1e300, t[0], t[1], t[2]
    for k in range(3):
        i, j = 3 * k, 3 * ((k + 1) % 3)
        dx, dy, dz = t[j] - t[i], t[j + 1] - t[i + 1], t[j + 2] - t[i + 2]
        s = (px - t[i]) * dx + (py - t[i + 1]) * dy + (pz - t[i + 2]) * dz
        s = min(max(s / (dx * dx + dy * dy + dz * dz + 1e-300), 0.0), 1.0)
        fx, fy, fz = t[i] + s * dx, t[i + 1] + s * dy, t[i + 2] + s * dz
        far = (fx - px) ** 2 + (fy - py) ** 2 + (fz - pz) ** 2
        if far < best:
            best, x, y, z = far, fx, fy, fz
    return x, y, z


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
    flat = (abx * abx + aby * aby + abz * abz) * (acx * acx + acy * acy + acz * acz)
    if whole <= _SLIVER * flat:  # no plane to fall on: rounding decided so far, so the sides do
        return _nearest_side(px, py, pz, t)
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
                near, far, a, b = far, near, b, a
            if b < best:
                stack[top] = far
                top += 1
            if a < best:
                stack[top] = near
                top += 1
    return slot, fx, fy, fz, best


@_jit
def near_slots(boxes, left, spans, corners, px, py, pz, first, slack, stack, slots, far):  # type: ignore[no-untyped-def]
    """As :func:`nearest_slot`, and on the same way down every slot up to `slack` (mm) farther than the nearest: into slots (k,), with
    their squared distances in far (k,), among them some that are farther. Returns slot, foot (3), squared distance and how many there
    are; where there are more than fit, the nearest."""
    x, y, z = triangle_foot(px, py, pz, corners[first])
    best = (x - px) ** 2 + (y - py) ** 2 + (z - pz) ** 2
    reach = (np.sqrt(best) + slack) ** 2
    slot = first
    fx, fy, fz = x, y, z
    count = 0
    top = 1
    stack[0] = 0
    while top > 0:
        top -= 1
        q = stack[top]
        if box_gap(boxes, q, px, py, pz) > reach:
            continue
        child = left[q]
        if child < 0:
            for i in range(spans[q, 0], spans[q, 1]):
                x, y, z = triangle_foot(px, py, pz, corners[i])
                d = (x - px) ** 2 + (y - py) ** 2 + (z - pz) ** 2
                if d > reach:
                    continue
                if d < best:
                    best, slot = d, i
                    reach = (np.sqrt(best) + slack) ** 2
                    fx, fy, fz = x, y, z
                if count == len(slots):
                    count = _thinned(slots, far, reach)
                slots[count], far[count] = i, d
                count += 1
        else:
            near, away = child, child + 1
            a, b = box_gap(boxes, near, px, py, pz), box_gap(boxes, away, px, py, pz)
            if b < a:
                near, away, a, b = away, near, b, a
            if b <= reach:
                stack[top] = away
                top += 1
            if a <= reach:
                stack[top] = near
                top += 1
    return slot, fx, fy, fz, best, count


@_jit
def _thinned(slots, far, reach):  # type: ignore[no-untyped-def]
    """Room in a full list: what has turned out too far goes, else the farther half."""
    most = min(reach, np.median(far))
    kept = 0
    for i in range(len(slots)):
        if far[i] <= most and kept < len(slots) - 1:
            slots[kept], far[kept] = slots[i], far[i]
            kept += 1
    return kept


@_jit
def _nearest(boxes, left, spans, corners, order, points):  # type: ignore[no-untyped-def]
    n = len(points)
    feet = np.empty((n, 3))
    owner = np.empty(n, np.int64)
    stack = np.empty(128, np.int32)
    slot = np.int64(0)  # a variable: `nearest_slot` would be compiled for a plain 0 too
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
