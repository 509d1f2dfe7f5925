"""Whether a mesh was modelled or scanned, and how exactly its vertices are given."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from contour.fit.modelled.chords import chords_of
from contour.fit.modelled.growth import grow_all
from contour.mesh.prepare import PreparedScan

__all__ = ["Nature", "nature_of", "precision_of"]

Nature = Literal["scanned", "modelled", "mixed"]

_ROUNDING = 1e-5  # of the largest side: a rounded text file
_PLANES = (0.005, 6)  # share of the area, and vertices, of a plane that says how exact the file is
_FIGURES = 24  # different coordinates that show a rounding
_ASKED, _FIRST = 250, 50  # facets that are asked; if the first of them say nothing the others are not
_SMALL = 2000  # facets of a mesh that may have planes of one facet
_UNEVEN = 0.55  # of the bend to its neighbours: noise turns every facet its own way by as much
_MODELLED, _SCANNED = 0.85, 0.1  # shares of the facets asked


def precision_of(scan: PreparedScan) -> float:
    """How exactly vertices are given, mm: what single precision leaves of the largest coordinate; more where large planes show only when their
    vertices may lie farther off, as those of a rounded text file do."""
    single = max(2.0**-23 * float(np.abs(scan.vertices).max()), _rounded(scan.vertices))
    most = max(_ROUNDING * float(np.ptp(scan.vertices, axis=0).max()), single)
    if not np.isfinite(_off_planes(scan, most)):
        return single
    # From the finest on: in a fine mesh what is curved looks flat to a coarse eye.
    precision = single
    while precision <= most:
        if _off_planes(scan, precision) <= precision:
            return precision
        precision *= 3
    return single


def _rounded(vertices: NDArray[np.float64]) -> float:
    """What rounding to decimals has moved vertices by at most, mm; 0 where the file was not rounded. Round sizes alone are no rounding: many
    different figures are needed, with every last digit among them."""
    some = np.unique(vertices[:: 1 + len(vertices) // 4000])
    for unit in (1.0, 25.4):
        figures = some / unit
        slack = 2.0**-23 * float(np.abs(figures).max(initial=0.0))
        for decimals in range(1, 7):
            step = 10.0**-decimals
            if step < 6 * slack:
                break
            whole = np.rint(figures / step)
            if np.abs(figures - whole * step).max(initial=0.0) <= slack:
                last = np.unique(np.abs(whole).astype(np.int64) % 10)
                return float(0.9 * step * unit) if len(some) > _FIGURES and len(last) >= 8 else 0.0
    return 0.0


def _off_planes(scan: PreparedScan, precision: float) -> float:
    """How far the vertices of large planes lie off them, when vertices may be off by this much; more than that where there are no such planes."""
    chords = chords_of(scan, 4 * precision)
    share, least = _PLANES
    several = (np.diff(chords.vertex_at) >= least) & (np.diff(chords.facet_at) > 1)
    found = []
    for k in np.flatnonzero(several & (chords.area >= share * chords.area.sum())).tolist():
        at = scan.vertices[chords.vertices_of(k)[:20_000]]
        off = at - at.mean(axis=0)
        _, _, rows = np.linalg.svd(off, full_matrices=False)
        found.append(float(np.abs(off @ rows[2]).max()))
    return float(np.percentile(found, 25)) if found else np.inf


def nature_of(scan: PreparedScan) -> Nature:
    """Whether a mesh was modelled, by facets picked all over it: those of an exact plane or of a surface that goes through all its vertices are
    modelled; so are those between that bend evenly, as free surfaces do. A scanner's facets do neither."""
    tolerance = 4 * precision_of(scan)
    chords = chords_of(scan, tolerance)
    weight = scan.areas + 1e-12 * max(float(scan.areas.max()), 1e-300)
    some = np.unique(np.random.default_rng(1).choice(len(scan.facets), _ASKED, p=weight / weight.sum()))
    group = chords.group[some]
    exact = np.diff(chords.facet_at)[group] > 1
    # A facet that is a plane by itself has sharp edges only: a wedge, a pyramid.
    if len(scan.facets) < _SMALL:
        exact |= chords.soft_end[group] == chords.near_at[group]
    free = np.ones(chords.count, np.bool_)
    asked = np.random.default_rng(2).permutation(np.unique(group[~exact]))
    for part in (asked[:_FIRST], asked[_FIRST:]):
        grow_all(chords, scan.vertices, free, tolerance, seeds=part)
        if exact.mean() < _SCANNED / 2 and free[group].all():
            return "scanned"
    exact |= ~free[group]
    share = float(exact.mean())
    even = share + float(_even(scan, some[~exact]).sum()) / len(some)
    if even >= _MODELLED and share >= _SCANNED:
        return "modelled"
    return "mixed" if share >= _SCANNED else "scanned"


def _even(scan: PreparedScan, facets: NDArray[np.int64]) -> NDArray[np.bool_]:
    """Facets (k,) that face as the three around them do together, rather than each its own way."""
    across = scan.across[facets]
    whole = (across >= 0).all(axis=1)
    around = scan.normals[np.where(across >= 0, across // 3, 0)]
    mean = around.mean(axis=1)
    mean /= np.maximum(np.linalg.norm(mean, axis=1), 1e-30)[:, None]
    own = scan.normals[facets]
    off = np.arccos(np.clip(np.einsum("ij,ij->i", own, mean), -1, 1))
    turn = np.arccos(np.clip(np.einsum("ij,ikj->ik", own, around), -1, 1)).mean(axis=1)
    return np.asarray(whole & (off < _UNEVEN * turn))
