"""Where regions look at each other from their borders: over nothing, because the scan ends there, or over what was seen between them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from contour.fit.segment.labels import FREE
from contour.geometry.surface_rows import gap_all
from contour.mesh.prepare import PreparedScan

if TYPE_CHECKING:
    from contour.fit.segment.merging import Draft

__all__ = ["Across", "across_borders"]

Array = NDArray[np.float64]
Ids = NDArray[np.int64]
_REACH = 22.0  # facet sides over a gap
_RAGGED = 2.5  # facet sides
_FACING = 0.6  # cosine between where a side looks and the way to the other
_FREE = 0.8  # facet sides around the way that have to be empty
_FEWEST = 3  # open sides of a region that is asked
_ABOUT = 20.0  # tolerances: extended over a gap, a fit may be off
_STEPS = 9


@dataclass(frozen=True, slots=True)
class _Sides:
    """Sides where a region that a hole of the scan touches ends: facet (n,), middle (n, 3), unit direction out of the region along the surface (n, 3), and
    whether the scan ends there too (n,)."""

    facet: Ids
    middle: Array
    out: Array
    open: NDArray[np.bool_]


def _sides(draft: Draft) -> _Sides:
    scan = draft.scan
    beyond = np.where(scan.across < 0, -1, draft.labels[scan.across // 3])
    ends = np.bincount(draft.labels[(scan.across < 0).any(axis=1) & (draft.labels >= 0)], minlength=len(draft.codes))
    asked = (draft.codes != FREE) & (draft.codes != 0) & (draft.protected == 0) & (ends >= _FEWEST)
    mine = np.where(asked, np.arange(len(draft.codes)), -1)
    label = np.where(draft.labels >= 0, mine[draft.labels], -1)
    facet, side = np.nonzero((label >= 0)[:, None] & ((scan.across < 0) | (beyond != draft.labels[:, None])))
    a, b = scan.vertices[scan.facets[facet, side]], scan.vertices[scan.facets[facet, (side + 1) % 3]]
    middle, out = 0.5 * (a + b), np.cross(b - a, scan.smooth_normals[facet])
    # Borders are ragged: where a side looks is said by those around it as well.
    if len(facet):
        i, j = cKDTree(middle).query_pairs(_RAGGED * scan.edge_mm, output_type="ndarray").T
        same = draft.labels[facet[i]] == draft.labels[facet[j]]
        i, j = np.concatenate([i[same], j[same]]), np.concatenate([j[same], i[same]])
        out = out + np.column_stack([np.bincount(i, out[j, k], len(facet)) for k in range(3)])
    out /= np.maximum(np.linalg.norm(out, axis=1), 1e-300)[:, None]
    return _Sides(facet, middle, out, scan.across[facet, side] < 0)


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
    """Places of pairs of sides of different regions that look at each other, for every side the nearest one of each region."""
    pairs = cKDTree(sides.middle).query_pairs(_REACH * draft.scan.edge_mm, output_type="ndarray")
    i, j = pairs[:, 0], pairs[:, 1]
    keep = draft.labels[sides.facet[i]] != draft.labels[sides.facet[j]]
    i, j = i[keep], j[keep]
    way = sides.middle[j] - sides.middle[i]
    far = np.maximum(np.linalg.norm(way, axis=1), 1e-12)
    look = np.minimum((way * sides.out[i]).sum(axis=1), -(way * sides.out[j]).sum(axis=1)) / far
    facing = look > _FACING
    i, j, far = i[facing], j[facing], far[facing]
    # Either is enough: a small piece says little of its own surface.
    on = _on_surface(draft, sides, i, j) | _on_surface(draft, sides, j, i)
    i, j, far = i[on], j[on], far[on]
    order = np.argsort(far, kind="stable")
    across = i * len(draft.codes) + draft.labels[sides.facet[j]]
    kept = order[np.unique(across[order], return_index=True)[1]]
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


@dataclass(frozen=True, slots=True)
class Across:
    """Pairs of facets (n,) at borders that look at each other; pair (n,): which two regions, by a number; per such number, how many look over
    nothing and how many over what was seen; free (n,): which look over nothing."""

    a: Ids
    b: Ids
    pair: Ids
    free: NDArray[np.bool_]
    over_nothing: Ids
    over_seen: Ids


def across_borders(draft: Draft) -> Across:
    """Every two regions whose borders look at each other while either lies about on the surface of the other; pairs of facets (n,), up to
    22 facet sides (mm) apart."""
    sides = _sides(draft)
    i, j = _opposite(draft, sides) if len(sides.facet) > 1 else (np.zeros(0, np.int64),) * 2
    free = sides.open[i] & sides.open[j]
    if free.any():
        free[free] = _empty(draft.scan, sides.middle[i[free]], sides.middle[j[free]])
    a, b = sides.facet[i], sides.facet[j]
    low, high = np.minimum(draft.labels[a], draft.labels[b]), np.maximum(draft.labels[a], draft.labels[b])
    _, pair = np.unique(low * len(draft.codes) + high, return_inverse=True)
    seen = ~(sides.open[i] | sides.open[j])
    return Across(a, b, pair, free, np.bincount(pair, free).astype(np.int64), np.bincount(pair, seen).astype(np.int64))
