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
_AT_BORDER = 2.0
_ALIKE = np.cos(np.radians(15.0))
_MOST_OF_TURN = np.radians(220.0)
_SHARE_OF_BORDER = {PLANE: 0.8, CYLINDER: 0.4, CONE: 0.4}  # a bore's worn sector reaches its rims, a dent lies inside


def give_back_worn(draft: Draft) -> NDArray[np.bool_]:
    """(n,) facets of patches that were given back to the faces they were worn off."""
    worn = np.zeros(len(draft.labels), np.bool_)
    own = draft.facets_by_label()
    a, b = borders(draft.labels, draft.scan.across)
    la, lb = draft.labels[a], draft.labels[b]
    for j in sorted(np.unique(la[la >= 0]), key=lambda k: len(own[k])):
        if draft.codes[j] in (0, PLANE) or draft.protected[j]:
            continue  # what is flat in a round face was made so
        mine = la == j
        others, count = np.unique(lb[mine & (lb >= 0)], return_counts=True)
        for i in others[np.argsort(-count)]:
            code = int(draft.codes[i])
            share = count[others == i].sum() / max(int(mine.sum()), 1)
            if code not in _SHARE_OF_BORDER or len(own[i]) < 1.5 * len(own[j]) or share < _SHARE_OF_BORDER[code]:
                continue
            if draft.protected[i] or not _worn_off(draft, i, own[j], a[mine & (lb == i)]):
                continue
            draft.labels[own[j]] = i
            draft.codes[j] = 0
            worn[own[j]] = True
            break
    return worn


def _worn_off(draft: Draft, face: int, patch: NDArray[np.int64], rim: NDArray[np.int64]) -> bool:
    scan, code, p = draft.scan, int(draft.codes[face]), draft.values[face]
    d, g = gap_all(code, p, np.ascontiguousarray(scan.centroids[patch]))
    below = -d * p[8]  # normals point out of the material: what is gone lies behind the surface
    low, middle, deep = np.percentile(below, (10, 50, 80)) / draft.sigma
    if middle < 0.5 or low < -0.5 or deep > _DEEPEST:
        return False
    turn = (g * scan.smooth_normals[patch]).sum(axis=1) * p[8]
    if np.percentile(turn, 10) < _ALIKE:
        return False
    at, _ = gap_all(code, p, np.ascontiguousarray(scan.centroids[rim]))
    if np.median(np.abs(at)) > _AT_BORDER * draft.sigma:
        return False
    if code == PLANE:
        return True
    u, v = np.zeros(3), np.zeros(3)
    across_axis(p[3:6], u, v)
    w = scan.centroids[patch] - p[:3]
    step = np.radians(5)
    return bool(np.unique(np.round(np.arctan2(w @ v, w @ u) / step)).size * step < _MOST_OF_TURN)
