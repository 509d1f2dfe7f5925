"""Pieces that are trimmed to what crosses them, extended to what lies ahead, or split."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from contour.outline.arcs import circle_through
from contour.recipe.problem import ContourError, Where
from contour.sketch.drawn.acts.pen import Act, Pen
from contour.sketch.drawn.text import Arc, Circle, Drawing, Ellipse, Finite, Line, Spline
from contour.sketch.drawn.traces import Trace, crossings, foot, traces_shown

__all__ = ["Cutting", "cut"]

Array = NDArray[np.float64]
_JOIN_MM = 1e-6
_FAR = 20.0  # sizes of the drawing that a line is looked along
_PER_SPAN = 6  # points of what is left of a spline, for each of its own
# What speaks of a whole piece, and not of where it runs.
_OF_WHOLE = ("length", "arc-length", "midpoint", "equal", "symmetric")


class Trim(Act):
    """The stretch of a piece that was pointed at, up to what crosses it on either side, is taken away."""

    act: Literal["trim"]
    entity: str
    at: tuple[Finite, Finite]


class Extend(Act):
    """The end that is nearer to where it was pointed at goes on to the next piece ahead."""

    act: Literal["extend"]
    entity: str
    at: tuple[Finite, Finite]


class Split(Act):
    """In two where it was pointed at; a closed one there and across from there."""

    act: Literal["split"]
    entity: str
    at: tuple[Finite, Finite]


class Meet(Act):
    """Two lines or arcs are cut or go on to where they meet, and share a corner there from then on. at: near that corner, where they could meet in
    several."""

    act: Literal["meet"]
    of: tuple[str, str]
    at: tuple[Finite, Finite] | None = None


Cutting = Annotated[Trim | Extend | Split | Meet, Field(discriminator="act")]


def cut(pen: Pen, cutting: Cutting) -> None:
    """Raises ContourError (ref-lost, wrong-kind, no-match) where there is nothing to cut or to meet."""
    if isinstance(cutting, Meet):
        _meet(pen, cutting)
        return
    pen.entity(cutting.entity, Line, Circle, Arc, Ellipse, Spline)
    match cutting:
        case Trim():
            _trim(pen, cutting)
        case Extend():
            _extend(pen, cutting)
        case Split():
            _split(pen, cutting)


def _traces(pen: Pen) -> list[Trace]:
    return traces_shown(pen.drawing())


def _own(pen: Pen, traces: list[Trace], name: str) -> int:
    k = next((k for k, t in enumerate(traces) if t.entity == name), None)
    if k is None:
        raise ContourError(
            "wrong-kind",
            f"{name} has no length",
            where=Where(entity=name),
            got="a piece drawn in one place",
            need="a piece of some length",
            remedy="remove it",
        )
    return k


def _cuts(traces: list[Trace], k: int) -> list[tuple[float, str]]:
    """Where other pieces meet the k-th: its parameter there, and which piece; ends of its own left out."""
    out = []
    for j, other in enumerate(traces):
        if j == k:
            continue
        ours, _ = crossings([traces[k], other], _JOIN_MM)
        out += [(t, other.entity) for t in ours if traces[k].closed or 1e-7 < t < 1 - 1e-7]
    out.sort()
    return [c for i, c in enumerate(out) if i == 0 or c[0] - out[i - 1][0] > 1e-7]


def _trim(pen: Pen, c: Trim) -> None:
    traces = _traces(pen)
    k = _own(pen, traces, c.entity)
    t = foot(traces[k], np.array(c.at))
    cuts = _cuts(traces, k)
    if not cuts or (traces[k].closed and len(cuts) < 2):
        pen.remove([c.entity])
        return
    for kind in _OF_WHOLE:
        pen.forget([kind], c.entity)
    below = [x for x in cuts if x[0] <= t]
    above = [x for x in cuts if x[0] > t]
    if traces[k].closed:
        _open(pen, c.entity, traces[k], above[0] if above else cuts[0], below[-1] if below else cuts[-1])
        return
    start, end = pen.ends(c.entity)
    if below and above:
        second = _part(pen, c.entity, traces[k], (above[0][0], 1.0), _met(pen, traces[k], above[0]), end, fresh=True)
        _part(pen, c.entity, traces[k], (0.0, below[-1][0]), start, _met(pen, traces[k], below[-1]))
        pen.chosen = [c.entity, second]
    elif below:
        _part(pen, c.entity, traces[k], (0.0, below[-1][0]), start, _met(pen, traces[k], below[-1]))
        pen.drop_unused([end])
    else:
        _part(pen, c.entity, traces[k], (above[0][0], 1.0), _met(pen, traces[k], above[0]), end)
        pen.drop_unused([start])


def _met(pen: Pen, trace: Trace, crossing: tuple[float, str]) -> str:
    """A point where another piece is met, which stays on that one; the other's own end where it ends there."""
    at = trace.place(np.array([crossing[0]]))[0]
    for end in pen.ends(crossing[1]):
        if float(np.linalg.norm(pen.at(end) - at)) < 10 * _JOIN_MM:
            return end
    point = pen.point(at)
    pen.ask("on-curve", point, crossing[1])
    return point


def _part(
    pen: Pen, name: str, trace: Trace, span: tuple[float, float], start: str, end: str, *, fresh: bool = False
) -> str:
    """A stretch of an open piece, as that piece or as a new one beside it: it lies on what it was cut from."""
    e = pen.entity(name)
    if isinstance(e, Spline):
        count = max(2, int(np.ceil(_PER_SPAN * len(e.through or e.control) * (span[1] - span[0]))))
        inner = trace.place(np.linspace(*span, count + 1))[1:-1]
        new = Spline(through=(start, *(pen.point(p) for p in inner), end), construction=e.construction)
    else:
        new = e.model_copy(update={"start": start, "end": end})
    if fresh:
        made = pen.add(new)
        if isinstance(e, Line):
            pen.ask("collinear", name, made)
        elif isinstance(e, Arc):
            pen.ask("equal", name, made)
        return made
    pen.put(name, new)
    if isinstance(e, Spline):
        pen.drop_unused([*e.through, *e.control])
    return name


def _open(pen: Pen, name: str, trace: Trace, first: tuple[float, str], last: tuple[float, str]) -> None:
    """What is left of a closed piece, counter-clockwise from one crossing to another."""
    e = pen.entity(name)
    start, end = _met(pen, trace, first), _met(pen, trace, last)
    if isinstance(e, Circle):
        pen.put(name, Arc(centre=e.centre, start=start, end=end, construction=e.construction))
    elif isinstance(e, Ellipse):
        pen.put(name, e.model_copy(update={"start": start, "end": end}))
    else:
        span = (first[0], last[0] if last[0] > first[0] else last[0] + 1.0)
        around = replace(trace, place=lambda t: trace.place(t % 1.0))
        _part(pen, name, around, span, start, end)


def _extend(pen: Pen, c: Extend) -> None:
    e = pen.entity(c.entity, Line, Arc)
    traces = _traces(pen)
    own = traces[_own(pen, traces, c.entity)]
    last = foot(own, np.array(c.at)) > 0.5
    size = max(float(np.ptp(np.vstack([t.place(t.shown) for t in traces]), axis=0).max()), 1.0)
    ahead, reach = _ahead(own, isinstance(e, Line), last, size)
    found = []
    for other in traces:
        if other.entity == c.entity:
            continue
        ours, _ = crossings([ahead, other], _JOIN_MM)
        found += [(t, other.entity) for t in ours if t * reach > 1e-6]
    if not found:
        raise ContourError(
            "no-match",
            f"nothing lies ahead of {c.entity} that it could go on to",
            where=Where(entity=c.entity),
            got="no piece ahead",
            need="a piece that it meets when it goes on",
            remedy="pull its end there, or draw what it is to end at",
        )
    nearest = min(found)
    for kind in _OF_WHOLE:
        pen.forget([kind], c.entity)
    new = _met(pen, ahead, nearest)
    old = pen.ends(c.entity)[-1 if last else 0]
    pen.put(c.entity, e.model_copy(update={"end" if last else "start": new}))
    pen.drop_unused([old])


def _ahead(own: Trace, straight: bool, last: bool, size: float) -> tuple[Trace, float]:
    """What lies ahead of an end of a line or arc, as a trace that begins there, and its length, mm."""
    tip = own.place(np.array([1.0 if last else 0.0]))[0]
    way = own.slope(np.array([1.0 if last else 0.0]))[0] * (1 if last else -1)
    if straight:
        way = way / np.linalg.norm(way) * _FAR * size
        return Trace(
            "", lambda t: tip + t[:, None] * way, lambda t: np.tile(way, (len(t), 1)), False, np.array([0.0, 1.0])
        ), _FAR * size
    middle, other = own.place(np.array([0.5]))[0], own.place(np.array([0.0 if last else 1.0]))[0]
    m, r = circle_through(*((float(p[0]), float(p[1])) for p in (tip, middle, other)))
    begin = float(np.arctan2(*(tip - m)[::-1]))
    sense = 1.0 if (tip - m)[0] * way[1] - (tip - m)[1] * way[0] > 0 else -1.0
    swept = float(np.linalg.norm(own.slope(np.array([0.5]))[0])) / r
    span = sense * (2 * np.pi - swept)

    def place(t: Array) -> Array:
        a = begin + t * span
        return np.asarray(m + r * np.column_stack([np.cos(a), np.sin(a)]))

    def slope(t: Array) -> Array:
        a = begin + t * span
        return np.asarray(r * span * np.column_stack([-np.sin(a), np.cos(a)]))

    return Trace("", place, slope, False, np.linspace(0, 1, 61)), abs(span) * r


def _meet(pen: Pen, c: Meet) -> None:
    carriers = [_endless(pen, name) for name in c.of]
    ours, theirs = crossings(carriers, _JOIN_MM)
    places = [p for t in ours for p in carriers[0].place(np.array([t]))]
    if not places or not theirs:
        raise ContourError(
            "no-match",
            f"{c.of[0]} and {c.of[1]} meet nowhere, however far they go on",
            where=Where(entity=c.of[0]),
            got="lines that are parallel, or arcs apart",
            need="two lines or arcs that meet somewhere",
            remedy="choose others, or turn one of them",
        )
    ends = np.array([pen.at(p) for name in c.of for p in pen.ends(name)])

    def off(p: Array) -> float:
        if c.at is not None:
            return float(np.linalg.norm(p - np.array(c.at)))
        away = np.linalg.norm(ends - p, axis=1)
        return float(away[:2].min() + away[2:].min())

    at = min(places, key=off)
    corner = pen.point(at)
    for name in c.of:
        e = pen.entity(name, Line, Arc)
        for kind in _OF_WHOLE:
            pen.forget([kind], name)
        first = float(np.linalg.norm(pen.at(e.start) - at)) < float(np.linalg.norm(pen.at(e.end) - at))
        old = e.start if first else e.end
        pen.put(name, e.model_copy(update={"start" if first else "end": corner}))
        pen.drop_unused([old])
    pen.chosen = [*c.of]


def _endless(pen: Pen, name: str) -> Trace:
    """The line or circle that a piece is a part of."""
    e = pen.entity(name, Line, Arc)
    traces = traces_shown(pen.drawing())
    own = traces[_own(pen, traces, name)]
    size = max(float(np.ptp(np.vstack([t.place(t.shown) for t in traces]), axis=0).max()), 1.0)
    if isinstance(e, Line):
        middle, way = own.place(np.array([0.5]))[0], own.slope(np.array([0.5]))[0]
        half = way / np.linalg.norm(way) * _FAR * size
        return replace(
            own,
            place=lambda t: middle + (2 * t[:, None] - 1) * half,
            slope=lambda t: np.tile(2 * half, (len(t), 1)),
            closed=False,
        )
    whole = Drawing.model_construct(
        entities={
            **{p: pen.entities[p] for p in pen.points_of(name)},
            name: Circle(centre=e.centre, radius=float(np.linalg.norm(pen.at(e.start) - pen.at(e.centre)))),
        },
        constraints=(),
        dimensions=(),
    )
    return traces_shown(whole)[0]


def _split(pen: Pen, c: Split) -> None:
    traces = _traces(pen)
    own = traces[_own(pen, traces, c.entity)]
    t = foot(own, np.array(c.at))
    e = pen.entity(c.entity)
    for kind in _OF_WHOLE:
        pen.forget([kind], c.entity)
    if own.closed:
        first, second = (pen.point(own.place(np.array([(t + d) % 1.0]))[0]) for d in (0.0, 0.5))
        if isinstance(e, Circle):
            pen.put(c.entity, Arc(centre=e.centre, start=first, end=second, construction=e.construction))
            made = pen.add(Arc(centre=e.centre, start=second, end=first, construction=e.construction))
        elif isinstance(e, Ellipse):
            pen.put(c.entity, e.model_copy(update={"start": first, "end": second}))
            made = pen.add(e.model_copy(update={"start": second, "end": first}))
        else:
            around = replace(own, place=lambda s: own.place(s % 1.0))
            made = _part(pen, c.entity, around, (t + 0.5, t + 1.0), second, first, fresh=True)
            _part(pen, c.entity, around, (t, t + 0.5), first, second)
        pen.chosen = [c.entity, made]
        return
    if not 1e-6 < t < 1 - 1e-6:
        raise ContourError(
            "bad-params",
            f"{c.entity} already ends here",
            where=Where(entity=c.entity),
            got="one of its ends",
            need="a place between its ends",
            remedy="point to a place between its ends",
        )
    start, end = pen.ends(c.entity)
    at = pen.point(own.place(np.array([t]))[0])
    made = _part(pen, c.entity, own, (t, 1.0), at, end, fresh=True)
    _part(pen, c.entity, own, (0.0, t), start, at)
    pen.chosen = [c.entity, made]
