"""What is moved, turned, scaled, mirrored, repeated or set off, in place or as copies."""

from __future__ import annotations

from typing import Annotated, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from contour.recipe.problem import ContourError, Where
from contour.sketch.drawn.acts.pen import Act, Paper, Pen, Text
from contour.sketch.drawn.text import (
    MOST_ENTITIES,
    Arc,
    Circle,
    Constraint,
    Dimension,
    Drawing,
    Ellipse,
    Entity,
    Finite,
    Line,
    Point,
    Spline,
    require_references,
)

__all__ = ["Copying", "Paste", "copy", "paste"]

Array = NDArray[np.float64]
Of = Annotated[tuple[str, ...], Field(min_length=1, max_length=2000)]
# What turning breaks, and what moving does.
_LEVEL = ("horizontal", "vertical", "horizontal-distance", "vertical-distance")


class Move(Act):
    """By a way, turned about a place, scaled from it; copy: what is there stays."""

    act: Literal["move"]
    of: Of
    by: tuple[Finite, Finite] = (0.0, 0.0)
    about: tuple[Finite, Finite] = (0.0, 0.0)
    turn: Text = None
    scale: float = Field(default=1.0, gt=1e-4, le=1e4)
    copies: bool = Field(default=False, alias="copy")


class Mirror(Act):
    """On the other side of a line, and symmetric to what is there from then on."""

    act: Literal["mirror"]
    of: Of
    line: str


class InRow(Act):
    """count of them in all, each a step from the last; a second row the other way makes a field."""

    act: Literal["row"]
    of: Of
    count: int = Field(ge=2, le=100)
    step: tuple[Finite, Finite]
    rows: int = Field(default=1, ge=1, le=100)
    row_step: tuple[Finite, Finite] = (0.0, 0.0)


class InRing(Act):
    """count of them in all about a place, over the whole turn or over an angle (from the first to the last)."""

    act: Literal["ring"]
    of: Of
    count: int = Field(ge=2, le=200)
    about: tuple[Finite, Finite]
    over: Text = None


class SetOff(Act):
    """Lines, arcs and circles at a distance, joined where these are; to the left of a line as it runs, outwards of a circle; negative: the other side."""

    act: Literal["set-off"]
    of: Of
    distance: str = Field(max_length=400)


class Paste(Act):
    """What was copied from a drawing, this one or another: entities with all points that they are drawn by, and what is asked within them."""

    act: Literal["paste"]
    entities: dict[str, Entity] = Field(min_length=1, max_length=MOST_ENTITIES)
    constraints: tuple[Constraint, ...] = Field(default=(), max_length=5000)
    sizes: tuple[Dimension, ...] = Field(default=(), max_length=2000)
    by: tuple[Finite, Finite] = (0.0, 0.0)


Copying = Annotated[Move | Mirror | InRow | InRing | SetOff | Paste, Field(discriminator="act")]


def copy(pen: Pen, copying: Copying) -> None:
    """Raises ContourError (ref-lost, wrong-kind, bad-params, bad-formula)."""
    if isinstance(copying, Paste):
        paste(pen, copying)
        return
    for name in copying.of:
        pen.entity(name)
    match copying:
        case Move():
            _move(pen, copying)
        case Mirror():
            _mirror(pen, copying)
        case InRow():
            i, j = np.array(copying.step), np.array(copying.row_step)
            ways = [a * i + b * j for b in range(copying.rows) for a in range(copying.count)][1:]
            pen.chosen = [
                n for way in ways for n in _repeated(pen, copying.of, _similar(way, np.zeros(2), 0.0, 1.0), level=True)
            ]
        case InRing():
            over = pen.number(copying.over, "angle") if copying.over and copying.over.strip() else 360.0
            step = over / (copying.count if abs(over) >= 360 - 1e-9 else copying.count - 1)
            about = np.array(copying.about)
            maps = [_similar(np.zeros(2), about, k * step, 1.0) for k in range(1, copying.count)]
            pen.chosen = [n for m in maps for n in _repeated(pen, copying.of, m, level=False)]
        case SetOff():
            _set_off(pen, copying)


_Map = tuple[Array, Array, float]  # matrix (2, 2), shift (2,), factor of lengths


def _similar(by: Array, about: Array, turn_deg: float, scale: float) -> _Map:
    a = np.radians(turn_deg)
    m = scale * np.array([[np.cos(a), -np.sin(a)], [np.sin(a), np.cos(a)]])
    return m, about - m @ about + by, scale


def _points(pen: Pen, names: tuple[str, ...]) -> list[str]:
    return list(dict.fromkeys(p for n in names for p in pen.points_of(n)))


def _move(pen: Pen, c: Move) -> None:
    turn = pen.number(c.turn, "angle") if c.turn and c.turn.strip() else 0.0
    m = _similar(np.array(c.by), np.array(c.about), turn, c.scale)
    turned = abs(turn % 180) > 1e-9
    if c.copies:
        pen.chosen = _repeated(pen, c.of, m, level=not turned, sizes=c.scale == 1.0)
        return
    moved = _points(pen, c.of)
    for p in moved:
        pen.move(p, m[0] @ pen.at(p) + m[1])
    whole = {*moved, *c.of}
    for name in c.of:
        _scale_own(pen, name, c.scale)
    if turned:
        pen.constraints = [k for k in pen.constraints if not (k.kind in _LEVEL and set(k.of) <= whole)]
        pen.dimensions = [d for d in pen.dimensions if not (d.kind in _LEVEL and set(d.of) <= whole)]
    if c.scale != 1.0:
        pen.dimensions = [
            d.model_copy(update={"value": f"({d.value}) * {c.scale:g}"})
            if d.value is not None and d.kind != "angle" and set(d.of) <= whole
            else d
            for d in pen.dimensions
        ]
    pen.chosen = list(c.of)


def _scale_own(pen: Pen, name: str, factor: float) -> None:
    e = pen.entity(name)
    if isinstance(e, Circle):
        pen.put(name, e.model_copy(update={"radius": e.radius * factor}))
    elif isinstance(e, Ellipse):
        pen.put(name, e.model_copy(update={"minor": e.minor * factor}))


def _copied(pen: Pen, names: tuple[str, ...], m: _Map, *, mirrored: bool = False) -> dict[str, str]:
    """Copies of entities and of the points that they are drawn by, by what they are copies of."""
    new: dict[str, str] = {}
    for p in _points(pen, names):
        new[p] = pen.point(m[0] @ pen.at(p) + m[1], construction=pen.entity(p).construction)
    for name in names:
        e = pen.entity(name)
        if isinstance(e, Point):
            continue
        copied = _renamed(e, new)
        if mirrored and isinstance(copied, Arc | Ellipse):
            copied = copied.model_copy(update={"start": copied.end, "end": copied.start})
        new[name] = pen.add(copied)
        _scale_own(pen, new[name], m[2])
    return new


def _repeated(pen: Pen, names: tuple[str, ...], m: _Map, *, level: bool, sizes: bool = True) -> list[str]:
    """A copy that keeps what is asked within it. level: it is not turned · sizes: it has the sizes of what it is a copy of, by name."""
    asked, sized = list(pen.constraints), list(pen.dimensions)
    new = _copied(pen, names, m)
    for c in asked:
        if set(c.of) <= new.keys() and c.kind != "fixed" and (level or c.kind not in _LEVEL):
            pen.constraints.append(c.model_copy(update={"of": tuple(new[n] for n in c.of)}))
    for k, d in enumerate(sized):
        if sizes and set(d.of) <= new.keys() and d.value is not None and (level or d.kind not in _LEVEL):
            update = {"of": tuple(new[n] for n in d.of), "value": _name(pen, k), "name": None}
            pen.dimensions.append(d.model_copy(update=update))
    return [n for n in new.values() if not isinstance(pen.entities[n], Point)] or list(new.values())


def _name(pen: Pen, k: int) -> str:
    """What formulas call a size: it is given a name where it has none."""
    d = pen.dimensions[k]
    if d.name is None:
        taken = {x.name for x in pen.dimensions}
        d = d.model_copy(update={"name": next(n for i in range(1, 10_000) if (n := f"d{i}") not in taken)})
        pen.dimensions[k] = d
    assert d.name is not None
    return d.name


def paste(pen: Pen, c: Paste) -> None:
    """Names of sizes stay where they are free; formulas are taken as they are."""
    source = Drawing(entities=c.entities, constraints=c.constraints, dimensions=c.sizes)
    require_references(source)
    other = Paper(source)
    new: dict[str, str] = {}
    shift = np.array(c.by)
    for name, e in c.entities.items():
        if isinstance(e, Point):
            new[name] = pen.point(np.array(e.at) + shift, construction=e.construction)
    for name, e in c.entities.items():
        if not isinstance(e, Point):
            new[name] = pen.add(_renamed(e, {p: new[p] for p in other.points_of(name)}))
    taken = {d.name for d in pen.dimensions}
    for k in c.constraints:
        if k.kind != "fixed":  # it may be put elsewhere
            pen.constraints.append(k.model_copy(update={"of": tuple(new[n] for n in k.of)}))
    for d in c.sizes:
        called = d.name if d.name not in taken else None
        pen.dimensions.append(d.model_copy(update={"of": tuple(new[n] for n in d.of), "name": called}))
    pen.chosen = [n for n in new.values() if not isinstance(pen.entities[n], Point)] or list(new.values())


def _renamed(e: Entity, new: dict[str, str]) -> Entity:
    """The entity drawn by other points, given by those it has now."""
    update: dict[str, object] = {
        f: new[v] for f in ("start", "end", "centre", "major") if (v := getattr(e, f, None)) is not None
    }
    if isinstance(e, Spline):
        update |= {f: tuple(new[p] for p in getattr(e, f)) for f in ("through", "control")}
    if e.linked:  # a copy is a piece of the drawing
        update |= {"linked": False, "construction": False}
    return e.model_copy(update=update)


def _mirror(pen: Pen, c: Mirror) -> None:
    e = pen.entity(c.line, Line)
    a, b = pen.at(e.start), pen.at(e.end)
    d = b - a
    if float(np.linalg.norm(d)) < 1e-9:
        raise ContourError(
            "bad-params",
            "the line to mirror at has no length",
            where=Where(entity=c.line),
            got="0 mm",
            need="a line of some length",
            remedy="choose another line",
        )
    d = d / np.linalg.norm(d)
    m = 2 * np.outer(d, d) - np.eye(2)
    of = tuple(n for n in c.of if n != c.line)
    on_axis = {p for p in _points(pen, of) if abs(float((pen.at(p) - a) @ np.array([-d[1], d[0]]))) < 1e-6}
    new = _copied(pen, of, (m, a - m @ a, 1.0), mirrored=True)
    for old, image in list(new.items()):
        kind = pen.entities[old]
        if old in on_axis:
            _replace_point(pen, image, old)  # what lies on the line is its own image
        elif isinstance(kind, Point):
            pen.ask("symmetric", old, image, c.line)
        elif isinstance(kind, Circle | Ellipse) and not pen.ends(old):
            pen.ask("equal", old, image)
    pen.chosen = [n for n in new.values() if n in pen.entities and not isinstance(pen.entities[n], Point)]


def _replace_point(pen: Pen, old: str, new: str) -> None:
    for name in pen.users(old):
        e = pen.entities[name]
        update: dict[str, object] = {f: new for f in ("start", "end", "centre", "major") if getattr(e, f, None) == old}
        if isinstance(e, Spline):
            update |= {f: tuple(new if p == old else p for p in getattr(e, f)) for f in ("through", "control")}
        pen.put(name, e.model_copy(update=update))
    del pen.entities[old]


def _set_off(pen: Pen, c: SetOff) -> None:
    distance = pen.number(c.distance, "length")
    # A size is never negative: the side is the one that is drawn.
    away = c.distance if distance >= 0 else f"0 mm - ({c.distance})"
    plain = c.distance.strip().removeprefix("-")
    if distance < 0 and c.distance.strip().startswith("-") and pen.number(plain, "length") == -distance:
        away = plain.strip()
    size: str | None = None
    new: dict[str, str] = {}
    shared: dict[str, str] = {}
    for name in c.of:
        e = pen.entity(name, Line, Arc, Circle)
        if isinstance(e, Line):
            d = pen.at(e.end) - pen.at(e.start)
            shift = distance * np.array([-d[1], d[0]]) / np.linalg.norm(d)
            ends = [_set_off_end(pen, shared, p, pen.at(p) + shift) for p in (e.start, e.end)]
            new[name] = pen.line(*ends)
            pen.ask("parallel", name, new[name])
            of = (name, new[name])
        else:
            # A circle grows outwards; an arc is left of itself inside, as it runs counter-clockwise.
            grown = distance if isinstance(e, Circle) else -distance
            m = pen.at(e.centre)
            old = e.radius if isinstance(e, Circle) else float(np.linalg.norm(pen.at(e.start) - m))
            if old + grown < 1e-6:
                raise ContourError(
                    "bad-params",
                    f"{name} has no room for this",
                    where=Where(entity=name),
                    got=f"{distance:g} mm",
                    need=f"less than {old:g} mm inwards",
                    remedy="type a smaller distance, or the other side",
                )
            if isinstance(e, Circle):
                new[name] = pen.add(Circle(centre=e.centre, radius=old + grown))
            else:
                tips = [_set_off_end(pen, shared, p, m + (pen.at(p) - m) * (1 + grown / old)) for p in (e.start, e.end)]
                new[name] = pen.add(Arc(centre=e.centre, start=tips[0], end=tips[1]))
            of = (name, new[name])
        size = _gap(pen, of, away, size)
    pen.chosen = list(new.values())


def _set_off_end(pen: Pen, shared: dict[str, str], old: str, at: Array) -> str:
    """The corner that goes with a corner: half-way where two pieces say otherwise; the solver puts it where they meet."""
    if old in shared:
        pen.move(shared[old], (pen.at(shared[old]) + at) / 2)
    else:
        shared[old] = pen.point(at)
    return shared[old]


def _gap(pen: Pen, of: tuple[str, str], text: str, size: str | None) -> str | None:
    """How far a piece lies from what it was set off from: the first has the size, the others that of the first; arcs and circles by a radius of
    their own where they are not held by their neighbours."""
    first, second = (pen.entity(n) for n in of)
    if isinstance(first, Line):
        value = size or text
        pen.dimensions.append(Dimension(kind="distance", of=(of[0], second.start), value=value))
        return size or _name(pen, len(pen.dimensions) - 1)
    if isinstance(first, Circle):
        pen.dimensions.append(Dimension(kind="radius", of=(of[1],), value=f"{second.radius:.10g} mm"))
    return size
