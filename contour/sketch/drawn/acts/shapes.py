"""Shapes that are drawn, with the relations that make them what they are, and the sizes that were typed on the way."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from contour.sketch.drawn.acts.pen import Pen, Spot
from contour.sketch.drawn.acts.rounds import draw_arc, draw_circle, draw_curved_slot, draw_slot
from contour.sketch.drawn.acts.shape_acts import (
    DrawArc,
    DrawCircle,
    DrawEllipse,
    DrawLine,
    DrawPoint,
    DrawPolygon,
    DrawRectangle,
    DrawSlot,
    DrawSpline,
    Shape,
)
from contour.sketch.drawn.acts.spots import NOTHING_MM, apart, moved, nothing
from contour.sketch.drawn.text import Circle, Dimension, Ellipse, Line, Spline

__all__ = ["Shape", "draw"]

Array = NDArray[np.float64]


def draw(pen: Pen, shape: Shape) -> None:
    """Draws a shape. Raises ContourError (bad-params, ref-lost, wrong-kind) where its places make none."""
    before = set(pen.entities)
    match shape:
        case DrawPoint():
            pen.spot(shape.at)
        case DrawLine():
            _line(pen, shape)
        case DrawArc():
            draw_arc(pen, shape)
        case DrawRectangle():
            _rectangle(pen, shape)
        case DrawCircle():
            draw_circle(pen, shape)
        case DrawSlot() if shape.by == "straight":
            draw_slot(pen, shape)
        case DrawSlot():
            draw_curved_slot(pen, shape)
        case DrawPolygon():
            _polygon(pen, shape)
        case DrawEllipse():
            _ellipse(pen, shape)
        case DrawSpline():
            points = tuple(pen.spot(s) for s in shape.spots)
            over = (*points, points[0]) if shape.closed else points
            pen.add(Spline(through=over) if shape.by == "through" else Spline(control=over))
    pen.chosen = [n for n in pen.entities if n not in before]


def _line(pen: Pen, s: DrawLine) -> None:
    a, b = pen.where(s.start), pen.where(s.end)
    far = apart(a, b, "a line")
    if s.end.point is None and (s.length or s.angle):
        b = a + _way(pen, s, (b - a) / far) * pen.length(s.length, far)
    start = pen.spot(s.start)
    end = pen.spot(s.end.model_copy(update={"at": (float(b[0]), float(b[1]))}))
    if start == end:
        raise nothing("a line", "end it at another point")
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


def _rectangle(pen: Pen, s: DrawRectangle) -> None:
    a, b = pen.where(s.spots[0]), pen.where(s.spots[1])
    if s.by == "three":
        if len(s.spots) < 3:
            raise nothing("a rectangle", "point to three places")
        along = (b - a) / apart(a, b, "a rectangle")
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
    if min(w, abs(h)) < NOTHING_MM:
        raise nothing("a rectangle", "point further away")
    given: dict[int, Spot] = {0: s.spots[0], 2: s.spots[1]} if s.by == "corner" else {}
    if s.by == "three":
        given = {0: s.spots[0], 1: s.spots[1]}
    p = [pen.spot(moved(given[k], c)) if k in given else pen.point(c) for k, c in enumerate(corners)]
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


def _polygon(pen: Pen, s: DrawPolygon) -> None:
    m, corner = (pen.where(spot) for spot in s.spots)
    r = apart(m, corner, "a polygon")
    turn = 2 * np.pi / s.sides
    flat = np.cos(turn / 2)  # of the radius: how far its sides lie from the centre
    r = pen.length(s.across, 2 * r * flat) / 2 / flat
    begin = float(np.arctan2(*(corner - m)[::-1]))
    centre = pen.spot(s.spots[0])
    at = [m + r * np.array([np.cos(begin + k * turn), np.sin(begin + k * turn)]) for k in range(s.sides)]
    p = [pen.spot(moved(s.spots[1], at[0])), *(pen.point(c) for c in at[1:])]
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
    a = apart(m, tip, "an ellipse")
    u = (tip - m) / a
    x, y = float((on - m) @ u), float((on - m) @ np.array([-u[1], u[0]]))
    rest = 1 - (x / a) ** 2
    b = abs(y) / np.sqrt(rest) if rest > 1e-9 else abs(y)
    if b < NOTHING_MM:
        raise nothing("an ellipse", "point to a place beside its longer axis")
    pen.add(Ellipse(centre=pen.spot(s.spots[0]), major=pen.spot(s.spots[1]), minor=float(b)))
