"""What a value could be: as the scan says, as readings say, as other values say, and rounded. Side by side, to choose."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from contour.job.build.result import BuildResult
from contour.metrology.reading import all_readings
from contour.products.place import PlaceFigures
from contour.products.region import RegionFacts
from contour.recipe.formula import LENGTH_UNITS, Mark, format_length
from contour.recipe.naming import slug
from contour.recipe.recipe import Recipe

__all__ = ["Candidate", "candidates_for"]

Array = NDArray[np.float64]
_MOST = 4


@dataclass(frozen=True, slots=True)
class Candidate:
    """`text` is what the value would become; value and `u` (standard uncertainty, none: unknown) in mm or degrees."""

    label: str
    text: str
    mark: Mark
    note: str
    value: float
    u: float | None


def _along(
    recipe: Recipe, result: BuildResult, kind: str, params: dict[str, Any], place: str, sketch: Callable[[str], Any]
) -> tuple[Array, Array] | None:
    """Where the value is measured from, and which way."""
    states = {s.id: s for s in result.steps}
    if kind == "extrude" and place in ("distance", "back"):
        state = states.get(str((params.get("sketch") or {}).get("id")))
        if state is None or state.key is None:
            return None
        frame = sketch(state.key).frame
        return frame.origin, frame.normal * (-1.0 if place == "back" else 1.0)
    if place == "offset":
        state = states.get(str((params.get("plane") or {}).get("id")))
        found = state.facts if state is not None else None
        if isinstance(found, PlaceFigures) and found.shape == "plane":
            return np.array(found.origin), np.array(found.direction)
        if isinstance(found, RegionFacts) and found.kind == "plane":
            return np.array(found.origin), np.array(found.axis)
    return None


def _of_scan(result: BuildResult, origin: Array, way: Array, unit: Any, own: str | None) -> list[Candidate]:
    """Distances to the plane regions that lie square to the way."""
    out = []
    for state in result.steps:
        facts = state.facts
        if state.id == own or state.status != "ok" or not isinstance(facts, RegionFacts) or facts.kind != "plane":
            continue
        if abs(float(np.array(facts.axis) @ way)) < math.cos(math.radians(2)):
            continue
        mm = float((np.array(facts.middle) - origin) @ way)
        if abs(mm) < 1e-6:
            continue
        note = f"to the region '{state.name}', {facts.facets:,} facets, rms {format_length(facts.rms, unit)}"
        out.append(Candidate(f"to {state.name}", format_length(mm, unit), "scan", note, mm, facts.u))
    return out


def _pointed_to(said: Any) -> set[str]:
    """Ids of all steps that parameters refer to."""
    if isinstance(said, dict):
        own = {said["id"]} if isinstance(said.get("id"), str) else set()
        return own.union(*map(_pointed_to, said.values()))
    return set().union(*map(_pointed_to, said)) if isinstance(said, list | tuple) else set()


def _diameters(result: BuildResult, unit: Any, only: set[str] | None = None) -> list[Candidate]:
    """Diameters of the cylinder regions (of some of them), as formulas that follow them."""
    out = []
    for state in result.steps:
        facts = state.facts
        if (
            state.status == "ok"
            and (only is None or state.id in only)
            and isinstance(facts, RegionFacts)
            and facts.kind == "cylinder"
            and facts.diameter is not None
        ):
            d, u = facts.diameter, facts.u
            note = f"the region '{state.name}', {facts.facets:,} facets, rms {format_length(facts.rms, unit)}"
            text = f"{slug(state.name)}.diameter"
            out.append(Candidate(f"Ø of {state.name}", text, "scan", note, d, None if u is None else 2 * u))
    return out


def _readings(recipe: Recipe, dimension: str) -> list[Candidate]:
    out = []
    known = all_readings(recipe)
    for reading in recipe.readings:
        facts = known.get(reading.id)
        if facts is not None and facts.dimension == dimension:
            note = f"the reading {reading.name}, {facts.n} {'take' if facts.n == 1 else 'takes'}"
            out.append(Candidate(reading.name, reading.name, reading.source, note, facts.mean, facts.u))
    return out


def _rounded(source: Candidate, unit: Any, acceptance: float) -> Candidate | None:
    """The roundest figure that the source does not speak against: within 3 u of it, and within the acceptance."""
    within = min(max(3 * (source.u or 0.0), 0.02), acceptance)
    steps = (1.0, 0.5, 0.25, 1 / 8, 1 / 16, 1 / 32, 0.01) if unit == "inch" else (10.0, 5.0, 1.0, 0.5, 0.1, 0.05)
    size = LENGTH_UNITS[unit]
    for step in steps:
        mm = round(source.value / (step * size)) * step * size
        if mm and abs(mm - source.value) <= within:
            text = f"{mm / size:.6g} {unit}"
            off = format_length(mm - source.value, unit)
            return Candidate(text, text, "intent", f"rounded, {off} from {source.label}", mm, None)
    return None


def candidates_for(
    recipe: Recipe,
    result: BuildResult,
    *,
    kind: str | None,
    params: dict[str, Any],
    place: str,
    value: float | None,
    sketch: Callable[[str], Any],
    dimension: str = "length",
    own: str | None = None,
) -> list[Candidate]:
    """Candidates for the value at a place of a step's parameters (kind none: for a named value), best first.

    `value` is what it is now, in mm or degrees; `sketch` loads a sketch product by its key. Candidates far from the
    present value are left out, unless there is none yet, or they are of what the step stands on.
    """
    if dimension != "length" or place == "tolerance":
        return _readings(recipe, dimension)[:_MOST] if dimension == "angle" else []
    unit = recipe.unit
    seen: list[Candidate] = []
    along = _along(recipe, result, kind, params, place, sketch) if kind else None
    if along is not None:
        seen += _of_scan(result, *along, unit, own)
    if kind is None:
        seen += _diameters(result, unit)
    # What it stands on is meant, however far from the figure that a step begins with.
    stands_on = _diameters(result, unit, _pointed_to(params)) if kind and place == "diameter" else []
    readings = _readings(recipe, "length")
    now = value

    def away(c: Candidate) -> float:
        return abs(c.value - now) if now is not None else 0.0

    def near(c: Candidate, share: float) -> bool:
        return now is None or away(c) <= max(share * abs(now), 2.0)

    scans = [*stands_on[:2], *sorted((c for c in seen if near(c, 0.5)), key=away)][:3]
    typed = sorted((c for c in readings if near(c, 0.25)), key=away)[:3]
    round_ones: list[Candidate] = []
    for source in [*typed, *scans] or (
        [Candidate("what is typed", "", "assumed", "", now, None)] if now is not None else []
    ):
        rounded = _rounded(source, unit, recipe.acceptance_mm)
        if rounded is not None and all(abs(rounded.value - r.value) > 1e-9 for r in round_ones):
            round_ones.append(rounded)
    same = [
        Candidate(v.name, v.name, state.mark or "assumed", "the same figure under a name", state.value, None)  # type: ignore[arg-type]
        for v in recipe.values
        if (state := result.values.get(v.id))
        and (state.length, state.angle) == (1, 0)
        and now is not None
        and abs(state.value - now) <= recipe.acceptance_mm
        and v.name != own
    ]
    return [*scans, *typed, *round_ones[:2], *same[:2]]
