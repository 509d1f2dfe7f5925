"""Sections with holes in the scan: how often bridges close them, and give back the pieces that were there."""

from __future__ import annotations

import itertools
from collections.abc import Iterator
from dataclasses import dataclass, field

import numpy as np

from benchmarks.cut_truth import TruePiece, true_cuts
from benchmarks.segment_truth import holed_scan
from benchmarks.timing import each, milliseconds
from contour.check.exact_arrays import exact_arrays
from contour.geometry.frames import plane_frame
from contour.outline.along import path_distance
from contour.outline.bridging import Bridged, bridged
from contour.outline.explain import default_outline_tolerance, fit_outline
from contour.outline.open_line import OpenLine
from contour.outline.section import SectionLoop, closed_over_gaps, section_loops
from contour.simulate.loops import SoftLoop, softened_loop
from contour.solid.extent import bounds
from demo.bracket import bracket
from demo.pump_cover import pump_cover
from demo.truth_parts import TRUTH_PARTS

__all__ = ["closed_again", "opened", "run", "same_structure"]

_TOLD = 1 / 3  # of a piece: less of it may as well be another's end
_ALONG = 0.35  # mm: so near a polyline runs along a piece
_NOISE = 0.02  # mm


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
    """The loop from what is left of it."""
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


def _told(loop: SoftLoop, lines: list[np.ndarray]) -> bool:
    """Whether a third is left of every piece."""
    piece = {tuple(p): k for p, k in zip(loop.points.tolist(), loop.of.tolist(), strict=True)}
    left = np.bincount([piece[tuple(p)] for line in lines for p in line.tolist()], minlength=len(loop.kinds))
    return bool(np.all(left >= _TOLD * np.bincount(loop.of, minlength=len(loop.kinds))))


def _found(loops: list[SectionLoop], true: list[tuple[TruePiece, ...]]) -> list[bool]:
    """Which of the true outlines are among the closed loops."""
    left = [[p.kind for p in s.outline.pieces] for s in loops if s.outline.closed]
    found = []
    for pieces in true:
        hit = next((kinds for kinds in left if same_structure(kinds, tuple(p.kind for p in pieces))), None)
        if hit is not None:
            left.remove(hit)
        found.append(hit is not None)
    return found


def _seen_third(pieces: tuple[TruePiece, ...], seen: list[np.ndarray]) -> bool:
    """Whether polylines (n, 2) run along a third of every piece."""
    return all(
        np.mean(np.min([path_distance(p.places, line) for line in seen], axis=0) < _ALONG) >= _TOLD for p in pieces
    )


@dataclass
class _Tally:
    """Of true outlines, found and in all: those that keep a third of every piece, and the others · loops, and those of them that are closed."""

    told: list[bool] = field(default_factory=list)
    lost: list[bool] = field(default_factory=list)
    closed: list[bool] = field(default_factory=list)
    unmarked: int = 0


def _parts() -> Iterator[tuple[str, str]]:
    """Three cuts square to each axis of the six truth parts, those whose true outlines are lines, arcs and ellipses."""
    makes = {**TRUTH_PARTS, "bracket": lambda: bracket().shape, "pump cover": lambda: pump_cover().shape}
    tallies = {missing: _Tally() for missing in (0.0, 0.15, 0.3)}
    for make in makes.values():
        shape = make()
        low, high = bounds(shape)
        scans = {m: holed_scan(exact_arrays(shape), spacing=0.55, noise=_NOISE, missing=m, seed=6)[0] for m in tallies}
        for axis, share in itertools.product(range(3), (0.31, 0.5, 0.73)):
            at = low + (high - low) * np.where(np.arange(3) == axis, share, 0.5)
            frame = plane_frame(at, np.eye(3)[axis])
            true = true_cuts(shape, frame, told_mm=3 * _NOISE)
            if any(p.kind == "free" for pieces in true for p in pieces):
                continue
            for missing, scan in scans.items():
                tally, raw = tallies[missing], section_loops(scan, frame.origin, frame.normal, frame=frame)
                made, gaps = closed_over_gaps(scan, raw)
                seen = [
                    np.vstack([s.line, s.line[:1]]) if s.outline.closed else s.line for s in raw if s.line is not None
                ]
                for pieces, found in zip(true, _found(made, true), strict=True):
                    (tally.told if _seen_third(pieces, seen) else tally.lost).append(found)
                tally.closed += [s.outline.closed for s in made]
                tally.unmarked += len(gaps) > sum(len(p.assumed) for s in made for p in s.outline.pieces)
    for missing, tally in tallies.items():
        both = tally.told + tally.lost
        yield (
            f"six parts, {missing:.0%} of the surface missing: outlines with the true pieces (wanted: 85 %)",
            f"{np.mean(both):.1%} of {len(both)}; of those that keep a third of every piece {np.mean(tally.told):.1%} of "
            f"{len(tally.told)}; loops closed {np.mean(tally.closed):.1%} of {len(tally.closed)} (wanted: 95 %); "
            f"cuts with fewer marks than bridges {tally.unmarked}",
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
    told = [k for k in seeds if _told(loops[k], opened(loops[k], k))]
    right = sum(
        len(made[k]) == 1 and same_structure([p.kind for p in made[k][0].outline.pieces], loops[k].kinds) for k in told
    )
    yield "of those that keep a third of every piece, with the true pieces in order", f"{right} of {len(told)}"
    yield "loops with fewer marks than gaps (wanted: 0)", f"{unmarked}"
    yield (
        "one such loop, from cut to closed",
        milliseconds(each(lambda k: closed_again(loops[k], opened(loops[k], k)), seeds)),
    )
    yield from _parts()
