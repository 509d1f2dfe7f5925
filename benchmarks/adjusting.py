"""Drawings adjusted to measured profiles of known truth: sizes against their uncertainties, with stretches missing too, and a large one timed."""

from __future__ import annotations

import time
from collections.abc import Iterator

import numpy as np

from contour.simulate.measured_profiles import MeasuredProfile, measured_profile
from contour.sketch.drawn.adjust import adjusted
from contour.sketch.drawn.dimensions import measured
from contour.sketch.drawn.text import Drawing, read_drawing
from contour.sketch.drawn.traces import traces_of
from contour.sketch.drawn.unknowns import Unknowns

__all__ = ["run"]

_PROFILES = 200


def run() -> Iterator[tuple[str, str]]:
    for missing, words in ((0.0, "whole"), (0.2, "a fifth of the places missing")):
        yield from _sizes(missing, words)
    yield from _large()


def _profile(rng: np.random.Generator, missing: float) -> MeasuredProfile:
    return measured_profile(rng, corners=4 * int(rng.integers(1, 6)), holes=int(rng.integers(0, 4)), missing=missing)


def _sizes(missing: float, words: str) -> Iterator[tuple[str, str]]:
    rng = np.random.default_rng(21)
    inside = total = untold = failed = 0
    errors: list[float] = []
    begun_there: list[float] = []
    ratios: list[float] = []
    pieces: list[int] = []
    for _ in range(_PROFILES):
        p = _profile(rng, missing)
        pieces.append(sum(e.kind != "point" for e in p.truth.entities.values()))
        u = Unknowns(p.truth)
        try:
            found = adjusted(p.rough, p.chains)
        except Exception:
            failed += 1
            continue
        known = adjusted(p.truth, p.chains)
        for k, (d, size, best) in enumerate(zip(p.truth.dimensions, found.sizes, known.sizes, strict=True)):
            if d.kind == "angle":
                continue
            total += 1
            if size.u is None:
                untold += 1
                continue
            truth = measured(u, d, f"d:{k}", u.start)
            error = abs(size.value - truth)
            errors.append(error)
            begun_there.append(abs(best.value - truth))
            ratios.append(error / size.u)
            inside += error <= 3 * size.u
    yield (
        f"{_PROFILES} profiles of {min(pieces)} to {max(pieces)} pieces, noise 0.03, {words}: radii and distances within 3 u (wanted 95 %)",
        f"{100 * inside / max(total - untold, 1):.1f} % of {total - untold}; {untold} not told, {failed} profiles failed",
    )
    yield (
        "  error, median and 95th",
        f"{np.median(errors):.4f}, {np.quantile(errors, 0.95):.4f} mm; median {np.median(ratios):.2f} u",
    )
    yield (
        "  median error beside that of a fit that begins at the truth (wanted at most 1.2 x)",
        f"{np.median(errors) / np.median(begun_there):.2f} x",
    )


def _plate() -> Drawing:
    """A plate with twelve rows of twelve bores: 296 entities, rows level and columns upright, all bores equal."""
    entities: dict[str, object] = {}
    constraints: list[dict[str, object]] = []
    for k, at in enumerate([(-10, -10), (230, -10), (230, 122), (-10, 122)]):
        entities[f"p{k}"] = {"kind": "point", "at": at}
    for k in range(4):
        entities[f"l{k}"] = {"kind": "line", "from": f"p{k}", "to": f"p{(k + 1) % 4}"}
        constraints.append({"kind": ("horizontal", "vertical")[k % 2], "of": [f"l{k}"]})
    for i in range(12):
        for j in range(12):
            entities[f"m{i}_{j}"] = {"kind": "point", "at": (20 * i, 10 * j)}
            entities[f"c{i}_{j}"] = {"kind": "circle", "centre": f"m{i}_{j}", "radius": 3.0}
    rows = range(12)
    constraints += [{"kind": "horizontal", "of": [f"m{i}_{j}" for i in rows]} for j in rows]
    constraints += [{"kind": "vertical", "of": [f"m{i}_{j}" for j in rows]} for i in rows]
    constraints.append({"kind": "equal", "of": [f"c{i}_{j}" for i in rows for j in rows]})
    sizes = [{"kind": "diameter", "of": ["c0_0"]}, {"kind": "length", "of": ["l0"]}]
    sizes += [{"kind": "horizontal-distance", "of": ["m0_0", f"m{i}_0"]} for i in range(1, 12)]
    return read_drawing({"entities": entities, "constraints": constraints, "dimensions": sizes})


def _large() -> Iterator[tuple[str, str]]:
    rng = np.random.default_rng(22)
    drawing = _plate()
    chains = []
    for t in traces_of(drawing):
        places = t.place(rng.uniform(0, 1, 50_000 // 148))
        chains.append(places + rng.normal(0, 0.03, places.shape) + [0.2, -0.15])
    begun = time.perf_counter()
    found = adjusted(drawing, chains)
    took = time.perf_counter() - begun
    yield (
        f"{len(drawing.entities)} entities, {sum(len(c) for c in chains):,} places (wanted 1 s)",
        f"{took:.2f} s; diameter off by {abs(found.sizes[0].value - 6):.4f} mm, {found.left_out:,} left out",
    )
