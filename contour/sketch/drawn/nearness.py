"""How measured places lie to what is drawn: which entity each belongs to, how far off it is, and how that changes with the drawing."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from contour.outline.ellipses import nearest_on_ellipse
from contour.sketch.drawn.text import Drawing, Ellipse, Line, Point, Spline
from contour.sketch.drawn.traces import Trace, trace_of
from contour.sketch.drawn.unknowns import Unknowns

__all__ = ["Belonging", "belonging", "off"]

Array = NDArray[np.float64]
_MOST_SAMPLES = 400  # along one entity
_SHORTEST = 0.25  # of a piece at each end: no corner is taken to reach further
_SMOOTH_DEG = 12.0  # ends that turn by less have no corner


@dataclass(frozen=True, slots=True, eq=False)
class Belonging:
    """names: entities that bound something · owner (n,): which of them each place belongs to, -1 where none is near · inner (n,): not next to a corner,
    where a worn or softened edge says nothing of the piece · foot (n, 2), mm."""

    names: tuple[str, ...]
    owner: NDArray[np.int64]
    inner: NDArray[np.bool_]
    foot: Array


def belonging(drawing: Drawing, points: Array, reach: float) -> Belonging:
    """The entity that each place (n, 2) lies next to, within reach (mm)."""
    u = Unknowns(drawing)
    traces = [
        t
        for n, e in drawing.entities.items()
        if not isinstance(e, Point) and not e.construction and (t := trace_of(u, n)) is not None
    ]
    if not traces or not len(points):
        none = np.full(len(points), -1, np.int64)
        return Belonging(tuple(t.entity for t in traces), none, none >= 0, np.array(points))
    spacing = max(_extent(points) / 2000, 1e-6)
    samples, whose, at = [], [], []
    for k, t in enumerate(traces):
        shown = t.place(t.shown)
        long = float(np.linalg.norm(np.diff(shown, axis=0), axis=1).sum())
        count = int(np.clip(long / spacing, 8, _MOST_SAMPLES)) + 1
        s = np.linspace(0, 1, count)
        samples.append(t.place(s))
        whose.append(np.full(count, k))
        at.append(s)
    every, owners, ts = np.vstack(samples), np.concatenate(whose), np.concatenate(at)
    away, near = cKDTree(every).query(points)
    owner = owners[near].astype(np.int64)
    feet, margin_ok = np.array(points), np.zeros(len(points), np.bool_)
    soft = _softness(drawing, traces, points)
    for k, t in enumerate(traces):
        own = np.flatnonzero(owner == k)
        if not len(own):
            continue
        s = _feet(t, points[own], ts[near[own]])
        feet[own] = t.place(s)
        away[own] = np.linalg.norm(points[own] - feet[own], axis=1)
        margin_ok[own] = _inside(t, s, soft.get(t.entity, (0.0, 0.0)))
    owner[away > reach] = -1
    return Belonging(tuple(t.entity for t in traces), owner, margin_ok & (owner >= 0), feet)


def _extent(points: Array) -> float:
    return float(np.ptp(points, axis=0).max()) if len(points) else 0.0


def _feet(trace: Trace, points: Array, t: Array) -> Array:
    """Parameters (n,) of the nearest places on a curve: by Gauss-Newton from near ones where it has no closed form."""
    if trace.nearest is not None:
        return trace.nearest(points)
    for _ in range(6):
        slope = trace.slope(t)
        gap = points - trace.place(t)
        step = np.einsum("nd,nd->n", slope, gap) / np.maximum(np.einsum("nd,nd->n", slope, slope), 1e-300)
        t = t + step if trace.closed else np.clip(t + step, 0.0, 1.0)
        if float(np.abs(step).max()) < 1e-5:
            break
    return t % 1.0 if trace.closed else t


def _inside(trace: Trace, t: Array, soft: tuple[float, float]) -> NDArray[np.bool_]:
    if trace.closed:
        return np.ones(len(t), np.bool_)
    shown = trace.place(trace.shown)
    long = max(float(np.linalg.norm(np.diff(shown, axis=0), axis=1).sum()), 1e-12)
    first, last = (min(s / long, _SHORTEST) for s in soft)
    return np.asarray((t > max(first, 1e-9)) & (t < 1 - max(last, 1e-9)))


def _softness(drawing: Drawing, traces: Sequence[Trace], points: Array) -> dict[str, tuple[float, float]]:
    """How far a softened corner reaches into each piece at its two ends, mm: a rounding that leaves a corner uncovered by h touches its
    sides at ``h cos(a) / (1 - sin(a))`` from it, a half the angle between them."""
    tips: dict[tuple[float, float], list[tuple[str, int, Array]]] = {}
    for t in traces:
        if t.closed:
            continue
        ends, slopes = t.place(np.array([0.0, 1.0])), t.slope(np.array([0.0, 1.0]))
        for k in (0, 1):
            out = slopes[k] * (1 if k == 0 else -1)
            way = out / max(float(np.linalg.norm(out)), 1e-12)
            tips.setdefault((round(float(ends[k][0]), 6), round(float(ends[k][1]), 6)), []).append((t.entity, k, way))
    tree = cKDTree(points)
    found: dict[str, list[float]] = {t.entity: [0.0, 0.0] for t in traces}
    for at, met in tips.items():
        bare = float(tree.query(at)[0])
        for name, k, way in met:
            sharpest = max((float(way @ other) for n, j, other in met if (n, j) != (name, k)), default=-1.0)
            if sharpest < -np.cos(np.radians(_SMOOTH_DEG)):
                continue
            half = float(np.arccos(np.clip(sharpest, -1, 1))) / 2
            found[name][k] = 1.3 * bare * np.cos(half) / max(1 - np.sin(half), 1e-3)
    return {n: (a, b) for n, (a, b) in found.items()}


def off(u: Unknowns, x: Array, name: str, points: Array) -> tuple[Array, list[int], Array]:
    """(distances (n,) of places (n, 2) from an entity that goes on past its ends, + to the left of it or outside of it, mm; slots (k,) of the
    unknowns that it hangs on; derivatives (n, k)), at x."""
    e = u.drawing.entities[name]
    if isinstance(e, Line):
        slots = [*u.points[e.start], *u.points[e.end]]
        a, b = x[slots[:2]], x[slots[2:]]
        d = b - a
        long = max(float(np.linalg.norm(d)), 1e-12)
        n = np.array([-d[1], d[0]]) / long
        along = ((points - a) @ d / long**2)[:, None]
        return (points - a) @ n, slots, np.hstack([-(1 - along) * n, -along * n])
    if isinstance(e, Ellipse):
        return _off_ellipse(u, x, name, e, points)
    if isinstance(e, Spline):
        return _off_spline(u, x, name, points)
    assert not isinstance(e, Point)
    slots = [*u.points[e.centre], u.sizes[name]]
    away = points - x[slots[:2]]
    far = np.maximum(np.linalg.norm(away, axis=1), 1e-12)
    return far - x[slots[2]], slots, np.hstack([-away / far[:, None], np.full((len(points), 1), -1.0)])


def _off_ellipse(u: Unknowns, x: Array, name: str, e: Ellipse, points: Array) -> tuple[Array, list[int], Array]:
    slots = [*u.points[e.centre], *u.points[e.major], u.sizes[name]]
    m, tip, minor = x[slots[:2]], x[slots[2:4]], float(x[slots[4]])
    axis = tip - m
    major = max(float(np.linalg.norm(axis)), 1e-12)
    feet, gap = nearest_on_ellipse((m[0], m[1], major, minor, float(np.arctan2(axis[1], axis[0]))), points)
    across = np.array([-axis[1], axis[0]]) / major
    local = feet - m
    c, s = local @ axis / major**2, local @ across / minor
    n = (local @ axis)[:, None] * axis / major**4 + (local @ across)[:, None] * across / minor**2
    n = n / np.maximum(np.linalg.norm(n, axis=1, keepdims=True), 1e-12)
    # foot = m + c (tip - m) + s minor across; across turns with the axis.
    turn = np.array([[0.0, -1.0], [1.0, 0.0]])
    bend = turn / major - np.outer(turn @ axis, axis) / major**3
    by_tip = c[:, None] * n + (s * minor)[:, None] * (n @ bend)
    return gap, slots, np.hstack([-(n - by_tip), -by_tip, -(s * (n @ across))[:, None]])


def _off_spline(u: Unknowns, x: Array, name: str, points: Array) -> tuple[Array, list[int], Array]:
    curve = u.curves[name]
    slots = [s for p in curve.points for s in u.points[p]]
    over = x[slots].reshape(-1, 2)
    low, high = curve.span
    ts = np.linspace(low, high, max(16 * len(over), 64))
    t = ts[cKDTree(curve.basis(ts) @ over).query(points)[1]]
    for _ in range(6):
        way = curve.basis(t, nu=1) @ over
        gap = points - curve.basis(t) @ over
        t = np.clip(t + (way * gap).sum(axis=1) / np.maximum((way**2).sum(axis=1), 1e-300), low, high)
    weights, way = curve.basis(t), curve.basis(t, nu=1) @ over
    n = np.stack([-way[:, 1], way[:, 0]], axis=1) / np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-12)
    gap = points - weights @ over
    return (gap * n).sum(axis=1), slots, -(weights[:, :, None] * n[:, None, :]).reshape(len(points), -1)
