"""What each kind of constraint says, as equations. Where an equation has two answers, the one nearer to what is drawn is meant."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from contour.recipe.formula import evaluate
from contour.recipe.problem import ContourError, Where
from contour.sketch.drawn import forms
from contour.sketch.drawn.asked import ROUND, Asked, turned_as_drawn
from contour.sketch.drawn.dimensions import angle_equation
from contour.sketch.drawn.headings import Heading, drawn_turn, east, line_heading, turned
from contour.sketch.drawn.text import Arc, Circle, Constraint, Ellipse, Line, Point, Spline
from contour.sketch.drawn.touching import curvature_continuous, tangent
from contour.sketch.drawn.unknowns import Unknowns
from contour.solve.system import Equation

__all__ = ["constraint_equations"]


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
    return _KINDS[constraint.kind](Asked(unknowns, constraint, where))


def _same_place(u: Unknowns, a: str, b: str) -> list[Equation]:
    (ax, ay), (bx, by) = u.points[a], u.points[b]
    return [Equation(forms.difference, (ax, bx), (0.0,)), Equation(forms.difference, (ay, by), (0.0,))]


def _coincident(q: Asked) -> list[Equation]:
    if len(q.kinds()) < 2 or any(k is not Point for k in q.kinds()):
        raise q.wrong("two points or more")
    first, *rest = q.constraint.of
    return [e for other in rest for e in _same_place(q.unknowns, first, other)]


def _level(axis: int) -> Callable[[Asked], list[Equation]]:
    def equations(q: Asked) -> list[Equation]:
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


def _lines(q: Asked) -> list[Heading]:
    if len(q.kinds()) < 2 or any(k is not Line for k in q.kinds()):
        raise q.wrong("two lines")
    return [line_heading(q.unknowns, n) for n in q.constraint.of]


def _parallel(q: Asked) -> list[Equation]:
    first, *rest = _lines(q)
    return [turned_as_drawn(q, first, other, 0, 180) for other in rest]


def _perpendicular(q: Asked) -> list[Equation]:
    lines = _lines(q)
    if len(lines) != 2:
        raise q.wrong("two lines")
    return [turned_as_drawn(q, lines[0], lines[1], 90, -90)]


def _angle(q: Asked) -> list[Equation]:
    lines = _lines(q)
    if len(lines) != 2 or q.constraint.value is None:
        raise q.wrong("two lines and a value")
    try:
        degrees = evaluate(str(q.constraint.value), dimension="angle").value
    except ContourError as error:
        raise error.at(entity=q.where) from None
    return [angle_equation(q.unknowns, lines[0], lines[1], degrees)]


def _collinear(q: Asked) -> list[Equation]:
    u, of = q.unknowns, q.constraint.of
    if len(of) >= 2 and all(k is Line for k in q.kinds()):
        first, *rest = _lines(q)
        tips = [u.points[u.ends(n)[0]] for n in of[1:]]
        on = [_on_line(first, p) for p in tips]
        return [
            e for other, place in zip(rest, on, strict=True) for e in (turned_as_drawn(q, first, other, 0, 180), place)
        ]
    if len(of) >= 3 and all(k is Point for k in q.kinds()):
        base = Heading((*u.points[of[0]], *u.points[of[1]]))
        return [_on_line(base, u.points[n]) for n in of[2:]]
    raise q.wrong("two lines or more, or three points or more")


def _on_line(line: Heading, point: tuple[int, int]) -> Equation:
    return Equation(forms.from_line, (*line.slots, *point, point[0]), (0.0, 0.0))


def _centre(u: Unknowns, name: str) -> str | None:
    e = u.drawing.entities[name]
    return name if isinstance(e, Point) else getattr(e, "centre", None)


def _concentric(q: Asked) -> list[Equation]:
    centres = [_centre(q.unknowns, n) for n in q.constraint.of]
    if len(centres) < 2 or None in centres or all(k is Point for k in q.kinds()):
        raise q.wrong("two circles, arcs or ellipses or more (a point may be among them)")
    first, *rest = (c for c in centres if c is not None)
    # Those that share their centre already have nothing to be asked: the same unknown twice says nothing, as it should.
    return [e for other in rest for e in _same_place(q.unknowns, first, other)]


def _equal(q: Asked) -> list[Equation]:
    u, of, kinds = q.unknowns, q.constraint.of, q.kinds()
    if len(of) >= 2 and all(k is Line for k in kinds):
        first, *rest = _lines(q)
        return [Equation(forms.equal_lengths, (*first.slots, *other.slots)) for other in rest]
    if len(of) < 2 or not (all(k in ROUND for k in kinds) or all(k is Ellipse for k in kinds)):
        raise q.wrong("lines alone, circles and arcs alone, or ellipses alone")
    sizes = [Equation(forms.difference, (u.sizes[of[0]], u.sizes[n]), (0.0,)) for n in of[1:]]
    if kinds[0] is Ellipse:
        axes = [
            (*u.points[e.centre], *u.points[e.major]) for n in of if isinstance(e := u.drawing.entities[n], Ellipse)
        ]
        return [*sizes, *(Equation(forms.equal_lengths, (*axes[0], *a)) for a in axes[1:])]
    return sizes


def _midpoint(q: Asked) -> list[Equation]:
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


def _symmetric(q: Asked) -> list[Equation]:
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
            slots = (*line_heading(u, about).slots, *u.points[p], *u.points[r])
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


def _on_curve(q: Asked) -> list[Equation]:
    kinds = q.kinds()
    if len(kinds) != 2 or kinds[0] is not Point or kinds[1] is Point:
        raise q.wrong("a point and the curve it lies on")
    return q.unknowns.on_curve(q.constraint.of[1], q.unknowns.points[q.constraint.of[0]])[0]


def _fixed(q: Asked) -> list[Equation]:
    u, out = q.unknowns, []
    for name in q.constraint.of:
        e = u.drawing.entities[name]
        if isinstance(e, Arc | Ellipse) and u.ends(name):
            held = [*u.points[e.centre], u.sizes[name], *(u.points[e.major] if isinstance(e, Ellipse) else ())]
            along = east(u)
            for tip in u.ends(name):  # an end moves along the curve only: its direction is enough
                ray = Heading((*u.points[e.centre], *u.points[tip]))
                out.append(turned(u, along, ray, drawn_turn(u, along, ray)))
        else:
            held = u.of(name)
        out += [Equation(forms.value, (s,), (u.start[s],)) for s in held]
    return out


_KINDS: dict[str, Callable[[Asked], list[Equation]]] = {
    "coincident": _coincident,
    "horizontal": _level(1),
    "vertical": _level(0),
    "parallel": _parallel,
    "perpendicular": _perpendicular,
    "tangent": tangent,
    "curvature-continuous": curvature_continuous,
    "collinear": _collinear,
    "concentric": _concentric,
    "equal": _equal,
    "midpoint": _midpoint,
    "symmetric": _symmetric,
    "on-curve": _on_curve,
    "fixed": _fixed,
    "angle": _angle,
}
