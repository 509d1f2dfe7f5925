"""Which way facets face: one way round within each piece, and outwards (inwards around a cavity)."""

from __future__ import annotations

import numba as nb
import numpy as np
from numpy.typing import NDArray

from contour.mesh.facets import Mesh, border_loops
from contour.mesh.topology import facet_geometry

__all__ = ["one_sided_places", "turned_facets"]


@nb.njit(cache=True, nogil=True)
def _walk(facets, across):  # type: ignore[no-untyped-def]
    """Piece of every facet, whether it runs against its piece's first facet, and sides where that cannot be had."""
    n = len(facets)
    piece = np.full(n, -1, np.int32)
    against = np.zeros(n, np.bool_)
    clash = np.zeros(n, np.bool_)
    queue = np.empty(n, np.int32)
    pieces = 0
    for first in range(n):
        if piece[first] >= 0:
            continue
        piece[first] = pieces
        queue[0] = first
        head, tail = 0, 1
        while head < tail:
            f = queue[head]
            head += 1
            for k in range(3):
                h = across[f, k]
                if h < 0:
                    continue
                g, j = h // 3, h % 3
                alike = facets[f, k] == facets[g, j]  # both run the side in one direction
                want = against[f] != alike
                if piece[g] < 0:
                    piece[g] = pieces
                    against[g] = want
                    queue[tail] = g
                    tail += 1
                elif against[g] != want:
                    clash[f] = True
        pieces += 1
    return piece, against, clash, pieces


@nb.njit(cache=True, nogil=True)
def _crossings(corners, px, py, pz, dx, dy, dz):  # type: ignore[no-untyped-def]
    """How often a ray passes triangles (n, 9)."""
    count = 0
    for i in range(len(corners)):
        t = corners[i]
        ux, uy, uz = t[3] - t[0], t[4] - t[1], t[5] - t[2]
        vx, vy, vz = t[6] - t[0], t[7] - t[1], t[8] - t[2]
        hx, hy, hz = dy * vz - dz * vy, dz * vx - dx * vz, dx * vy - dy * vx
        det = ux * hx + uy * hy + uz * hz
        if det == 0.0:
            continue
        sx, sy, sz = px - t[0], py - t[1], pz - t[2]
        a = (sx * hx + sy * hy + sz * hz) / det
        if a < 0 or a > 1:
            continue
        gx, gy, gz = sy * uz - sz * uy, sz * ux - sx * uz, sx * uy - sy * ux
        b = (dx * gx + dy * gy + dz * gz) / det
        if b < 0 or a + b > 1:
            continue
        if (vx * gx + vy * gy + vz * gz) / det > 0:
            count += 1
    return count


def one_sided_places(mesh: Mesh, across: NDArray[np.int32]) -> NDArray[np.int64]:
    """Facets where no way round fits: a strip with a half turn in it. Empty for every mesh that has two sides."""
    return np.flatnonzero(_walk(mesh.facets, across)[2])


def _closing_volume(mesh: Mesh, ids: NDArray[np.int64], facets: NDArray[np.int32], rims: dict[int, list]) -> tuple[float, float]:
    """Volume of a piece with its holes closed by fans, and how much of its skin is missing (0..1)."""
    p = mesh.vertices[facets[ids]]
    origin = p[0, 0]
    a, b, c = (p[:, k] - origin for k in range(3))
    volume = float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum() / 6)
    skin = float(np.linalg.norm(np.cross(b - a, c - a), axis=1).sum() / 2)
    missing = 0.0
    for start, end in rims.get(int(ids[0]), ()):
        middle = start.mean(axis=0)
        # The hole's own facets run against its rim.
        volume += float(np.einsum("ij,ij->i", end - origin, np.cross(start - origin, np.broadcast_to(middle - origin, start.shape))).sum() / 6)
        missing += float(np.linalg.norm(np.cross(end - middle, start - middle), axis=1).sum() / 2)
    return volume, missing / max(skin + missing, 1e-300)


def turned_facets(mesh: Mesh, across: NDArray[np.int32]) -> NDArray[np.bool_]:
    """Facets that face the wrong way.

    Within a piece the lesser part (by area) of those that disagree; and whole pieces that face inwards, unless they
    are the skin of a cavity. A piece that is open over more than a third of its skin has no inside to tell by.
    """
    n = len(mesh.facets)
    if n == 0:
        return np.zeros(0, np.bool_)
    piece, against, clash, pieces = _walk(mesh.facets, across)
    _, _, areas = facet_geometry(mesh.vertices, mesh.facets)
    lesser = np.bincount(piece, np.where(against, areas, -areas), pieces) > 0
    turned = against != lesser[piece]
    facets = np.where(turned[:, None], mesh.facets[:, ::-1], mesh.facets).astype(np.int32)
    order = np.argsort(piece, kind="stable")
    starts = np.searchsorted(piece[order], np.arange(pieces + 1))
    groups = [order[starts[k] : starts[k + 1]] for k in range(pieces)]
    rims: dict[int, list] = {}
    first = {int(piece[g[0]]): int(g[0]) for g in groups}
    for loop in border_loops(mesh.facets, across):
        f, k = loop // 3, loop % 3
        start, end = mesh.vertices[mesh.facets[f, k]], mesh.vertices[mesh.facets[f, (k + 1) % 3]]
        swapped = turned[f][:, None]
        start, end = np.where(swapped, end, start), np.where(swapped, start, end)
        rims.setdefault(first[int(piece[f[0]])], []).append((start, end))
    low = np.array([mesh.vertices[facets[g]].reshape(-1, 3).min(axis=0) for g in groups])
    high = np.array([mesh.vertices[facets[g]].reshape(-1, 3).max(axis=0) for g in groups])
    one_sided = np.bincount(piece, clash, pieces) > 0
    told = [_closing_volume(mesh, g, facets, rims) for g in groups]
    for k, g in enumerate(groups):
        volume, missing = told[k]
        size = float(np.prod(np.maximum(high[k] - low[k], 1e-12)))
        # A lone sheet encloses next to nothing: no side of it is the outer one.
        if one_sided[k] or missing > 0.34 or abs(volume) < 1e-3 * size:
            continue
        around = np.flatnonzero(((low <= low[k]) & (high >= high[k])).all(axis=1))
        depth = 0
        for other in around:
            if other == k or len(groups[other]) < 4 or told[other][1] > 0.34:
                continue
            corners = np.ascontiguousarray(mesh.vertices[facets[groups[other]]].reshape(-1, 9))
            p = mesh.vertices[facets[g[0]]].mean(axis=0)
            depth += _crossings(corners, p[0], p[1], p[2], 0.5773502, 0.2113249, 0.7886751) % 2
        if (volume < 0) != (depth % 2 == 1):
            turned[g] = ~turned[g]
    return turned
