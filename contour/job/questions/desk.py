"""What the caliper desk says beside the takes: readings against the scan, sessions whose zero is in doubt, the scan's
scale, standards that a figure may stand for, and what a made part says of its making."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from contour.job.build.result import BuildResult
from contour.metrology.against import Pair, ScaleCheck, ZeroCheck, scale_check, zero_check
from contour.metrology.beside import Figure, SizeBeside, beside, grouped
from contour.metrology.reading import ReadingFacts, all_readings
from contour.metrology.standards.drills import nearest_drills, preferred_near
from contour.metrology.standards.limits import COMMON_HOLES, COMMON_SHAFTS, limits_of
from contour.products.region import RegionFacts
from contour.recipe.evidence.reading import Reading
from contour.recipe.formula import LENGTH_UNITS
from contour.recipe.problem import ContourError
from contour.recipe.recipe import Recipe

__all__ = ["AgainstScan", "DeskFacts", "SessionDoubt", "StandardNear", "desk_facts", "standards_near"]


@dataclass(frozen=True, slots=True)
class AgainstScan:
    """A reading beside what the scan says, mm; `away`: reading less scan in units of their joint uncertainty."""

    reading: str
    scan: float
    u_scan: float
    difference: float
    away: float
    what: str


@dataclass(frozen=True, slots=True)
class SessionDoubt:
    """A session whose readings have been held against the scan."""

    session: str
    check: ZeroCheck
    readings: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class StandardNear:
    """A figure of a standard near a reading: `away` is reading less standard in units of the reading's uncertainty."""

    label: str
    value: float
    text: str
    difference: float
    away: float | None


@dataclass(frozen=True, slots=True)
class DeskFacts:
    against: tuple[AgainstScan, ...]
    sessions: tuple[SessionDoubt, ...]
    scale: ScaleCheck | None
    sizes: tuple[SizeBeside, ...]


def _feature(
    reading: Reading, states: Mapping[str, RegionFacts], names: Mapping[str, str]
) -> tuple[float, float, str] | None:
    """(mm, standard uncertainty, what) of what a reading is tied to on the scan; none while the scan cannot say."""
    if reading.feature is None:
        return None
    ids = reading.feature.regions
    facts = [states[i] for i in ids if i in states]
    kinds = [f.kind for f in facts]
    if len(facts) < len(ids):
        return None
    if len(ids) == 1 and kinds == ["cylinder"]:
        return facts[0].diameter or 0.0, 2 * (facts[0].u or 0.0), f"Ø of {names[ids[0]]}"
    if len(ids) == 2 and kinds == ["plane", "plane"]:
        a, b = (np.array(f.axis) for f in facts)
        if abs(float(a @ b)) < np.cos(np.radians(3)):
            return None
        gap = np.array(facts[1].middle) - np.array(facts[0].middle)
        u = float(np.hypot(facts[0].u or 0.0, facts[1].u or 0.0))
        return abs(float(gap @ a)), u, f"{names[ids[0]]} to {names[ids[1]]}"
    if len(ids) == 2 and kinds == ["cylinder", "cylinder"]:
        axis = np.array(facts[0].axis)
        gap = np.array(facts[1].origin) - np.array(facts[0].origin)
        apart = float(np.linalg.norm(gap - (gap @ axis) * axis))
        u = float(np.hypot(facts[0].u or 0.0, facts[1].u or 0.0))
        return apart, u, f"axis of {names[ids[0]]} to axis of {names[ids[1]]}"
    return None


def _session_of(reading: Reading) -> str | None:
    """The one session that all takes which count were made in."""
    found = {t.session for t in reading.takes if not t.struck}
    return found.pop() if len(found) == 1 else None


def _same_size(a: Reading, b: Reading) -> bool:
    """Two readings of one size: said so, or tied to the same regions."""
    tied = a.feature is not None and b.feature is not None and set(a.feature.regions) == set(b.feature.regions)
    return tied or a.same_as == b.id or b.same_as == a.id


def _sizes(recipe: Recipe, facts: Mapping[str, ReadingFacts], scan: Mapping[str, Figure]) -> tuple[SizeBeside, ...]:
    """Sizes that more than one source tells; `scan`: what the scan says, by reading."""
    out = []
    for group in grouped([r for r in recipe.readings if r.id in facts], _same_size):
        figures = [Figure(r.source, r.name, facts[r.id].mean, facts[r.id].u, r.tolerance_mm) for r in group]
        figures += list({scan[r.id].name: scan[r.id] for r in group if r.id in scan}.values())
        if len(figures) > 1 and len({facts[r.id].dimension for r in group}) == 1:
            out.append(beside(figures))
    return tuple(out)


def desk_facts(recipe: Recipe, result: BuildResult) -> DeskFacts:
    """Readings tied to regions of the scan, held against the last build's fits."""
    states = {s.id: s.facts for s in result.steps if s.status == "ok" and isinstance(s.facts, RegionFacts)}
    names = {s.id: s.name for s in recipe.steps}
    facts = all_readings(recipe)
    against: list[AgainstScan] = []
    pairs: dict[str, Pair] = {}
    scanned: dict[str, Figure] = {}
    for reading in recipe.readings:
        f = facts.get(reading.id)
        found = _feature(reading, states, names)
        if f is None or found is None or f.dimension != "length":
            continue
        value, u, what = found
        scanned[reading.id] = Figure("scan", what, value, max(u, 1e-4))
        # Between sessions' zeros and a scan the error limit is common to the session: it is put in there.
        own = float(np.sqrt(max((f.u or 0.0) ** 2 - f.limit**2 / 2, 1e-12)))
        joint = float(np.hypot(f.u or 0.0, u))
        pairs[reading.id] = Pair(
            reading.name, f.mean, own, value, max(u, 1e-4), reading.measures in ("inside", "depth")
        )
        away = (f.mean - value) / joint if joint > 0 else 0.0
        against.append(AgainstScan(reading.id, value, u, f.mean - value, away, what))
    doubts = []
    tools = {i.id: i for i in recipe.instruments}
    for session in recipe.sessions:
        mine = [r for r in recipe.readings if r.id in pairs and _session_of(r) == session.id]
        tool = tools.get(session.instrument)
        try:
            check = zero_check(
                [pairs[r.id] for r in mine],
                resolution_mm=tool.resolution_mm if tool else 0.01,
                limit_mm=tool.limit_mm if tool else 0.0,
            )
        except ContourError:
            continue  # too few to say anything: the desk asks for more
        doubts.append(SessionDoubt(session.id, check, tuple(r.name for r in mine)))
    scale = scale_check(list(pairs.values())) if len(pairs) >= 2 else None
    return DeskFacts(tuple(against), tuple(doubts), scale, _sizes(recipe, facts, scanned))


def standards_near(recipe: Recipe, reading: Reading, facts: ReadingFacts) -> list[StandardNear]:
    """Drills, preferred and round sizes, and ISO 286 classes that a reading may have been meant as, nearest first of each
    kind; a class is nearest when the reading lies inside its limits, in the middle of them."""
    mm, u = facts.mean, facts.u
    if facts.dimension != "length" or mm <= 0:
        return []
    inch = recipe.unit == "inch" or (bool(reading.takes) and reading.takes[-1].unit == "inch")

    def near(label: str, value: float, text: str, off: float | None = None) -> StandardNear:
        difference = mm - value if off is None else off
        return StandardNear(label, value, text, difference, None if not u else difference / u)

    out = []
    if reading.measures in ("inside", "other"):
        drill = nearest_drills(mm, system="inch" if inch else "metric", count=1)[0]
        out.append(near(f"drill {drill.name}", drill.diameter, f"{drill.diameter:.6g} mm"))
    size = LENGTH_UNITS["inch"] if inch else 1.0
    term, series = preferred_near(mm / size)
    if abs(term * size - mm) < 0.005 * mm:  # farther off, somebody meant another figure
        out.append(near(f"preferred number {series}", term * size, f"{term:g} {'inch' if inch else 'mm'}"))
    step = 25.4 / 16 if inch else (1.0 if mm >= 6 else 0.5)
    nominal = round(mm / step) * step
    if reading.measures in ("inside", "outside") and 0 < nominal <= 500 and not inch:
        classes = COMMON_HOLES if reading.measures == "inside" else COMMON_SHAFTS
        rows = []
        for name in classes:
            try:
                limits = limits_of(nominal, name)
            except ContourError:
                continue  # the standard leaves this class empty at this size
            off = max(mm - limits.greatest, 0.0) + min(mm - limits.least, 0.0)
            rows.append((abs(off), limits.upper - limits.lower, limits, off))
        rows.sort(key=lambda r: (round(r[0], 6), r[1]))
        out += [
            near(f"{lim.nominal:g} {lim.tolerance_class}", lim.middle, f"{lim.nominal:g} mm", off)
            for _, _, lim, off in rows[:3]
        ]
    return sorted(out, key=lambda s: abs(s.difference))
