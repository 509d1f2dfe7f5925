"""Sections with holes in the scan: how often bridges close them, and give back the pieces that were there."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from benchmarks.timing import each, milliseconds
from contour.outline.bridging import Bridged, OpenLine, bridged
from contour.outline.explain import default_outline_tolerance, fit_outline
from contour.simulate.loops import SoftLoop, softened_loop

__all__ = ["opened", "run", "same_structure"]


def opened(loop: SoftLoop, seed: int) -> list[np.ndarray]:
    """What is left of a loop's polyline when one to three stretches, 5 to 25 % of its length together, are missing."""
    rng = np.random.default_rng(seed)
    points = loop.points
    n = len(points)
    count = int(rng.integers(1, 4))
    share = rng.uniform(0.05, 0.25) * rng.dirichlet(np.full(count, 4.0))
    begins = (rng.uniform() + np.arange(count) / count + rng.uniform(-0.1, 0.1, count)) % 1.0
    keep = np.ones(n, bool)
    for begin, part in zip(begins, share, strict=True):
        keep[(int(begin * n) + np.arange(max(2, int(part * n)))) % n] = False
    first = int(np.flatnonzero(~keep)[0])
    points, keep = np.roll(points, -first, axis=0), np.roll(keep, -first)
    edges = np.flatnonzero(np.diff(np.concatenate([[False], keep, [False]]).astype(int)))
    return [points[a:b] for a, b in zip(edges[::2], edges[1::2], strict=True) if b - a >= 4]


def closed_again(loop: SoftLoop, lines: list[np.ndarray]) -> list[Bridged]:
    tolerance = default_outline_tolerance(loop.noise_mm, float(np.ptp(loop.points, axis=0).max()))
    open_lines = [
        OpenLine(p, fit_outline(p, closed=False, tolerance_mm=tolerance, edge_mm=loop.edge_mm)) for p in lines
    ]
    return bridged(open_lines, [], tolerance_mm=tolerance, edge_mm=loop.edge_mm)


def same_structure(kinds: list[str], true: tuple[str, ...]) -> bool:
    """Whether kinds around a loop are those of another, wherever each begins and whichever way it runs."""
    rows = list(true)
    return len(kinds) == len(rows) and any(
        way[k:] + way[:k] == rows for way in (kinds, kinds[::-1]) for k in range(len(kinds))
    )


def run() -> Iterator[tuple[str, str]]:
    seeds = range(100)
    loops = [softened_loop(50_000 + k, noise_mm=0.03) for k in seeds]
    made = [closed_again(loop, opened(loop, k)) for loop, k in zip(loops, seeds, strict=True)]
    closed = sum(len(m) == 1 and m[0].outline.closed for m in made)
    right = sum(
        len(m) == 1 and same_structure([p.kind for p in m[0].outline.pieces], loop.kinds)
        for m, loop in zip(made, loops, strict=True)
    )
    unmarked = sum(len(b.gaps) > sum(len(p.assumed) for p in b.outline.pieces) for m in made for b in m)
    whole = sum(
        same_structure(
            [
                p.kind
                for p in fit_outline(
                    loop.points,
                    closed=True,
                    tolerance_mm=default_outline_tolerance(loop.noise_mm, float(np.ptp(loop.points, axis=0).max())),
                    edge_mm=loop.edge_mm,
                ).pieces
            ],
            loop.kinds,
        )
        for loop in loops
    )
    yield "profiles with 5 to 25 % missing that are closed again (wanted: 95)", f"{closed} of 100"
    yield "of them with the true pieces in order (wanted: 85); and with nothing missing", f"{right} of 100; {whole}"
    yield "loops with fewer marks than gaps (wanted: 0)", f"{unmarked}"
    yield (
        "one such loop, from cut to closed",
        milliseconds(each(lambda k: closed_again(loops[k], opened(loops[k], k)), seeds)),
    )
