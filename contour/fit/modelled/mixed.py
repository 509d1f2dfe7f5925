"""A mesh of which a part was modelled and a part scanned, or smoothed: each part taken apart by its own method."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from contour.fit.modelled.regions import exact_regions
from contour.fit.segment.whole import FoundRegion, Segmentation, Settings, segment
from contour.geometry.surfaces import Surface
from contour.mesh.facets import Mesh
from contour.mesh.prepare import PreparedScan, prepare_mesh
from contour.recipe.problem import ContourError

__all__ = ["mixed_regions"]

_LEAST = 4  # facets: fewer in one exact plane are no modelled face
_WORTH = 200  # facets that are left: fewer are not worth a search


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
    exact = exact_regions(scan, protected=protected, report=lambda what, share: report(what, 0.4 * share))
    kept = [
        k for k, r in enumerate(exact.regions) if k < len(protected) or (r.surface is not None and r.facets >= _LEAST)
    ]
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
