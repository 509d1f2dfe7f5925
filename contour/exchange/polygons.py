"""Polygons as files list them, cut into triangles; what names a vertex that is not there is dropped with its place."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from contour.exchange.raw import NoteLog

__all__ = ["fan_or_ears", "triangles_of"]


def fan_or_ears(points: NDArray[np.float64]) -> list[tuple[int, int, int]]:
    """Triangles of one polygon, (n, 3): a fan when it is convex, ears cut off otherwise (Meisters 1975)."""
    n = len(points)
    fan = [(0, k, k + 1) for k in range(1, n - 1)]
    if n == 3:
        return fan
    nxt = np.roll(points, -1, axis=0)
    normal = np.cross(points, nxt).sum(axis=0)
    axis = int(np.argmax(np.abs(normal)))
    flat = np.delete(points, axis, axis=1)
    if (normal[axis] < 0) != (axis == 1):
        flat = flat[:, ::-1]

    def turn(a: int, b: int, c: int) -> float:
        u, v = flat[b] - flat[a], flat[c] - flat[a]
        return float(u[0] * v[1] - u[1] * v[0])

    ring = list(range(n))
    if all(turn(ring[k - 1], ring[k], ring[(k + 1) % n]) >= 0 for k in range(n)):
        return fan
    ears: list[tuple[int, int, int]] = []
    while len(ring) > 3:
        for k in range(len(ring)):
            a, b, c = ring[k - 1], ring[k], ring[(k + 1) % len(ring)]
            if turn(a, b, c) <= 0:
                continue
            others = (p for p in ring if p not in (a, b, c))
            if any(turn(a, b, p) >= 0 and turn(b, c, p) >= 0 and turn(c, a, p) >= 0 for p in others):
                continue
            ears.append((a, b, c))
            del ring[k]
            break
        else:
            return fan  # crossed or flat polygon: no ear exists, the fan at least keeps the count
    return [*ears, (ring[0], ring[1], ring[2])]


def triangles_of(
    points: NDArray[np.float64], faces: Sequence[NDArray[np.int64]] | NDArray[np.int64], log: NoteLog
) -> tuple[NDArray[np.float64], NDArray[np.int64], int]:
    """Corners (n, 3, 3) of the usable triangles, each one's number, and how many numbers there are.

    faces: an (n, 3) array of triangles, or one index array per polygon.
    """
    usable = np.asarray(np.isfinite(points).all(axis=1) & (np.abs(points).max(axis=1, initial=0) < 1e12))
    if isinstance(faces, np.ndarray):
        known = np.asarray(np.logical_and(faces >= 0, faces < len(points)).all(axis=1))
        log.add("bad-index", "faces that name a vertex which does not exist were dropped", np.flatnonzero(~known))
        sound = known & np.append(usable, False)[np.where(known[:, None], faces, -1)].all(axis=1)
        log.add(
            "not-finite", "faces with NaN, infinite or unreadable vertices were dropped", np.flatnonzero(known & ~sound)
        )
        return points[faces[sound]], np.flatnonzero(sound), len(faces)
    triangles: list[tuple[int, int, int]] = []
    numbers: list[int] = []
    read = 0
    for k, ids in enumerate(faces):
        pieces = max(len(ids) - 2, 1)
        if len(ids) < 3:
            log.add("few-vertices", "faces with fewer than 3 vertices were dropped", k)
        elif ids.min() < 0 or ids.max() >= len(points):
            log.add("bad-index", "faces that name a vertex which does not exist were dropped", k)
        elif not usable[ids].all():
            log.add("not-finite", "faces with NaN, infinite or unreadable vertices were dropped", k)
        else:
            cut = [(0, 1, 2)] if pieces == 1 else fan_or_ears(points[ids])
            triangles.extend((int(ids[a]), int(ids[b]), int(ids[c])) for a, b, c in cut)
            numbers.extend(range(read, read + pieces))
        read += pieces
    corners = points[np.array(triangles, dtype=np.int64)] if triangles else np.empty((0, 3, 3))
    return corners, np.array(numbers, dtype=np.int64), read
