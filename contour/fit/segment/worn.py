"""Worn patches: where material is gone the scan bends away softly, and what is left there passes for a surface of its own.

Such a patch lies against a larger face with no kink between them, a little below its surface everywhere, and takes up a part of it
only. It is given back to the face, marked, so that it has no say in the fit and can be proposed as wear.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from contour.fit.segment.labels import borders
from contour.fit.segment.merging import Draft
from contour.fit.wear import WornZone, worn_zone
from contour.geometry.surface_rows import CONE, CYLINDER, PLANE, across_axis, gap_all
from contour.geometry.surfaces import Surface, distances

__all__ = ["give_back_worn"]

_DEEPEST = 6.0  # spreads below the face, but for the softened rims: what lies deeper is a step that somebody made
_DEEPEST_OF_RADIUS = 0.1  # a bore that a rope has eaten: what runs into it softly is deeper in a larger one
_AT_BORDER = 3.0
_ALIKE = np.cos(np.radians(20.0))
_SAME = np.cos(np.radians(10.0))
_MOST_WORN = 0.6
_MOST_OF_TURN = np.radians(220.0)
# Of the patch's border, with the face: a bore's worn sector reaches its rims, and may have come apart; a dent lies inside.
_SHARE_OF_BORDER = {PLANE: 0.8, CYLINDER: 0.2, CONE: 0.2}


def give_back_worn(draft: Draft) -> NDArray[np.bool_]:
    """(n,) facets of patches that were given back to the faces they were worn off."""
    worn = np.zeros(len(draft.labels), np.bool_)
    while _round(draft, worn):  # what lies behind a patch that was given back lies against the face now
        pass
    _around_bores(draft, worn)
    return worn


def _around_bores(draft: Draft, worn: NDArray[np.bool_]) -> None:
    """Wear over so much of a bore that its own fit has given way: all that lies softly against it is asked as one."""
    own = draft.facets_by_label()
    a, b = borders(draft.labels, draft.scan.across)
    la, lb = draft.labels[a], draft.labels[b]
    for i in sorted(np.flatnonzero((draft.codes == CYLINDER) & (draft.protected == 0)), key=lambda k: -len(own[k])):
        if draft.codes[i] == 0:
            continue  # was itself a patch of a larger one
        patches = []
        for j in np.unique(la[lb == i]):
            if j < 0 or draft.codes[j] in (0, PLANE) or draft.protected[j] or len(own[i]) < len(own[j]):
                continue
            meeting = (la == j) & (lb == i)
            share = meeting.sum() / max(int((la == j).sum()), 1)
            if share >= _SHARE_OF_BORDER[CYLINDER] and _lies_softly(draft, int(i), own[j], a[meeting]):
                patches.append(int(j))
        zone = _worn_together(draft, int(i), [own[i], *(own[j] for j in patches)]) if patches else None
        if zone is None:
            continue
        for j in patches:
            draft.labels[own[j]] = i
            draft.codes[j] = 0
        worn[zone] = True


def _round(draft: Draft, worn: NDArray[np.bool_]) -> int:
    own = draft.facets_by_label()
    a, b = borders(draft.labels, draft.scan.across)
    la, lb = draft.labels[a], draft.labels[b]
    given = 0
    for j in sorted(np.unique(la[la >= 0]), key=lambda k: len(own[k])):
        if draft.codes[j] in (0, PLANE) or draft.protected[j] or worn[own[j]].any():
            continue  # what is flat in a round face was made so
        mine = la == j
        others, count = np.unique(lb[mine & (lb >= 0)], return_counts=True)
        for i in others[np.argsort(-count)]:
            code = int(draft.codes[i])
            share = count[others == i].sum() / max(int(mine.sum()), 1)
            if code not in _SHARE_OF_BORDER or len(own[i]) < 1.5 * len(own[j]) or share < _SHARE_OF_BORDER[code]:
                continue
            gone = None if draft.protected[i] else _belongs(draft, i, own[j], a[mine & (lb == i)])
            if gone is None:
                continue
            draft.labels[own[j]] = i
            draft.codes[j] = 0
            worn[gone] = True
            given += 1
            break
    return given


def _belongs(draft: Draft, face: int, patch: NDArray[np.int64], rim: NDArray[np.int64]) -> NDArray[np.int64] | None:
    """The worn facets of a patch: all of it where it is worn off the face, nothing where it is a sound piece that wear has parted
    from it; none where it does not belong to it."""
    scan, code, p = draft.scan, int(draft.codes[face]), draft.values[face]
    d, g = gap_all(code, p, np.ascontiguousarray(scan.centroids[patch]))
    below = -d * p[8]  # normals point out of the material: what is gone lies behind the surface
    low, middle, deep = np.percentile(below, (10, 50, 80)) / draft.sigma
    turn = np.percentile((g * scan.smooth_normals[patch]).sum(axis=1) * p[8], 10)
    if max(abs(low), abs(middle), abs(deep)) < 1.0 and turn > _SAME:
        return patch[:0]
    if middle < 0.5 or low < -0.5 or deep > _DEEPEST or turn < _ALIKE:
        return None
    at, _ = gap_all(code, p, np.ascontiguousarray(scan.centroids[rim]))
    if np.median(np.abs(at)) > _AT_BORDER * draft.sigma:
        return None
    if code == PLANE:
        return patch
    u, v = np.zeros(3), np.zeros(3)
    across_axis(p[3:6], u, v)
    w = scan.centroids[patch] - p[:3]
    step = np.radians(5)
    around = np.unique(np.round(np.arctan2(w @ v, w @ u) / step)).size * step
    return patch if around < _MOST_OF_TURN else None


def _lies_softly(draft: Draft, face: int, patch: NDArray[np.int64], rim: NDArray[np.int64]) -> bool:
    scan, code, p = draft.scan, int(draft.codes[face]), draft.values[face]
    d, g = gap_all(code, p, np.ascontiguousarray(scan.centroids[patch]))
    turn = np.percentile((g * scan.smooth_normals[patch]).sum(axis=1) * p[8], 10)
    at, _ = gap_all(code, p, np.ascontiguousarray(scan.centroids[rim]))
    below = -d * p[8]
    deepest = max(_DEEPEST * draft.sigma, _DEEPEST_OF_RADIUS * p[6])
    near = np.percentile(below, 80) < deepest and np.percentile(below, 20) > -_DEEPEST * draft.sigma
    return bool(near and np.median(np.abs(at)) < _AT_BORDER * draft.sigma and turn > _ALIKE)


def _worn_together(draft: Draft, face: int, parts: list[NDArray[np.int64]]) -> NDArray[np.int64] | None:
    """The worn zone of a bore and what lies against it; none unless without it one bore explains all of them."""
    scan = draft.scan
    zone = worn_zone(scan, np.concatenate(parts), Surface.unpacked(int(draft.codes[face]), draft.values[face]))
    if zone is None or zone.share > _MOST_WORN:
        return None
    facets = _with_rims(draft, zone, np.concatenate(parts))
    for part in parts:
        sound = np.setdiff1d(part, facets)
        if len(sound) > 0.1 * len(part):
            off = np.abs(distances(zone.surface, np.ascontiguousarray(scan.centroids[sound])))
            if np.median(off) > 1.5 * draft.sigma:  # the rest are softened rims
                return None
    draft.values[face] = zone.surface.packed()
    return facets


def _with_rims(draft: Draft, zone: WornZone, facets: NDArray[np.int64]) -> NDArray[np.int64]:
    """The zone's facets, and those beside it that are as clearly gone: a zone is told from inner facets, but reaches the rims.

    facets: ids (n,) of all that may belong."""
    gone = np.zeros(len(draft.labels), np.bool_)
    d = distances(zone.surface, np.ascontiguousarray(draft.scan.centroids[facets]))
    gone[facets[d < -_AT_BORDER * draft.sigma]] = True
    worn = np.zeros_like(gone)
    worn[zone.facets] = True
    a, b = borders(np.arange(len(gone)), draft.scan.across)
    while True:
        wider = a[worn[b] & gone[a] & ~worn[a]]
        if not len(wider):
            return np.flatnonzero(worn)
        worn[wider] = True
