"""Whether a mesh was modelled or scanned, and how exactly its vertices are given."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from contour.fit.modelled.chords import Chords, chords_of
from contour.mesh.prepare import PreparedScan

__all__ = ["Nature", "modelled_facets", "nature_of", "precision_of"]

Nature = Literal["scanned", "modelled", "mixed"]

_ROUNDING = 1e-5  # of the largest side: a rounded text file
_PLANES = (0.005, 6)  # share of the area, and vertices, of a plane that says how exact the file is
_MODELLED, _SCANNED = 0.6, 0.1  # shares of the area that lie in exact planes


def precision_of(scan: PreparedScan) -> float:
    """How exactly vertices are given, mm: what single precision leaves of the largest coordinate; more where large planes show only when their
    vertices may lie farther off, as those of a rounded text file do."""
    single = 4 * 2.0**-24 * float(np.abs(scan.vertices).max())
    most = max(_ROUNDING * float(np.ptp(scan.vertices, axis=0).max()), single)
    # From the finest on: in a fine mesh what is curved looks flat to a coarse eye.
    precision = single
    while precision <= most:
        if _off_planes(scan, precision) <= precision:
            return precision
        precision *= 3
    return single


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


def modelled_facets(scan: PreparedScan, chords: Chords) -> NDArray[np.bool_]:
    """Facets (n,) that lie in an exact plane with a neighbour, which those of a scan never do; and, of a small mesh, those with sharp edges only."""
    counts = np.diff(chords.facet_at)
    exact = counts > 1
    # A facet that is a plane by itself has sharp edges only: a wedge, a pyramid.
    if len(scan.facets) < 2000:
        exact |= chords.soft_end == chords.near_at[:-1]
    return exact[chords.group]


def nature_of(scan: PreparedScan, chords: Chords | None = None) -> Nature:
    """Whether a mesh was modelled: by the share of its area that lies in exact planes."""
    chords = chords or chords_of(scan, 4 * precision_of(scan))
    share = float(scan.areas[modelled_facets(scan, chords)].sum() / max(scan.areas.sum(), 1e-30))
    return "modelled" if share >= _MODELLED else "mixed" if share >= _SCANNED else "scanned"


