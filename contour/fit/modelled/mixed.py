"""A mesh of which a part was modelled and a part scanned, or smoothed: each part taken apart by its own method."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

from contour.fit.modelled.regions import exact_regions
from contour.fit.segment.whole import FoundRegion, Segmentation, Settings, segment
from contour.geometry.surfaces import Surface
from contour.mesh.facets import Mesh
from contour.mesh.prepare import PreparedScan, prepare_mesh
from contour.recipe.problem import ContourError

__all__ = ["mixed_regions"]

_LEAST = 4  # facets: fewer in one exact plane are no modelled face, unless modelled ones are around it
_AROUND = 0.7  # of its border, by length
_TOGETHER = 60  # facets of small faces side by side, such as a pocket's, that modelled ones are around
_WORTH = 200  # facets that are left: fewer are not worth a search


def _modelled(scan: PreparedScan, exact: Segmentation, protected: int) -> list[int]:
    """Numbers of the exact regions that are faces of the modelled part: of several facets, or among such."""
    sizes = np.array([r.facets for r in exact.regions])
    surfaced = np.array([r.surface is not None for r in exact.regions], bool)
    kept = (np.arange(len(sizes)) < protected) | (surfaced & (sizes >= _LEAST))
    corners = scan.vertices[scan.facets]
    lengths = np.linalg.norm(np.roll(corners, -1, axis=1) - corners, axis=2)
    facet, side = np.nonzero(scan.across >= 0)
    own, other = exact.labels[facet], exact.labels[scan.across[facet, side] // 3]
    border = (own != other) & (own >= 0)
    own, other, long = own[border], other[border], lengths[facet[border], side[border]]
    small = surfaced & ~kept
    beside = small[own] & (other >= 0) & small[other]
    links = coo_matrix((np.ones(int(beside.sum()), np.int8), (own[beside], other[beside])), shape=(len(sizes),) * 2)
    group = connected_components(links, directed=False)[1]
    outside = (group[own] != group[other]) | (other < 0)
    around = np.bincount(group[own], long * outside, len(sizes))
    among = np.bincount(group[own], long * (outside & (other >= 0) & kept[other]), len(sizes))
    few = np.bincount(group, sizes * small, len(sizes)) <= _TOGETHER
    taken = few & (around > 0) & (among >= _AROUND * around)
    return np.flatnonzero(kept | (small & taken[group])).tolist()


def mixed_regions(
    scan: PreparedScan,
    settings: Settings,
    *,
    protected: tuple[tuple[NDArray[np.int64], Surface], ...] = (),
    report: Callable[[str, float], None] = lambda _, __: None,
) -> Segmentation:
    """Exact regions first; what they leave is searched as a scan, by its own noise. The noise told is the scanned part's.

    protected: (facets, surface) of regions that stay as they are; they come first. report(what, share) may raise to stop.
    """
    exact = exact_regions(scan, protected=protected, strips=True, report=lambda what, share: report(what, 0.4 * share))
    kept = _modelled(scan, exact, len(protected))
    labels = np.full(len(scan.facets), -1, np.int32)
    for new, k in enumerate(kept):
        labels[exact.labels == k] = new
    regions: list[FoundRegion] = [exact.regions[k] for k in kept]
    worn = exact.worn.copy()
    rest = np.flatnonzero(labels < 0)
    if len(rest) < _WORTH:
        return Segmentation(labels, tuple(regions), exact.noise, worn)
    part = prepare_mesh(
        Mesh(scan.vertices, scan.facets[rest], rest.astype(np.int64)), pose=scan.pose, raw_facets=len(scan.facets)
    )
    try:
        found = segment(part, settings, report=lambda what, share: report(what, 0.4 + 0.6 * share))
    except ContourError as error:
        if error.problem.code != "nothing-found":
            raise
        return Segmentation(labels, tuple(regions), exact.noise, worn)
    known = found.labels >= 0
    labels[part.source_facet[known]] = found.labels[known] + len(regions)
    worn[part.source_facet] = found.worn
    regions += [replace(r, middle=int(part.source_facet[r.middle])) for r in found.regions]
    return Segmentation(labels, tuple(regions), found.noise, worn)
