"""Prepared scans in the web process: memory-mapped, with the kernels warm, for answers within a fifth of a second."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from contextlib import contextmanager, nullcontext
from functools import lru_cache

import numpy as np

from bench.jobs import last_result, recipe_of
from bench.models import Job
from bench.store import store
from bench.work import build_missing
from contour.fit.region import grow_region, patch_around, region_of_facets
from contour.job.build.keys import scan_key
from contour.mesh.prepare import PreparedScan, load_prepared
from contour.outline.section import section_loops
from contour.recipe.problem import ContourError

__all__ = ["in_turn", "job_scan", "scan_state", "warm", "warm_newest"]


@lru_cache(maxsize=8)
def _mapped(key: str) -> PreparedScan:
    return load_prepared(store().folder(key))


def scan_state(job: Job, scan: str) -> str:
    """Key of a scan's state: of the job's evidence as the newest build leaves it, or a state some build of the job made.

    Raises ContourError (not-found).
    """
    recipe, result = recipe_of(job), last_result(job)
    if not any(e.id == scan for e in recipe.scans):
        states = {k for s in result.steps for k in s.scans.values()} | set(result.raw.values()) if result else set()
        if scan not in states:
            raise ContourError("not-found", "the job has no such scan", got=scan[:8], remedy="load the page again")
        key = scan
    elif result is not None and scan in result.scans:
        key = result.scans[scan]
    else:
        key = scan_key(next(e for e in recipe.scans if e.id == scan))
    if not store().has(key):
        build_missing(job)
        raise ContourError("not-found", "the scan is still being prepared", remedy="wait a moment")
    return key


def job_scan(job: Job, scan: str) -> PreparedScan:
    """A scan of the job by its evidence or by the key of one of its states (see :func:`scan_state`)."""
    return _mapped(scan_state(job, scan))


_LARGE = 500_000
_one_large = threading.Lock()


@contextmanager
def in_turn(scan: PreparedScan) -> Iterator[None]:
    """Questions that may go over all of a large scan are answered one after another: each holds up to 200 MB while it is
    worked on, and several people's together would be more than this process may take."""
    with _one_large if len(scan.facets) > _LARGE else nullcontext():
        yield


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
        for place in sorted(store().products.glob("*/numbers.json"))[:1]:
            warm(load_prepared(place.parent))

    threading.Thread(target=work, daemon=True).start()
