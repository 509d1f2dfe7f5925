"""Arcs, circles and slots as they are drawn."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from contour.outline.arcs import circle_through
from contour.recipe.problem import ContourError
from contour.sketch.drawn.acts.pen import Pen
from contour.sketch.drawn.acts.shape_acts import DrawArc, DrawCircle, DrawSlot
from contour.sketch.drawn.acts.spots import NOTHING_MM, apart, cross, moved, nothing
from contour.sketch.drawn.text import Arc, Circle
from contour.sketch.drawn.traces import trace_of
from contour.sketch.drawn.unknowns import Unknowns

__all__ = ["draw_arc", "draw_circle", "draw_curved_slot", "draw_slot"]

Array = NDArray[np.float64]


def draw_arc(pen: Pen, s: DrawArc) -> None:
    """Raises ContourError (bad-params) where its places (mm) make none."""
    if s.by == "tangent":
        _tangent_arc(pen, s)
        return
    if len(s.spots) < 3:
        raise nothing("an arc", "point to three places")
    a, b, c = (pen.where(spot) for spot in s.spots)
    if s.by == "centre":
        r = pen.length(s.radius, apart(a, b, "an arc"))
        begin = a + (b - a) / np.linalg.norm(b - a) * r
        end = a + (c - a) / apart(a, c, "an arc") * r
        centre = pen.spot(s.spots[0])
        ends = [pen.spot(moved(s.spots[1], begin)), pen.spot(moved(s.spots[2], end))]
        ahead = cross(b - a, c - a) >= 0
    else:
        m, _ = _through(a, c, b)
        centre = pen.point(m)
        ends = [pen.spot(s.spots[0]), pen.spot(s.spots[1])]
        ahead = cross(c - a, b - c) > 0
    arc = pen.add(Arc(centre=centre, start=ends[0 if ahead else 1], end=ends[1 if ahead else 0]))
    if s.by == "three" and s.spots[2].on:
        for curve in s.spots[2].on:
            pen.ask("tangent", arc, curve)
    pen.size("radius", arc, value=s.radius)


def _through(a: Array, b: Array, c: Array) -> tuple[Array, float]:
    if abs(cross(b - a, c - a)) < NOTHING_MM * max(float(np.linalg.norm(c - a)), NOTHING_MM):
        raise ContourError(
            "bad-params",
            "these three places lie on a line",
            got="no circle through them",
            need="three places that are not in one line",
            remedy="point to a place beside the line",
        )
    m, r = circle_through((float(a[0]), float(a[1])), (float(b[0]), float(b[1])), (float(c[0]), float(c[1])))
    return np.asarray(m), float(r)


def _tangent_arc(pen: Pen, s: DrawArc) -> None:
    """Leaves the end of what was drawn before as that arrives there."""
    start, after = s.spots[0].point, s.after
    if start is None or after is None or start not in pen.ends(after):
        raise ContourError(
            "bad-params",
            "a tangent arc goes on from the end of something",
            got="a place where nothing ends",
            need="the end of a line, arc or curve",
            remedy="begin at an end, or draw the arc by three points",
        )
    a, b = pen.at(start), pen.where(s.spots[-1])
    apart(a, b, "an arc")
    trace = trace_of(Unknowns(pen.drawing()), after)
    assert trace is not None
    last = pen.ends(after)[-1] == start
    way = trace.slope(np.array([1.0 if last else 0.0]))[0] * (1 if last else -1)
    way = way / np.linalg.norm(way)
    normal = np.array([-way[1], way[0]])
    off = float((b - a) @ normal)
    if abs(off) < 1e-6 * float(np.linalg.norm(b - a)):
        raise ContourError(
            "bad-params",
            "straight ahead there is no arc",
            got="an end in line with what it goes on from",
            need="an end beside that line",
            remedy="draw a line, or point to a place beside it",
        )
    radius = float((b - a) @ (b - a)) / (2 * off)  # to the left where positive
    if s.radius and s.radius.strip():
        radius = float(np.sign(radius)) * pen.number(s.radius, "length")
        b = a + radius * normal + (b - (a + radius * normal)) / np.linalg.norm(b - (a + radius * normal)) * abs(radius)
    centre = pen.point(a + radius * normal)
    end = pen.spot(moved(s.spots[-1], b))
    arc = pen.add(Arc(centre=centre, start=start if radius > 0 else end, end=end if radius > 0 else start))
    pen.ask("tangent", after, arc)
    pen.size("radius", arc, value=s.radius)


def draw_circle(pen: Pen, s: DrawCircle) -> None:
    """Raises ContourError (bad-params, ref-lost) where its places (mm) make none."""
    at = [pen.where(spot) for spot in s.spots]
    if s.by == "centre":
        m, r = at[0], apart(at[0], at[1], "a circle")
    elif s.by == "two" or len(at) < 3:
        m, r = (at[0] + at[1]) / 2, apart(at[0], at[1], "a circle") / 2
    else:
        m, r = _through(*at)
    r = pen.length(s.diameter, 2 * r) / 2
    centre = pen.spot(s.spots[0]) if s.by == "centre" else pen.point(m)
    circle = pen.add(Circle(centre=centre, radius=r))
    if s.by == "tangent":
        for other in s.touching:
            pen.entity(other)
            pen.ask("tangent", other, circle)
    elif s.by == "centre" and s.spots[1].point:
        pen.ask("on-curve", s.spots[1].point, circle)
    elif s.by != "centre":
        for spot in s.spots:
            if spot.point:
                pen.ask("on-curve", spot.point, circle)
    pen.size("diameter", circle, value=s.diameter)


def draw_slot(pen: Pen, s: DrawSlot) -> None:
    """Two lines and two arcs that touch. Raises ContourError (bad-params) where its places (mm) make none."""
    a, b = pen.where(s.spots[0]), pen.where(s.spots[1])
    along = (b - a) / apart(a, b, "a slot")
    b = a + along * pen.length(s.length, float(np.linalg.norm(b - a)))
    normal = np.array([-along[1], along[0]])
    r = pen.length(s.width, 2 * abs(float((pen.where(s.spots[2]) - a) @ normal))) / 2
    if r < NOTHING_MM:
        raise nothing("a slot", "point to a place beside its middle line")
    first, last = pen.spot(s.spots[0]), pen.spot(moved(s.spots[1], b))
    p = [pen.point(c) for c in (a - r * normal, b - r * normal, b + r * normal, a + r * normal)]
    right, left = pen.line(p[0], p[1]), pen.line(p[2], p[3])
    caps = [pen.add(Arc(centre=last, start=p[1], end=p[2])), pen.add(Arc(centre=first, start=p[3], end=p[0]))]
    for line in (right, left):
        for cap in caps:
            pen.ask("tangent", line, cap)
    pen.ask("equal", *caps)
    pen.size("distance", first, last, value=s.length)
    pen.size("diameter", caps[0], value=s.width)


def draw_curved_slot(pen: Pen, s: DrawSlot) -> None:
    """Four arcs that touch, about a construction arc. Raises ContourError (bad-params) where its places (mm) make none."""
    if len(s.spots) < 4:
        raise nothing("a slot", "point to its centre, both ends and its side")
    m, a, b, side = (pen.where(spot) for spot in s.spots)
    big = apart(m, a, "a slot")
    b = m + (b - m) / apart(m, b, "a slot") * big
    spots = s.spots[1:3]
    if cross(a - m, b - m) < 0:  # arcs run counter-clockwise
        a, b, spots = b, a, spots[::-1]
    r = pen.length(s.width, 2 * abs(float(np.linalg.norm(side - m)) - big)) / 2
    if not NOTHING_MM < r < big:
        raise nothing("a slot", "point to a place beside its middle arc, nearer than its centre")
    centre = pen.spot(s.spots[0])
    first, last = pen.spot(moved(spots[0], a)), pen.spot(moved(spots[1], b))
    ua, ub = (a - m) / big, (b - m) / big
    p = [pen.point(c) for c in (a + r * ua, b + r * ub, b - r * ub, a - r * ua)]
    outer, inner = pen.add(Arc(centre=centre, start=p[0], end=p[1])), pen.add(Arc(centre=centre, start=p[3], end=p[2]))
    caps = [pen.add(Arc(centre=last, start=p[1], end=p[2])), pen.add(Arc(centre=first, start=p[3], end=p[0]))]
    pen.add(Arc(centre=centre, start=first, end=last, construction=True))
    for arc in (outer, inner):
        for cap in caps:
            pen.ask("tangent", arc, cap)
    pen.size("diameter", caps[0], value=s.width)
