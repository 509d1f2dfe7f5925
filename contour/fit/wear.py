"""Wear: a zone of a region that lies below its surface on one side, more than noise explains, and has no say in the fit.

Residuals are averaged over neighbouring facets, so that a shallow zone stands out of the noise; the surface is fitted again to
what is left until the zone stays the same. Only material that is gone counts: what stands proud is not wear.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_matrix, csr_matrix
from scipy.sparse.csgraph import connected_components

from contour.fit.primitives import refine
from contour.fit.region import inner_vertices, sampled
from contour.geometry.surfaces import Surface, distances
from contour.mesh.prepare import PreparedScan

__all__ = ["WornZone", "averaged_residuals", "fit_without", "worn_zone"]

Array = NDArray[np.float64]
_ROUNDS = 20  # averaging over neighbours so often reaches about four facets far
_RIM = 5  # rounded edges reach so many facets into a region
_SHALLOW = 1.5  # times the noise: what is shallower may be the scanner's own waviness
_SUSPECT = 3.2  # spreads of the averaged residual below the surface


@dataclass(frozen=True, slots=True)
class WornZone:
    """facets (n,) of the prepared scan · depth_mm: where it is deepest, averaged over some facets · area mm² · share of the region's
    area · surface: fitted without it."""

    facets: NDArray[np.int64]
    depth_mm: float
    area: float
    share: float
    surface: Surface


def _averaging(scan: PreparedScan, facets: NDArray[np.int64]) -> csr_matrix:
    """Mean over a facet and its neighbours within the region."""
    place = np.full(len(scan.facets), -1, np.int64)
    place[facets] = np.arange(len(facets))
    beyond = np.where(scan.across[facets] < 0, -1, scan.across[facets] // 3)
    other = np.where(beyond < 0, -1, place[beyond])
    rows = np.repeat(np.arange(len(facets)), 3)
    keep = other.ravel() >= 0
    rows, columns = rows[keep], other.ravel()[keep]
    n = len(facets)
    links = coo_matrix((np.ones(len(rows)), (rows, columns)), shape=(n, n)) + coo_matrix(
        (np.ones(n), (range(n), range(n))), shape=(n, n)
    )
    links = links.tocsr()
    return csr_matrix(links.multiply(1 / np.asarray(links.sum(axis=1))))


def averaged_residuals(scan: PreparedScan, facets: NDArray[np.int64], surface: Surface, rounds: int = 3) -> Array:
    """(n,) signed distance of every facet of a region, averaged over neighbours so that noise does not hide what is common."""
    mean = _averaging(scan, facets)
    out = distances(surface, np.ascontiguousarray(scan.centroids[facets]))
    for _ in range(rounds):
        out = mean @ out
    return np.asarray(out)


def fit_without(scan: PreparedScan, facets: NDArray[np.int64], out: NDArray[np.bool_], surface: Surface) -> Surface:
    """The surface fitted to the vertices of a region's facets that are not left out.

    facets: ids (k,); out (k,), true where left out.
    """
    ids = sampled(inner_vertices(scan, facets[~out]))
    p = surface.packed()
    refine(surface.code, p, scan.vertices, ids, len(ids), 25, 1.5 * max(1.3 * scan.noise_mm, 1e-4))
    return Surface.unpacked(surface.code, p)


def worn_zone(scan: PreparedScan, facets: NDArray[np.int64], surface: Surface) -> WornZone | None:
    """The worn zone of a region, or none that stands out. facets: of the prepared scan, all of the region's.

    Rims have no say: facets next to the region's border are neither evidence of wear nor fitted. Ids (k,).
    """
    facets = np.asarray(facets, np.int64)
    if len(facets) < 60:
        return None
    mean = _averaging(scan, facets)
    rim = np.asarray((mean > 0).sum(axis=1)).ravel() < 4
    for _ in range(_RIM):
        wider = rim | (mean @ rim.astype(float) > 0)
        if wider.mean() > 0.6:  # a narrow region is all rim
            break
        rim = wider
    centroids = np.ascontiguousarray(scan.centroids[facets])

    def averaged(surface: Surface) -> Array:
        out = distances(surface, centroids)
        for _ in range(_ROUNDS):
            out = mean @ out
        return np.asarray(out)

    # A plain fit gives way to the zone and hides it: begin from what lies highest, a third of the region left out.
    low = np.zeros(len(facets), np.bool_)
    for _ in range(8):
        surface = fit_without(scan, facets, low | rim, surface)
        smooth = averaged(surface)
        low = smooth < np.percentile(smooth[~rim], 35)
    worn = np.zeros(len(facets), np.bool_)
    for turn in range(12):
        if turn:
            surface = fit_without(scan, facets, worn | rim, surface)
        smooth = averaged(surface)
        calm = smooth[~worn & ~rim]
        if len(calm) < 30:
            return None
        # Wear lies below: what is above the middle tells what noise alone does.
        level, high = np.percentile(calm, [60, 90])
        spread = max(float(high - level) / 1.028, 0.05 * scan.noise_mm, 1e-5)
        deep = (smooth < level - _SUSPECT * spread) & ~rim
        linked = mean[deep][:, deep]
        if not deep.any():
            return None
        number = connected_components(linked, directed=False)[1]
        sizes = np.bincount(number, scan.areas[facets[deep]])
        own = np.flatnonzero(deep)[sizes[number] > 0.02 * scan.areas[facets].sum()]
        now = np.zeros(len(facets), np.bool_)
        now[own] = True
        grown = now.copy()
        for _ in range(4):
            grown |= (mean @ grown.astype(float) > 0) & (
                smooth < level - 1.5 * spread
            )  # a zone fades out at its border
        if (grown == worn).all():
            break
        worn = grown
    area, whole = float(scan.areas[facets[worn]].sum()), float(scan.areas[facets].sum())
    if not worn.any() or area > 0.7 * whole:
        return None
    # A zone that reaches a rounded edge is no deeper for it.
    told = worn & ~rim if (worn & ~rim).any() else worn
    depth = float(-smooth[told].min())
    if depth < _SHALLOW * scan.noise_mm:
        return None
    return WornZone(facets[worn], depth, area, area / whole, surface)
