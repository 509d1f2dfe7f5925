"""Worn patches: where material is gone the scan bends away softly, and what is left there passes for a surface of its own.

Such a patch lies against a larger face with no kink between them, a little below its surface everywhere, and takes up a part of it
only. It is given back to the face, marked, so that it has no say in the fit and can be proposed as wear.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from contour.fit.primitives import CONE, CYLINDER, PLANE, across_axis, gap_all
from contour.fit.segment.labels import borders
from contour.fit.segment.merging import Draft

__all__ = ["give_back_worn"]

_DEEPEST = 6.0  # spreads below the face, but for the softened rims: what lies deeper is a step that somebody made
_AT_BORDER = 3.0
_ALIKE = np.cos(np.radians(20.0))
_SAME = np.cos(np.radians(10.0))
_MOST_OF_TURN = np.radians(220.0)
# Of the patch's border, with the face: a bore's worn sector reaches its rims, and may have come apart; a dent lies inside.
_SHARE_OF_BORDER = {PLANE: 0.8, CYLINDER: 0.2, CONE: 0.2}


def give_back_worn(draft: Draft) -> NDArray[np.bool_]:
    """(n,) facets of patches that were given back to the faces they were worn off."""
    worn = np.zeros(len(draft.labels), np.bool_)
    while _round(draft, worn):  # what lies behind a patch that was given back lies against the face now
        pass
    return worn


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
            kept = None if draft.protected[i] else _belongs(draft, i, own[j], a[mine & (lb == i)])
            if kept is None:
                continue
            draft.labels[own[j]] = i
            draft.codes[j] = 0
            worn[own[j]] = not kept
            given += 1
            break
    return given


def _belongs(draft: Draft, face: int, patch: NDArray[np.int64], rim: NDArray[np.int64]) -> bool | None:
    """Whether a patch is a sound piece of a face (which wear has parted from it), or False for one worn off it; none for neither."""
    scan, code, p = draft.scan, int(draft.codes[face]), draft.values[face]
    d, g = gap_all(code, p, np.ascontiguousarray(scan.centroids[patch]))
    below = -d * p[8]  # normals point out of the material: what is gone lies behind the surface
    low, middle, deep = np.percentile(below, (10, 50, 80)) / draft.sigma
    turn = np.percentile((g * scan.smooth_normals[patch]).sum(axis=1) * p[8], 10)
    if max(abs(low), abs(middle), abs(deep)) < 1.0 and turn > _SAME:
        return True
    if middle < 0.5 or low < -0.5 or deep > _DEEPEST or turn < _ALIKE:
        return None
    at, _ = gap_all(code, p, np.ascontiguousarray(scan.centroids[rim]))
    if np.median(np.abs(at)) > _AT_BORDER * draft.sigma:
        return None
    if code == PLANE:
        return False
    u, v = np.zeros(3), np.zeros(3)
    across_axis(p[3:6], u, v)
    w = scan.centroids[patch] - p[:3]
    step = np.radians(5)
    around = np.unique(np.round(np.arctan2(w @ v, w @ u) / step)).size * step
    return False if around < _MOST_OF_TURN else None
