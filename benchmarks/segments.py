"""Whole scans taken apart, held against the faces that were scanned; every part at three noises with 15 % of it missing."""

from __future__ import annotations

import resource
import time
from collections.abc import Iterator

import numpy as np

from benchmarks.parts import big_scan
from benchmarks.ransac import seeded_by_ransac
from benchmarks.segment_truth import Score, holed_scan, score
from contour.check.exact_arrays import exact_arrays
from contour.fit.segment.whole import segment
from demo.bracket import bracket
from demo.pump_cover import pump_cover
from demo.truth_parts import TRUTH_PARTS

__all__ = ["run"]


def _line(s: Score, regions: int) -> str:
    away = [abs(d) / max(u, 1e-9) for d, u in s.diameters]
    return (
        f"{100 * s.right:.1f} % of facets right, {100 * s.right_inside:.1f} % away from borders; faces {s.found}/{s.faces}, "
        f"kinds {s.kinds}; {s.spurious} spurious of {regions}; planes {np.median(s.plane_angles or [0]):.4f}°, "
        f"axes {np.median(s.axis_angles or [0]):.3f}°; {sum(a <= 3 for a in away)}/{len(away)} diameters within 3 u"
    )


def _beside_ransac() -> Iterator[tuple[str, str]]:
    """Accuracy of both ways to seed on the truth parts."""
    ours: list[float] = []
    theirs: list[float] = []
    for make in TRUTH_PARTS.values():
        solid = exact_arrays(make())
        scan, true = holed_scan(solid, spacing=0.55, noise=0.03, missing=0.15, seed=3)
        ours.append(score(scan, true, segment(scan), solid).right)
        with seeded_by_ransac():
            theirs.append(score(scan, true, segment(scan), solid).right)
    yield (
        "facets right, truth parts at noise 0.03: grown, then RANSAC",
        " ".join(f"{100 * a:.1f}/{100 * b:.1f} %" for a, b in zip(ours, theirs, strict=True)),
    )


def run() -> Iterator[tuple[str, str]]:
    parts = {**TRUTH_PARTS, "bracket": lambda: bracket().shape, "pump cover": lambda: pump_cover().shape}
    away: list[float] = []
    for name, make in parts.items():
        solid = exact_arrays(make())
        for noise in (0.01, 0.03, 0.05):
            scan, true = holed_scan(solid, spacing=0.55, noise=noise, missing=0.15, seed=3)
            found = segment(scan)
            s = score(scan, true, found, solid)
            away += [abs(d) / max(u, 1e-9) for d, u in s.diameters]
            yield f"{name}, noise {noise}, {len(scan.facets):,} facets", _line(s, len(found.regions))
    yield (
        "diameters within 3 stated uncertainties (wanted: 95 %)",
        f"{100 * np.mean(np.array(away) <= 3):.1f} % of {len(away)}",
    )
    scan = big_scan()
    began = time.perf_counter()
    found = segment(scan)
    seconds = time.perf_counter() - began
    with seeded_by_ransac():
        began = time.perf_counter()
        other = segment(scan)
        slower = time.perf_counter() - began
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 2**20
    yield (
        f"{len(scan.facets):,} facets (wanted: 20 s, 1.5 GB)",
        f"{seconds:.1f} s, {len(found.regions)} regions; peak of the whole run {peak:.2f} GB",
    )
    yield (
        "the same seeded by RANSAC (wanted: growing 2 x faster)",
        f"{slower:.1f} s, {len(other.regions)} regions: {slower / seconds:.1f} x",
    )
    yield from _beside_ransac()
