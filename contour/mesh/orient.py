"""Which way facets face: one way round within each piece, and outwards (inwards around a cavity)."""

from __future__ import annotations

import numba as nb
import numpy as np
from numpy.typing import NDArray

from contour.mesh.facets import Mesh, border_loops
from contour.mesh.topology import facet_geometry

_MOST_SHELLS = 3000  # beyond this every shell is taken for an outer one: no part has as many cavities

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
    """Facets where no way round fits: a strip with a half turn in it. Empty for every mesh that has two sides.

    Ids (k,); across (m, 3), the facet beyond each side.
    """
    return np.flatnonzero(_walk(mesh.facets, across)[2])


def _volumes(
    mesh: Mesh,
    facets: NDArray[np.int32],
    piece: NDArray[np.int32],
    pieces: int,
    across: NDArray[np.int32],
    turned: NDArray[np.bool_],
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Volume of every piece with its holes closed by fans, and how much of its skin is missing (0..1)."""
    origin = mesh.vertices[facets[:, 0]].mean(axis=0)
    a, b, c = (mesh.vertices[facets[:, k]] - origin for k in range(3))
    volume = np.asarray(np.bincount(piece, np.einsum("ij,ij->i", a, np.cross(b, c)) / 6, pieces), np.float64)
    skin = np.bincount(piece, np.linalg.norm(np.cross(b - a, c - a), axis=1) / 2, pieces)
    missing = np.zeros(pieces)
    loops = border_loops(mesh.facets, across)
    if loops:
        half = np.concatenate(loops)
        loop = np.repeat(np.arange(len(loops)), [len(h) for h in loops])
        f, k = half // 3, half % 3
        start, end = mesh.vertices[mesh.facets[f, k]] - origin, mesh.vertices[mesh.facets[f, (k + 1) % 3]] - origin
        swapped = turned[f][:, None]
        start, end = np.where(swapped, end, start), np.where(swapped, start, end)
        size = np.bincount(loop)
        middle = np.column_stack([np.bincount(loop, start[:, d]) / size for d in range(3)])[loop]
        # The hole's own facets run against its rim.
        volume = volume + np.bincount(piece[f], np.einsum("ij,ij->i", end, np.cross(start, middle)) / 6, pieces)
        missing = missing + np.bincount(
            piece[f], np.linalg.norm(np.cross(end - middle, start - middle), axis=1) / 2, pieces
        )
    return volume, missing / np.maximum(skin + missing, 1e-300)


def turned_facets(mesh: Mesh, across: NDArray[np.int32]) -> NDArray[np.bool_]:
    """Facets that face the wrong way.

    Within a piece the lesser part (by area) of those that disagree; and whole pieces that face inwards, unless they
    are the skin of a cavity. A piece that is open over more than a third of its skin has no inside to tell by.
    (m,); across (m, 3), the facet beyond each side.
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
    volume, missing = _volumes(mesh, facets, piece, pieces, across, turned)
    p = mesh.vertices[facets].reshape(-1, 9)[order]
    first = starts[:-1]
    low = np.minimum.reduceat(np.minimum(np.minimum(p[:, :3], p[:, 3:6]), p[:, 6:]), first)
    high = np.maximum.reduceat(np.maximum(np.maximum(p[:, :3], p[:, 3:6]), p[:, 6:]), first)
    one_sided = np.bincount(piece, clash, pieces) > 0
    # A lone sheet encloses next to nothing: no side of it is the outer one.
    room = np.prod(np.maximum(high - low, 1e-12), axis=1)
    told = np.flatnonzero(~one_sided & (missing <= 0.34) & (np.abs(volume) >= 1e-3 * room))
    inwards = np.zeros(pieces, np.bool_)
    for k in told:
        depth = 0
        if len(told) <= _MOST_SHELLS:
            around = told[((low[told] <= low[k]) & (high[told] >= high[k])).all(axis=1)]
            q = mesh.vertices[facets[order[starts[k]]]].mean(axis=0)
            for other in around[around != k]:
                corners = np.ascontiguousarray(p[starts[other] : starts[other + 1]])
                depth += _crossings(corners, q[0], q[1], q[2], 0.5773502, 0.2113249, 0.7886751) % 2
        inwards[k] = (volume[k] < 0) != (depth % 2 == 1)
    turned ^= inwards[piece]
    return turned
