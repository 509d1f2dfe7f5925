"""What a first segmentation leaves over: rests become freeform regions, scraps and strips along edges are given away."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from contour.fit.segment.labels import FREE, borders, depth_of, flood, pieces, relabel
from contour.fit.segment.merging import Draft
from contour.geometry.surface_rows import gap_all

__all__ = [
    "absorb_into_freeform",
    "contest",
    "drop_poor",
    "drop_scraps",
    "drop_strips",
    "evict",
    "free_rests",
    "keep_largest_pieces",
    "open_freeform",
]

_NORMAL_SIGMA = np.radians(4.0)


def contest(draft: Draft, misfit: NDArray[np.float64]) -> None:
    """Facets without a label get one, then borders are settled by cost. misfit (facets,), cost of having no label."""
    scan = draft.scan
    fixed = np.zeros(len(draft.labels), np.bool_)
    owned = draft.labels >= 0
    fixed[owned] = draft.protected[draft.labels[owned]] != 0
    flood(draft.labels, scan.across, draft.codes)
    relabel(
        draft.labels,
        scan.across,
        scan.centroids,
        scan.smooth_normals,
        draft.codes,
        draft.values,
        misfit,
        fixed,
        draft.sigmas,
        _NORMAL_SIGMA,
        1.0,
        12.0,
        60,
    )


def evict(draft: Draft, *, far: float = 0.0, turned_deg: float = 20.0) -> int:
    """Takes away facets that were given to a surface they do not lie on, for want of a better one; how many.

    far: mm off the surface that is still let pass (never less than 1.5 tolerances) · turned_deg: the same for normals.
    """
    scan = draft.scan
    gone = 0
    for k, facets in enumerate(draft.facets_by_label()):
        if draft.codes[k] in (0, FREE) or draft.protected[k]:
            continue
        d, g = gap_all(int(draft.codes[k]), draft.values[k], np.ascontiguousarray(scan.centroids[facets]))
        turn = (g * scan.smooth_normals[facets]).sum(axis=1) * draft.values[k, 8]
        off = (np.abs(d) > max(1.5 * draft.tolerance, far)) | (turn < np.cos(np.radians(turned_deg)))
        draft.labels[facets[off]] = -1
        gone += int(off.sum())
    return gone


def drop_poor(draft: Draft) -> int:
    """Narrow regions that stray from their own surface far more than the scan's noise are rounded edges, not surfaces."""
    depth = depth_of(draft.labels, draft.scan.across, 8)
    dropped = 0
    for k, facets in enumerate(draft.facets_by_label()):
        code = int(draft.codes[k])
        if code in (0, FREE) or draft.protected[k] or len(facets) == 0 or np.percentile(depth[facets], 90) > 3:
            continue
        if draft.follows[k] >= 0:  # was held against what it follows
            continue
        d, _ = gap_all(code, draft.values[k], np.ascontiguousarray(draft.scan.centroids[facets]))
        # The middle of what is left: a true narrow face has rounded edges too, which only its rim strays along.
        if 1.4826 * float(np.median(np.abs(d))) > 0.7 * draft.sigma:
            draft.labels[facets] = -1
            draft.codes[k] = 0
            dropped += 1
    return dropped


def _core_pieces(draft: Draft, mask: NDArray[np.bool_], rings: int, least_area: float) -> list[NDArray[np.int64]]:
    """Pieces of a mask that are still there `rings` inside its border, each grown back by as many rings within the mask."""
    scan = draft.scan
    depth = depth_of(np.where(mask, 1, 0).astype(np.int64), scan.across, rings + 1)
    core = mask & (depth >= rings)
    number, count = pieces(np.where(core, 1, 0).astype(np.int64), scan.across)
    area = np.bincount(number[core], scan.areas[core], count)
    out = []
    beyond = np.where(scan.across < 0, -1, scan.across // 3)
    for piece in np.flatnonzero(area >= least_area):
        mine = core & (number == piece)
        ring = np.flatnonzero(mine)
        for _ in range(rings):
            near = np.unique(beyond[ring])
            ring = near[(near >= 0)]
            ring = ring[mask[ring] & ~mine[ring]]
            mine[ring] = True
        out.append(np.flatnonzero(mine))
    return out


def free_rests(draft: Draft, least_area: float, rings: int = 4) -> None:
    """What no surface explains and is more than a strip becomes a freeform region.

    least_area mm²; rings: how many facets a strip is wide.
    """
    for facets in _core_pieces(draft, draft.labels < 0, rings, least_area):
        draft.labels[facets] = draft.new_label(FREE)


def open_freeform(draft: Draft, least_area: float, rings: int = 4) -> None:
    """Freeform regions leak along softened edges: what of them is narrow goes back, what is left may be several.

    least_area mm²; rings: how many facets a neck is wide.
    """
    for k in np.flatnonzero(draft.codes == FREE):
        if draft.protected[k]:
            continue
        mask = draft.labels == k
        draft.labels[mask] = -1
        kept = _core_pieces(draft, mask, rings, least_area)
        draft.codes[k] = FREE if kept else 0
        for n, facets in enumerate(kept):
            draft.labels[facets] = k if n == 0 else draft.new_label(FREE)


def keep_largest_pieces(draft: Draft, least_area: float) -> None:
    """A label is one connected region: its lesser pieces become regions of their own, or nobody's when they are scraps.

    least_area mm².
    """
    number, count = pieces(draft.labels, draft.scan.across)
    area = np.bincount(number, draft.scan.areas, count)
    first = np.zeros(count, np.int64)
    first[number[::-1]] = draft.labels[::-1]
    largest: dict[int, int] = {}
    for piece in np.argsort(-area):
        largest.setdefault(int(first[piece]), int(piece))
    for piece in np.flatnonzero(first >= 0):
        label = int(first[piece])
        if largest[label] == piece or draft.protected[label]:
            continue
        facets = number == piece
        if area[piece] < least_area or draft.codes[label] == FREE:
            draft.labels[facets] = -1
        else:
            new = draft.new_label(int(draft.codes[label]))
            draft.values[new], draft.rms[new] = draft.values[label], draft.rms[label]
            draft.labels[facets] = new


def drop_scraps(draft: Draft, least_area: float) -> None:
    """Regions smaller than `least_area` (mm²) are nobody's."""
    for k, facets in enumerate(draft.facets_by_label()):
        if not draft.protected[k] and float(draft.scan.areas[facets].sum()) < least_area:
            draft.labels[facets] = -1
            draft.codes[k] = 0


def _width(draft: Draft, facets: NDArray[np.int64]) -> float:
    """How wide a long flat region is, mm: its area over its length."""
    at = draft.scan.centroids[facets]
    d = at - at.mean(axis=0)
    along = np.linalg.svd(d, full_matrices=False)[2][0] if len(facets) < 20_000 else np.zeros(3)
    return float(draft.scan.areas[facets].sum() / max(float(np.ptp(d @ along)), 1e-9))


def drop_strips(draft: Draft) -> int:
    """Narrow regions that only a softened edge explains are given to the surfaces beside them."""
    edge = draft.scan.edge_mm
    depth = depth_of(draft.labels, draft.scan.across, 8)
    dropped = 0
    for k, facets in enumerate(draft.facets_by_label()):
        code = int(draft.codes[k])
        if code == 0 or draft.protected[k] or draft.follows[k] >= 0 or len(facets) == 0:
            continue
        if np.percentile(depth[facets], 90) > 2:
            continue
        if code == 1:
            if _width(draft, facets) < 1.4 * edge:
                draft.labels[facets] = -1
                draft.codes[k] = 0
                dropped += 1
            continue
        radius = draft.values[k, 7] if code == 5 else draft.values[k, 6]
        if code in (3, FREE) or radius > 25 * edge or radius < 1.9 * edge:
            draft.labels[facets] = -1
            draft.codes[k] = 0
            dropped += 1
    return dropped


def absorb_into_freeform(draft: Draft, curvature: NDArray[np.float64]) -> int:
    """Curved patches that lie softly against a freeform region (no kink, the same bend) are part of it.

    curvature (facets,), 1/mm; answers how many were taken in.
    """
    scan = draft.scan
    joined = 0
    while True:
        a, b = borders(draft.labels, scan.across)
        la, lb = draft.labels[a], draft.labels[b]
        depth = depth_of(draft.labels, scan.across, 6)
        changed = False
        for i in np.unique(la[la >= 0]):
            if draft.codes[i] in (1, FREE) or draft.protected[i]:
                continue
            mine = la == i
            free = mine & (lb >= 0) & (draft.codes[np.maximum(lb, 0)] == FREE)
            if free.sum() < 0.25 * mine.sum():
                continue
            turn = (scan.smooth_normals[a[free]] * scan.smooth_normals[b[free]]).sum(axis=1)
            kink = np.degrees(np.median(np.arccos(np.clip(turn, -1, 1))))
            other = int(np.bincount(lb[free]).argmax())
            theirs = np.flatnonzero((draft.labels == other) & (depth >= 3))
            own = np.flatnonzero(draft.labels == i)
            if len(theirs) < 10 or kink > 3.0:
                continue
            bend = np.abs(np.median(curvature[own, :2], axis=0) - np.median(curvature[theirs, :2], axis=0)).max()
            if bend < 0.06:
                draft.labels[own] = other
                draft.codes[i] = 0
                joined += 1
                changed = True
                break
        if not changed:
            return joined
