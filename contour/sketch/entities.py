"""Lines, arcs and free pieces on a plane, and the profiles that closed loops of them make."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from shapely.geometry import Point, Polygon
from shapely.validation import explain_validity

from contour.geometry.frames import PlaneFrame
from contour.outline.arcs import arc_points, circle_through
from contour.outline.ellipses import Ellipse, ellipse_path
from contour.recipe.problem import ContourError, Problem, Where
from contour.recipe.reference.aliases import profile_of_first

__all__ = [
    "Entity",
    "Face",
    "Loop",
    "LoopName",
    "Point2",
    "Profile",
    "Sketch",
    "chains_of",
    "ends_meet",
    "entity_points",
    "find_profiles",
    "loop_names",
    "named_by_share",
]

_JOIN_MM = 1e-6
EntityKind = Literal["line", "arc", "ellipse", "free"]
Point2 = tuple[float, float]


@dataclass(frozen=True, slots=True)
class Entity:
    """One piece. An arc or a part of an ellipse goes from start over mid to end; a whole one has start == end. A free piece is the
    cubic curve through its points (start and end among them). mm, plane coordinates."""

    id: str
    kind: EntityKind
    start: Point2
    end: Point2
    mid: Point2 | None = None
    points: tuple[Point2, ...] = ()
    ellipse: Ellipse | None = None

    @property
    def whole(self) -> bool:
        return self.start == self.end and self.kind in ("arc", "ellipse")

    def circle(self) -> tuple[NDArray[np.float64], float]:
        """Centre (2,) and radius of an arc."""
        assert self.mid is not None
        return circle_through(self.start, self.mid, self.end)

    def reversed(self) -> Entity:
        return Entity(self.id, self.kind, self.end, self.start, self.mid, self.points[::-1], self.ellipse)


@dataclass(frozen=True, slots=True)
class LoopName:
    """A loop's permanent name, and the entities it had when it was given: which of them still exist changes nothing."""

    name: str
    entities: tuple[str, ...]


Way = tuple[str, bool]  # an entity's id, and whether it is gone along from start to end


@dataclass(frozen=True, slots=True)
class Face:
    """A closed region of a drawing: outer counter-clockwise, islands clockwise."""

    name: str
    outer: tuple[Way, ...]
    islands: tuple[tuple[Way, ...], ...] = ()


@dataclass(frozen=True, slots=True)
class Sketch:
    """Entities on a plane frame (scan frame, mm). loops: names that loops have been given · faces: the regions of a drawing, which may share
    pieces; None where loops are looked for · refused: why nothing may be made of it as it stands · helpers: construction lines, which bound nothing and
    serve as axes and points."""

    frame: PlaneFrame
    entities: tuple[Entity, ...]
    loops: tuple[LoopName, ...] = ()
    faces: tuple[Face, ...] | None = None
    refused: Problem | None = None
    helpers: tuple[Entity, ...] = ()
    kind: str = "sketch"


@dataclass(frozen=True, slots=True)
class Loop:
    """Entities head to tail, counter-clockwise."""

    entities: tuple[Entity, ...]
    polygon: Polygon
    name: str = ""


@dataclass(frozen=True, slots=True)
class Profile:
    """An outer loop and the islands cut out of it."""

    outer: Loop
    islands: tuple[Loop, ...]

    @property
    def id(self) -> str:
        return self.outer.name

    @property
    def area(self) -> float:
        return float(self.outer.polygon.area - sum(i.polygon.area for i in self.islands))


def entity_points(entity: Entity, *, step_deg: float = 5.0) -> NDArray[np.float64]:
    """Points along an entity from start to end, (n, 2), for looking and testing (never for building)."""
    if entity.kind == "line":
        return np.array([entity.start, entity.end])
    if entity.kind == "free":
        return np.array(entity.points)
    assert entity.mid is not None
    if entity.ellipse is not None:
        ends = (np.array(p) for p in (entity.start, entity.mid, entity.end))
        return ellipse_path(entity.ellipse, *ends, step_deg=step_deg)
    return arc_points(entity.start, entity.mid, entity.end, step_deg=step_deg)


def ends_meet(a: Point2, b: Point2) -> bool:
    """Whether two ends are one place of the plane."""
    return abs(a[0] - b[0]) < _JOIN_MM and abs(a[1] - b[1]) < _JOIN_MM


def chains_of(entities: Sequence[Entity]) -> list[list[Entity]]:
    """Every entity once, head to tail with those it meets; some are turned round for that. A chain that closes ends where it begins."""
    left = list(entities)
    chains = []
    while left:
        chain = [left.pop(0)]
        grown = not ends_meet(chain[0].start, chain[0].end)
        while grown and not ends_meet(chain[0].start, chain[-1].end):
            grown = False
            for i, e in enumerate(left):
                if ends_meet(e.start, chain[-1].end):
                    chain.append(left.pop(i))
                elif ends_meet(e.end, chain[-1].end):
                    chain.append(left.pop(i).reversed())
                elif ends_meet(e.end, chain[0].start):
                    chain.insert(0, left.pop(i))
                elif ends_meet(e.start, chain[0].start):
                    chain.insert(0, left.pop(i).reversed())
                else:
                    continue
                grown = True
                break
        chains.append(chain)
    return chains


def _in_space(sketch: Sketch, p: Point2) -> tuple[float, float, float]:
    x, y, z = sketch.frame.to_space(np.array([p]))[0]
    return float(x), float(y), float(z)


def _loop(sketch: Sketch, chain: list[Entity]) -> Loop:
    if not ends_meet(chain[0].start, chain[-1].end):
        gap = float(np.hypot(*(np.array(chain[0].start) - np.array(chain[-1].end))))
        raise ContourError(
            "open-end",
            f"the outline is open at the end of {chain[-1].id}",
            where=Where(entity=chain[-1].id, point=_in_space(sketch, chain[-1].end)),
            got=f"a gap of {gap:.3f} mm to {chain[0].id}",
            need="closed loops",
            remedy="take the whole loop, or the pieces that close it",
        )
    points = np.vstack([entity_points(e)[:-1] for e in chain])
    polygon = Polygon(points) if len(points) >= 3 else Polygon()
    if not polygon.is_valid or polygon.area < 1e-9:
        reason = explain_validity(polygon)
        place = reason[reason.find("[") + 1 : reason.find("]")].split() if "[" in reason else []
        at = (float(place[0]), float(place[1])) if len(place) == 2 else chain[0].start
        raise ContourError(
            "self-crossing",
            "the outline crosses itself",
            where=Where(entity=chain[0].id, point=_in_space(sketch, at)),
            got=reason,
            need="loops that do not touch themselves",
            remedy="take the outline again with another tolerance",
        )
    if not polygon.exterior.is_ccw:
        chain = [e.reversed() for e in reversed(chain)]
    return Loop(tuple(chain), polygon)


def loop_names(loops: Sequence[tuple[str, Sequence[str]]]) -> list[str]:
    """A name for each loop, given as (its name so far or "", its entities): the name it has, or one by the lowest of its entities.

    >>> loop_names([("", ["e12", "e4"]), ("p4", ["e5"])])
    ['p4-2', 'p4']
    """
    out = [name for name, _ in loops]
    for k, (name, ids) in enumerate(loops):
        if not name:
            name = profile_of_first(min(ids, key=lambda i: (len(i), i)))
            out[k] = next(n for n in (name, *(f"{name}-{c}" for c in range(2, len(loops) + 2))) if n not in out)
    return out


def _named(loops: list[Loop], given: tuple[LoopName, ...]) -> list[Loop]:
    """Loops with their names: each given name to the loop that has most of its entities, once."""
    own = [frozenset(e.id for e in loop.entities) for loop in loops]
    return [replace(loop, name=name) for loop, name in zip(loops, named_by_share(own, given), strict=True)]


def named_by_share(own: Sequence[frozenset[str]], given: Sequence[LoopName]) -> list[str]:
    """Names for sets of entities: each given name to the set that has most of what it was given for, once; the others by their lowest.

    >>> named_by_share([frozenset({"e1", "e2"}), frozenset({"e3"})], [LoopName("p9", ("e2",))])
    ['p9', 'p3']
    """
    shared = [(len(ids & set(g.entities)), -i, k) for i, g in enumerate(given) for k, ids in enumerate(own)]
    kept: dict[int, str] = {}
    for count, i, k in sorted(shared, reverse=True):
        name = given[-i].name
        if count and k not in kept and name not in kept.values():
            kept[k] = name
    return loop_names([(kept.get(k, ""), sorted(ids)) for k, ids in enumerate(own)])


def find_profiles(sketch: Sketch) -> list[Profile]:
    """Closed loops nested by even and odd: outermost loops are material, loops in them are islands, and so on.

    Raises ContourError (no-profile, open-end, self-crossing) with the entity and the place in space.
    """
    if not sketch.entities:
        raise ContourError(
            "no-profile",
            "the sketch is empty",
            got="0 entities",
            need="at least one closed loop",
            remedy="take at least one closed loop",
        )
    loops = _named([_loop(sketch, chain) for chain in chains_of(sketch.entities)], sketch.loops)
    # A point of the loop itself: a point inside it may just as well lie inside one of its islands.
    inside = [[a is not b and b.polygon.contains(Point(a.entities[0].start)) for b in loops] for a in loops]
    depth = [sum(row) for row in inside]
    for i, loop in enumerate(loops):
        for other in loops[:i]:
            if loop.polygon.exterior.intersects(other.polygon.exterior):
                at = loop.polygon.exterior.intersection(other.polygon.exterior).representative_point()
                raise ContourError(
                    "self-crossing",
                    "two loops of the outline cross",
                    where=Where(entity=loop.entities[0].id, point=_in_space(sketch, (at.x, at.y))),
                    need="loops that do not touch",
                    got="a crossing",
                    remedy="leave one of them out, or take the outline again",
                )
    profiles = []
    for i, loop in enumerate(loops):
        if depth[i] % 2 == 0:
            islands = tuple(loops[j] for j in range(len(loops)) if depth[j] == depth[i] + 1 and inside[j][i])
            profiles.append(Profile(loop, islands))
    return profiles
