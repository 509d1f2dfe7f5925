"""Readings: does U95 hold what it says, is a forgotten zero noticed, do formulas agree with Monte Carlo, is the scale found."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from dataclasses import replace

import numpy as np

from contour.metrology.against import Pair, scale_check, zero_check
from contour.metrology.propagate import Input, propagated
from contour.metrology.reading import all_readings
from contour.recipe.evidence.reading import Instrument, Reading, Session, Take
from contour.recipe.recipe import Recipe
from contour.simulate.caliper import Caliper, measured

__all__ = ["run"]

SESSIONS = 1000
# (what, resolution, error limit, spread of the hand): from a good caliper in a steady hand to a worn one in a hurry.
DESKS = (
    ("limit as large as the spread", 0.01, 0.02, 0.020),
    ("spread larger than the limit", 0.01, 0.01, 0.020),
    ("limit larger than the spread", 0.01, 0.02, 0.012),
    ("coarse steps", 0.05, 0.05, 0.040),
)


def _session(
    rng: np.random.Generator, desk: tuple[str, float, float, float], zero: float
) -> tuple[Recipe, dict[str, float]]:
    """Five to eight readings of three to six takes: the job as typed, and the truth of each reading.

    The instrument is wrong by up to its limit, evenly; half the time alike for the whole session, else for each size.
    """
    _, resolution, limit, spread = desk
    tool = Instrument(id="tool", name="caliper", resolution_mm=resolution, limit_mm=limit)
    day = Session(id="day", name="day", instrument="tool", zero_mm=0.0)
    common = rng.uniform(-limit, limit)
    alike = rng.random(8) < 0.5
    truths, readings = {}, []
    for k in range(int(rng.integers(5, 9))):
        true = float(rng.uniform(4, 140))
        error = common if alike[k] else float(rng.uniform(-limit, limit))
        c = Caliper(
            resolution_mm=resolution, repeat_mm=spread, error_mm=error, zero_mm=zero, seed=int(rng.integers(1 << 30))
        )
        takes = []
        for _ in range(int(rng.integers(3, 7))):
            c = measured(c, true)
            takes.append(Take(value=round(c.shown_mm, 6), session="day"))
        truths[f"r{k}"] = true
        readings.append(Reading(id=f"r{k}", name=f"r{k}", takes=tuple(takes)))
    return Recipe(name="x", evidence=tuple(readings), instruments=(tool,), sessions=(day,)), truths


def _coverage() -> Iterator[tuple[str, str]]:
    rng = np.random.default_rng(5)
    held, total, few = [0] * len(DESKS), [0] * len(DESKS), [0, 0]
    for k in range(SESSIONS):
        # A zero that was noted when the session began is taken off; it is itself only known to the display's step.
        d = k % len(DESKS)
        zero = float(rng.choice([0.0, 0.03, -0.05]))
        job, truths = _session(rng, DESKS[d], zero)
        noted = round(zero / DESKS[d][1]) * DESKS[d][1]
        job = job.model_copy(update={"sessions": (job.sessions[0].model_copy(update={"zero_mm": noted}),)})
        for id, facts in all_readings(job).items():
            good = abs(facts.mean - truths[id]) <= (facts.U95 or 0.0)
            held[d] += good
            total[d] += 1
            if facts.n == 3:
                few[0] += good
                few[1] += 1
    yield (
        f"{SESSIONS:,} sessions, {sum(total):,} readings: truth inside U95 (wanted: 94 to 97 %)",
        f"{100 * sum(held) / sum(total):.1f} %",
    )
    for (name, *_), h, n in zip(DESKS, held, total, strict=True):
        yield f"  {name}", f"{100 * h / n:.1f} %"
    yield "  readings of three takes only", f"{100 * few[0] / few[1]:.1f} %"


def _zeros() -> Iterator[tuple[str, str]]:
    for planted in (0.0, 5.0, 8.0):
        rng = np.random.default_rng(int(planted) + 1)
        found = 0
        for k in range(SESSIONS):
            desk = DESKS[k % len(DESKS)]
            sign = rng.choice([-1.0, 1.0])
            job, truths = _session(rng, desk, sign * planted * desk[1])
            u_scan = float(rng.uniform(0.004, 0.015))
            pairs = []
            for id, f in all_readings(job).items():
                own = math.sqrt(max((f.u or 0.0) ** 2 - f.limit**2 / 2, 1e-12))
                pairs.append(Pair(id, f.mean, own, truths[id] + rng.normal(0, u_scan), u_scan))
            found += zero_check(pairs, resolution_mm=desk[1], limit_mm=desk[2]).suspected
        wanted = "at least 90 %" if planted else "at most 5 %"
        what = f"zero off by {planted:g} resolutions: suspected" if planted else "true zero: suspected all the same"
        yield f"{what} (wanted: {wanted})", f"{100 * found / SESSIONS:.1f} % of {SESSIONS:,} sessions"


def _formulas() -> Iterator[tuple[str, str]]:
    rng = np.random.default_rng(6)
    worst = 0.0
    for _ in range(40):
        size = rng.uniform(10, 90, 4)
        inputs = {
            n: Input(float(s), float(rng.uniform(0.004, 0.05)), float(rng.uniform(0, 0.03)), "tool")
            for n, s in zip("abcd", size, strict=True)
        }
        # The greater first, so that the root has something under it.
        big, small = max(size[:2]) + 5, min(size[:2])
        inputs |= {"a": replace(inputs["a"], value=float(big)), "b": replace(inputs["b"], value=float(small))}
        common = rng.normal(size=20_000)
        drawn = {
            n: i.value
            + i.own * rng.normal(size=20_000)
            + i.shared * (math.sqrt(0.5) * common + math.sqrt(0.5) * rng.normal(size=20_000))
            for n, i in inputs.items()
        }
        for f in (
            lambda v: (v["a"] - v["b"]) / 2,
            lambda v: v["a"] / 7 + v["c"],
            lambda v: v["a"] * v["b"] / v["d"],
            lambda v: (v["a"] ** 2 - v["b"] ** 2) ** 0.5,
            lambda v: v["a"] - v["a"] / 3 + v["d"],
        ):
            _, u = propagated(f, inputs)
            worst = max(worst, abs(u / float(np.std(f(_as_mapping(drawn)))) - 1))
    yield (
        "200 formulas against Monte Carlo of 20,000: worst difference of u (wanted: within 5 %)",
        f"{100 * worst:.1f} %",
    )


def _as_mapping(drawn: dict[str, np.ndarray]) -> Mapping[str, np.ndarray]:
    return drawn


def _scale() -> Iterator[tuple[str, str]]:
    rng = np.random.default_rng(7)
    inside = significant = 0
    for _ in range(SESSIONS):
        pairs = []
        for _ in range(4):
            size, u, u_scan = float(rng.uniform(8, 120)), 0.012, float(rng.uniform(0.004, 0.015))
            pairs.append(Pair("r", size + rng.normal(0, u), u, size * 1.003 + rng.normal(0, u_scan), u_scan))
        check = scale_check(pairs)
        inside += abs(check.scale - 0.003) <= 2 * check.u
        significant += check.significant
    yield (
        "scale of 0.3 % from four readings: within its U95, and found",
        f"{100 * inside / SESSIONS:.1f} %, {100 * significant / SESSIONS:.1f} % of {SESSIONS:,}",
    )


def run() -> Iterator[tuple[str, str]]:
    yield from _coverage()
    yield from _zeros()
    yield from _formulas()
    yield from _scale()
