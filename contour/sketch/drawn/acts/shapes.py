"""Shapes that are drawn, with the relations that make them what they are, and the sizes that were typed on the way."""

from __future__ import annotations

from typing import Annotated, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from contour.outline.arcs import circle_through
from contour.recipe.problem import ContourError
from contour.sketch.drawn.acts.pen import Act, Pen, Spot, Text
from contour.sketch.drawn.text import Arc, Circle, ConstraintKind, Dimension, Ellipse, Line, Spline
from contour.sketch.drawn.traces import trace_of
from contour.sketch.drawn.unknowns import Unknowns

__all__ = ["Shape", "draw"]

Array = NDArray[np.float64]
_NOTHING = 1e-6  # mm


class LineRelation(Act):
    """What the new line has to do with what is there: `to` is missing for horizontal and vertical."""

    kind: ConstraintKind
    to: str | None = None


class DrawPoint(Act):
    act: Literal["point"]
    at: Spot


class DrawLine(Act):
    """angle: from the line before it at the corner where it begins, inside; from the first axis where there is none."""

    act: Literal["line"]
    start: Spot
    end: Spot
    relations: tuple[LineRelation, ...] = Field(default=(), max_length=4)
    after: str | None = None
    length: Text = None
    angle: Text = None
    construction: bool = False


class DrawArc(Act):
    """by three: start, end, then a place it goes through · centre: centre, start, the way to the end, on the side the third lies · tangent: from the end of `after`, to the end."""

    act: Literal["arc"]
    by: Literal["three", "centre", "tangent"]
    spots: tuple[Spot, ...] = Field(min_length=2, max_length=3)
    after: str | None = None
    radius: Text = None


class DrawRectangle(Act):
    """by corner: two opposite corners · centre: centre and a corner · three: a side's ends, and how far the opposite side lies."""

    act: Literal["rectangle"]
    by: Literal["corner", "centre", "three"]
    spots: tuple[Spot, ...] = Field(min_length=2, max_length=3)
    width: Text = None
    height: Text = None


class DrawCircle(Act):
    """by centre: centre and a place on it · two, three: places on it · tangent: places near which it touches `touching` (two, with a third
    place for its size, or three)."""

    act: Literal["circle"]
    by: Literal["centre", "two", "three", "tangent"]
    spots: tuple[Spot, ...] = Field(min_length=2, max_length=3)
    touching: tuple[str, ...] = Field(default=(), max_length=3)
    diameter: Text = None


class DrawSlot(Act):
    """by straight: the two centres, a place on its side · arc: the arc's centre, the two ends' centres, a place on its side."""

    act: Literal["slot"]
    by: Literal["straight", "arc"]
    spots: tuple[Spot, ...] = Field(min_length=3, max_length=4)
    length: Text = None
    width: Text = None


class DrawPolygon(Act):
    """Regular, by its centre and a corner. across: between opposite sides, or twice the inner radius where there are none."""

    act: Literal["polygon"]
    spots: tuple[Spot, Spot]
    sides: int = Field(ge=3, le=60)
    across: Text = None


class DrawEllipse(Act):
    """Centre, the end of its longer half axis, a place on it."""

    act: Literal["ellipse"]
    spots: tuple[Spot, Spot, Spot]


class DrawSpline(Act):
    """Through its spots, or over them as control points. closed: it ends where it begins."""

    act: Literal["spline"]
    by: Literal["through", "control"]
    spots: tuple[Spot, ...] = Field(min_length=2, max_length=200)
    closed: bool = False


Shape = Annotated[
    DrawPoint | DrawLine | DrawArc | DrawRectangle | DrawCircle | DrawSlot | DrawPolygon | DrawEllipse | DrawSpline,
    Field(discriminator="act"),
]


def draw(pen: Pen, shape: Shape) -> None:
    """Draws a shape. Raises ContourError (bad-params, ref-lost, wrong-kind) where its places make none."""
    before = set(pen.entities)
    match shape:
        case DrawPoint():
            pen.spot(shape.at)
        case DrawLine():
            _line(pen, shape)
        case DrawArc():
            _arc(pen, shape)
        case DrawRectangle():
            _rectangle(pen, shape)
        case DrawCircle():
            _circle(pen, shape)
        case DrawSlot() if shape.by == "straight":
            _slot(pen, shape)
        case DrawSlot():
            _curved_slot(pen, shape)
        case DrawPolygon():
            _polygon(pen, shape)
        case DrawEllipse():
            _ellipse(pen, shape)
        case DrawSpline():
            points = tuple(pen.spot(s) for s in shape.spots)
            over = (*points, points[0]) if shape.closed else points
            pen.add(Spline(through=over) if shape.by == "through" else Spline(control=over))
    pen.chosen = [n for n in pen.entities if n not in before]


def _nothing(what: str, remedy: str) -> ContourError:
    return ContourError(
        "bad-params",
        f"{what} at this place has no size",
        got="places that coincide",
        need="places apart from one another",
        remedy=remedy,
    )


def _apart(a: Array, b: Array, what: str) -> float:
    length = float(np.linalg.norm(b - a))
    if length < _NOTHING:
        raise _nothing(what, "point to another place")
    return length


def _line(pen: Pen, s: DrawLine) -> None:
    a, b = pen.where(s.start), pen.where(s.end)
    far = _apart(a, b, "a line")
    if s.end.point is None and (s.length or s.angle):
        b = a + _way(pen, s, (b - a) / far) * pen.length(s.length, far)
    start = pen.spot(s.start)
    end = pen.spot(s.end.model_copy(update={"at": (float(b[0]), float(b[1]))}))
    if start == end:
        raise _nothing("a line", "end it at another point")
    line = pen.line(start, end, construction=s.construction)
    for r in s.relations:
        if r.kind in ("horizontal", "vertical"):
            pen.ask(r.kind, line)
        elif r.to is not None and pen.entity(r.to):
            pen.ask(r.kind, r.to, line)
    pen.size("length", line, value=s.length)
    if s.angle and s.angle.strip():
        before = _before(pen, s, start)
        of = (before[0], line) if before else (line,)
        pen.dimensions.append(
            Dimension(kind="angle", of=of, value=s.angle.strip(), supplement=before is not None and before[1])
        )


def _before(pen: Pen, s: DrawLine, start: str | None) -> tuple[str, bool] | None:
    """The line that a new one goes on from, and whether that one ends (and does not begin) at their corner."""
    e = pen.entities.get(s.after or "")
    corner = start or s.start.point
    if not isinstance(e, Line) or corner not in (e.start, e.end):
        return None
    return s.after or "", e.end == corner


def _way(pen: Pen, s: DrawLine, drawn: Array) -> Array:
    """The way of a line whose angle was typed, on the side that is drawn."""
    if not s.angle or not s.angle.strip():
        return drawn
    angle = np.radians(pen.number(s.angle, "angle"))
    base = np.array([1.0, 0.0])
    before = _before(pen, s, None)
    if before:
        e = pen.entity(before[0], Line)
        d = pen.at(e.end) - pen.at(e.start)
        base = d / np.linalg.norm(d) * (-1 if before[1] else 1)
    side = 1.0 if base[0] * drawn[1] - base[1] * drawn[0] >= 0 else -1.0
    c, t = np.cos(angle), side * np.sin(angle)
    return np.array([c * base[0] - t * base[1], t * base[0] + c * base[1]])


def _arc(pen: Pen, s: DrawArc) -> None:
    if s.by == "tangent":
        _tangent_arc(pen, s)
        return
    if len(s.spots) < 3:
        raise _nothing("an arc", "point to three places")
    a, b, c = (pen.where(spot) for spot in s.spots)
    if s.by == "centre":
        r = pen.length(s.radius, _apart(a, b, "an arc"))
        begin = a + (b - a) / np.linalg.norm(b - a) * r
        end = a + (c - a) / _apart(a, c, "an arc") * r
        centre = pen.spot(s.spots[0])
        ends = [pen.spot(_moved(s.spots[1], begin)), pen.spot(_moved(s.spots[2], end))]
        ahead = _cross(b - a, c - a) >= 0
    else:
        m, _ = _through(a, c, b)
        centre = pen.point(m)
        ends = [pen.spot(s.spots[0]), pen.spot(s.spots[1])]
        ahead = _cross(c - a, b - c) > 0
    arc = pen.add(Arc(centre=centre, start=ends[0 if ahead else 1], end=ends[1 if ahead else 0]))
    if s.by == "three" and s.spots[2].on:
        for curve in s.spots[2].on:
            pen.ask("tangent", arc, curve)
    pen.size("radius", arc, value=s.radius)


def _moved(spot: Spot, at: Array) -> Spot:
    return spot if spot.point else spot.model_copy(update={"at": (float(at[0]), float(at[1]))})


def _cross(a: Array, b: Array) -> float:
    return float(a[0] * b[1] - a[1] * b[0])


def _through(a: Array, b: Array, c: Array) -> tuple[Array, float]:
    if abs(_cross(b - a, c - a)) < _NOTHING * max(float(np.linalg.norm(c - a)), _NOTHING):
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
    _apart(a, b, "an arc")
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
    end = pen.spot(_moved(s.spots[-1], b))
    arc = pen.add(Arc(centre=centre, start=start if radius > 0 else end, end=end if radius > 0 else start))
    pen.ask("tangent", after, arc)
    pen.size("radius", arc, value=s.radius)


def _rectangle(pen: Pen, s: DrawRectangle) -> None:
    a, b = pen.where(s.spots[0]), pen.where(s.spots[1])
    if s.by == "three":
        if len(s.spots) < 3:
            raise _nothing("a rectangle", "point to three places")
        along = (b - a) / _apart(a, b, "a rectangle")
        across = np.array([-along[1], along[0]])
        high = float((pen.where(s.spots[2]) - a) @ across)
        w, h = pen.length(s.width, float(np.linalg.norm(b - a))), pen.length(s.height, abs(high))
        h *= 1 if high >= 0 else -1
        corners = [a, a + w * along, a + w * along + h * across, a + h * across]
    else:
        d = (b - a) * (2 if s.by == "centre" else 1)
        w, h = pen.length(s.width, abs(float(d[0]))), pen.length(s.height, abs(float(d[1])))
        d = np.array([w if d[0] >= 0 else -w, h if d[1] >= 0 else -h])
        low = a - d / 2 if s.by == "centre" else a
        corners = [low, low + [d[0], 0], low + d, low + [0, d[1]]]
    if min(w, abs(h)) < _NOTHING:
        raise _nothing("a rectangle", "point further away")
    given: dict[int, Spot] = {0: s.spots[0], 2: s.spots[1]} if s.by == "corner" else {}
    if s.by == "three":
        given = {0: s.spots[0], 1: s.spots[1]}
    p = [pen.spot(_moved(given[k], c)) if k in given else pen.point(c) for k, c in enumerate(corners)]
    sides = [pen.line(p[k], p[(k + 1) % 4]) for k in range(4)]
    if s.by == "three":
        pen.ask("perpendicular", sides[0], sides[1])
        pen.ask("parallel", sides[0], sides[2])
        pen.ask("parallel", sides[1], sides[3])
    else:
        for k, side in enumerate(sides):
            pen.ask("vertical" if k % 2 else "horizontal", side)
    if s.by == "centre":
        pen.ask("midpoint", pen.spot(s.spots[0]), p[0], p[2])
    pen.size("length", sides[0], value=s.width)
    pen.size("length", sides[1], value=s.height)


def _circle(pen: Pen, s: DrawCircle) -> None:
    at = [pen.where(spot) for spot in s.spots]
    if s.by == "centre":
        m, r = at[0], _apart(at[0], at[1], "a circle")
    elif s.by == "two" or len(at) < 3:
        m, r = (at[0] + at[1]) / 2, _apart(at[0], at[1], "a circle") / 2
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


def _slot(pen: Pen, s: DrawSlot) -> None:
    a, b = pen.where(s.spots[0]), pen.where(s.spots[1])
    along = (b - a) / _apart(a, b, "a slot")
    b = a + along * pen.length(s.length, float(np.linalg.norm(b - a)))
    normal = np.array([-along[1], along[0]])
    r = pen.length(s.width, 2 * abs(float((pen.where(s.spots[2]) - a) @ normal))) / 2
    if r < _NOTHING:
        raise _nothing("a slot", "point to a place beside its middle line")
    first, last = pen.spot(s.spots[0]), pen.spot(_moved(s.spots[1], b))
    p = [pen.point(c) for c in (a - r * normal, b - r * normal, b + r * normal, a + r * normal)]
    right, left = pen.line(p[0], p[1]), pen.line(p[2], p[3])
    caps = [pen.add(Arc(centre=last, start=p[1], end=p[2])), pen.add(Arc(centre=first, start=p[3], end=p[0]))]
    for line in (right, left):
        for cap in caps:
            pen.ask("tangent", line, cap)
    pen.ask("equal", *caps)
    pen.size("distance", first, last, value=s.length)
    pen.size("diameter", caps[0], value=s.width)


def _curved_slot(pen: Pen, s: DrawSlot) -> None:
    if len(s.spots) < 4:
        raise _nothing("a slot", "point to its centre, both ends and its side")
    m, a, b, side = (pen.where(spot) for spot in s.spots)
    big = _apart(m, a, "a slot")
    b = m + (b - m) / _apart(m, b, "a slot") * big
    spots = s.spots[1:3]
    if _cross(a - m, b - m) < 0:  # arcs run counter-clockwise
        a, b, spots = b, a, spots[::-1]
    r = pen.length(s.width, 2 * abs(float(np.linalg.norm(side - m)) - big)) / 2
    if not _NOTHING < r < big:
        raise _nothing("a slot", "point to a place beside its middle arc, nearer than its centre")
    centre = pen.spot(s.spots[0])
    first, last = pen.spot(_moved(spots[0], a)), pen.spot(_moved(spots[1], b))
    ua, ub = (a - m) / big, (b - m) / big
    p = [pen.point(c) for c in (a + r * ua, b + r * ub, b - r * ub, a - r * ua)]
    outer, inner = pen.add(Arc(centre=centre, start=p[0], end=p[1])), pen.add(Arc(centre=centre, start=p[3], end=p[2]))
    caps = [pen.add(Arc(centre=last, start=p[1], end=p[2])), pen.add(Arc(centre=first, start=p[3], end=p[0]))]
    pen.add(Arc(centre=centre, start=first, end=last, construction=True))
    for arc in (outer, inner):
        for cap in caps:
            pen.ask("tangent", arc, cap)
    pen.size("diameter", caps[0], value=s.width)


def _polygon(pen: Pen, s: DrawPolygon) -> None:
    m, corner = (pen.where(spot) for spot in s.spots)
    r = _apart(m, corner, "a polygon")
    turn = 2 * np.pi / s.sides
    flat = np.cos(turn / 2)  # of the radius: how far its sides lie from the centre
    r = pen.length(s.across, 2 * r * flat) / 2 / flat
    begin = float(np.arctan2(*(corner - m)[::-1]))
    centre = pen.spot(s.spots[0])
    at = [m + r * np.array([np.cos(begin + k * turn), np.sin(begin + k * turn)]) for k in range(s.sides)]
    p = [pen.spot(_moved(s.spots[1], at[0])), *(pen.point(c) for c in at[1:])]
    sides = [pen.line(p[k], p[(k + 1) % s.sides]) for k in range(s.sides)]
    around = pen.add(Circle(centre=centre, radius=r, construction=True))
    for corner_name in p:
        pen.ask("on-curve", corner_name, around)
    pen.ask("equal", *sides)
    if s.across and s.across.strip():
        inner = pen.add(Circle(centre=centre, radius=r * flat, construction=True))
        pen.ask("tangent", sides[0], inner)
        pen.size("diameter", inner, value=s.across)


def _ellipse(pen: Pen, s: DrawEllipse) -> None:
    m, tip, on = (pen.where(spot) for spot in s.spots)
    a = _apart(m, tip, "an ellipse")
    u = (tip - m) / a
    x, y = float((on - m) @ u), float((on - m) @ np.array([-u[1], u[0]]))
    rest = 1 - (x / a) ** 2
    b = abs(y) / np.sqrt(rest) if rest > 1e-9 else abs(y)
    if b < _NOTHING:
        raise _nothing("an ellipse", "point to a place beside its longer axis")
    pen.add(Ellipse(centre=pen.spot(s.spots[0]), major=pen.spot(s.spots[1]), minor=float(b)))
