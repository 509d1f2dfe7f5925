"""Click to grow, raw cuts and fitted outlines on half a million facets, from read-only memory maps as the server has."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path

import numpy as np

from benchmarks.parts import big_scan
from benchmarks.timing import each, milliseconds
from contour.fit.region import grow_region
from contour.mesh.prepare import load_prepared, save_prepared
from contour.mesh.slice import slice_scan
from contour.outline.section import section_loops
from contour.recipe.problem import ContourError

__all__ = ["run"]


def run() -> Iterator[tuple[str, str]]:
    with tempfile.TemporaryDirectory() as folder:
        save_prepared(big_scan(), Path(folder))
        scan = load_prepared(Path(folder))
        picks = np.random.default_rng(50).integers(0, len(scan.facets), 50)
        refused = 0

        def grow(facet: int) -> None:
            nonlocal refused
            try:
                grow_region(scan, np.array([facet]))
            except ContourError:
                refused += 1

        for facet in picks[:5]:  # compile
            grow(int(facet))
        refused = 0

        def first(facet: int) -> None:
            """As when a job has just been opened: nothing of the scan is in the process yet."""
            with suppress(ContourError):
                grow_region(load_prepared(Path(folder)), np.array([facet]))

        yield "first pick after opening (wanted: 300 ms)", milliseconds(each(first, picks))
        times = each(grow, picks)
        label = f"click to grow, {len(scan.facets):,} facets, 50 picks (wanted: 50 ms, worst 200)"
        yield label, f"{milliseconds(times)}; {refused} on no surface"
        planes = [(np.array([60.0, 40.0, z]), np.array([0.0, 0, 1])) for z in np.linspace(1, 22, 12)]
        planes += [(np.array([60.0, y, 20]), np.array([0.0, 1, 0.1])) for y in np.linspace(5, 78, 12)]
        slice_scan(scan, *planes[0])
        section_loops(scan, *planes[0])
        yield "raw cut (wanted: 40 ms)", milliseconds(each(lambda p: slice_scan(scan, *p), planes))
        yield "cut with fitted outlines (wanted: 300 ms)", milliseconds(each(lambda p: section_loops(scan, *p), planes))
