"""Pieces of one surface that the scan's holes have parted altogether: no rim leads from one to the other, or others lie along it.

Open sides of two pieces that look at each other over nothing were one side of one face each. Where enough of them do, and one surface
explains both pieces, the face is one again. Where the pieces end and look at each other over what was seen (a groove, say), that speaks
against it.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from contour.fit.segment.labels import FREE
from contour.fit.segment.merging import Draft, merge_meeting
from contour.geometry.surface_rows import gap_all
from contour.mesh.prepare import PreparedScan

__all__ = ["merge_across_gaps"]

Array = NDArray[np.float64]
Ids = NDArray[np.int64]
_REACH = 22.0  # facet sides over a gap
_FACING = 0.6  # cosine between where a side looks and the way to the other
_FREE = 0.8  # facet sides around the way that have to be empty
_VOTES = 3
_ABOUT = 20.0  # tolerances: extended over a gap, a fit may be off
_STEPS = 9


@dataclass(frozen=True, slots=True)
class _Sides:
    """Sides where a region with a surface ends: facet (n,), middle (n, 3), unit direction out of the region along the facet (n, 3), and
    whether the scan ends there too (n,)."""

    facet: Ids
    middle: Array
    out: Array
    open: NDArray[np.bool_]


def _sides(draft: Draft) -> _Sides:
    scan = draft.scan
    beyond = np.where(scan.across < 0, -1, draft.labels[scan.across // 3])
    mine = np.where(
        (draft.codes != FREE) & (draft.codes != 0) & (draft.protected == 0), np.arange(len(draft.codes)), -1
    )
    label = np.where(draft.labels >= 0, mine[draft.labels], -1)
    facet, side = np.nonzero((label >= 0)[:, None] & ((scan.across < 0) | (beyond != draft.labels[:, None])))
    a, b = scan.vertices[scan.facets[facet, side]], scan.vertices[scan.facets[facet, (side + 1) % 3]]
    out = np.cross(b - a, scan.smooth_normals[facet])
    out /= np.maximum(np.linalg.norm(out, axis=1), 1e-300)[:, None]
    return _Sides(facet, 0.5 * (a + b), out, scan.across[facet, side] < 0)


def _on_surface(draft: Draft, sides: _Sides, i: Ids, j: Ids) -> NDArray[np.bool_]:
    """(n,) whether sides j lie about on the surface of the regions of sides i: no for what only stands close by."""
    near = np.zeros(len(i), np.bool_)
    label = draft.labels[sides.facet[i]]
    for k in np.unique(label):
        own = np.flatnonzero(label == k)
        d, _ = gap_all(int(draft.codes[k]), draft.values[k], np.ascontiguousarray(sides.middle[j[own]]))
        near[own] = np.abs(d) < _ABOUT * draft.tolerance
    return near


def _opposite(draft: Draft, sides: _Sides) -> tuple[Ids, Ids]:
    """Places of pairs of sides of different regions of one kind that look at each other, for every side the nearest one."""
    pairs = cKDTree(sides.middle).query_pairs(_REACH * draft.scan.edge_mm, output_type="ndarray")
    i, j = pairs[:, 0], pairs[:, 1]
    li, lj = draft.labels[sides.facet[i]], draft.labels[sides.facet[j]]
    keep = (li != lj) & (draft.codes[li] == draft.codes[lj])
    i, j = i[keep], j[keep]
    way = sides.middle[j] - sides.middle[i]
    far = np.maximum(np.linalg.norm(way, axis=1), 1e-12)
    look = np.minimum((way * sides.out[i]).sum(axis=1), -(way * sides.out[j]).sum(axis=1)) / far
    facing = look > _FACING
    i, j, far = i[facing], j[facing], far[facing]
    on = _on_surface(draft, sides, i, j) & _on_surface(draft, sides, j, i)
    i, j, far = i[on], j[on], far[on]
    order = np.argsort(far, kind="stable")
    kept = order[np.unique(i[order], return_index=True)[1]]
    return i[kept], j[kept]


def _empty(scan: PreparedScan, begin: Array, end: Array) -> NDArray[np.bool_]:
    """(n,) whether nothing was scanned along the straight ways from begin to end, but for their ends. (n, 3) each."""
    far = np.linalg.norm(end - begin, axis=1)
    share = np.linspace(0, 1, _STEPS)
    inner = (share * far[:, None] > 1.5 * scan.edge_mm) & ((1 - share) * far[:, None] > 1.5 * scan.edge_mm)
    points = begin[:, None, :] + share[None, :, None] * (end - begin)[:, None, :]
    empty = np.ones(inner.shape, np.bool_)
    near, _ = cKDTree(scan.centroids).query(points[inner], distance_upper_bound=_FREE * scan.edge_mm)
    empty[inner] = ~np.isfinite(near)
    return np.asarray(empty.all(axis=1))


def _facing(draft: Draft) -> tuple[Ids, Ids]:
    """Pairs of facets, both ways round, of regions that look at each other over nothing at more places than over what was seen."""
    sides = _sides(draft)
    i, j = _opposite(draft, sides) if len(sides.facet) > 1 else (np.zeros(0, np.int64),) * 2
    if len(i) == 0:
        return i, j
    free = sides.open[i] & sides.open[j]
    free[free] = _empty(draft.scan, sides.middle[i[free]], sides.middle[j[free]])
    a, b = sides.facet[i], sides.facet[j]
    low, high = np.minimum(draft.labels[a], draft.labels[b]), np.maximum(draft.labels[a], draft.labels[b])
    _, which = np.unique(low * len(draft.codes) + high, return_inverse=True)
    votes = np.bincount(which, free)
    against = np.bincount(which, ~(sides.open[i] | sides.open[j]))
    taken = free & ((votes >= _VOTES) & (votes > against))[which]
    return np.concatenate([a[taken], b[taken]]), np.concatenate([b[taken], a[taken]])


def merge_across_gaps(draft: Draft) -> int:
    """Joins regions that look at each other over what the scanner did not see, where one surface explains both; returns how many went."""
    a, b = _facing(draft)
    return merge_meeting(draft, lambda: (a, b))
