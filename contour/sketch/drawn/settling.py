"""Sizes that settle a drawing: as few as say all of it, those that people would state first."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from itertools import combinations, pairwise

import numpy as np
from numpy.typing import NDArray

from contour.recipe.problem import ContourError
from contour.sketch.drawn.dimensions import measured, slope_of
from contour.sketch.drawn.stated import is_round
from contour.sketch.drawn.system import DrawnSystem
from contour.sketch.drawn.text import Arc, Circle, Constraint, Dimension, Drawing, Line, Point, points_of
from contour.sketch.drawn.unknowns import Unknowns

__all__ = ["settling"]

Array = NDArray[np.float64]
_MOST_UNKNOWNS = 1000
_NEW = 1e-6  # of a size's own slope: one that says less is said by the others
_SAME_DEG, _SAME_MM = 1e-6, 1e-6


def settling(drawing: Drawing, of: Sequence[str]) -> tuple[list[Constraint], list[Dimension], list[Dimension]]:
    """Demands that leave some entities no motion (constraints, driving sizes), and further sizes that people state and that follow from these.
    Sizes have no value yet: they are as they are drawn.

    Raises ContourError (bad-params) where there are too many entities.
    """
    work = _Settling(drawing, of)
    work.hold_down()
    # Round ones first: what was stated is round, and what follows from it is not.
    for d in sorted(_stated(drawing, of), key=lambda d: not is_round(work.reads(d), angle=d.kind == "angle")):
        work.take(d)
    for d in _from_anchor(drawing, of, work.anchor):
        work.take(d)
    work.fix_the_rest()
    return work.constraints, work.sizes, work.also()


class _Settling:
    """free: (unknowns, motions) that are left."""

    def __init__(self, drawing: Drawing, of: Sequence[str]) -> None:
        self.drawing, self.of = drawing, of
        system = DrawnSystem(drawing, None)
        self.unknowns, self.x, self.size = system.unknowns, system.x, system.size
        if len(self.x) > _MOST_UNKNOWNS:
            raise ContourError(
                "bad-params",
                "that is too much to be given sizes at once",
                got=f"{len(self.x):,} unknowns",
                need=f"{_MOST_UNKNOWNS:,} at most",
                remedy="choose fewer pieces",
            )
        own = {p for n in of for p in (*points_of(drawing.entities, n), n)}
        slots = sorted({s for n in own for s in self.unknowns.of(n)})
        jacobian = system.demands().system.jacobian(self.x).toarray()
        self.free = np.eye(len(self.x))[:, slots] @ _null(jacobian[:, slots])
        self.constraints: list[Constraint] = []
        self.sizes: list[Dimension] = []
        self.passed: list[Dimension] = []
        self.anchor = _anchor(drawing, of)

    def _says_something(self, slope: Array) -> bool:
        """And takes what it says away from what is free."""
        if not self.free.shape[1]:
            return False
        along = slope @ self.free
        if np.linalg.norm(along) <= _NEW * max(float(np.linalg.norm(slope)), 1e-300):
            return False
        # A reflection turns what is said into the first motion, and that one goes.
        turn = along.copy()
        turn[0] += math.copysign(float(np.linalg.norm(along)), along[0])
        self.free = (self.free - np.outer(self.free @ turn, 2 * turn / (turn @ turn)))[:, 1:]
        return True

    def take(self, d: Dimension) -> None:
        slope = slope_of(self.unknowns, d, self.x, self.size)
        if measured(self.unknowns, d, "d:0", self.x) > _SAME_MM and self._says_something(slope):
            self.sizes.append(d)
        else:
            self.passed.append(d)

    def hold_down(self) -> None:
        """The anchor stays, and centres that lie level or upright with one another say so."""
        self._fix(self.anchor)
        e = self.drawing.entities
        rings = list(dict.fromkeys(c.centre for n in self.of if isinstance(c := e[n], Circle)))
        for axis, kind in ((1, "horizontal"), (0, "vertical")):
            rows = sorted(rings, key=lambda p: self.drawing.point(p)[axis])
            for a, b in pairwise(rows):
                if abs(self.drawing.point(a)[axis] - self.drawing.point(b)[axis]) < _SAME_MM:
                    slope = np.zeros(len(self.x))
                    slope[self.unknowns.points[a][axis]], slope[self.unknowns.points[b][axis]] = 1.0, -1.0
                    if self._says_something(slope):
                        self.constraints.append(Constraint(kind=kind, of=(a, b)))  # type: ignore[arg-type]

    def _fix(self, name: str) -> None:
        new = False
        for slot in self.unknowns.of(name):
            slope = np.zeros(len(self.x))
            slope[slot] = 1.0
            new |= self._says_something(slope)
        if new:
            self.constraints.append(Constraint(kind="fixed", of=(name,)))

    def fix_the_rest(self) -> None:
        """What no size can tell, such as a free curve's points, stays where it is."""
        for name in [*(p for n in self.of for p in points_of(self.drawing.entities, n)), *self.of]:
            if self.free.shape[1]:
                self._fix(name)

    def also(self) -> list[Dimension]:
        """Sizes with values that no driving one has, which follow from the others."""
        known = {(True, 90.0), *((d.kind == "angle", round(self.reads(d), 5)) for d in self.sizes)}
        out: list[Dimension] = []
        for d in self.passed:
            key = (d.kind == "angle", round(self.reads(d), 5))
            if key[1] > _SAME_MM and key not in known:
                known.add(key)
                out.append(d.model_copy(update={"reference": True}))
        return out

    def reads(self, d: Dimension) -> float:
        return measured(self.unknowns, d, "d:0", self.x)


def _null(rows: Array) -> Array:
    """(columns, k) an orthonormal basis of what some rows say nothing of; rows count by their direction alone."""
    long = np.linalg.norm(rows, axis=1, keepdims=True)
    rows = rows[long[:, 0] > 0] / long[long[:, 0] > 0]
    if not len(rows):
        return np.eye(rows.shape[1])
    _, s, v = np.linalg.svd(rows)
    rank = int((s > 1e-8 * s[0]).sum())
    return np.asarray(v[rank:].T)


def _anchor(drawing: Drawing, of: Sequence[str]) -> str:
    """The point at the drawing's zero, else the lowest corner, the leftmost of several; without corners, a centre."""
    points = list(dict.fromkeys(p for n in of for p in points_of(drawing.entities, n)))
    at_zero = next((p for p in points if math.hypot(*drawing.point(p)) < _SAME_MM), None)
    if at_zero is not None:
        return at_zero
    corners = [p for n in of if isinstance(e := drawing.entities[n], Line) for p in (e.start, e.end)] or points
    return min(corners, key=lambda p: (round(drawing.point(p)[1], 6), drawing.point(p)[0]))


# -- what people state, in their order


def _stated(drawing: Drawing, of: Sequence[str]) -> list[Dimension]:
    return [
        *_rounds(drawing, of),
        *_across(drawing, of),
        *_centres(drawing, of),
        *_lengths(drawing, of),
        *_angles(drawing, of),
    ]


def _rounds(drawing: Drawing, of: Sequence[str]) -> Iterator[Dimension]:
    for n in of:
        if isinstance(drawing.entities[n], Circle):
            yield Dimension(kind="diameter", of=(n,))
    for n in of:
        if isinstance(drawing.entities[n], Arc):
            yield Dimension(kind="radius", of=(n,))


def _parallels(drawing: Drawing, of: Sequence[str]) -> list[list[str]]:
    """Lines by direction, each in their order across it."""
    classes: dict[int, list[tuple[float, str]]] = {}
    for n in of:
        if not isinstance(e := drawing.entities[n], Line):
            continue
        (ax, ay), (bx, by) = drawing.point(e.start), drawing.point(e.end)
        angle = math.degrees(math.atan2(by - ay, bx - ax)) % 180
        key = round(angle / (2 * _SAME_DEG)) % round(90 / _SAME_DEG)
        key = next((k for k in classes if abs(k - key) <= 1 or abs(k - key) >= round(90 / _SAME_DEG) - 1), key)
        way = math.radians(key * 2 * _SAME_DEG)
        classes.setdefault(key, []).append((-ax * math.sin(way) + ay * math.cos(way), n))
    return [[n for _, n in sorted(rows)] for rows in classes.values()]


def _across(drawing: Drawing, of: Sequence[str]) -> Iterator[Dimension]:
    """Overall sizes first, then from one side."""
    groups = _parallels(drawing, of)
    for lines in groups:
        if len(lines) > 1:
            yield Dimension(kind="distance", of=(lines[0], lines[-1]))
    for lines in groups:
        for n in lines[1:-1]:
            yield Dimension(kind="distance", of=(lines[0], n))
    for lines in groups:
        for n in lines[1:-1]:
            yield Dimension(kind="distance", of=(n, lines[-1]))


def _centres(drawing: Drawing, of: Sequence[str]) -> Iterator[Dimension]:
    """Rings around another one from that, then from the sides, and from one another."""
    rings = [n for n in of if isinstance(drawing.entities[n], Circle)]
    sides = _parallels(drawing, of)
    for middle, around in _circles_of_rings(drawing, rings):
        for n in around:
            yield Dimension(kind="distance", of=_points(drawing, middle, n))
    for n in rings[:1]:
        yield from _from_sides(drawing, n, sides)
    for a, b in pairwise(rings):
        yield Dimension(kind="horizontal-distance", of=_points(drawing, a, b))
        yield Dimension(kind="vertical-distance", of=_points(drawing, a, b))
    for n in rings[1:]:
        yield from _from_sides(drawing, n, sides)
    for a, b in list(combinations(rings, 2))[:200]:
        yield Dimension(kind="distance", of=_points(drawing, a, b))
    arcs = [n for n in of if isinstance(drawing.entities[n], Arc)]
    for n in arcs:
        yield from _from_sides(drawing, n, sides)
    for a, b in list(combinations([*rings, *arcs], 2))[:200]:
        yield Dimension(kind="distance", of=_points(drawing, a, b))


def _circles_of_rings(drawing: Drawing, rings: Sequence[str]) -> Iterator[tuple[str, list[str]]]:
    """A ring, and three or more of one size around its centre, evenly spread."""
    for middle in rings:
        groups: dict[tuple[float, float], list[str]] = {}
        for n in rings:
            a, b = _points(drawing, middle, n)
            e = drawing.entities[n]
            assert isinstance(e, Circle)
            far = math.dist(drawing.point(a), drawing.point(b))
            if far > _SAME_MM:
                groups.setdefault((round(e.radius, 5), round(far, 5)), []).append(n)
        m = drawing.point(_points(drawing, middle, middle)[0])
        for around in groups.values():
            at = [drawing.point(_points(drawing, middle, n)[1]) for n in around]
            turns = np.sort([math.atan2(y - m[1], x - m[0]) for x, y in at])
            gaps = np.diff([*turns, turns[0] + math.tau])
            if len(around) > 2 and np.ptp(gaps) < 1e-6:
                yield middle, around


def _from_sides(drawing: Drawing, ring: str, sides: Sequence[Sequence[str]]) -> Iterator[Dimension]:
    """From the nearer one of each two outermost sides, then from the other."""
    e = drawing.entities[ring]
    assert isinstance(e, Circle | Arc)
    u = Unknowns(drawing)
    rows = []
    for lines in sides:
        pair = [Dimension(kind="distance", of=(e.centre, n)) for n in dict.fromkeys((lines[0], lines[-1]))]
        rows.append(sorted(pair, key=lambda d: round(measured(u, d, "a size", u.start), 6)))
    yield from (row[0] for row in rows)
    yield from (d for row in rows for d in row[1:])


def _points(drawing: Drawing, a: str, b: str) -> tuple[str, str]:
    first, second = drawing.entities[a], drawing.entities[b]
    assert isinstance(first, Circle | Arc) and isinstance(second, Circle | Arc)
    return first.centre, second.centre


def _lengths(drawing: Drawing, of: Sequence[str]) -> Iterator[Dimension]:
    for n in of:
        if isinstance(drawing.entities[n], Line):
            yield Dimension(kind="length", of=(n,))


def _angles(drawing: Drawing, of: Sequence[str]) -> Iterator[Dimension]:
    """From what lies level, where something does."""
    u = Unknowns(drawing)
    firsts = sorted((lines[0] for lines in _parallels(drawing, of)), key=lambda n: not _level(drawing, n))
    for of_two in [*combinations(firsts, 2), *((n,) for n in firsts[:1])]:
        d = Dimension(kind="angle", of=of_two)
        # The corner's sharper angle is the one that is stated.
        blunt = measured(u, d, "a size", u.start) > 90 + 1e-9
        yield d.model_copy(update={"supplement": True}) if blunt else d


def _level(drawing: Drawing, line: str) -> bool:
    e = drawing.entities[line]
    assert isinstance(e, Line)
    return abs(drawing.point(e.start)[1] - drawing.point(e.end)[1]) < _SAME_MM


def _from_anchor(drawing: Drawing, of: Sequence[str], anchor: str) -> Iterator[Dimension]:
    """Where nothing else says it: how far along either axis."""
    for n in of:
        for p in points_of(drawing.entities, n):
            if p != anchor and isinstance(drawing.entities[n], Line | Arc | Circle | Point):
                yield Dimension(kind="horizontal-distance", of=(anchor, p))
                yield Dimension(kind="vertical-distance", of=(anchor, p))
