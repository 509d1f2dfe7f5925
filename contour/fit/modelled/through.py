"""A surface of a kind through vertices: begun from the normals of what lies on it, or at a surface near it."""

from __future__ import annotations

import numba as nb
import numpy as np
from numpy.typing import NDArray

from contour.fit.modelled.bend import bent
from contour.fit.modelled.chords import Chords
from contour.fit.primitives import face_side, guess, refine
from contour.geometry.surface_rows import CYLINDER, TORUS, gap
from contour.geometry.surfaces import Surface
from contour.mesh.prepare import PreparedScan

__all__ = ["ANEW", "FIRST", "FROM_NEAR", "LAST", "bent_through", "fit_through", "fitted", "through"]

Array = NDArray[np.float64]

_jit = nb.njit(cache=True, nogil=True)

# A function is compiled anew for every plain constant that it is called with; what is of NumPy is a variable to it.
ANEW, FROM_NEAR = np.False_, np.True_
_TUBE, _BENT_TUBE = np.int64(CYLINDER), np.int64(TORUS)
FIRST, _STRAIGHT, LAST = np.int64(12), np.int64(20), np.int64(40)  # rounds
_BENT = 0.15  # of its radius, that the vertices of a bent tube lie off a straight one at most
_MOST = 400  # vertices that a surface is fitted through: more tell nothing new


@_jit
def through(code, p, near, groups, n, xyz, middle, normal, points, count, rounds):  # type: ignore[no-untyped-def]
    """Fits p through points (of xyz (m, 3), mm), from a guess by the groups' middles and normals unless `near`, in so many rounds; the farthest of
    them from it, -1 where there is none."""
    if count < 6:
        return -1.0
    if not near and not guess(code, p, middle, normal, groups, n, 1e-13):
        return -1.0
    some = points
    m = count
    if count > _MOST:
        some = np.empty(_MOST, np.int64)
        for i in range(_MOST):
            some[i] = points[i * count // _MOST]
        m = _MOST
    refine(code, p, xyz, some, m, rounds, 0.0)
    face_side(code, p, middle, normal, groups, n)
    g = np.empty(3)
    worst = 0.0
    for i in range(count):
        d = abs(gap(code, p, xyz[points[i]], g))
        if not d <= worst:
            worst = d
    if not np.isfinite(worst):
        return -1.0
    return worst


@_jit
def bent_through(p, groups, n, xyz, middle, normal, points, count):  # type: ignore[no-untyped-def]
    """A torus begun as a cylinder that bends; the farthest of the points from it, -1 where there is none."""
    straight = through(_TUBE, p, ANEW, groups, n, xyz, middle, normal, points, count, _STRAIGHT)
    if not 0 <= straight < _BENT * p[6] or not bent(p, xyz, points, count):
        return -1.0
    return through(_BENT_TUBE, p, FROM_NEAR, groups, n, xyz, middle, normal, points, count, LAST)


def fitted(chords: Chords, xyz: Array, members: NDArray[np.int64], near: Surface) -> tuple[Surface, float]:
    """The surface of a kind through all vertices of these chords (k,), begun at one near it, and the farthest of them from it, mm."""
    p = near.packed()
    at = np.unique(np.concatenate([chords.vertices_of(int(k)) for k in members]))
    worst = through(
        near.code, p, FROM_NEAR, members, len(members), xyz, chords.middle, chords.normal, at, len(at), LAST
    )
    return (Surface.unpacked(near.code, p), float(worst)) if worst >= 0 else (near, np.inf)


def fit_through(
    code: int, near: Surface | None, scan: PreparedScan, facets: NDArray[np.int64]
) -> tuple[Surface, float] | None:
    """The surface of a kind through all vertices of facets (k,), begun at one near it or from their normals, and the farthest of them from it, mm;
    none where there is none."""
    p = np.zeros(9) if near is None else near.packed()
    at = np.unique(scan.facets[facets]).astype(np.int64)
    start = ANEW if near is None else FROM_NEAR
    worst = through(code, p, start, facets, len(facets), scan.vertices, scan.centroids, scan.normals, at, len(at), LAST)
    return (Surface.unpacked(code, p), float(worst)) if worst >= 0 else None
