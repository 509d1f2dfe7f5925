"""Curves that touch, and curves that bend alike where they do."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from contour.sketch.drawn import forms
from contour.sketch.drawn.asked import ROUND, Asked, nearest, turned_as_drawn
from contour.sketch.drawn.headings import Heading, derivative, drawn_turn, heading_at, line_heading, turned
from contour.sketch.drawn.text import Arc, Circle, Line, Point, Spline
from contour.sketch.drawn.traces import trace_of
from contour.sketch.drawn.unknowns import Unknowns
from contour.solve.system import Equation

__all__ = ["curvature_continuous", "tangent"]

_CUSP_DEG = 10.0  # so near to turning back, a path is meant to


def tangent(q: Asked) -> list[Equation]:
    """Two curves that touch: at an end they share, at a point said to lie on one of them, else where they do."""
    u = q.unknowns
    if len(q.kinds()) != 2 or Point in q.kinds() or q.kinds() == [Line, Line]:
        raise q.wrong("two curves, or a line and a curve")
    a, b = q.constraint.of
    met = u.meeting(a, b)
    if met is not None:
        headings = []
        for name, p in zip((a, b), met, strict=True):
            t = u.end_parameter(name, p)
            if name in u.curves and t is None:
                break  # inside a spline: a place of contact, as if they did not meet
            headings.append(heading_at(u, name, u.points[p], t or 0.0))
        if len(headings) == 2:
            return [turned(u, headings[0], headings[1], _smooth(u, q.constraint.of, met, headings))]
    if Line in q.kinds() and any(k in ROUND for k in q.kinds()):
        line, ring = (a, b) if q.kinds()[0] is Line else (b, a)
        return [_line_and_ring(u, line, ring)]
    if all(k in ROUND for k in q.kinds()):
        return [_ring_and_ring(u, a, b)]
    return _contact(q, a, b)


def _smooth(u: Unknowns, of: Sequence[str], met: tuple[str, str], headings: list[Heading]) -> float:
    """Degrees from one heading to the other where two curves touch: going on, not turning back, unless that is clearly drawn.

    Which of both is meant cannot be told from a short arc that is roughly drawn; where both end, a path that goes on is.
    """
    drawn = drawn_turn(u, headings[0], headings[1])
    if not all(p in u.ends(n) for n, p in zip(of, met, strict=True)):
        return nearest(drawn, 0, 180)
    begins = [p == u.ends(n)[0] for n, p in zip(of, met, strict=True)]
    on = 0.0 if begins[0] != begins[1] else 180.0
    return 180.0 - on if abs((drawn - on + 180) % 360 - 180) > 180 - _CUSP_DEG else on


def _line_and_ring(u: Unknowns, line: str, ring: str) -> Equation:
    e = u.drawing.entities[ring]
    assert isinstance(e, Circle | Arc)
    (ax, ay), (bx, by) = (u.at(p) for p in u.ends(line))
    mx, my = u.at(e.centre)
    side = 1.0 if (bx - ax) * (my - ay) - (by - ay) * (mx - ax) >= 0 else -1.0
    slots = (*line_heading(u, line).slots, *u.points[e.centre], u.sizes[ring])
    return Equation(forms.from_line, slots, (side, 0.0))


def _ring_and_ring(u: Unknowns, a: str, b: str) -> Equation:
    """Outside each other or one in the other, as drawn."""
    ea, eb = u.drawing.entities[a], u.drawing.entities[b]
    assert isinstance(ea, Circle | Arc) and isinstance(eb, Circle | Arc)
    d = float(np.linalg.norm(u.at(ea.centre) - u.at(eb.centre)))
    ra, rb = u.start[u.sizes[a]], u.start[u.sizes[b]]
    slots = (*u.points[ea.centre], *u.points[eb.centre], u.sizes[a], u.sizes[b])
    if abs(d - (ra + rb)) <= abs(d - abs(ra - rb)):
        return Equation(forms.outside, slots)
    return Equation(forms.inside, slots, (1.0 if ra >= rb else -1.0,))


def _contact(q: Asked, a: str, b: str) -> list[Equation]:
    """A place of contact that is on both, and goes one way there."""
    u = q.unknowns
    x, y = _closest(u, a, b)
    point = (u.new(x), u.new(y))
    ea, ta = u.on_curve(a, point)
    eb, tb = u.on_curve(b, point)
    u.always += [*ea, *eb]
    headings = [heading_at(u, name, point, u.start[t] if t is not None else 0.0, t) for name, t in ((a, ta), (b, tb))]
    return [turned_as_drawn(q, headings[0], headings[1], 0, 180)]


def _closest(u: Unknowns, a: str, b: str) -> tuple[float, float]:
    """Half way between the two where they are nearest as drawn, mm."""
    pa, pb = (_places(u, name) for name in (a, b))
    gap = np.linalg.norm(pa[:, None] - pb[None], axis=2)
    i, k = np.unravel_index(gap.argmin(), gap.shape)
    x, y = 0.5 * (pa[i] + pb[k])
    return float(x), float(y)


def _places(u: Unknowns, name: str) -> NDArray[np.float64]:
    trace = trace_of(u, name)
    if trace is None:  # drawn without any size
        return u.at(u.points_of(name)[0])[None, :]
    return trace.place(np.linspace(0, 1, 73))


def curvature_continuous(q: Asked) -> list[Equation]:
    """A spline and a neighbour that go one way and bend alike where they meet."""
    u = q.unknowns
    met = u.meeting(*q.constraint.of) if len(q.constraint.of) == 2 else None
    kinds = q.kinds()
    if met is None or Spline not in kinds or any(k not in (Spline, Line, Arc) for k in kinds):
        raise q.wrong("a spline and a line, arc or spline that share an end")
    headings, bends = [], []
    for name, p in zip(q.constraint.of, met, strict=True):
        e = u.drawing.entities[name]
        t = u.end_parameter(name, p)
        heading = heading_at(u, name, u.points[p], t or 0.0)
        headings.append(heading)
        k = u.new(0.0)
        if isinstance(e, Line):
            u.always.append(Equation(forms.value, (k,), (0.0,)))
        elif isinstance(e, Arc):
            u.start[k] = 1 / max(u.start[u.sizes[name]], 1e-9)
            u.always.append(Equation(forms.bend_of_ring, (k, u.sizes[name])))
        else:
            assert t is not None
            second = derivative(u, name, 2, t)
            slots = (k, *heading.slots[2:], *second)
            u.start[k] = -float(np.real(forms.bend_of_spline([0.0, *(u.start[s] for s in slots[1:])], [])))
            u.always.append(Equation(forms.bend_of_spline, slots))
        bends.append(k)
    turn = _smooth(u, q.constraint.of, met, headings)
    square = u.extent() ** 2
    return [
        turned(u, headings[0], headings[1], turn),
        Equation(forms.curved_alike, tuple(bends), (1.0, 1.0 if turn == 0 else -1.0, square)),
    ]
