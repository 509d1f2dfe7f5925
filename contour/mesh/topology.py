"""Welding a triangle soup and finding facet neighbours, by hashing: no sort, a few passes over memory."""

from __future__ import annotations

import numba as nb
import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

__all__ = [
    "border_edges",
    "component_labels",
    "facet_geometry",
    "neighbours",
    "signed_volume",
    "usable_facets",
    "vertex_facets",
    "vertex_normals",
    "weld",
    "weld_near",
]

_jit = nb.njit(cache=True, nogil=True)


@_jit
def _weld(bits):  # type: ignore[no-untyped-def]
    """Bits of the different corners (m, 3) in order of first use, and which one each corner is (n,)."""
    n = len(bits)
    size = 1
    while size < 2 * n:
        size *= 2
    table = np.full(size, -1, np.int32)
    index = np.empty(n, np.int32)
    # Closed meshes have six corners a vertex: compact codes stay in the cache, and grow for soups that need more.
    codes = np.empty((n // 4 + 16, 3), np.int64)
    count = 0
    mask = size - 1
    minus_zero = np.int64(-9223372036854775807 - 1)
    for i in range(n):
        a, b, c = bits[i, 0], bits[i, 1], bits[i, 2]
        a = 0 if a == minus_zero else a
        b = 0 if b == minus_zero else b
        c = 0 if c == minus_zero else c
        h = a * -7046029254386353131 + b * -4417276706812531889 + c * 1609587929392839161
        h ^= h >> 29
        h *= -4658895280553007687
        h ^= h >> 32
        slot = h & mask
        while True:
            k = table[slot]
            if k < 0:
                if count == len(codes):
                    more = np.empty((2 * count, 3), np.int64)
                    more[:count] = codes
                    codes = more
                codes[count, 0], codes[count, 1], codes[count, 2] = a, b, c
                table[slot] = count
                index[i] = count
                count += 1
                break
            if codes[k, 0] == a and codes[k, 1] == b and codes[k, 2] == c:
                index[i] = k
                break
            slot = (slot + 1) & mask
    return codes[:count].copy(), index


def weld(corners: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.int32]]:
    """Merge equal corners.

    corners : (n, 3, 3) float64. Returns vertices (m, 3) float64 in order of first use and facets (n, 3) int32.
    Only bit-equal corners are merged (-0 counts as 0): closeness is for a mending step to decide, not for a reader.
    """
    flat = np.ascontiguousarray(corners, dtype=np.float64).reshape(-1, 3)
    codes, index = _weld(flat.view(np.int64))
    return codes.view(np.float64), index.reshape(-1, 3)


def weld_near(
    vertices: NDArray[np.float64], facets: NDArray[np.int32], reach_mm: float
) -> tuple[NDArray[np.float64], NDArray[np.int32]]:
    """Merge vertices closer than `reach_mm` into the first of each group; facets that collapse are dropped.

    For meshes of bodies, whose faces meet in points that agree to rounding but not to the bit.
    vertices (n, 3) mm, facets (m, 3).
    """
    pairs = cKDTree(vertices).query_pairs(reach_mm, output_type="ndarray")
    links = coo_matrix((np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), shape=(len(vertices),) * 2)
    _, group = connected_components(links, directed=False)
    _, first = np.unique(group, return_index=True)
    merged = group[facets].astype(np.int32)
    whole = (merged[:, 0] != merged[:, 1]) & (merged[:, 1] != merged[:, 2]) & (merged[:, 2] != merged[:, 0])
    return vertices[first], merged[whole]


@_jit
def vertex_facets(facets: NDArray[np.int32], vertex_count: int) -> tuple[NDArray[np.int64], NDArray[np.int32]]:
    """Facets around every vertex as offsets (m + 1,) and facet ids (3 n,)."""
    offsets = np.zeros(vertex_count + 1, np.int64)
    for f in range(len(facets)):
        for k in range(3):
            offsets[facets[f, k] + 1] += 1
    for v in range(vertex_count):
        offsets[v + 1] += offsets[v]
    fill = offsets[:-1].copy()
    out = np.empty(3 * len(facets), np.int32)
    for f in range(len(facets)):
        for k in range(3):
            v = facets[f, k]
            out[fill[v]] = f
            fill[v] += 1
    return offsets, out


@_jit
def _half_edges(facets: NDArray[np.int32], vertex_count: int) -> tuple[NDArray[np.int64], NDArray[np.int32]]:
    """Half-edges (3 * facet + side) bucketed by their smaller vertex."""
    offsets = np.zeros(vertex_count + 1, np.int64)
    for f in range(len(facets)):
        for k in range(3):
            offsets[min(facets[f, k], facets[f, (k + 1) % 3]) + 1] += 1
    for v in range(vertex_count):
        offsets[v + 1] += offsets[v]
    fill = offsets[:-1].copy()
    out = np.empty(3 * len(facets), np.int32)
    for f in range(len(facets)):
        for k in range(3):
            v = min(facets[f, k], facets[f, (k + 1) % 3])
            out[fill[v]] = 3 * f + k
            fill[v] += 1
    return offsets, out


@_jit
def neighbours(facets: NDArray[np.int32], vertex_count: int) -> tuple[NDArray[np.int32], NDArray[np.int64]]:
    """What lies across each side.

    Returns across (n, 3) int32: ``3 * facet + side`` on the other side, -1 at an open edge, -2 at an edge of more
    than two facets; and counts [open edges, edges of more than two facets, edges of an odd number of facets,
    edges run twice in one direction].
    """
    offsets, halves = _half_edges(facets, vertex_count)
    across = np.full((len(facets), 3), -1, np.int32)
    counts = np.zeros(4, np.int64)
    for v in range(vertex_count):
        a, b = offsets[v], offsets[v + 1]
        for i in range(a, b):
            h = halves[i]
            if h < 0:
                continue
            f, k = h // 3, h % 3
            p, q = facets[f, k], facets[f, (k + 1) % 3]
            far = max(p, q)
            uses = 1
            mate = -1
            balance = 1 if p < q else -1
            for j in range(i + 1, b):
                g = halves[j]
                if g < 0:
                    continue
                r, s = facets[g // 3, g % 3], facets[g // 3, (g % 3 + 1) % 3]
                if max(r, s) == far:
                    uses += 1
                    mate = g
                    balance += 1 if r < s else -1
            if uses == 1:
                counts[0] += 1
                continue
            if balance != 0:
                counts[3] += 1
            if uses == 2:
                across[f, k] = mate
                across[mate // 3, mate % 3] = h
                for j in range(i + 1, b):
                    if halves[j] == mate:
                        halves[j] = -1
                        break
                continue
            counts[1] += 1
            counts[2] += uses % 2
            across[f, k] = -2
            for j in range(i + 1, b):
                g = halves[j]
                if g >= 0 and max(facets[g // 3, g % 3], facets[g // 3, (g % 3 + 1) % 3]) == far:
                    across[g // 3, g % 3] = -2
                    halves[j] = -1
    return across, counts


@_jit
def component_labels(facets: NDArray[np.int32], vertex_count: int) -> tuple[int, NDArray[np.int32]]:
    """Number of pieces that hang together over edges, edges of more than two facets included; each facet's piece.

    facets (m, 3); pieces (m,).
    """
    offsets, halves = _half_edges(facets, vertex_count)
    parent = np.arange(len(facets))
    for v in range(vertex_count):
        for i in range(offsets[v], offsets[v + 1]):
            f = halves[i] // 3
            far = max(facets[f, halves[i] % 3], facets[f, (halves[i] % 3 + 1) % 3])
            for j in range(i + 1, offsets[v + 1]):
                g = halves[j] // 3
                if max(facets[g, halves[j] % 3], facets[g, (halves[j] % 3 + 1) % 3]) != far:
                    continue
                a, b = f, g
                while parent[a] != a:
                    parent[a] = parent[parent[a]]
                    a = parent[a]
                while parent[b] != b:
                    parent[b] = parent[parent[b]]
                    b = parent[b]
                parent[max(a, b)] = min(a, b)
                break
    count = 0
    label = np.empty(len(facets), np.int32)
    for f in range(len(facets)):  # a piece's smallest facet is its root, so that roots come first
        if parent[f] == f:
            label[f] = count
            count += 1
        else:
            a = parent[f]
            while parent[a] != a:
                a = parent[a]
            parent[f] = a
            label[f] = label[a]
    return count, label


@_jit
def border_edges(facets: NDArray[np.int32], across: NDArray[np.int32]) -> NDArray[np.int32]:
    """Undirected edges (m, 2) int32 that lie on the border: open or shared by more than two facets."""
    count = 0
    for f in range(len(facets)):
        for k in range(3):
            count += across[f, k] < 0
    out = np.empty((count, 2), np.int32)
    count = 0
    for f in range(len(facets)):
        for k in range(3):
            if across[f, k] < 0:
                out[count, 0] = facets[f, k]
                out[count, 1] = facets[f, (k + 1) % 3]
                count += 1
    return out


@_jit
def facet_geometry(
    vertices: NDArray[np.float64], facets: NDArray[np.int32]
) -> tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]]:
    """Centroids (n, 3), unit normals (n, 3; zero for facets without area) and areas (n,) of all facets."""
    n = len(facets)
    centroids = np.empty((n, 3))
    normals = np.zeros((n, 3))
    areas = np.zeros(n)
    for f in range(n):
        a, b, c = facets[f, 0], facets[f, 1], facets[f, 2]
        ux, uy, uz = vertices[b, 0] - vertices[a, 0], vertices[b, 1] - vertices[a, 1], vertices[b, 2] - vertices[a, 2]
        vx, vy, vz = vertices[c, 0] - vertices[a, 0], vertices[c, 1] - vertices[a, 1], vertices[c, 2] - vertices[a, 2]
        x, y, z = uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx
        length = np.sqrt(x * x + y * y + z * z)
        for d in range(3):
            centroids[f, d] = (vertices[a, d] + vertices[b, d] + vertices[c, d]) / 3
        if length > 0:
            normals[f, 0], normals[f, 1], normals[f, 2] = x / length, y / length, z / length
            areas[f] = length / 2
    return centroids, normals, areas


def vertex_normals(vertices: NDArray[np.float64], facets: NDArray[np.int32]) -> NDArray[np.float64]:
    """Unit normals (m, 3) at the vertices: the mean of their facets' weighted by area."""
    _, normals, areas = facet_geometry(vertices, facets)
    out = np.zeros_like(vertices)
    for k in range(3):
        np.add.at(out, facets[:, k], normals * areas[:, None])
    return np.asarray(out / (np.linalg.norm(out, axis=1, keepdims=True) + 1e-300))


def signed_volume(vertices: NDArray[np.float64], facets: NDArray[np.int32]) -> float:
    """Volume enclosed by closed facets, mm³ (divergence theorem); negative when they face inwards.

    vertices (n, 3) mm, facets (m, 3).
    """
    if len(facets) == 0:
        return 0.0
    a, b, c = (vertices[facets[:, k]] - vertices[facets[0, 0]] for k in range(3))
    return float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum() / 6)


def usable_facets(facets: NDArray[np.int32]) -> tuple[NDArray[np.bool_], int, int]:
    """Facets to keep, number of collapsed ones (a corner twice) and of repeats (same three corners again).

    facets (m, 3); which to keep (m,).
    """
    collapsed = (facets[:, 0] == facets[:, 1]) | (facets[:, 1] == facets[:, 2]) | (facets[:, 2] == facets[:, 0])
    repeated = _repeated(facets, int(facets.max(initial=-1)) + 1) & ~collapsed
    return ~(collapsed | repeated), int(collapsed.sum()), int(repeated.sum())


@_jit
def _repeated(facets: NDArray[np.int32], vertex_count: int) -> NDArray[np.bool_]:
    """True for each facet whose three corners an earlier facet has already (either way round)."""
    n = len(facets)
    head = np.full(vertex_count, -1, np.int32)  # chains of facets by their smallest corner
    chain = np.full(n, -1, np.int32)
    out = np.zeros(n, np.bool_)
    for f in range(n):
        a, b, c = facets[f, 0], facets[f, 1], facets[f, 2]
        low, high = min(a, b, c), max(a, b, c)
        mid = a + b + c - low - high
        g = head[low]
        while g >= 0:
            x, y, z = facets[g, 0], facets[g, 1], facets[g, 2]
            top = max(x, y, z)
            if top == high and x + y + z - low - top == mid:
                out[f] = True
                break
            g = chain[g]
        if not out[f]:
            chain[f] = head[low]
            head[low] = f
    return out
