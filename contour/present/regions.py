"""Regions as steps and pointers ask for them: by raw facet numbers."""

from __future__ import annotations

import numpy as np

from contour.fit.region import Region, grow_region
from contour.geometry.surfaces import SurfaceKind
from contour.mesh.prepare import PreparedScan
from contour.recipe.problem import ContourError, Where

__all__ = ["region_of"]


def region_of(
    scan: PreparedScan,
    seeds: list[int],
    removed: list[int],
    surface: str,
    tolerance_mm: float | None,
    kinds: tuple[SurfaceKind, ...] | None = None,
) -> Region:
    """What both the preview under the pointer and the step compute.

    kinds: what may be found when the surface is "auto". Raises ContourError (ref-lost, fit-failed) when a seed is no longer in the scan or nothing fits around it.
    """
    found = [scan.facets_of_source(np.array([s])) for s in seeds]
    if len(found[0]) == 0:
        raise ContourError(
            "ref-lost",
            "the picked facet is not in the scan",
            got=f"facet {seeds[0]}",
            need="a facet that is there",
            where=Where(param="seeds"),
            remedy="pick the region again",
        )
    return grow_region(
        scan,
        np.concatenate(found),
        kind=None if surface == "auto" else surface,  # type: ignore[arg-type]
        tolerance_mm=tolerance_mm,
        removed=scan.facets_of_source(np.array(removed, dtype=np.int64)) if removed else None,
        kinds=kinds,
    )
