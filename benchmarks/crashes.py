"""Power cuts at fifty moments each of an edit, a build, a delivery and an upload: what was answered is kept, nothing is half-made."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from pathlib import Path

from contour.check.exact_arrays import exact_arrays
from contour.exchange.stl_out import write_stl
from contour.simulate.scanner import ScanSettings, virtual_scan
from demo.bracket import bracket
from tests.bench.crash_points import OPERATIONS, Site, crash_points, faults_of

__all__ = ["run"]

POINTS, SEED = 50, 31


def run() -> Iterator[tuple[str, str]]:
    made = virtual_scan(exact_arrays(bracket().shape), ScanSettings(spacing_mm=2.2, noise_mm=0.03, seed=3))
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        write_stl(folder / "scan.stl", made.vertices, made.facets)
        site = Site(folder / "var", 8900, (folder / "scan.stl").read_bytes())
        try:
            for operation in OPERATIONS:
                wrong = [faults_of(*point) for point in crash_points(site, operation, POINTS, SEED, folder)]
                bad = [w for w in wrong if w]
                yield (
                    f"{operation}: {len(wrong)} cuts, something lost or half-made (wanted: 0)",
                    f"{len(bad)}" + (f": {bad[0][:2]}" if bad else ""),
                )
        finally:
            site.stop()
