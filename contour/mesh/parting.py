"""A piece of mesh cut in two along its own edges, by the shortest way across."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_matrix, csr_matrix
from scipy.sparse.csgraph import connected_components, dijkstra

from contour.mesh.facets import border_loops, pieces_of
from contour.mesh.topology import neighbours

__all__ = ["parted"]

Array = NDArray[np.float64]
Ints = NDArray[np.int64]
Flags = NDArray[np.bool_]

_OPPOSITE = 0.3, 0.7  # of the way around a ring from its first cut, or along a piece: where a cut may begin and end


def parted(vertices: Array, facets: Ints, *, least_way: int = 3) -> NDArray[np.bool_] | None:
    """(n,): the facets of one part of a piece (n, 3), of vertices (m, 3) that are all used; a ring is cut across in two places, any other piece
    across the middle of its length, and what does not hang together where it does not. least_way: vertices of a cut; one of two is a chord, and
    the surface is bent. None where no way leads across, or the parts are more than two."""
    narrow = facets.astype(np.int32)
    across, _ = neighbours(narrow, len(vertices))
    pieces, piece = pieces_of(narrow, across)
    if pieces > 1:
        return np.asarray(piece == 0)
    halves = border_loops(narrow, across)
    loops = sorted((facets[h // 3, h % 3] for h in halves), key=lambda loop: -_passed(vertices, loop)[-1])
    if not loops:
        return None
    ways = _Ways.of(vertices, facets, across, least_way)
    cuts = _across_ring(vertices, loops, ways) if len(loops) > 1 else _across_middle(loops[0], ways)
    return None if cuts is None else _sides(facets, across, cuts)


def _passed(vertices: Array, loop: Ints) -> Array:
    """(k + 1,) mm passed along a loop (k,) at each of its vertices, and at its end."""
    way = vertices[np.append(loop, loop[0])]
    return np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(way, axis=0), axis=1))])


class _Ways:
    """Ways over the edges inside of a piece."""

    def __init__(
        self, tails: Ints, heads: Ints, lengths: Array, inside: Flags, every: csr_matrix, least_way: int
    ) -> None:
        self._tails, self._heads, self._lengths, self._inside, self._every = tails, heads, lengths, inside, every
        self._least_way = least_way

    @staticmethod
    def of(vertices: Array, facets: Ints, across: NDArray[np.int32], least_way: int) -> _Ways:
        """inside (m,): vertices that are on no border · least_way: vertices of a way that is told."""
        a, b = facets.ravel(), np.roll(facets, -1, axis=1).ravel()
        length = np.linalg.norm(vertices[a] - vertices[b], axis=1)
        open_ = across.ravel() < 0
        inside = np.ones(len(vertices), bool)
        inside[a[open_]] = inside[b[open_]] = False
        every = coo_matrix((length, (a, b)), shape=(len(vertices),) * 2).tocsr()
        kept = ~open_
        return _Ways(a[kept], b[kept], length[kept], inside, every.maximum(every.T).tocsr(), least_way)

    def away(self, start: int) -> Array:
        """(m,) mm of the shortest ways over all edges from a vertex to every other."""
        return np.asarray(dijkstra(self._every, directed=False, indices=start))

    def shortest(self, sources: Ints, targets: Ints, *, beside: Ints | None = None) -> Ints | None:
        """Vertices of the shortest way from one of the sources to one of the targets that meets no border between them, nor vertices `beside`."""
        free = self._inside.copy()
        if beside is not None:
            free[beside] = False
        begins, ends = free.copy(), free.copy()
        begins[sources] = ends[targets] = True
        kept = begins[self._tails] & ends[self._heads]
        shape = self._every.shape
        graph = coo_matrix((self._lengths[kept], (self._tails[kept], self._heads[kept])), shape=shape).tocsr()
        far, before, _ = dijkstra(graph, indices=sources, min_only=True, return_predecessors=True)
        last = int(targets[np.argmin(far[targets])])
        if not np.isfinite(far[last]):
            return None
        way = [last]
        while (previous := int(before[way[-1]])) >= 0:
            way.append(previous)
        return np.array(way[::-1], np.int64) if len(way) >= self._least_way else None


def _opposite(vertices: Array, loop: Ints, start: int) -> Ints:
    """The vertices of a loop about on the other side of one of them."""
    loop = np.roll(loop, -int(np.flatnonzero(loop == start)[0]))
    passed = _passed(vertices, loop)
    share = passed[:-1] / passed[-1]
    return loop[(share > _OPPOSITE[0]) & (share < _OPPOSITE[1])]


def _across_ring(vertices: Array, loops: list[Ints], ways: _Ways) -> list[Ints] | None:
    outer, inner = loops[:2]
    first = ways.shortest(outer, inner)
    if first is None:
        return None
    begins, ends = _opposite(vertices, outer, int(first[0])), _opposite(vertices, inner, int(first[-1]))
    second = ways.shortest(begins, ends, beside=first) if len(begins) and len(ends) else None
    return None if second is None else [first, second]


def _across_middle(loop: Ints, ways: _Ways) -> list[Ints] | None:
    """Between the two sides of a loop that lie on either hand of its longest extent."""
    one = int(loop[np.argmax(ways.away(int(loop[0]))[loop])])
    away = ways.away(one)[loop]
    loop, away = np.roll(loop, -int(np.argmin(away))), np.roll(away, -int(np.argmin(away)))
    other = int(np.argmax(away))
    share = away / away[other]
    middle = (share > _OPPOSITE[0]) & (share < _OPPOSITE[1])
    sides = loop[:other][middle[:other]], loop[other:][middle[other:]]
    way = ways.shortest(*sides) if len(sides[0]) and len(sides[1]) else None
    return None if way is None else [way]


def _sides(facets: Ints, across: NDArray[np.int32], cuts: list[Ints]) -> NDArray[np.bool_] | None:
    """The facets on one side of cuts; none where they do not cut the piece in two."""
    ends = np.vstack([np.column_stack([way[:-1], way[1:]]) for way in cuts])
    sides = np.stack([facets, np.roll(facets, -1, axis=1)], axis=-1)
    size = int(facets.max()) + 1
    cut, own = (np.sort(e, axis=-1) @ np.array([size, 1]) for e in (ends, sides))
    whole = np.isin(own, cut, invert=True)
    f, k = np.nonzero((across >= 0) & whole)
    links = coo_matrix((np.ones(len(f), np.int8), (f, across[f, k] // 3)), shape=(len(facets),) * 2)
    count, part = connected_components(links, directed=False)
    return np.asarray(part == 0) if count == 2 else None
