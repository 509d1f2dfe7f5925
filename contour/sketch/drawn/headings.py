"""Which way curves go at a point, as unknowns that can be held to one another."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from contour.sketch.drawn import forms
from contour.sketch.drawn.text import Arc, Circle, Ellipse, Line
from contour.sketch.drawn.unknowns import Unknowns
from contour.solve.system import Equation

__all__ = ["Heading", "derivative", "drawn_turn", "east", "heading_at", "line_heading", "turned"]


@dataclass(frozen=True, slots=True)
class Heading:
    """Along a → b (slots of both), turned by some degrees."""

    slots: tuple[int, int, int, int]
    turned_deg: float = 0.0


def line_heading(u: Unknowns, name: str) -> Heading:
    """The way of a line, from its first point to its second."""
    a, b = u.ends(name)
    return Heading((*u.points[a], *u.points[b]))


def east(u: Unknowns) -> Heading:
    """The way of the sketch's first axis."""
    zero, one = u.new(0.0), u.new(1.0)
    u.always += [Equation(forms.value, (s,), (u.start[s],)) for s in (zero, one)]
    return Heading((zero, zero, one, zero))


def heading_at(u: Unknowns, name: str, point: tuple[int, int], at: float = 0.0, slot: int | None = None) -> Heading:
    """Which way an entity goes at a point on it. at, slot: a spline's parameter there (in the unit of its
    parameters), and its slot if it is an unknown."""
    e = u.drawing.entities[name]
    if isinstance(e, Line):
        return line_heading(u, name)
    if isinstance(e, Circle | Arc):
        return Heading((*u.points[e.centre], *point), 90.0)
    if isinstance(e, Ellipse):
        return _across_normal(u, (*u.points[e.centre], *u.points[e.major], u.sizes[name], *point))
    x, y = derivative(u, name, 1, at, slot)
    zero = _zero(u)
    return Heading((zero, zero, x, y))


def derivative(u: Unknowns, name: str, order: int, at: float, slot: int | None = None) -> tuple[int, int]:
    """Slots of a spline's derivative at a parameter, which is an unknown where it has a slot; mm per unit of its
    parameters."""
    curve = u.curves[name]
    drawn = np.array([u.at(p) for p in curve.points])
    weights = curve.weights(at, order)
    out = []
    for k in (0, 1):
        value = u.new(float(weights @ drawn[:, k]))
        coordinates = [u.points[p][k] for p in curve.points]
        if slot is not None:
            u.always.append(Equation(curve.form(order), (slot, value, *coordinates)))
        else:
            u.always.append(Equation(forms.combination, (value, *coordinates), tuple(weights)))
        out.append(value)
    return out[0], out[1]


def _zero(u: Unknowns) -> int:
    slot = u.new(0.0)
    u.always.append(Equation(forms.value, (slot,), (0.0,)))
    return slot


def _across_normal(u: Unknowns, slots: tuple[int, ...]) -> Heading:
    """The way of an ellipse: square to its normal, the gradient of its equation."""
    drawn = [0.0, *(u.start[s] for s in slots)]
    n = []
    for component in ((1.0, 0.0), (0.0, 1.0)):
        n.append(u.new(-float(forms.normal_of_ellipse(drawn, component))))
        u.always.append(Equation(forms.normal_of_ellipse, (n[-1], *slots), component))
    zero = _zero(u)
    return Heading((zero, zero, n[0], n[1]), 90.0)


def drawn_turn(u: Unknowns, a: Heading, b: Heading) -> float:
    """The degrees from one heading to another as drawn, in (-180, 180]."""
    d, e = (
        np.array([u.start[h.slots[2]] - u.start[h.slots[0]], u.start[h.slots[3]] - u.start[h.slots[1]]]) for h in (a, b)
    )
    angle = np.degrees(np.arctan2(d[0] * e[1] - d[1] * e[0], d @ e)) + b.turned_deg - a.turned_deg
    return float(180 - (180 - angle) % 360)


def turned(u: Unknowns, a: Heading, b: Heading, degrees: float) -> Equation:
    """Heading b is heading a turned by some degrees."""
    theta = np.radians(degrees + a.turned_deg - b.turned_deg)
    x = [u.start[s] for s in b.slots]
    far = max(float(np.hypot(x[2] - x[0], x[3] - x[1])), 1e-3)
    return Equation(forms.turn, (*a.slots, *b.slots), (float(np.cos(theta)), float(np.sin(theta)), far))
