"""Threaded holes and studs in made scans with every figure known, and plain and worn walls of the same sizes."""

from __future__ import annotations

import time
from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from benchmarks.timing import milliseconds
from contour.fit.thread.walls import ThreadedWall, threaded_walls
from contour.intent.likely_threads import likely_threads
from contour.mesh.facets import Mesh
from contour.mesh.prepare import PreparedScan, prepare_mesh
from contour.metrology.standards.threads import Thread, threads
from contour.simulate.threaded import ThreadedPart, threaded_scan

__all__ = ["made_thread", "run", "scanned"]


def made_thread(seed: int) -> tuple[Thread, ThreadedPart, float]:
    """A standard thread from M4 to M36, a part that has it, and the facets' side: a third to a sixth of the pitch."""
    rng = np.random.default_rng(seed)
    known = [t for t in threads() if 4 <= t.major <= 36 and (t.series.startswith("ISO") or t.series in ("UNC", "UNF"))]
    t = known[rng.integers(len(known))]
    length = max(t.major * rng.uniform(0.8, 1.6), 4 * t.pitch)
    part = ThreadedPart(t.major, t.pitch, length, bool(rng.integers(2)), 1 if rng.uniform() < 0.8 else -1)
    return t, part, float(max(min(t.pitch / rng.uniform(3, 6), 0.5), t.major / 120))


def scanned(part: ThreadedPart, spacing_mm: float, seed: int, noise_mm: float = 0.03) -> PreparedScan:
    vertices, facets, _, _ = threaded_scan(part, spacing_mm=spacing_mm, noise_mm=noise_mm, seed=seed)
    mesh = Mesh(vertices, facets, np.arange(len(facets), dtype=np.int64))
    return prepare_mesh(mesh, pose=np.eye(4), raw_facets=len(facets))


def run() -> Iterator[tuple[str, str]]:
    found = pitches = standards = 0
    spent: list[float] = []
    off: list[float] = []
    for seed in range(40):
        true, part, spacing = made_thread(60_000 + seed)
        scan = scanned(part, spacing, seed)
        began = time.perf_counter()
        walls: list[ThreadedWall] = threaded_walls(scan)
        spent.append(time.perf_counter() - began)
        if len(walls) != 1 or walls[0].form.hand != part.hand or walls[0].form.inside != part.inside:
            continue
        form = walls[0].form
        found += 1
        pitches += abs(form.pitch / true.pitch - 1) < 0.005
        standards += likely_threads(form)[0].thread.designation == true.designation
        off.append(abs(form.major - true.major))
    yield "threads M4 to M36 and unified, found, with hand and side (wanted: 36)", f"{found} of 40"
    yield "of them pitch within 0.5 %; right standard first (wanted: 36)", f"{pitches}; {standards}"
    yield "major diameter off, median and largest", f"{np.median(off):.3f}, {max(off):.3f} mm"
    yield "one scan asked for threads", milliseconds(np.array(spent))
    wrong = [0, 0]
    for seed in range(80):
        _, part, spacing = made_thread(61_000 + seed)
        worn = seed % 2
        plain = replace(part, hand=0, worn_mm=0.1 + 0.4 * (seed / 80) if worn else 0.0)
        wrong[worn] += bool(threaded_walls(scanned(plain, max(spacing, part.major / 70), seed)))
    yield "plain walls taken for threads; worn ones (wanted: 0; 0)", f"{wrong[0]} of 40; {wrong[1]} of 40"
