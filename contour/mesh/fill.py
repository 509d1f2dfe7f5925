"""Filling holes: the rim triangulated, refined to the density around it, and faired so that the curvature goes on.

Reference: Liepa, "Filling holes in meshes", 2003 (triangulation by dynamic programming, density control); fairing is
the thin plate over all fills at once (Botsch and Sorkine 2008, uniform then scale-dependent weights).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal

import numba as nb
import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_matrix, csr_matrix
from scipy.sparse.linalg import splu

from contour.mesh.facets import Mesh, border_loops, near_facets, side_lengths
from contour.mesh.topology import facet_geometry, neighbours

__all__ = ["FillShape", "Filled", "fill_loops"]

FillShape = Literal["flat", "curved"]
Array = NDArray[np.float64]
_MOST_BY_TABLE = 220  # the table grows with the square and its time with the cube of the rim's length
_MOST_OF_MANY = 80  # where there are hundreds of holes


@dataclass(frozen=True, slots=True)
class Filled:
    """The mesh with new facets at its end; how many holes were closed, and the loops that could not be."""

    mesh: Mesh
    closed: int
    left: tuple[NDArray[np.int64], ...]


@nb.njit(cache=True, nogil=True)
def _by_table(rim, outside, taken):  # type: ignore[no-untyped-def]
    """Triangles (n - 2, 3) of a closed rim (n, 3) with the least sum of area and bending.

    outside (n, 3): unit normal of the facet across each rim side. taken (n, n): pairs that the mesh joins elsewhere; a
    chord between them would make an edge of more than two facets. Worst bend first would need a pair as weight; the sum
    of area times (1 + bend) does as well on scans and keeps one number.
    """
    n = len(rim)
    weight = np.zeros((n, n))
    best = np.full((n, n), -1, np.int32)
    normal = np.empty(3)
    for gap in range(2, n):
        for i in range(n - gap):
            k = i + gap
            least = 1e300
            for m in range(i + 1, k):
                u, w = rim[m] - rim[i], rim[k] - rim[i]
                normal[0] = u[1] * w[2] - u[2] * w[1]
                normal[1] = u[2] * w[0] - u[0] * w[2]
                normal[2] = u[0] * w[1] - u[1] * w[0]
                size = np.sqrt(normal[0] ** 2 + normal[1] ** 2 + normal[2] ** 2)
                bend = 0.0
                if size > 0:
                    if m == i + 1:
                        bend += 1 - (normal @ outside[i]) / size
                    if k == m + 1:
                        bend += 1 - (normal @ outside[m]) / size
                    if gap == n - 1:
                        bend += 1 - (normal @ outside[n - 1]) / size
                cost = weight[i, m] + weight[m, k] + size * (1 + bend)
                if cost < least:
                    least = cost
                    best[i, k] = m
            weight[i, k] = least + (1e12 if taken[i, k] else 0.0)
    out = np.empty((n - 2, 3), np.int32)
    stack = [(0, n - 1)]
    count = 0
    while len(stack) > 0:
        i, k = stack.pop()
        if k - i < 2:
            continue
        m = best[i, k]
        out[count, 0], out[count, 1], out[count, 2] = i, m, k
        count += 1
        stack.append((i, m))
        stack.append((m, k))
    return out


@nb.njit(cache=True, nogil=True)
def _clipped(rim, target):  # type: ignore[no-untyped-def]
    """Ears cut off a long rim, narrowest first, until `target` vertices are left: triangles, and who is left."""
    n = len(rim)
    after = np.arange(1, n + 1) % n
    before = np.arange(-1, n - 1) % n
    alive = np.ones(n, np.bool_)
    size = np.empty(n)
    normal = np.zeros(3)
    for i in range(1, n - 1):
        u, w = rim[i] - rim[0], rim[i + 1] - rim[0]
        normal[0] += u[1] * w[2] - u[2] * w[1]
        normal[1] += u[2] * w[0] - u[0] * w[2]
        normal[2] += u[0] * w[1] - u[1] * w[0]

    def ear(i: int) -> float:  # type: ignore[no-untyped-def]
        u, w = rim[before[i]] - rim[i], rim[after[i]] - rim[i]
        x = w[1] * u[2] - w[2] * u[1]
        y = w[2] * u[0] - w[0] * u[2]
        z = w[0] * u[1] - w[1] * u[0]
        turn = np.arctan2(np.sqrt(x * x + y * y + z * z), u @ w)
        if x * normal[0] + y * normal[1] + z * normal[2] < 0:
            turn = 2 * np.pi - turn
        return turn + 0.05 * np.sqrt(((rim[before[i]] - rim[after[i]]) ** 2).sum()) / (
            1e-12 + np.sqrt((u * u).sum()) + np.sqrt((w * w).sum())
        )

    for i in range(n):
        size[i] = ear(i)
    triangles = np.empty((n, 3), np.int32)
    left, count = n, 0
    while left > target:
        tip, least = -1, 1e300
        for i in range(n):
            if alive[i] and size[i] < least:
                tip, least = i, size[i]
        a, b = before[tip], after[tip]
        triangles[count, 0], triangles[count, 1], triangles[count, 2] = a, tip, b
        count += 1
        alive[tip] = False
        after[a], before[b] = b, a
        size[a], size[b] = ear(a), ear(b)
        left -= 1
    return triangles[:count].copy(), np.flatnonzero(alive)


@nb.njit(cache=True, nogil=True)
def _split_large(points, triangles, scale, most):  # type: ignore[no-untyped-def]
    """Centroids put into triangles that are large for their corners' scale; returns the new arrays and how many."""
    n, m = len(points), len(triangles)
    marked = np.zeros(m, np.bool_)
    count = 0
    root2 = np.sqrt(2.0)
    for t in range(m):
        a, b, c = triangles[t]
        middle = (points[a] + points[b] + points[c]) / 3
        mean = (scale[a] + scale[b] + scale[c]) / 3
        large = True
        for v in (a, b, c):
            gap = root2 * np.sqrt(((middle - points[v]) ** 2).sum())
            if gap <= mean or gap <= scale[v]:
                large = False
        if large and n + count < most:
            marked[t] = True
            count += 1
    p = np.empty((n + count, 3))
    s = np.empty(n + count)
    p[:n], s[:n] = points, scale
    out = np.empty((m + 2 * count, 3), np.int32)
    out[:m] = triangles
    at, new = m, n
    for t in range(m):
        if not marked[t]:
            continue
        a, b, c = triangles[t]
        p[new] = (points[a] + points[b] + points[c]) / 3
        s[new] = (scale[a] + scale[b] + scale[c]) / 3
        out[t, 2] = new
        out[at, 0], out[at, 1], out[at, 2] = b, c, new
        out[at + 1, 0], out[at + 1, 1], out[at + 1, 2] = c, a, new
        at += 2
        new += 1
    return p, out, s, count


@nb.njit(cache=True, nogil=True)
def _flip(points, triangles, across, joined):  # type: ignore[no-untyped-def]
    """One round of flips of sides whose opposite angles sum to more than two right angles; `across` is for this round
    only, so that a triangle changes at most once. joined (k, 2): pairs that must not be joined."""
    done = np.zeros(len(triangles), np.bool_)
    count = 0
    n = len(points)
    sides = {np.int64(-1)}
    for t in range(len(triangles)):
        for k in range(3):
            a, b = triangles[t, k], triangles[t, (k + 1) % 3]
            sides.add(np.int64(min(a, b)) * n + max(a, b))
    for k in range(len(joined)):
        sides.add(np.int64(min(joined[k, 0], joined[k, 1])) * n + max(joined[k, 0], joined[k, 1]))
    for t in range(len(triangles)):
        for k in range(3):
            h = across[t, k]
            if h < 0 or done[t]:
                continue
            g, j = h // 3, h % 3
            if g < t or done[g]:
                continue
            a, b, c, d = (
                triangles[t, k],
                triangles[t, (k + 1) % 3],
                triangles[t, (k + 2) % 3],
                triangles[g, (j + 2) % 3],
            )
            if c == d:
                continue
            u, w = points[a] - points[c], points[b] - points[c]
            x, y = points[a] - points[d], points[b] - points[d]
            one = (u @ w) / (np.sqrt((u @ u) * (w @ w)) + 1e-300)
            two = (x @ y) / (np.sqrt((x @ x) * (y @ y)) + 1e-300)
            if np.arccos(min(1.0, max(-1.0, one))) + np.arccos(min(1.0, max(-1.0, two))) <= np.pi + 1e-6:
                continue
            # The side c-d must not exist already, or an edge of more than two facets would come of it.
            side = np.int64(min(c, d)) * n + max(c, d)
            if side in sides:
                continue
            sides.add(side)
            triangles[t, 0], triangles[t, 1], triangles[t, 2] = c, a, d
            triangles[g, 0], triangles[g, 1], triangles[g, 2] = d, b, c
            done[t] = done[g] = True
            count += 1
    return count


def _refined(
    rim: Array, triangles: NDArray[np.int32], scale: Array, joined: NDArray[np.int64]
) -> tuple[Array, NDArray[np.int32]]:
    """Rim vertices first, then new ones inside; triangles as dense as the sides around the rim."""
    points = rim.copy()
    most = len(rim) + 20_000
    for _ in range(40):
        points, triangles, scale, added = _split_large(points, triangles, scale, most)
        for _ in range(12):
            across = neighbours(triangles, len(points))[0]
            if _flip(points, triangles, across, joined) == 0:
                break
        if added == 0:
            break
    return points, triangles


def _umbrella(facets: NDArray[np.int32], points: Array | None, count: int) -> csr_matrix:
    """Rows of x minus the weighted mean of its neighbours; weights by 1 / length when points are given."""
    i = np.concatenate([facets[:, 0], facets[:, 1], facets[:, 2], facets[:, 1], facets[:, 2], facets[:, 0]])
    j = np.concatenate([facets[:, 1], facets[:, 2], facets[:, 0], facets[:, 0], facets[:, 1], facets[:, 2]])
    ring = csr_matrix(coo_matrix((np.ones(len(i)), (i, j)), (count, count)))
    if points is None:
        ring.data[:] = 1.0
    else:
        rows = np.repeat(np.arange(count), np.diff(ring.indptr))
        ring.data = 1.0 / np.maximum(np.linalg.norm(points[rows] - points[ring.indices], axis=1), 1e-9)
    degree = np.maximum(np.asarray(ring.sum(axis=1)).ravel(), 1e-300)
    one = csr_matrix((np.ones(count), (np.arange(count), np.arange(count))), (count, count))
    return csr_matrix(one - ring.multiply(1.0 / degree[:, None]))


def faired(points: Array, facets: NDArray[np.int32], free: NDArray[np.bool_]) -> Array:
    """Free vertices moved to the smoothest surface that continues the fixed ones (thin plate); others stay.

    points (n, 3) mm, facets (m, 3), free (n,).
    """
    out = points.copy()
    if not free.any():
        return out
    for weights in (None, "lengths", "lengths"):
        umbrella = _umbrella(facets, None if weights is None else out, len(points))
        # Bending counts at free vertices and at the rim they join, where it makes the fill start along the old surface.
        near = np.zeros(len(points), np.bool_)
        near[facets[free[facets].any(axis=1)].ravel()] = True
        rows = umbrella[near]
        a, b = rows[:, np.flatnonzero(free)], rows[:, np.flatnonzero(~free)]
        solve = splu((a.T @ a + 1e-12 * _identity(int(free.sum()))).tocsc())
        out[free] = solve.solve(-(a.T @ (b @ out[~free])))
    return out


def _identity(n: int) -> csr_matrix:
    return csr_matrix((np.ones(n), (np.arange(n), np.arange(n))), (n, n))


def _patch(
    mesh: Mesh, loop: NDArray[np.int64], normals: Array, sides: Array, chords: NDArray[np.int64], most: int
) -> tuple[Array, NDArray[np.int32], NDArray[np.int32]] | None:
    """New points, triangles (rim vertices first, numbered along it) and the rim's vertices; None for a rim that does not close."""
    f, k = loop // 3, loop % 3
    # Against the border, so that new facets run the other way along it.
    ids = mesh.facets[f, (k + 1) % 3][::-1]
    if len(ids) < 3 or ids[0] != mesh.facets[f, k][::-1][-1] or len(np.unique(ids)) != len(ids):
        return None
    rim = mesh.vertices[ids]
    outside = normals[f][::-1]
    # ids[i] -> ids[i + 1] is the border side of f[::-1][i].
    rest = np.arange(len(ids))
    triangles = np.empty((0, 3), np.int32)
    if len(ids) > most:
        triangles, rest = _clipped(rim, most)
    joined = _joined(chords, ids)
    place = np.full(len(ids), -1)
    place[rest] = np.arange(len(rest))
    taken = np.zeros((len(rest), len(rest)), np.bool_)
    both = place[joined[(place[joined] >= 0).all(axis=1)]]
    taken[both[:, 0], both[:, 1]] = True
    table = _by_table(np.ascontiguousarray(rim[rest]), _outside_of(rest, outside, rim), taken)
    triangles = np.vstack([triangles, rest[table].astype(np.int32)])
    side = sides[f].mean(axis=1)[::-1]
    points, triangles = _refined(rim, triangles, (side + np.roll(side, 1)) / 2, joined)
    return points[len(ids) :], triangles, ids


def _with(chords: NDArray[np.int64], ends: NDArray[Any]) -> NDArray[np.int64]:
    """More pairs, both ways round, among those sorted by their first."""
    every = np.vstack([chords, ends, ends[:, ::-1]]).astype(np.int64)
    return every[np.argsort(every[:, 0], kind="stable")]


def _chords(mesh: Mesh, across: NDArray[np.int32]) -> NDArray[np.int64]:
    """Sides of the mesh that join two vertices of its border, both ways round (k, 2), sorted by the first. Sides of the border too: that of
    another hole may join two vertices of this one."""
    f, k = np.nonzero(across == -1)
    on = np.zeros(len(mesh.vertices), np.bool_)
    on[mesh.facets[f, k]] = True
    on[mesh.facets[f, (k + 1) % 3]] = True
    f, k = np.nonzero(on[mesh.facets] & on[np.roll(mesh.facets, -1, axis=1)])
    return _with(np.empty((0, 2), np.int64), np.column_stack([mesh.facets[f, k], mesh.facets[f, (k + 1) % 3]]))


def _joined(chords: NDArray[np.int64], ids: NDArray[np.int32]) -> NDArray[np.int64]:
    """Pairs of places along a rim whose vertices a chord joins."""
    first, last = np.searchsorted(chords[:, 0], ids), np.searchsorted(chords[:, 0], ids, side="right")
    count = last - first
    here = np.repeat(np.arange(len(ids)), count)
    rows = np.repeat(first, count) + np.arange(count.sum()) - np.repeat(np.cumsum(count) - count, count)
    order = np.argsort(ids)
    at = np.minimum(np.searchsorted(ids[order], chords[rows, 1]), len(ids) - 1)
    there = order[at]
    found = ids[there] == chords[rows, 1]
    return np.column_stack([here[found], there[found]]).astype(np.int64)


def _outside_of(rest: NDArray[np.int64], outside: Array, rim: Array) -> Array:
    """Normals across the sides of what is left of a rim: the facet's own where the side is one of the border's."""
    step = (np.roll(rest, -1) - rest) % len(rim)
    out = outside[rest].copy()
    out[step != 1] = 0.0
    return np.ascontiguousarray(out)


def fill_loops(mesh: Mesh, loops: list[NDArray[np.int64]], *, shape: FillShape, side_mm: float | None = None) -> Filled:
    """Close holes given by their half-edges (see :func:`contour.mesh.facets.border_loops`).

    flat : the least surface the rim allows, no bulge. curved : goes on as the surface around bends. No vertex that
    exists is moved; new facets have no source. Loops: half-edges (k,) · side_mm: of the new facets; as around them when none.
    """
    _, normals, _ = facet_geometry(mesh.vertices, mesh.facets)
    sides = side_lengths(mesh)
    if side_mm is not None:
        sides = np.full_like(sides, side_mm)
    points, triangles = [mesh.vertices], [mesh.facets]
    base = len(mesh.vertices)
    left, closed = [], 0
    across = mesh.across()
    chords = _chords(mesh, across)
    f, k = np.nonzero(across == -1)
    # Where holes touch, what one of them joins is taken for the next.
    touching = np.bincount(mesh.facets[f, k], minlength=len(mesh.vertices)) > 1
    most = _MOST_BY_TABLE if len(loops) <= 500 else _MOST_OF_MANY
    for loop in loops:
        made = _patch(mesh, loop, normals, sides, chords, most)
        if made is None:
            left.append(loop)
            continue
        fresh, corners, ids = made
        names = np.concatenate([ids, np.arange(base, base + len(fresh))]).astype(np.int32)
        points.append(fresh)
        triangles.append(names[corners])
        meets = np.zeros(len(names), np.bool_)
        meets[: len(ids)] = touching[ids]
        if meets.sum() > 1:
            sides_of = np.column_stack([corners.ravel(), np.roll(corners, -1, axis=1).ravel()])
            chords = _with(chords, names[sides_of[meets[sides_of].all(axis=1)]])
        base += len(fresh)
        closed += 1
    vertices, facets = np.vstack(points), np.vstack(triangles).astype(np.int32)
    if shape == "curved" and len(vertices) > len(mesh.vertices):
        vertices = _faired_locally(vertices, facets, len(mesh.vertices), len(mesh.facets))
    source = np.concatenate([mesh.source, np.full(len(facets) - len(mesh.facets), -1, np.int64)])
    return Filled(Mesh(vertices, facets, source), closed, tuple(left))


def _faired_locally(vertices: Array, facets: NDArray[np.int32], first_new: int, first_facet: int) -> Array:
    """Thin plate over the new vertices; only facets within three rings of them are looked at."""
    fresh = np.zeros(len(facets), np.bool_)
    fresh[first_facet:] = True
    near = facets[near_facets(facets, fresh, 2, len(vertices))]
    used, local = np.unique(near, return_inverse=True)
    free = used >= first_new
    out = vertices.copy()
    out[used] = faired(vertices[used], local.reshape(-1, 3).astype(np.int32), free)
    return out


def all_loops(mesh: Mesh, *, most_mm: float | None = None) -> list[NDArray[np.int64]]:
    """Every border whose length is at most `most_mm` (all when none). Loops: half-edges (k,)."""
    loops = border_loops(mesh.facets, mesh.across())
    if most_mm is None:
        return loops
    out = []
    for loop in loops:
        f, k = loop // 3, loop % 3
        gap = mesh.vertices[mesh.facets[f, (k + 1) % 3]] - mesh.vertices[mesh.facets[f, k]]
        if np.linalg.norm(gap, axis=1).sum() <= most_mm:
            out.append(loop)
    return out
