"""Softened random loops: how often the outline has the true number of pieces."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from benchmarks.timing import each, milliseconds
from contour.outline.explain import default_outline_tolerance, fit_outline
from contour.simulate.loops import SoftLoop, softened_loop

__all__ = ["run"]


def fitted(loop: SoftLoop):
    size = float(np.ptp(loop.points, axis=0).max())
    tolerance = default_outline_tolerance(loop.noise_mm, size)
    return fit_outline(loop.points, closed=True, tolerance_mm=tolerance, edge_mm=loop.edge_mm)


def run() -> Iterator[tuple[str, str]]:
    fitted(softened_loop(1))  # compiled
    for first, count, note in ((20_000, 20, "(wanted: 18 of 20)"), (30_000, 100, "(more, other seeds)")):
        loops = [softened_loop(first + k) for k in range(count)]
        right = sum(len(fitted(loop).pieces) == len(loop.kinds) for loop in loops)
        yield f"softened loops of 6 to 20 pieces with the true piece count {note}", f"{right} of {count}"
    loops = [softened_loop(80_000 + k, most=30, noise_mm=0.03) for k in range(200)]
    right = sum(len(fitted(loop).pieces) == len(loop.kinds) for loop in loops)
    yield "softened loops of 6 to 30 pieces at 0.03 mm noise with the true piece count (wanted: 190)", f"{right} of 200"
    yield "one such outline", milliseconds(each(fitted, loops))
    long = [loop for loop in loops if len(loop.kinds) >= 28]
    yield f"one of 28 to 30 pieces ({len(long)} of them; wanted: 50 ms)", milliseconds(each(fitted, long))
