"""Lines and arcs at an even distance beside others, and thin profiles made of both."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from shapely.geometry import Polygon

from contour.geometry.vectors import unit
from contour.recipe.problem import ContourError, Where
from contour.sketch.entities import (
    Entity,
    Loop,
    Point2,
    Profile,
    Sketch,
    chains_of,
    ends_meet,
    entity_points,
    find_profiles,
)

__all__ = ["WallSide", "alongside", "thin_chains", "thin_profiles"]

Array = NDArray[np.float64]
WallSide = Literal["inside", "outside", "middle"]


@dataclass(frozen=True, slots=True, eq=False)
class _Carrier:
    """A moved piece before its ends are known. A line: a place and a unit direction · an arc: its centre and radius, and which way it turns."""

    entity: Entity
    begin: Array
    end: Array
    way: Array
    centre: Array | None = None
    radius: float = 0.0
    turn: float = 0.0

    def ahead(self, at: Array) -> Array:
        """The direction it goes on in, there."""
        if self.centre is None:
            return self.way
        out = at - self.centre
        return self.turn * np.array([-out[1], out[0]])


def alongside(chain: Sequence[Entity], off_mm: float, *, closed: bool, mark: str) -> list[Entity]:
    """The chain moved to its left (positive) or right, joints where the moved pieces meet, or round the corner where they do not; ids are followed by
    the mark.

    Raises ContourError (wrong-kind) for ellipses and free curves, (self-crossing) at a piece that has no room there.
    """
    carriers = [_carried(e, off_mm) for e in chain]
    if len(chain) == 1 and chain[0].whole:
        return [_whole(carriers[0], mark)]
    following = [*carriers[1:], *carriers[: 1 if closed else 0]]
    begins, ends = [c.begin for c in carriers], [c.end for c in carriers]
    for k, (a, b) in enumerate(zip(carriers, following, strict=False)):
        met = _meeting(a, b, off_mm)
        if met is not None:
            ends[k] = begins[(k + 1) % len(carriers)] = met
    out = []
    for k, (c, begin, end) in enumerate(zip(carriers, begins, ends, strict=True)):
        out.append(_between(c, begin, end, mark))
        after = begins[(k + 1) % len(carriers)]
        if (closed or k + 1 < len(carriers)) and float(np.linalg.norm(after - end)) > 1e-9:
            out.append(_round(c.entity, end, after, mark))
    return out


def _round(entity: Entity, a: Array, b: Array, mark: str) -> Entity:
    """Round the corner at the end of an entity, where what runs beside it and its neighbour do not meet."""
    corner = np.array(entity.end)
    mid = corner + unit((a + b) / 2 - corner) * float(np.linalg.norm(a - corner))
    return Entity(f"{entity.id}{mark}:corner", "arc", _pair(a), _pair(b), mid=_pair(mid))


def _no_room(entity: Entity, off_mm: float) -> ContourError:
    return ContourError(
        "self-crossing",
        f"there is no room beside {entity.id}",
        where=Where(entity=entity.id),
        got=f"{abs(off_mm):g} mm",
        need="a thinner wall, or a wider bend",
        remedy="type a thinner wall, or put it on the other side",
    )


def _carried(e: Entity, off: float) -> _Carrier:
    a, b = np.array(e.start), np.array(e.end)
    if e.kind == "line":
        way = unit(b - a)
        left = off * np.array([-way[1], way[0]])
        return _Carrier(e, a + left, b + left, way)
    if e.kind != "arc":
        raise ContourError(
            "wrong-kind",
            f"nothing runs evenly beside {e.id}",
            where=Where(entity=e.id),
            got=e.kind,
            need="lines and arcs",
            remedy="draw it of lines and arcs",
        )
    assert e.mid is not None
    centre, radius = e.circle()
    m = np.array(e.mid)
    # A whole one begins and ends in one place, opposite its middle: outlines go round counter-clockwise.
    turn = 1.0 if e.whole else float(np.sign(_cross(m - a, b - m)))
    now = radius - turn * off
    if now < 1e-6:
        raise _no_room(e, off)
    scale = now / radius
    return _Carrier(
        e, centre + (a - centre) * scale, centre + (b - centre) * scale, np.zeros(2), centre, float(now), turn
    )


def _cross(a: Array, b: Array) -> float:
    return float(a[0] * b[1] - a[1] * b[0])


def _whole(c: _Carrier, mark: str) -> Entity:
    assert c.centre is not None
    over = 2 * c.centre - c.begin
    return Entity(c.entity.id + mark, "arc", _pair(c.begin), _pair(c.begin), mid=_pair(over))


def _pair(p: Array) -> Point2:
    return float(p[0]), float(p[1])


def _meeting(a: _Carrier, b: _Carrier, off: float) -> Array | None:
    """Where two moved neighbours meet, nearest to where they have come apart; none on the outer side of a corner where they do not."""
    near = (a.end + b.begin) / 2
    if float(np.linalg.norm(a.end - b.begin)) < 1e-9:
        return near
    found = _crossings(a, b)
    if not found and _cross(a.ahead(a.end), b.ahead(b.begin)) * off < 0:
        return None
    if not found:
        raise _no_room(b.entity, float(np.linalg.norm(a.end - np.array(a.entity.end))))
    return min(found, key=lambda p: float(np.linalg.norm(p - near)))


def _crossings(a: _Carrier, b: _Carrier) -> list[Array]:
    if a.centre is None and b.centre is None:
        d = _cross(a.way, b.way)
        return [] if abs(d) < 1e-12 else [a.begin + _cross(b.begin - a.begin, b.way) / d * a.way]
    if a.centre is None:
        return _on_line(a, b)
    if b.centre is None:
        return _on_line(b, a)
    to = b.centre - a.centre
    far = float(np.linalg.norm(to))
    if far < 1e-12:
        return []
    along = (far**2 + a.radius**2 - b.radius**2) / (2 * far)
    deep = a.radius**2 - along**2
    if deep < -1e-9:
        return []
    half = float(np.sqrt(max(deep, 0.0)))
    u = to / far
    return [a.centre + along * u + s * half * np.array([-u[1], u[0]]) for s in (1.0, -1.0)]


def _on_line(line: _Carrier, arc: _Carrier) -> list[Array]:
    """Where a line meets a circle."""
    assert arc.centre is not None
    foot = line.begin + ((arc.centre - line.begin) @ line.way) * line.way
    deep = arc.radius**2 - float((foot - arc.centre) @ (foot - arc.centre))
    if deep < -1e-9:
        return []
    half = float(np.sqrt(max(deep, 0.0)))
    return [foot - half * line.way, foot + half * line.way]


def _between(c: _Carrier, a: Array, b: Array, mark: str) -> Entity:
    """A moved piece between its joints. Raises ContourError (self-crossing) where it would run backwards."""
    e, name = c.entity, c.entity.id + mark
    if c.centre is None:
        if float((b - a) @ c.way) < 1e-9:
            raise _no_room(e, float(np.linalg.norm(c.begin - np.array(e.start))))
        return Entity(name, "line", _pair(a), _pair(b))
    u, v = a - c.centre, b - c.centre
    sweep = c.turn * np.arctan2(_cross(u, v), float(u @ v)) % (2 * np.pi)
    own = c.turn * np.arctan2(
        _cross(c.begin - c.centre, c.end - c.centre), float((c.begin - c.centre) @ (c.end - c.centre))
    )
    own %= 2 * np.pi
    if abs(sweep - own) > np.pi:
        raise _no_room(e, float(np.linalg.norm(c.begin - np.array(e.start))))
    half = c.turn * sweep / 2
    turned = np.array([[np.cos(half), -np.sin(half)], [np.sin(half), np.cos(half)]]) @ u
    return Entity(name, "arc", _pair(a), _pair(b), mid=_pair(c.centre + turned))


def thin_profiles(profiles: Sequence[Profile], wall_mm: float, side: WallSide) -> list[Profile]:
    """Walls of even thickness along the outlines of profiles, on their inner side, their outer side, or half on each. The pieces on the new side are called
    ``entity:wall``, of a wall on both sides the outer ones ``entity:out``."""
    out = []
    for p in profiles:
        out.append(_around(p.outer, wall_mm, side, p.id))
        flipped: dict[WallSide, WallSide] = {"inside": "outside", "outside": "inside", "middle": "middle"}
        out += [_around(i, wall_mm, flipped[side], i.name or i.entities[0].id) for i in p.islands]
    return out


def _around(loop: Loop, wall: float, side: WallSide, name: str) -> Profile:
    """The ring between a loop, which runs counter-clockwise, and the one beside it."""
    within = {"inside": wall, "outside": 0.0, "middle": wall / 2}[side]
    inner, outer = (
        loop.entities if abs(off) < 1e-12 else tuple(alongside(loop.entities, off, closed=True, mark=mark))
        for off, mark in ((within, ":wall"), (within - wall, ":wall" if side == "outside" else ":out"))
    )
    return Profile(_loop(outer, name), (_loop(inner, ""),))


def _loop(entities: tuple[Entity, ...], name: str) -> Loop:
    polygon = Polygon(np.vstack([entity_points(e)[:-1] for e in entities]))
    if not polygon.is_valid or polygon.area < 1e-9 or not polygon.exterior.is_ccw:
        raise _no_room(entities[0], 0.0)
    return Loop(entities, polygon, name)


def thin_chains(sketch: Sketch, wall_mm: float, side: WallSide) -> list[Profile]:
    """Walls along the open lines of a sketch: on their left (inside), their right, or half on each. Raises ContourError as :func:`alongside` does."""
    out: list[Profile] = []
    for chain in chains_of(sketch.entities):
        if ends_meet(chain[0].start, chain[-1].end):
            continue
        left = {"inside": wall_mm, "outside": 0.0, "middle": wall_mm / 2}[side]
        a, b = (
            list(chain) if abs(off) < 1e-12 else alongside(chain, off, closed=False, mark=mark)
            for off, mark in ((left, ":wall"), (left - wall_mm, ":wall" if side == "outside" else ":out"))
        )
        first, last = chain[0].id, chain[-1].id
        closed = [
            *b,
            Entity(f"{last}:end", "line", b[-1].end, a[-1].end),
            *(e.reversed() for e in reversed(a)),
            Entity(f"{first}:begin", "line", a[0].start, b[0].start),
        ]
        out += find_profiles(Sketch(sketch.frame, tuple(closed)))
    return out
