"""Dimensions of a drawing: what each kind measures, what it asks for, and formulas that name one another."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from contour.recipe.formula import Lookup, Quantity, evaluate, names_in
from contour.recipe.problem import ContourError, Where
from contour.sketch.drawn import forms
from contour.sketch.drawn.asked import wrong_kinds
from contour.sketch.drawn.headings import Heading, drawn_turn, east, line_heading, turned
from contour.sketch.drawn.text import Arc, Circle, Dimension, Drawing, Line, Point
from contour.sketch.drawn.traces import sweep_deg
from contour.sketch.drawn.unknowns import Unknowns
from contour.solve.system import Equation

__all__ = ["angle_equation", "dimension_equations", "dimension_values", "measured", "slope_of"]

Array = NDArray[np.float64]
_NOTHING_MM = 1e-9


def dimension_values(drawing: Drawing, lookup: Lookup | None = None) -> list[float | None]:
    """mm or degrees of each driving dimension, none of those that only read. Formulas may name other dimensions, or what `lookup` knows.

    Raises ContourError (bad-formula, mixed-dimensions, unknown-name, value-cycle, name-taken, bad-params) at "d:0".
    """
    by_name: dict[str, int] = {}
    for k, d in enumerate(drawing.dimensions):
        if d.name is not None and d.name in by_name:
            raise ContourError(
                "name-taken",
                f"d:{k} is called {d.name}, as is d:{by_name[d.name]}",
                where=Where(entity=f"d:{k}"),
                got=d.name,
                need="a name of its own",
                remedy="give one of them another name",
            )
        if d.name is not None:
            by_name[d.name] = k
    done: dict[int, float | None] = {}

    def value(k: int, above: tuple[int, ...]) -> float | None:
        if k in done:
            return done[k]
        d = drawing.dimensions[k]
        if d.value is None or d.reference:
            done[k] = None
            return None
        if not isinstance(d.value, str):
            _in_range(k, d, float(d.value))
            done[k] = float(d.value)
            return done[k]
        text = d.value
        # A size that has the name it asks for asks those outside the drawing.
        wants = {n: by_name[n] for n in names_in(text) if n in by_name and (by_name[n] != k or lookup is None)}
        for name, other in wants.items():
            if other in (*above, k):
                ring = " → ".join(f"d:{i}" for i in (*above, k, other))
                raise ContourError(
                    "value-cycle",
                    f"the value of d:{k} depends on itself",
                    where=Where(entity=f"d:{k}"),
                    got=ring,
                    need="formulas that end in numbers",
                    remedy=f"give {name} a value of its own",
                )
        known = {n: value(other, (*above, k)) for n, other in wants.items()}

        def look(name: str) -> Quantity:
            if (own := known.get(name)) is not None:
                angle = drawing.dimensions[by_name[name]].kind == "angle"
                return Quantity(own, 0 if angle else 1, 1 if angle else 0)
            if lookup is not None and name not in wants:
                return lookup(name)
            raise ContourError(
                "unknown-name",
                f"there is no value called {name}",
                got=name,
                need="the name of a driving dimension",
                remedy="name a dimension, or type its value",
            )

        try:
            done[k] = evaluate(text, dimension="angle" if d.kind == "angle" else "length", lookup=look).value
        except ContourError as error:
            raise error.at(entity=f"d:{k}") from None
        _in_range(k, d, done[k])
        return done[k]

    return [value(k, ()) for k in range(len(drawing.dimensions))]


def _in_range(k: int, d: Dimension, value: float | None) -> None:
    assert value is not None
    least = {"radius": _NOTHING_MM, "diameter": _NOTHING_MM, "arc-length": _NOTHING_MM, "angle": -360.0}.get(
        d.kind, 0.0
    )
    most = 360.0 if d.kind == "angle" else 1e6
    if not least <= value <= most:
        unit = "deg" if d.kind == "angle" else "mm"
        need = (
            "-360 to 360 deg"
            if d.kind == "angle"
            else "more than 0"
            if least > 0
            else "0 or more: the side is the one drawn"
        )
        raise ContourError(
            "bad-params",
            f"d:{k}: a {d.kind} cannot be {value:g} {unit}",
            where=Where(entity=f"d:{k}"),
            got=f"{value:g} {unit}",
            need=need,
            remedy="change the value, or draw the other side",
        )


def angle_equation(unknowns: Unknowns, a: Heading, b: Heading, degrees: float) -> Equation:
    """From heading a to heading b. 0 to 180 degrees go round the way they are drawn; what is negative or beyond is counter-clockwise as it stands."""
    drawn = drawn_turn(unknowns, a, b)
    sense = -1.0 if 0 <= degrees <= 180 and drawn < 0 and abs(drawn) < 180 - 1e-9 else 1.0
    return turned(unknowns, a, b, sense * degrees)


@dataclass(frozen=True, slots=True)
class _Two:
    """What a distance is between: points by their slots, lines by their headings."""

    points: list[tuple[int, int]]
    lines: list[Heading]


def _ends_of(u: Unknowns, d: Dimension, where: str, need: str) -> _Two:
    """Points and lines of a distance; circles, arcs and ellipses count by their centres."""
    points, lines = [], []
    for name in d.of:
        e = u.drawing.entities[name]
        if isinstance(e, Point):
            points.append(u.points[name])
        elif isinstance(e, Line):
            lines.append(line_heading(u, name))
        elif (centre := getattr(e, "centre", None)) is not None:
            points.append(u.points[centre])
        else:
            raise wrong_kinds(u, where, d.kind, d.of, need)
    return _Two(points, lines)


_DISTANCE = "two points, a point and a line, or two lines (a circle or arc counts by its centre)"


def dimension_equations(u: Unknowns, d: Dimension, where: str, value: float) -> list[Equation]:
    """Equations of one driving dimension, value in mm or degrees. Raises ContourError (wrong-kind) at `where`."""
    return _KINDS[d.kind](u, d, where, value)


def _distance(u: Unknowns, d: Dimension, where: str, value: float) -> list[Equation]:
    two = _ends_of(u, d, where, _DISTANCE)
    if len(d.of) != 2:
        raise wrong_kinds(u, where, d.kind, d.of, _DISTANCE)
    if not two.lines:
        a, b = two.points
        if value <= _NOTHING_MM:
            return [Equation(forms.difference, (a[k], b[k]), (0.0,)) for k in (0, 1)]
        return [Equation(forms.apart, (*a, *b, a[0]), (0.0, value))]
    line = two.lines[0]
    if two.points:
        off = Equation(forms.from_line, (*line.slots, *two.points[0], line.slots[0]), (0.0, 0.0))
    else:
        off = Equation(forms.middle_from_line, (*line.slots, *two.lines[1].slots), (0.0,))
    side = 1.0 if _read(u, off) >= 0 else -1.0
    constants = (0.0, side * value) if two.points else (side * value,)
    return [Equation(off.form, off.slots, constants)]


def _read(u: Unknowns, e: Equation) -> float:
    return float(e.form([u.start[s] for s in e.slots], e.constants))


def _along(axis: int) -> Callable[[Unknowns, Dimension, str, float], list[Equation]]:
    def equations(u: Unknowns, d: Dimension, where: str, value: float) -> list[Equation]:
        a, b = _pair(u, d, where)
        side = 1.0 if u.start[b[axis]] >= u.start[a[axis]] else -1.0
        return [Equation(forms.difference, (b[axis], a[axis]), (side * value,))]

    return equations


def _pair(u: Unknowns, d: Dimension, where: str) -> tuple[tuple[int, int], tuple[int, int]]:
    need = "two points or one line (a circle or arc counts by its centre)"
    two = _ends_of(u, d, where, need)
    if len(two.points) == 2 and not two.lines:
        return two.points[0], two.points[1]
    if len(d.of) == 1 and two.lines:
        s = two.lines[0].slots
        return (s[0], s[1]), (s[2], s[3])
    raise wrong_kinds(u, where, d.kind, d.of, need)


def _length(u: Unknowns, d: Dimension, where: str, value: float) -> list[Equation]:
    e = u.drawing.entities[d.of[0]]
    if len(d.of) != 1 or not isinstance(e, Line):
        raise wrong_kinds(u, where, d.kind, d.of, "one line")
    a, b = u.points[e.start], u.points[e.end]
    if value <= _NOTHING_MM:
        return [Equation(forms.difference, (a[k], b[k]), (0.0,)) for k in (0, 1)]
    return [Equation(forms.apart, (*a, *b, a[0]), (0.0, value))]


def _angle(u: Unknowns, d: Dimension, where: str, value: float) -> list[Equation]:
    a, b = _headings(u, d, where)
    return [angle_equation(u, a, b, value)]


def _headings(u: Unknowns, d: Dimension, where: str) -> tuple[Heading, Heading]:
    if any(not isinstance(u.drawing.entities[n], Line) for n in d.of):
        raise wrong_kinds(u, where, d.kind, d.of, "two lines, or one and the sketch's first axis")
    a, b = (east(u) if len(d.of) == 1 else line_heading(u, d.of[0])), line_heading(u, d.of[-1])
    return a, Heading(b.slots, 180.0 if d.supplement else 0.0)


def _radius(factor: float) -> Callable[[Unknowns, Dimension, str, float], list[Equation]]:
    def equations(u: Unknowns, d: Dimension, where: str, value: float) -> list[Equation]:
        if len(d.of) != 1 or not isinstance(u.drawing.entities[d.of[0]], Circle | Arc):
            raise wrong_kinds(u, where, d.kind, d.of, "one circle or arc")
        return [Equation(forms.value, (u.sizes[d.of[0]],), (factor * value,))]

    return equations


def _arc_length(u: Unknowns, d: Dimension, where: str, value: float) -> list[Equation]:
    e = u.drawing.entities[d.of[0]]
    if len(d.of) != 1 or not isinstance(e, Arc):
        raise wrong_kinds(u, where, d.kind, d.of, "one arc")
    slots = (*u.points[e.centre], *u.points[e.start], *u.points[e.end], u.sizes[d.of[0]])
    return [Equation(forms.arc_span, slots, (value,))]


def measured(u: Unknowns, d: Dimension, where: str, x: Sequence[float] | Array) -> float:
    """What a dimension reads at x (n,): mm, or degrees in its own sense."""
    e = u.drawing.entities[d.of[0]]
    if d.kind in ("distance", "horizontal-distance", "vertical-distance"):
        equation = dimension_equations(u, d, where, 0.0 if d.kind != "distance" else 1.0)[0]
        v = [float(x[s]) for s in equation.slots]
        if d.kind == "distance":
            off = float(equation.form(v, [0.0] * len(equation.constants)))
            return abs(off)
        return abs(float(equation.form(v, [0.0])))
    if d.kind == "length":
        equation = dimension_equations(u, d, where, 1.0)[0]
        return float(equation.form([float(x[s]) for s in equation.slots], [0.0, 0.0]))
    if d.kind == "angle":
        _headings(u, d, where)
        ways = [np.array([x[s[2]] - x[s[0]], x[s[3]] - x[s[1]]]) for s in (line_heading(u, n).slots for n in d.of)]
        p, q = ways if len(ways) == 2 else (np.array([1.0, 0.0]), ways[0])
        turn = np.degrees(np.arctan2(p[0] * q[1] - p[1] * q[0], p @ q)) + (180.0 if d.supplement else 0.0)
        return float(abs(180 - (180 - turn) % 360))
    dimension_equations(u, d, where, 1.0)
    r = float(x[u.sizes[d.of[0]]])
    if d.kind == "arc-length":
        assert isinstance(e, Arc)
        m, a2, b2 = (np.array([x[s] for s in u.points[p]]) for p in (e.centre, e.start, e.end))
        first, last = (float(np.degrees(np.arctan2(*(p - m)[::-1]))) for p in (a2, b2))
        return float(np.radians(sweep_deg(first, last)) * r)
    return r if d.kind == "radius" else 2 * r


def slope_of(u: Unknowns, d: Dimension, x: Array, size: float) -> Array:
    """(n,) how what a dimension reads changes with each unknown, by differences about x. size: of the drawing, mm."""
    out = np.zeros(len(x))
    h = 1e-5 * max(size, 1.0)
    for s in {s for name in d.of for s in u.of(name)}:
        low, high = x.copy(), x.copy()
        low[s] -= h
        high[s] += h
        out[s] = (measured(u, d, "a size", high) - measured(u, d, "a size", low)) / (2 * h)
    return out


_KINDS: dict[str, Callable[[Unknowns, Dimension, str, float], list[Equation]]] = {
    "distance": _distance,
    "horizontal-distance": _along(0),
    "vertical-distance": _along(1),
    "length": _length,
    "angle": _angle,
    "radius": _radius(1.0),
    "diameter": _radius(0.5),
    "arc-length": _arc_length,
}
