"""Repeated readings: mean, standard and expanded uncertainty by the Guide to the expression of uncertainty in
measurement (JCGM 100:2008): type A from the takes (4.2), type B from resolution and error limit (4.3.7), k = 2 (6.2)."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from contour.recipe.evidence.reading import Instrument, Reading, Session, Take
from contour.recipe.formula import LENGTH_UNITS
from contour.recipe.recipe import Recipe

__all__ = [
    "COVERAGE",
    "MethodFacts",
    "ReadingFacts",
    "all_readings",
    "combined",
    "outliers",
    "reading_facts",
    "take_mm",
]

COVERAGE = 2.0
# How far from the median a take may lie, in spreads: of normal takes fewer than 1 in 1,000 lie farther.
_FAR = 3.5
# Two methods that lie farther apart than this many standard uncertainties are not measuring the same thing.
METHODS_APART = 2.5


@dataclass(frozen=True, slots=True)
class MethodFacts:
    """The takes of one way of measuring. `apart`: its mean less the other ways' mean, in units of their joint
    uncertainty; none when there is nothing to compare with."""

    method: str
    n: int
    mean: float
    u: float | None
    apart: float | None


@dataclass(frozen=True, slots=True)
class ReadingFacts:
    """mm, or degrees for an angle.

    n: takes that count · s: their standard deviation (none for one) · u: standard uncertainty of the mean (none when
    nothing tells it: one take and no instrument) · U95 = 2 u · type_a, resolution, limit: the parts of u · pooled:
    readings whose spread was used as well · each: the mean over the gaps of a span · outliers: places of takes that
    stand apart · agree: whether the ways of measuring do · unit: the one its takes were read in, none when they differ ·
    tolerance: plus or minus, as a drawing states it.
    """

    dimension: str
    n: int
    mean: float
    s: float | None
    u: float | None
    U95: float | None
    spread: float
    type_a: float | None
    resolution: float
    limit: float
    pooled: int
    each: float
    outliers: tuple[int, ...]
    methods: tuple[MethodFacts, ...]
    agree: bool
    instrument: str | None = None
    unit: str | None = None
    tolerance: float | None = None


def take_mm(take: Take, zero_mm: float = 0.0) -> float:
    """A take in mm (or degrees), less what the instrument showed when it was closed."""
    return take.value if take.unit == "deg" else take.value * LENGTH_UNITS[take.unit] - zero_mm


def _spread_of(values: Sequence[float]) -> float | None:
    n = len(values)
    if n < 2:
        return None
    mean = math.fsum(values) / n
    return math.sqrt(math.fsum((v - mean) ** 2 for v in values) / (n - 1))


def combined(
    values: Sequence[float], *, resolution: float = 0.0, limit: float = 0.0, pooled: tuple[float, int] | None = None
) -> tuple[float, float | None, float | None, float | None]:
    """(mean, s, type A, u) of takes.

    resolution, limit: of the instrument, taken as rectangular over their width. pooled: a spread known from more takes
    than these and its degrees of freedom (4.2.4): few takes tell their own spread badly.

    >>> mean, s, a, u = combined([12.03, 12.05, 12.04], resolution=0.01)
    >>> round(mean, 3), round(s, 4), round(u, 5)
    (12.04, 0.01, 0.00645)
    """
    n = len(values)
    mean = math.fsum(values) / n
    s = _spread_of(values)
    used = pooled[0] if pooled is not None and pooled[1] > n - 1 else s
    type_a = None if used is None else used / math.sqrt(n)
    if type_a is None and not resolution and not limit:
        return mean, s, None, None
    return mean, s, type_a, math.sqrt((type_a or 0.0) ** 2 + resolution**2 / 12 + limit**2 / 3)


def outliers(values: Sequence[float], *, resolution: float = 0.0, spread: float | None = None) -> tuple[int, ...]:
    """Places of takes that stand apart from the rest: farther from the median than 3.5 robust spreads.

    The spread is the median distance from the median (made comparable with s), or a known one, never less than half the
    resolution: takes that agree to the last digit do not make a neighbour digit an outlier.
    All in the unit of the values.
    """
    if len(values) < 3:
        return ()
    middle = _median(values)
    away = [abs(v - middle) for v in values]
    scale = max(1.4826 * _median(away), spread or 0.0, resolution / 2, 1e-9)
    return tuple(i for i, d in enumerate(away) if d > _FAR * scale)


def _median(values: Sequence[float]) -> float:
    v = sorted(values)
    k = len(v) // 2
    return v[k] if len(v) % 2 else (v[k - 1] + v[k]) / 2


def _ways(
    takes: Sequence[tuple[Take, float]], resolution: float, limit: float, pooled: tuple[float, int] | None
) -> tuple[MethodFacts, ...]:
    methods = list(dict.fromkeys(t.method for t, _ in takes))
    split = {m: [v for t, v in takes if t.method == m] for m in methods}
    known = {m: combined(v, resolution=resolution, limit=limit, pooled=pooled) for m, v in split.items()}
    out = []
    for m in methods:
        mean, _, _, u = known[m]
        rest = [v for o in methods if o != m for v in split[o]]
        apart = None
        if rest:
            other, _, _, u_other = combined(rest, resolution=resolution, limit=limit, pooled=pooled)
            joint = math.hypot(u or 0.0, u_other or 0.0)
            apart = (mean - other) / joint if joint > 0 else None
        out.append(MethodFacts(m, len(split[m]), mean, u, apart))
    return tuple(out)


def reading_facts(
    reading: Reading,
    *,
    sessions: Iterable[Session] = (),
    instruments: Iterable[Instrument] = (),
    pooled: dict[str, tuple[float, int, int]] | None = None,
) -> ReadingFacts | None:
    """What a reading says; none while no take counts. Takes in different units are brought to mm first.

    pooled: by instrument, the spread of all its readings, its degrees of freedom and how many readings gave it.
    """
    by_session = {s.id: s for s in sessions}
    by_id = {i.id: i for i in instruments}
    counted = [(k, t) for k, t in enumerate(reading.takes) if not t.struck]
    if not counted:
        return None
    units = {t.unit for _, t in counted}
    angle = counted[0][1].unit == "deg"
    tools = []
    values = []
    for _, t in counted:
        session = by_session.get(t.session or "")
        tools.append(by_id.get(session.instrument) if session else None)
        values.append(take_mm(t, session.zero_mm if session else 0.0))
    used = [t for t in tools if t is not None]
    resolution = max((t.resolution_mm for t in used), default=0.0)
    limit = max((t.limit_mm for t in used), default=0.0)
    if reading.tolerance_mm is not None:
        limit = max(limit, reading.tolerance_mm)
    if reading.u_mm is not None:
        limit = math.hypot(limit, reading.u_mm * math.sqrt(3))
    known = (pooled or {}).get(used[0].id) if used and not angle else None
    spread = (known[0], known[1]) if known else None
    mean, s, type_a, u = combined(values, resolution=resolution, limit=limit, pooled=spread)
    apart = outliers(values, resolution=resolution, spread=known[0] if known else None)
    methods = _ways([(t, v) for (_, t), v in zip(counted, values, strict=True)], resolution, 0.0, spread)
    return ReadingFacts(
        dimension="angle" if angle else "length",
        n=len(values),
        mean=mean,
        s=s,
        u=u,
        U95=None if u is None else COVERAGE * u,
        spread=max(values) - min(values),
        type_a=type_a,
        resolution=resolution / math.sqrt(12),
        limit=limit / math.sqrt(3),
        pooled=known[2] if known and known[1] > len(values) - 1 else 0,
        each=mean / reading.over,
        outliers=tuple(counted[i][0] for i in apart),
        methods=methods,
        agree=all(m.apart is None or abs(m.apart) <= METHODS_APART for m in methods),
        instrument=used[0].name if used else None,
        unit=units.pop() if len(units) == 1 else None,
        tolerance=reading.tolerance_mm,
    )


def _pooled(recipe: Recipe) -> dict[str, tuple[float, int, int]]:
    """By instrument: spread within its readings, degrees of freedom, readings. Takes that stand apart are left out."""
    session = {s.id: s for s in recipe.sessions}
    squares: dict[str, list[tuple[float, int]]] = {}
    for reading in recipe.readings:
        groups: dict[tuple[str, str], list[float]] = {}
        for t in reading.takes:
            if not t.struck and t.unit != "deg" and t.session in session:
                groups.setdefault((session[t.session].instrument, t.method), []).append(
                    take_mm(t, session[t.session].zero_mm)
                )
        for (tool, _), values in groups.items():
            far = outliers(values)
            kept = [v for i, v in enumerate(values) if i not in far]
            s = _spread_of(kept)
            if s is not None:
                squares.setdefault(tool, []).append((s * s * (len(kept) - 1), len(kept) - 1))
    out = {}
    for tool, rows in squares.items():
        freedom = sum(n for _, n in rows)
        out[tool] = (math.sqrt(math.fsum(q for q, _ in rows) / freedom), freedom, len(rows))
    return out


def all_readings(recipe: Recipe) -> dict[str, ReadingFacts]:
    """Facts of every reading that has takes, by id; readings with one instrument share what is known of its spread."""
    pooled = _pooled(recipe)
    found = {
        r.id: reading_facts(r, sessions=recipe.sessions, instruments=recipe.instruments, pooled=pooled)
        for r in recipe.readings
    }
    return {k: f for k, f in found.items() if f is not None}
