"""The unknowns of a drawing: which numbers each entity has, and what always holds among them."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from contour.sketch.drawn import forms
from contour.sketch.drawn.splines import Curve, curve_of
from contour.sketch.drawn.text import Arc, Circle, Drawing, Ellipse, Line, Point, Spline, ends_of, points_of
from contour.solve.system import Equation

__all__ = ["Unknowns"]

Array = NDArray[np.float64]


class Unknowns:
    """Slots of a drawing's numbers, their drawn values, and equations that always hold (an arc's ends lie on its circle).

    Auxiliary unknowns (a place of contact, a spline's direction) are added as constraints need them.
    """

    def __init__(self, drawing: Drawing) -> None:
        self.drawing = drawing
        self.start: list[float] = []
        self.always: list[Equation] = []
        self.points: dict[str, tuple[int, int]] = {}
        self.sizes: dict[str, int] = {}  # radius of circles and arcs, minor half axis of ellipses
        self.curves: dict[str, Curve] = {}
        self._same: dict[str, str] = {}
        self._on: dict[str, set[str]] = {}
        for name, e in drawing.entities.items():
            if isinstance(e, Point):
                self.points[name] = (self.new(e.at[0]), self.new(e.at[1]))
        for name, e in drawing.entities.items():
            self._add(name, e)
        for name, e in drawing.entities.items():
            if e.linked:
                self.always += [Equation(forms.value, (s,), (self.start[s],)) for s in self.given(name)]
        for c in drawing.constraints:
            if c.kind == "coincident":
                for other in c.of[1:]:
                    self._same[self.root(other)] = self.root(c.of[0])
            elif c.kind == "on-curve" and len(c.of) == 2:
                self._on.setdefault(c.of[1], set()).add(c.of[0])

    def _add(self, name: str, e: Point | Line | Circle | Arc | Ellipse | Spline) -> None:
        if isinstance(e, Circle):
            self.sizes[name] = self.new(e.radius)
        elif isinstance(e, Arc):
            m = self.at(e.centre)
            r = 0.5 * float(np.linalg.norm(self.at(e.start) - m) + np.linalg.norm(self.at(e.end) - m))
            self.sizes[name] = self.new(r)
            for end in (e.start, e.end):
                slots = (*self.points[e.centre], *self.points[end], self.sizes[name])
                self.always.append(Equation(forms.apart, slots, (1.0, 0.0)))
        elif isinstance(e, Ellipse):
            self.sizes[name] = self.new(e.minor)
            for tip in (e.start, e.end):
                if tip is not None:
                    self.always.append(self.on_ellipse(name, self.points[tip]))
        elif isinstance(e, Spline):
            self.curves[name] = curve_of(self.drawing, e)

    def new(self, value: float) -> int:
        """The slot of one more unknown."""
        self.start.append(float(value))
        return len(self.start) - 1

    def at(self, point: str) -> Array:
        """Where a point is drawn, (2,)."""
        x, y = self.points[point]
        return np.array([self.start[x], self.start[y]])

    def root(self, point: str) -> str:
        while point in self._same and self._same[point] != point:
            point = self._same[point]
        return point

    def of(self, name: str) -> list[int]:
        """Slots of all numbers an entity has, its points' among them."""
        e = self.drawing.entities[name]
        slots = [s for p in self.points_of(name) for s in self.points[p]]
        return [*slots, *([self.sizes[name]] if name in self.sizes else [])] if not isinstance(e, Point) else slots

    def given(self, name: str) -> list[int]:
        """Slots of an entity's own numbers: a point's place, a size."""
        return [*self.points.get(name, ()), *([self.sizes[name]] if name in self.sizes else [])]

    def points_of(self, name: str) -> list[str]:
        return list(self.curves[name].points) if name in self.curves else points_of(self.drawing.entities, name)

    def ends(self, name: str) -> list[str]:
        """Points at which an entity begins and ends; none for closed ones."""
        return ends_of(self.drawing, name)

    def meeting(self, a: str, b: str) -> tuple[str, str] | None:
        """A point of a and one of b that are the same: ends first, then points said to lie on them."""
        mine, theirs = ([*self.ends(n), *sorted(self._on.get(n, ()))] for n in (a, b))
        for p in mine:
            for q in theirs:
                if self.root(p) == self.root(q):
                    return p, q
        return None

    def on_ellipse(self, name: str, point: tuple[int, int]) -> Equation:
        e = self.drawing.entities[name]
        assert isinstance(e, Ellipse)
        slots = (*self.points[e.centre], *self.points[e.major], self.sizes[name], *point)
        return Equation(forms.on_ellipse, slots)

    def on_curve(self, name: str, point: tuple[int, int]) -> tuple[list[Equation], int | None]:
        """(equations that put a point on an entity, slot of its parameter there if that is an unknown)."""
        e = self.drawing.entities[name]
        if isinstance(e, Line):
            slots = (*self.points[e.start], *self.points[e.end], *point, point[0])
            return [Equation(forms.from_line, slots, (0.0, 0.0))], None
        if isinstance(e, Circle | Arc):
            return [Equation(forms.apart, (*self.points[e.centre], *point, self.sizes[name]), (1.0, 0.0))], None
        if isinstance(e, Ellipse):
            return [self.on_ellipse(name, point)], None
        curve = self.curves[name]
        drawn = np.array([self.at(p) for p in curve.points])
        t = self.new(curve.nearest(drawn, np.array([self.start[s] for s in point])))
        form = curve.form(0)
        return [Equation(form, (t, point[k], *(self.points[p][k] for p in curve.points))) for k in (0, 1)], t

    def end_parameter(self, name: str, point: str) -> float | None:
        """A spline's parameter at one of its end points."""
        if name not in self.curves:
            return None
        return self.curves[name].span[self.ends(name).index(point)] if point in self.ends(name) else None

    def extent(self) -> float:
        """The size of the drawing, mm; next to nothing where all is in one place."""
        xy = np.array([self.at(p) for p in self.points]).reshape(-1, 2)
        across = float(np.ptp(xy, axis=0).max()) if len(xy) else 0.0
        return max([across, *(abs(self.start[s]) for s in self.sizes.values()), 1e-3])
