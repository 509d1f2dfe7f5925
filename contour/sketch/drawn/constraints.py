"""What each kind of constraint says, as equations. Where an equation has two answers, the one nearer to what is drawn is meant."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from contour.recipe.formula import evaluate
from contour.recipe.problem import ContourError, Where
from contour.sketch.drawn import forms
from contour.sketch.drawn.text import Arc, Circle, Constraint, Ellipse, Line, Point, Spline
from contour.sketch.drawn.unknowns import Heading, Unknowns
from contour.solve.system import Equation

__all__ = ["constraint_equations", "wrong_kinds"]

_ROUND = (Circle, Arc)
_CUSP_DEG = 10.0  # so near to turning back, a path is meant to
_NAMES = {Point: "point", Line: "line", Circle: "circle", Arc: "arc", Ellipse: "ellipse", Spline: "spline"}


@dataclass(frozen=True, slots=True)
class _Asked:
    """A constraint, where it is said ("c:0"), and the unknowns it speaks of."""

    unknowns: Unknowns
    constraint: Constraint
    where: str

    def kinds(self) -> list[type]:
        return [type(self.unknowns.drawing.entities[n]) for n in self.constraint.of]

    def wrong(self, need: str) -> ContourError:
        return wrong_kinds(self.unknowns, self.where, self.constraint.kind, self.constraint.of, need)


def wrong_kinds(unknowns: Unknowns, where: str, kind: str, of: Sequence[str], need: str) -> ContourError:
    """The refusal of a constraint or dimension on entities it is not for."""
    got = ", ".join(f"{n} ({_NAMES[type(unknowns.drawing.entities[n])]})" for n in of)
    return ContourError(
        "wrong-kind",
        f"{where}: {kind} needs {need}",
        where=Where(entity=where),
        got=got,
        need=need,
        remedy="choose other entities",
    )


def constraint_equations(unknowns: Unknowns, constraint: Constraint, where: str) -> list[Equation]:
    """Equations of one constraint. Raises ContourError (wrong-kind, bad-params) at `where`."""
    if len(set(constraint.of)) < len(constraint.of):
        raise ContourError(
            "bad-params",
            f"{where}: {constraint.kind} names an entity twice",
            where=Where(entity=where),
            got=", ".join(constraint.of),
            need="different entities",
            remedy="take one of them away",
        )
    return _KINDS[constraint.kind](_Asked(unknowns, constraint, where))


def _same_place(u: Unknowns, a: str, b: str) -> list[Equation]:
    (ax, ay), (bx, by) = u.points[a], u.points[b]
    return [Equation(forms.difference, (ax, bx), (0.0,)), Equation(forms.difference, (ay, by), (0.0,))]


def _coincident(q: _Asked) -> list[Equation]:
    if len(q.kinds()) < 2 or any(k is not Point for k in q.kinds()):
        raise q.wrong("two points or more")
    first, *rest = q.constraint.of
    return [e for other in rest for e in _same_place(q.unknowns, first, other)]


def _level(axis: int) -> Callable[[_Asked], list[Equation]]:
    def equations(q: _Asked) -> list[Equation]:
        kinds, of = q.kinds(), list(q.constraint.of)
        if all(k is Line for k in kinds):
            pairs = [tuple(q.unknowns.ends(n)) for n in of]
        elif len(kinds) >= 2 and all(k is Point for k in kinds):
            pairs = [(of[0], other) for other in of[1:]]
        else:
            raise q.wrong("lines, or two points or more")
        points = q.unknowns.points
        return [Equation(forms.difference, (points[a][axis], points[b][axis]), (0.0,)) for a, b in pairs]

    return equations


def _nearest(angle: float, *choices: float) -> float:
    return min(choices, key=lambda c: abs((angle - c + 180) % 360 - 180))


def _turned(q: _Asked, a: Heading, b: Heading, *choices: float) -> Equation:
    return q.unknowns.turned(a, b, _nearest(q.unknowns.drawn_turn(a, b), *choices))


def _line(u: Unknowns, name: str) -> Heading:
    return u.heading(name, (0, 0))


def _lines(q: _Asked, least: int = 2) -> list[Heading]:
    if len(q.kinds()) < least or any(k is not Line for k in q.kinds()):
        raise q.wrong("two lines" if least == 2 else "lines")
    return [_line(q.unknowns, n) for n in q.constraint.of]


def _parallel(q: _Asked) -> list[Equation]:
    first, *rest = _lines(q)
    return [_turned(q, first, other, 0, 180) for other in rest]


def _perpendicular(q: _Asked) -> list[Equation]:
    lines = _lines(q)
    if len(lines) != 2:
        raise q.wrong("two lines")
    return [_turned(q, *lines, 90, -90)]


def _angle(q: _Asked) -> list[Equation]:
    from contour.sketch.drawn.dimensions import angle_equation

    lines = _lines(q)
    if len(lines) != 2 or q.constraint.value is None:
        raise q.wrong("two lines and a value")
    try:
        degrees = evaluate(str(q.constraint.value), dimension="angle").value
    except ContourError as error:
        raise error.at(entity=q.where) from None
    return [angle_equation(q.unknowns, lines[0], lines[1], degrees)]


def _collinear(q: _Asked) -> list[Equation]:
    u, of = q.unknowns, q.constraint.of
    if len(of) >= 2 and all(k is Line for k in q.kinds()):
        first, *rest = _lines(q)
        tips = [u.points[u.ends(n)[0]] for n in of[1:]]
        on = [_on_line(first, p) for p in tips]
        return [e for other, place in zip(rest, on, strict=True) for e in (_turned(q, first, other, 0, 180), place)]
    if len(of) >= 3 and all(k is Point for k in q.kinds()):
        base = Heading((*u.points[of[0]], *u.points[of[1]]))
        return [_on_line(base, u.points[n]) for n in of[2:]]
    raise q.wrong("two lines or more, or three points or more")


def _on_line(line: Heading, point: tuple[int, int]) -> Equation:
    return Equation(forms.from_line, (*line.slots, *point, point[0]), (0.0, 0.0))


def _centre(u: Unknowns, name: str) -> str | None:
    e = u.drawing.entities[name]
    return name if isinstance(e, Point) else getattr(e, "centre", None)


def _concentric(q: _Asked) -> list[Equation]:
    centres = [_centre(q.unknowns, n) for n in q.constraint.of]
    if len(centres) < 2 or None in centres or all(k is Point for k in q.kinds()):
        raise q.wrong("two circles, arcs or ellipses or more (a point may be among them)")
    first, *rest = (c for c in centres if c is not None)
    # Those that share their centre already have nothing to be asked: the same unknown twice says nothing, as it should.
    return [e for other in rest for e in _same_place(q.unknowns, first, other)]


def _equal(q: _Asked) -> list[Equation]:
    u, of, kinds = q.unknowns, q.constraint.of, q.kinds()
    if len(of) >= 2 and all(k is Line for k in kinds):
        first, *rest = _lines(q)
        return [Equation(forms.equal_lengths, (*first.slots, *other.slots)) for other in rest]
    sizes = [Equation(forms.difference, (u.sizes[of[0]], u.sizes[n]), (0.0,)) for n in of[1:] if n in u.sizes]
    if len(of) >= 2 and of[0] in u.sizes and all(k in _ROUND for k in kinds):
        return sizes
    if len(of) >= 2 and all(k is Ellipse for k in kinds):
        axes = [
            (*u.points[e.centre], *u.points[e.major]) for n in of if isinstance(e := u.drawing.entities[n], Ellipse)
        ]
        return [*sizes, *(Equation(forms.equal_lengths, (*axes[0], *a)) for a in axes[1:])]
    raise q.wrong("lines alone, circles and arcs alone, or ellipses alone")


def _midpoint(q: _Asked) -> list[Equation]:
    u, of, kinds = q.unknowns, q.constraint.of, q.kinds()
    if kinds and kinds[0] is Point and (kinds[1:] in ([Line], [Arc]) or kinds[1:] == [Point, Point]):
        p = u.points[of[0]]
        a, b = (u.points[n] for n in (of[1:] if len(of) == 3 else u.ends(of[1])))
        if kinds[1] is not Arc:
            return [Equation(forms.sum_of_two, (a[k], b[k], p[k])) for k in (0, 1)]
        arc = u.drawing.entities[of[1]]
        assert isinstance(arc, Arc)
        m = u.points[arc.centre]
        on = Equation(forms.apart, (*m, *p, u.sizes[of[1]]), (1.0, 0.0))
        return [on, Equation(forms.equal_lengths, (*p, *a, *p, *b))]
    raise q.wrong("a point and a line or arc, or a point and the two points it is between")


def _symmetric(q: _Asked) -> list[Equation]:
    u, of, kinds = q.unknowns, q.constraint.of, q.kinds()
    if len(of) != 3 or kinds[0] is not kinds[1] or kinds[2] not in (Line, Point) or kinds[0] is Spline:
        raise q.wrong("two entities of one kind, and the line or point between them")
    a, b, about = of
    pairs = _mirrored_pairs(u, a, b, about)
    out = []
    for p, r in pairs:
        if kinds[2] is Point:
            m = u.points[about]
            out += [Equation(forms.sum_of_two, (u.points[p][k], u.points[r][k], m[k])) for k in (0, 1)]
        else:
            slots = (*_line(u, about).slots, *u.points[p], *u.points[r])
            out += [Equation(forms.middle_on_line, slots), Equation(forms.axis_square, slots)]
    if kinds[0] in (Circle, Ellipse):
        out.append(Equation(forms.difference, (u.sizes[a], u.sizes[b]), (0.0,)))
    return out


def _mirrored_pairs(u: Unknowns, a: str, b: str, about: str) -> list[tuple[str, str]]:
    """Points of a with those of b that lie nearest to their mirror image, or across from them where that is what is drawn."""
    mine, theirs = u.points_of(a), u.points_of(b)
    if not u.ends(a):
        return list(zip(mine, theirs, strict=True))
    ends_a, ends_b = u.ends(a), u.ends(b)
    other = [(p, r) for p, r in zip(mine, theirs, strict=True) if p not in ends_a]

    def image(p: str) -> np.ndarray:
        if isinstance(u.drawing.entities[about], Point):
            return 2 * u.at(about) - u.at(p)
        s, t = (u.at(n) for n in u.ends(about))
        d = (t - s) / max(float(np.linalg.norm(t - s)), 1e-12)
        w = u.at(p) - s
        return np.asarray(s + 2 * (w @ d) * d - w)

    straight = sum(float(np.linalg.norm(image(p) - u.at(r))) for p, r in zip(ends_a, ends_b, strict=True))
    crossed = sum(float(np.linalg.norm(image(p) - u.at(r))) for p, r in zip(ends_a, ends_b[::-1], strict=True))
    return [*other, *zip(ends_a, ends_b if straight <= crossed else ends_b[::-1], strict=True)]


def _on_curve(q: _Asked) -> list[Equation]:
    if len(q.kinds()) != 2 or q.kinds()[0] is not Point:
        raise q.wrong("a point and the curve it lies on")
    try:
        return q.unknowns.on_curve(q.constraint.of[1], q.unknowns.points[q.constraint.of[0]])[0]
    except ContourError as error:
        raise error.at(entity=q.where) from None


def _fixed(q: _Asked) -> list[Equation]:
    u, out = q.unknowns, []
    for name in q.constraint.of:
        e = u.drawing.entities[name]
        if isinstance(e, Arc | Ellipse) and u.ends(name):
            held = [*u.points[e.centre], u.sizes[name], *(u.points[e.major] if isinstance(e, Ellipse) else ())]
            zero = u.new(0.0), u.new(1.0)
            u.always += [Equation(forms.value, (s,), (u.start[s],)) for s in zero]
            east = Heading((zero[0], zero[0], zero[1], zero[0]))
            for tip in u.ends(name):  # an end moves along the curve only: its direction is enough
                ray = Heading((*u.points[e.centre], *u.points[tip]))
                out.append(u.turned(east, ray, u.drawn_turn(east, ray)))
        else:
            held = u.of(name)
        out += [Equation(forms.value, (s,), (u.start[s],)) for s in held]
    return out


def _tangent(q: _Asked) -> list[Equation]:
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
            headings.append(u.heading(name, u.points[p], t))
        if len(headings) == 2:
            return [u.turned(*headings, _smooth(u, q.constraint.of, met, headings))]
    if Line in q.kinds() and any(k in _ROUND for k in q.kinds()):
        line, ring = (a, b) if q.kinds()[0] is Line else (b, a)
        return [_line_and_ring(u, line, ring)]
    if all(k in _ROUND for k in q.kinds()):
        return [_ring_and_ring(u, a, b)]
    return _contact(q, a, b)


def _smooth(u: Unknowns, of: Sequence[str], met: tuple[str, str], headings: list[Heading]) -> float:
    """Degrees from one heading to the other where two curves touch: going on, not turning back, unless that is clearly drawn.

    Which of both is meant cannot be told from a short arc that is roughly drawn; where both end, a path that goes on is.
    """
    drawn = u.drawn_turn(*headings)
    if not all(p in u.ends(n) for n, p in zip(of, met, strict=True)):
        return _nearest(drawn, 0, 180)
    begins = [p == u.ends(n)[0] for n, p in zip(of, met, strict=True)]
    on = 0.0 if begins[0] != begins[1] else 180.0
    return 180.0 - on if abs((drawn - on + 180) % 360 - 180) > 180 - _CUSP_DEG else on


def _line_and_ring(u: Unknowns, line: str, ring: str) -> Equation:
    e = u.drawing.entities[ring]
    assert isinstance(e, Circle | Arc)
    (ax, ay), (bx, by) = (u.at(p) for p in u.ends(line))
    mx, my = u.at(e.centre)
    side = 1.0 if (bx - ax) * (my - ay) - (by - ay) * (mx - ax) >= 0 else -1.0
    slots = (*_line(u, line).slots, *u.points[e.centre], u.sizes[ring])
    return Equation(forms.from_line, slots, (side, 0.0))


def _ring_and_ring(u: Unknowns, a: str, b: str) -> Equation:
    """Outside each other or one in the other, as drawn."""
    ea, eb = u.drawing.entities[a], u.drawing.entities[b]
    assert isinstance(ea, Circle | Arc) and isinstance(eb, Circle | Arc)
    d = float(np.linalg.norm(u.at(ea.centre) - u.at(eb.centre)))
    ra, rb = u.start[u.sizes[a]], u.start[u.sizes[b]]
    slots = (*u.points[ea.centre], *u.points[eb.centre], u.sizes[a], u.sizes[b])
    if abs(d - (ra + rb)) <= abs(d - abs(ra - rb)):
        return Equation(_outside, slots)
    return Equation(_inside, slots, (1.0 if ra >= rb else -1.0,))


def _outside(v, c):  # type: ignore[no-untyped-def]
    return forms.apart([*v[:4], v[4] + v[5]], [1.0, 0.0])


def _inside(v, c):  # type: ignore[no-untyped-def]
    return forms.apart([*v[:4], v[4] - v[5]], [c[0], 0.0])


def _contact(q: _Asked, a: str, b: str) -> list[Equation]:
    """A place of contact that is on both, and goes one way there."""
    u = q.unknowns
    x, y = _closest(u, a, b)
    point = (u.new(x), u.new(y))
    ea, ta = u.on_curve(a, point)
    eb, tb = u.on_curve(b, point)
    u.always += [*ea, *eb]
    return [_turned(q, u.heading(a, point, ta), u.heading(b, point, tb), 0, 180)]


def _closest(u: Unknowns, a: str, b: str) -> tuple[float, float]:
    from contour.sketch.drawn.shapes import drawn_places

    pa, pb = drawn_places(u, a), drawn_places(u, b)
    gap = np.linalg.norm(pa[:, None] - pb[None], axis=2)
    i, k = np.unravel_index(gap.argmin(), gap.shape)
    x, y = 0.5 * (pa[i] + pb[k])
    return float(x), float(y)


def _curvature(q: _Asked) -> list[Equation]:
    u = q.unknowns
    met = u.meeting(*q.constraint.of) if len(q.constraint.of) == 2 else None
    kinds = q.kinds()
    if met is None or Spline not in kinds or any(k not in (Spline, Line, Arc) for k in kinds):
        raise q.wrong("a spline and a line, arc or spline that share an end")
    headings, bends, signs = [], [], []
    for name, p in zip(q.constraint.of, met, strict=True):
        e = u.drawing.entities[name]
        t = u.end_parameter(name, p)
        heading = u.heading(name, u.points[p], t)
        headings.append(heading)
        k = u.new(0.0)
        if isinstance(e, Line):
            u.always.append(Equation(forms.value, (k,), (0.0,)))
        elif isinstance(e, Arc):
            u.start[k] = 1 / max(u.start[u.sizes[name]], 1e-9)
            u.always.append(Equation(_bend_of_ring, (k, u.sizes[name])))
        else:
            assert t is not None
            second = u.derivative(name, t, 2)
            slots = (k, *heading.slots[2:], *second)
            u.start[k] = -float(np.real(_bend_of_spline([0.0, *(u.start[s] for s in slots[1:])], [])))
            u.always.append(Equation(_bend_of_spline, slots))
        bends.append(k)
    turn = _smooth(u, q.constraint.of, met, headings)
    signs = [1.0, 1.0 if turn == 0 else -1.0]
    square = u.extent() ** 2
    return [u.turned(*headings, turn), Equation(forms.curved_alike, tuple(bends), (signs[0], signs[1], square))]


def _bend_of_ring(v, c):  # type: ignore[no-untyped-def]
    """κ r is 1: counter-clockwise, as arcs go."""
    return v[0] * v[1] - 1


def _bend_of_spline(v, c):  # type: ignore[no-untyped-def]
    """κ is C' x C'' / |C'|³. v: κ x' y' x'' y''."""
    return v[0] - (v[1] * v[4] - v[2] * v[3]) / (v[1] * v[1] + v[2] * v[2] + 1e-24) ** 1.5


_KINDS: dict[str, Callable[[_Asked], list[Equation]]] = {
    "coincident": _coincident,
    "horizontal": _level(1),
    "vertical": _level(0),
    "parallel": _parallel,
    "perpendicular": _perpendicular,
    "tangent": _tangent,
    "curvature-continuous": _curvature,
    "collinear": _collinear,
    "concentric": _concentric,
    "equal": _equal,
    "midpoint": _midpoint,
    "symmetric": _symmetric,
    "on-curve": _on_curve,
    "fixed": _fixed,
    "angle": _angle,
}
