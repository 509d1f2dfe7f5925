"""Prepared scans in the web process: memory-mapped, with the kernels warm, for answers within a fifth of a second."""

from __future__ import annotations

import threading
from functools import lru_cache

import numpy as np

from bench.jobs import recipe_of
from bench.models import Job
from bench.store import store
from contour.fit.region import grow_region, patch_around, region_of_facets
from contour.fit.section import section_loops
from contour.job.keys import scan_key
from contour.job.runner import warm_up
from contour.mesh.prepare import PreparedScan, load_prepared
from contour.recipe.problem import ContourError

__all__ = ["job_scan", "warm", "warm_newest"]


@lru_cache(maxsize=8)
def _mapped(key: str) -> PreparedScan:
    return load_prepared(store().folder(key))


def job_scan(job: Job, evidence_id: str) -> PreparedScan:
    """The prepared scan of one piece of a job's evidence."""
    for evidence in recipe_of(job).scans:
        if evidence.id == evidence_id:
            key = scan_key(evidence)
            if not store().has(key):
                raise ContourError("not-found", "the scan is still being prepared", remedy="wait a moment")
            return _mapped(key)
    raise ContourError("not-found", "the job has no such scan", got=evidence_id[:8])


def warm(scan: PreparedScan) -> None:
    """Compile (or load) the kernels with the very array types used: read-only maps differ from fresh arrays."""
    try:
        region = grow_region(scan, np.array([0]), kind="plane")
        grow_region(scan, np.array([0]), kind="cylinder")
    except ContourError:
        region = None
    patch_around(scan.across, scan.centroids, 0, 1.0)
    region_of_facets(scan, np.arange(min(60, len(scan.facets))), kind="plane")
    if region is not None:
        section_loops(scan, np.array(region.surface.origin), np.array([1.0, 0.1, 0.1]))


def warm_newest() -> None:
    """In the background at start: the first click should not pay for compilation."""

    def work() -> None:
        warm_up()  # previews run in children of this process
        for place in sorted(store().products.glob("*/numbers.json"))[:1]:
            warm(load_prepared(place.parent))

    threading.Thread(target=work, daemon=True).start()
