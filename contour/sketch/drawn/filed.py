"""Drawings from flat files, and as flat files: the same curves, ends that meet made one point."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from contour.exchange.flat import shapes as flat
from contour.exchange.flat.shapes import FlatDrawing, LeftOut, Place
from contour.recipe.problem import ContourError
from contour.sketch.drawn.file_splines import SplinePoints, drawable
from contour.sketch.drawn.splines import curve_of
from contour.sketch.drawn.text import (
    MOST_ENTITIES,
    Arc,
    Circle,
    Drawing,
    Ellipse,
    Entity,
    Line,
    Point,
    Spline,
    points_of,
)

__all__ = ["JOIN_MM", "Drawn", "drawn_from", "pieces_of"]

Array = NDArray[np.float64]
JOIN_MM = 1e-3  # ends that are nearer meet; what is shorter is none
_BEYOND = 1e6  # mm: no drawing reaches further


@dataclass(frozen=True, slots=True)
class Drawn:
    """entities: by id, with the points they are drawn by · pieces: how many of them are no corners · left_out: what did not become any."""

    entities: dict[str, Entity]
    pieces: int
    left_out: tuple[LeftOut, ...]


def drawn_from(drawing: FlatDrawing, *, construction: frozenset[str] = frozenset()) -> Drawn:
    """Entities of a drawing in mm; construction: layers of which everything is construction lines.

    Raises ContourError (bad-params) where there are more than one drawing can have.
    """
    sheet = _Sheet(construction)
    for piece in drawing.pieces:
        sheet.put(piece)
    if len(sheet.entities) > MOST_ENTITIES:
        raise ContourError(
            "bad-params",
            "a drawing cannot have that many entities",
            got=f"{sheet.pieces:,} pieces with {len(sheet.entities) - sheet.pieces:,} points",
            need=f"{MOST_ENTITIES:,} at most, points counted",
            remedy="choose fewer layers, or let it lie under the sketch and draw over it",
        )
    return Drawn(sheet.entities, sheet.pieces, tuple(sheet.left_out))


class _Sheet:
    def __init__(self, construction: frozenset[str]) -> None:
        self.entities: dict[str, Entity] = {}
        self.pieces = 0
        self.left_out: list[LeftOut] = []
        self.construction = construction
        self.made = 0
        self.corners: dict[tuple[int, int], list[tuple[Place, str]]] = {}
        self.known: set[tuple[object, ...]] = set()

    def put(self, piece: flat.Piece) -> None:
        kind, at = type(piece.shape).__name__.lower(), _first(piece.shape)
        why = self._unfit(piece.shape)
        try:
            parts = drawable(piece.shape) if isinstance(piece.shape, flat.Spline) and not why else [piece.shape]
        except ValueError as error:
            parts, why = [], str(error)
        if why:
            self.left_out.append(LeftOut(kind, piece.layer, why, at))
            return
        for part in parts:
            if isinstance(part, SplinePoints) and part.off > 1e-4:
                self.left_out.append(LeftOut(kind, piece.layer, f"followed within {part.off:.3g} mm", at))
            self._draw(part, piece.aside or piece.layer in self.construction)

    def _unfit(self, shape: flat.Shape) -> str:
        reach = flat.rough(shape)
        if not np.isfinite(reach).all() or np.abs(reach).max(initial=0.0) > _BEYOND:
            return f"beyond {_BEYOND:,.0f} mm"
        if not isinstance(shape, flat.Spot) and np.ptp(reach, axis=0).max() < JOIN_MM:
            return f"shorter than {JOIN_MM} mm"
        key = _key(shape)
        if key in self.known:
            return "lies on another like it"
        self.known.add(key)
        return ""

    def _add(self, entity: Entity, letter: str) -> str:
        self.made += 1
        name = f"{letter}{self.made}"
        self.entities[name] = entity
        return name

    def _point(self, at: Place | Array) -> str:
        return self._add(Point(at=(float(at[0]), float(at[1]))), "p")

    def _corner(self, at: Place | Array) -> str:
        """The point there: one that ends already there, else a new one."""
        x, y = float(at[0]), float(at[1])
        i, j = math.floor(x / JOIN_MM), math.floor(y / JOIN_MM)
        near = [row for a in (i - 1, i, i + 1) for b in (j - 1, j, j + 1) for row in self.corners.get((a, b), ())]
        found = min(near, key=lambda row: math.dist(row[0], (x, y)), default=None)
        if found is not None and math.dist(found[0], (x, y)) < JOIN_MM:
            return found[1]
        name = self._point((x, y))
        self.corners.setdefault((i, j), []).append(((x, y), name))
        return name

    def _draw(self, part: flat.Shape | SplinePoints, construction: bool) -> None:
        entity, letter = self._entity(part)
        if entity is None:
            return
        self.pieces += 1
        self._add(entity.model_copy(update={"construction": construction}), letter)

    def _entity(self, part: flat.Shape | SplinePoints) -> tuple[Entity | None, str]:
        match part:
            case flat.Spot(at=at):
                return Point(at=at), "p"
            case flat.Line():
                a, b = self._corner(part.start), self._corner(part.end)
                return (Line(start=a, end=b) if a != b else None), "l"
            case flat.Arc(centre=m, radius=r):
                if part.whole:
                    return Circle(centre=self._point(m), radius=r), "c"
                ends = [(m[0] + r * math.cos(t), m[1] + r * math.sin(t)) for t in (part.first, part.last)]
                a, b = (self._corner(p) for p in ends)
                if a == b:  # but for less than the reach of a corner it is a whole one
                    return Circle(centre=self._point(m), radius=r), "c"
                return Arc(centre=self._point(m), start=a, end=b), "a"
            case flat.Ellipse():
                return self._ellipse(part), "o"
            case SplinePoints():
                return self._spline(part), "s"
        return None, ""

    def _ellipse(self, e: flat.Ellipse) -> Entity:
        centre = self._point(e.centre)
        major = self._point((e.centre[0] + e.major[0], e.centre[1] + e.major[1]))
        whole = Ellipse(centre=centre, major=major, minor=math.hypot(*e.major) * e.ratio)
        if e.whole:
            return whole
        a, b = (self._corner(e.at(t)) for t in (e.first, e.last))
        return whole.model_copy(update={"start": a, "end": b}) if a != b else whole

    def _spline(self, s: SplinePoints) -> Entity | None:
        first, last = (self._corner(p) for p in s.ends)
        over = s.through if s.through is not None else s.control
        assert over is not None
        if first == last and len(over) < 3:
            return None
        names = (first, *(self._point(p) for p in over[1:-1]), last)
        if s.control is not None:
            return Spline(control=names)
        start, end = (None if h is None else self._point(h) for h in (s.start, s.end))
        return Spline(through=names, start=start, end=end, at=s.at)


def _first(shape: flat.Shape) -> Place | None:
    p = flat.rough(shape)[0]
    return (float(p[0]), float(p[1])) if np.isfinite(p).all() else None


def _key(shape: flat.Shape) -> tuple[object, ...]:
    """The same for shapes that lie on one another all along, whichever way they run."""

    def near(*numbers: float) -> tuple[int, ...]:
        return tuple(round(n / JOIN_MM) for n in numbers)

    match shape:
        case flat.Arc(whole=True):
            return "circle", *near(*shape.centre, shape.radius)
        case flat.Ellipse(whole=True):
            (x, y), (a, b) = shape.centre, shape.major
            return "ellipse", *near(x, y, *max((a, b), (-a, -b)), shape.ratio * math.hypot(a, b))
    path = flat.rough(shape)
    rows = [near(*p) for p in (path[0], path[(len(path) - 1) // 2], path[len(path) // 2], path[-1])]
    return type(shape).__name__, len(path), *min(rows, rows[::-1])


# -- as a file


def pieces_of(drawing: Drawing, *, layer: str = "drawing") -> list[flat.Piece]:
    """Everything that is drawn, by layers: what bounds something, construction lines, what was brought in; points that nothing is drawn by."""
    used = {
        p for name, e in drawing.entities.items() if not isinstance(e, Point) for p in points_of(drawing.entities, name)
    }
    out = []
    for name, e in drawing.entities.items():
        if isinstance(e, Point) and name in used:
            continue
        shape = _shape(drawing, e)
        if shape is not None:
            on = "brought in" if e.linked else "construction" if e.construction else layer
            out.append(flat.Piece(shape, on, e.linked or e.construction))
    return out


def _shape(drawing: Drawing, e: Entity) -> flat.Shape | None:
    at = drawing.point
    match e:
        case Point():
            return flat.Spot(e.at)
        case Line():
            return flat.Line(at(e.start), at(e.end))
        case Circle():
            return flat.Arc(at(e.centre), e.radius)
        case Arc():
            m = at(e.centre)
            first, last = (_angle(m, at(p)) for p in (e.start, e.end))
            return flat.Arc(m, math.dist(m, at(e.start)), first, first + _turn(first, last))
        case Ellipse():
            return _flat_ellipse(e, at)
        case Spline():
            curve = curve_of(drawing, e)
            control = np.asarray(curve.basis.c @ np.array([at(p) for p in curve.points]))
            return flat.Spline(curve.basis.k, np.asarray(curve.basis.t, float), control)


def _flat_ellipse(e: Ellipse, at: Callable[[str], Place]) -> flat.Shape:
    m, tip = at(e.centre), at(e.major)
    major = (tip[0] - m[0], tip[1] - m[1])
    half = math.hypot(*major)
    other = e.minor
    if half < other:
        # A file's first half axis is the longer one.
        k = other / half
        major, half, other = (-major[1] * k, major[0] * k), other, half
    whole = flat.Ellipse(m, major, other / half)
    if not (e.start and e.end):
        return whole
    first, last = (_eccentric(whole, at(p)) for p in (e.start, e.end))
    return replace(whole, first=first, last=first + _turn(first, last))


def _eccentric(e: flat.Ellipse, p: Place) -> float:
    x, y = p[0] - e.centre[0], p[1] - e.centre[1]
    half = math.hypot(*e.major)
    c, s = e.major[0] / half, e.major[1] / half
    return math.atan2((-x * s + y * c) / (half * e.ratio), (x * c + y * s) / half)


def _angle(m: Place, p: Place) -> float:
    return math.atan2(p[1] - m[1], p[0] - m[0])


def _turn(first: float, last: float) -> float:
    return (last - first) % math.tau or math.tau
