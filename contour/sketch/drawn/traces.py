"""Entities of a drawing as parametrised curves over [0, 1], and where they meet."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from shapely import STRtree, linestrings, points

from contour.sketch.drawn.text import Drawing, Line, Point, Spline
from contour.sketch.drawn.unknowns import Unknowns

__all__ = ["Trace", "crossings", "foot", "sweep_deg", "trace_of", "traces_of", "traces_shown"]

Array = NDArray[np.float64]
_STEP_DEG = 4.0
_ROUNDS = 12
_MANY = 12  # chords: curves that cross meet in a few
_AT, _WEIGHT = np.polynomial.legendre.leggauss(12)
_SAGITTA = 0.05  # of a chord's length: more than any curve strays from what shows it


@dataclass(frozen=True, slots=True, eq=False)
class Trace:
    """place, slope: parameters (n,) in [0, 1] -> (n, 2), mm · closed: it ends where it begins · shown: parameters (k,) whose chords show
    it closely enough to find crossings by · nearest: places (n, 2) -> the parameters of the places nearest to them; none where these have to be
    searched for."""

    entity: str
    place: Callable[[Array], Array]
    slope: Callable[[Array], Array]
    closed: bool
    shown: Array
    nearest: Callable[[Array], Array] | None = None

    def area_under(self, first: float, last: float) -> float:
        """½ ∫ (x dy − y dx) from one parameter to another, mm²: Gauss-Legendre, over eight parts."""
        cuts = np.linspace(first, last, 9)
        t = np.concatenate([(a + b) / 2 + (b - a) / 2 * _AT for a, b in pairwise(cuts)])
        w = np.tile(_WEIGHT, 8) * (last - first) / 16
        p, d = self.place(t), self.slope(t)
        return 0.5 * float(np.sum(w * (p[:, 0] * d[:, 1] - p[:, 1] * d[:, 0])))


def sweep_deg(first: float, last: float) -> float:
    """The degrees from one direction counter-clockwise to another, in (0, 360]."""
    return 360 - (first - last) % 360


def traces_of(drawing: Drawing) -> list[Trace]:
    """One for each entity that can bound something: no points, no construction lines, nothing without length."""
    u = Unknowns(drawing)
    named = [n for n, e in drawing.entities.items() if not isinstance(e, Point) and not e.construction]
    found = [trace_of(u, n) for n in named]
    return [t for t in found if t is not None]


def traces_shown(drawing: Drawing) -> list[Trace]:
    """Of everything that is drawn and has a length, construction lines too."""
    u = Unknowns(drawing)
    found = [trace_of(u, n) for n, e in drawing.entities.items() if not isinstance(e, Point)]
    return [t for t in found if t is not None]


def trace_of(u: Unknowns, name: str) -> Trace | None:
    """The curve of one entity that is no point; none where it is drawn without any length."""
    e = u.drawing.entities[name]
    return _straight(u, name) if isinstance(e, Line) else _spline(u, name) if isinstance(e, Spline) else _round(u, name)


def _straight(u: Unknowns, name: str) -> Trace | None:
    a, b = (u.at(p) for p in u.ends(name))
    if np.linalg.norm(b - a) < 1e-9:
        return None
    d = b - a
    return Trace(
        name,
        lambda t: a + t[:, None] * d,
        lambda t: np.tile(d, (len(t), 1)),
        False,
        np.array([0.0, 1.0]),
        lambda p: np.clip((p - a) @ d / float(d @ d), 0.0, 1.0),
    )


def _spline(u: Unknowns, name: str) -> Trace | None:
    curve = u.curves[name]
    over = np.array([u.at(p) for p in curve.points])
    if np.ptp(over, axis=0).max() < 1e-9:
        return None
    begin, end = curve.span
    slopes = curve.basis.derivative()
    return Trace(
        name,
        lambda t: np.asarray(curve.basis(begin + t * (end - begin)) @ over),
        lambda t: np.asarray(slopes(begin + t * (end - begin)) @ over) * (end - begin),
        bool(np.linalg.norm(over[0] - over[-1]) < 1e-9) and curve.points[0] == curve.points[-1],
        np.linspace(0, 1, 24 * len(over) + 1),
    )


def _round(u: Unknowns, name: str) -> Trace | None:
    e = u.drawing.entities[name]
    assert not isinstance(e, Point | Line | Spline)
    m, minor = u.at(e.centre), u.start[u.sizes[name]]
    axis = u.at(e.major) - m if e.kind == "ellipse" else np.array([minor, 0.0])
    major = float(np.linalg.norm(axis))
    if major < 1e-9 or minor < 1e-9:
        return None
    frame = np.array([axis, [-axis[1] * minor / major, axis[0] * minor / major]])
    turns = (0.0, 360.0)
    ends = u.ends(name)
    if ends:
        local = [np.linalg.solve(frame.T, u.at(p) - m) for p in ends]
        a, b = (float(np.degrees(np.arctan2(q[1], q[0]))) for q in local)
        turns = (a, a + sweep_deg(a, b))
    first, span = np.radians(turns[0]), np.radians(turns[1] - turns[0])

    def place(t: Array) -> Array:
        s = first + t * span
        return np.asarray(m + np.cos(s)[:, None] * frame[0] + np.sin(s)[:, None] * frame[1])

    def slope(t: Array) -> Array:
        s = first + t * span
        return np.asarray((-np.sin(s)[:, None] * frame[0] + np.cos(s)[:, None] * frame[1]) * span)

    def nearest(p: Array) -> Array:
        away = p - m
        t = (np.arctan2(away[:, 1], away[:, 0]) - first) % (2 * np.pi) / span
        # Beyond an arc's end: the nearer of its two ends.
        return np.asarray(np.where(t <= 1.0, t, np.where(t < (1 + 2 * np.pi / span) / 2, 1.0, 0.0)))

    count = int(np.ceil((turns[1] - turns[0]) / _STEP_DEG)) + 1
    round_one = None if e.kind == "ellipse" else nearest
    return Trace(name, place, slope, not ends, np.linspace(0, 1, max(count, 3)), round_one)


def crossings(traces: list[Trace], tolerance: float) -> list[list[float]]:
    """For each trace the parameters at which another one (or itself) crosses it, or ends on it, within a tolerance in mm."""
    owner = np.concatenate([np.full(len(t.shown) - 1, k) for k, t in enumerate(traces)])
    first = np.concatenate([t.shown[:-1] for t in traces])
    last = np.concatenate([t.shown[1:] for t in traces])
    chords = np.concatenate([np.stack([p[:-1], p[1:]], axis=1) for p in (t.place(t.shown) for t in traces)])
    cuts: list[list[float]] = [[] for _ in traces]
    lines = linestrings(chords)
    pairs = STRtree(lines).query(lines, predicate="intersects").T
    pairs = pairs[pairs[:, 0] < pairs[:, 1]]
    over = _lying_over(traces, owner[pairs], tolerance)
    for i, j in pairs:
        a, b = int(owner[i]), int(owner[j])
        if (a, b) in over:
            continue
        if a == b and (
            abs(int(i) - int(j)) == 1 or (traces[a].closed and {first[i], first[j]} == {0.0, first[owner == a][-1]})
        ):
            continue  # neighbours of one curve share a corner
        ta, tb = _refined(traces[a], traces[b], (first[i] + last[i]) / 2, (first[j] + last[j]) / 2)
        if ta is not None and tb is not None and not (a == b and abs(ta - tb) < 1e-6):
            cuts[a].append(ta)
            cuts[b].append(tb)
    _ends_on(traces, tolerance, cuts, chords, owner)
    return cuts


def _lying_over(traces: list[Trace], pairs: NDArray[np.int64], tolerance: float) -> set[tuple[int, int]]:
    """Of pairs of traces (n, 2) that meet in many chords, those of which one lies on the other all along: they cross nowhere, whatever their
    chords do."""
    met, count = np.unique(pairs, axis=0, return_counts=True)
    found: set[tuple[int, int]] = set()
    for a, b in met[(count > _MANY) & (met[:, 0] != met[:, 1])]:
        for one, other in ((traces[a], traces[b]), (traces[b], traces[a])):
            places = one.place(np.linspace(0.0, 1.0, 5))
            feet = [other.place(np.array([foot(other, p)]))[0] for p in places]
            if float(np.linalg.norm(places - feet, axis=1).max()) <= tolerance:
                found.add((int(a), int(b)))
                break
    return found


def _refined(a: Trace, b: Trace, s: float, t: float) -> tuple[float | None, float | None]:
    """Newton on a(s) = b(t)."""
    for _ in range(_ROUNDS):
        S, T = np.array([s]), np.array([t])
        gap = (a.place(S) - b.place(T))[0]
        M = np.column_stack([a.slope(S)[0], -b.slope(T)[0]])
        if abs(np.linalg.det(M)) < 1e-12 * np.linalg.norm(M[:, 0]) * np.linalg.norm(M[:, 1]):
            return None, None
        ds, dt = np.linalg.solve(M, -gap)
        s, t = float(np.clip(s + ds, 0, 1)), float(np.clip(t + dt, 0, 1))
    S, T = np.array([s]), np.array([t])
    scale = float(np.linalg.norm(a.slope(S)[0]) + np.linalg.norm(b.slope(T)[0]))
    return (s, t) if np.linalg.norm((a.place(S) - b.place(T))[0]) < 1e-9 * max(scale, 1.0) else (None, None)


def _ends_on(
    traces: list[Trace], tolerance: float, cuts: list[list[float]], chords: Array, owner: NDArray[np.int64]
) -> None:
    """Adds to `cuts` where an end of one trace lies on another. chords (n, 2, 2) of traces by owner (n,)."""
    ending = [k for k, t in enumerate(traces) if not t.closed]
    if not ending:
        return
    tips = np.concatenate([traces[k].place(np.array([0.0, 1.0])) for k in ending])
    long = np.linalg.norm(chords[:, 1] - chords[:, 0], axis=1)
    curved = np.array([len(t.shown) > 2 for t in traces])[owner]
    near = tolerance + np.where(curved, _SAGITTA * long, 0.0)
    tree = STRtree(points(tips))
    chord, tip = tree.query(linestrings(chords), predicate="dwithin", distance=near)
    for k, i in {(int(owner[c]), int(t)) for c, t in zip(chord, tip, strict=True)}:
        if ending[i // 2] == k:
            continue
        at = foot(traces[k], tips[i])
        if np.linalg.norm(traces[k].place(np.array([at]))[0] - tips[i]) <= tolerance:
            cuts[k].append(at)


def foot(trace: Trace, point: Array) -> float:
    """The parameter nearest to a point: from the nearest shown chord, by Gauss-Newton."""
    p = trace.place(trace.shown)
    d = p[1:] - p[:-1]
    along = np.clip(np.einsum("nd,nd->n", point - p[:-1], d) / np.maximum((d**2).sum(axis=1), 1e-300), 0, 1)
    k = int(np.linalg.norm(p[:-1] + along[:, None] * d - point, axis=1).argmin())
    t = float(trace.shown[k] + along[k] * (trace.shown[k + 1] - trace.shown[k]))
    for _ in range(_ROUNDS):
        T = np.array([t])
        s = trace.slope(T)[0]
        t = float(np.clip(t + s @ (point - trace.place(T)[0]) / max(float(s @ s), 1e-300), 0, 1))
    return t
