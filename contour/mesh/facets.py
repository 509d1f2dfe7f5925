"""A mesh to be worked on: vertices, facets and where each facet came from. Every operation returns a new one."""

from __future__ import annotations

from dataclasses import dataclass

import numba as nb
import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

from contour.mesh.topology import neighbours

__all__ = ["Mesh", "border_loops", "compacted", "joined_at", "mesh_of_soup", "near_facets", "pieces_of", "side_lengths"]

Array = NDArray[np.float64]
Ids = NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class Mesh:
    """vertices (m, 3) f64 mm · facets (n, 3) i32 · source (n,) i64: number of the raw facet each comes from, -1 for new."""

    vertices: Array
    facets: NDArray[np.int32]
    source: Ids

    def across(self) -> NDArray[np.int32]:
        """See :func:`contour.mesh.topology.neighbours`."""
        return neighbours(self.facets, len(self.vertices))[0]

    def without(self, gone: NDArray[np.bool_]) -> Mesh:
        """Facets dropped; vertices stay."""
        return Mesh(self.vertices, self.facets[~gone], self.source[~gone])


def mesh_of_soup(corners: Array, source: Ids) -> Mesh:
    """Bit-equal corners (n, 3, 3) welded."""
    from contour.mesh.topology import weld

    vertices, facets = weld(corners)
    return Mesh(vertices, facets, source)


def compacted(mesh: Mesh) -> Mesh:
    """Without vertices that no facet uses."""
    used = np.zeros(len(mesh.vertices), np.bool_)
    used[mesh.facets.ravel()] = True
    rank = (np.cumsum(used) - 1).astype(np.int32)
    return Mesh(mesh.vertices[used], rank[mesh.facets], mesh.source)


def pieces_of(facets: NDArray[np.int32], across: NDArray[np.int32]) -> tuple[int, NDArray[np.int32]]:
    """Number of pieces that hang together over two-facet edges, and the piece of each facet.

    facets, across (m, 3); pieces (m,).
    """
    f, k = np.nonzero(across >= 0)
    links = coo_matrix((np.ones(len(f), np.int8), (f, across[f, k] // 3)), shape=(len(facets),) * 2)
    count, label = connected_components(links, directed=False)
    return int(count), label.astype(np.int32)


def joined_at(facets: NDArray[np.int32], marked: Ids, vertex_count: int) -> NDArray[np.int32]:
    """Cluster of each marked facet: those that share a vertex are together.

    facets (m, 3); marked ids (k,); clusters (k,), from 0.
    """
    n = len(marked)
    rows = np.repeat(np.arange(n), 3)
    columns = facets[marked].ravel() + n
    links = coo_matrix((np.ones(3 * n, np.int8), (rows, columns)), shape=(n + vertex_count,) * 2)
    _, label = connected_components(links, directed=False)
    _, cluster = np.unique(label[:n], return_inverse=True)
    return cluster.astype(np.int32)


def near_facets(
    facets: NDArray[np.int32], marked: NDArray[np.bool_], rings: int, vertex_count: int
) -> NDArray[np.bool_]:
    """Marked facets and those within so many rings of them. facets (m, 3); marked and answer (m,)."""
    out = marked.copy()
    for _ in range(rings):
        touched = np.zeros(vertex_count, np.bool_)
        touched[facets[out].ravel()] = True
        out = np.asarray(touched[facets].any(axis=1))
    return out


def side_lengths(mesh: Mesh) -> Array:
    """(n, 3): side k runs from corner k to corner k + 1."""
    return _sides(mesh.vertices, mesh.facets)


@nb.njit(cache=True, nogil=True)
def _sides(vertices, facets):  # type: ignore[no-untyped-def]
    out = np.empty((len(facets), 3))
    for f in range(len(facets)):
        for k in range(3):
            a, b = facets[f, k], facets[f, (k + 1) % 3]
            square = 0.0
            for d in range(3):
                square += (vertices[a, d] - vertices[b, d]) ** 2
            out[f, k] = np.sqrt(square)
    return out


@nb.njit(cache=True, nogil=True)
def _loops(facets, across, start, around):  # type: ignore[no-untyped-def]
    """Open half-edges chained into loops by turning about each vertex inside the mesh; ends[k] closes loop k."""
    n = len(facets)
    seen = np.zeros((n, 3), np.bool_)
    halves = np.empty(start, np.int64)
    ends = np.empty(start, np.int64)
    filled, loops = 0, 0
    for f0 in range(n):
        for k0 in range(3):
            if across[f0, k0] != -1 or seen[f0, k0]:
                continue
            f, k = f0, k0
            while not seen[f, k]:
                seen[f, k] = True
                halves[filled] = 3 * f + k
                filled += 1
                # The border's next edge leaves from this edge's end: turn about it through the facets there.
                g, j = f, (k + 1) % 3
                turns = 0
                while across[g, j] >= 0 and turns < around:
                    h = across[g, j]
                    g, j = h // 3, (h % 3 + 1) % 3
                    turns += 1
                if across[g, j] != -1:
                    break  # a junction of more than two facets: the loop stays open here
                f, k = g, j
            ends[loops] = filled
            loops += 1
    return halves[:filled], ends[:loops]


def border_loops(facets: NDArray[np.int32], across: NDArray[np.int32]) -> list[Ids]:
    """Half-edges (3 * facet + side) of every border, in order along it; the hole lies on their right.

    At a vertex where two borders touch each keeps to its own fan of facets, so that loops never cross themselves
    topologically; at junctions of more than two facets a loop ends. facets, across (m, 3); each loop (k,).
    """
    count = int((across == -1).sum())
    if count == 0:
        return []
    halves, ends = _loops(facets, across, count, len(facets))
    return [part.astype(np.int64) for part in np.split(halves, ends[:-1])]
