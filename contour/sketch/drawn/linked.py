"""Linked geometry: curves of bodies and of other sketches, seen square on a drawing's plane, which the drawing refers to and never moves."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import Annotated, Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field, model_validator

from contour.geometry.curves import Curve, Line, places
from contour.geometry.frames import PlaneFrame
from contour.geometry.vectors import triple
from contour.recipe.problem import Problem, Where
from contour.recipe.reference import BodyRef, LinkedRef, SketchRef
from contour.sketch.drawn import text
from contour.sketch.drawn.text import Drawing, Finite, points_of
from contour.sketch.drawn.traces import Trace, traces_shown
from contour.sketch.entities import Sketch, entity_points

__all__ = [
    "DENSE",
    "SAME_MM",
    "Link",
    "LinkWay",
    "LinkedPiece",
    "drawn_piece",
    "entity_pieces",
    "freely",
    "own_numbers",
    "put",
    "refreshed",
    "seen",
    "traced",
    "with_numbers",
]

Array = NDArray[np.float64]
Point2 = tuple[float, float]
LinkWay = Literal["edge", "face", "cut", "silhouette", "sketch"]
PieceKind = Literal["point", "line", "circle", "arc", "ellipse", "spline"]

SAME_MM = 1e-6  # places nearer than this are one
_ROUND = 1e-9  # of an ellipse's size: half axes nearer than this are a circle's
DENSE, _EVERY = 193, 8  # places told of a free curve, and which of them a spline goes through
_COUNT: dict[str, tuple[int, ...]] = {"point": (1,), "line": (2,), "circle": (1,), "arc": (3,), "ellipse": (2, 4)}


class LinkedPiece(BaseModel):
    """A curve on the plane, mm. key: its name there, which lasts · points: a point's place; ends of a line; a circle's centre; an arc's centre and its ends,
    counter-clockwise; an ellipse's centre, the tip of its longer half axis, and the ends of a part of it; places along a free curve · size: radius, or
    the shorter half axis · faces: on either side."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    key: str = Field(max_length=4000)
    kind: PieceKind
    points: tuple[tuple[Finite, Finite], ...] = Field(min_length=1, max_length=DENSE)
    size: float = Field(default=0.0, ge=0, le=1e6)
    faces: tuple[str, ...] = Field(default=(), max_length=8)

    @model_validator(mode="after")
    def _has_its_points(self) -> LinkedPiece:
        if self.kind == "spline":
            right = len(self.points) > 2 * _EVERY
        else:
            right = len(self.points) in _COUNT[self.kind]
        if not right or (self.kind in ("circle", "ellipse") and self.size <= 0):
            raise ValueError(f"a {self.kind} cannot have {len(self.points)} points and a size of {self.size:g}")
        return self


class Link(BaseModel):
    """What was brought in, and the entities it has become, by the keys of its pieces."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    way: LinkWay
    part: LinkedRef | None = Field(default=None, description="the edge, or the face for all edges around it")
    body: BodyRef | None = Field(default=None, description="the body that is cut, or whose silhouette it is")
    sketch: SketchRef | None = Field(default=None, description="another sketch")
    pieces: dict[Annotated[str, Field(max_length=4000)], str] = Field(default_factory=dict, max_length=2000)

    @model_validator(mode="after")
    def _has_its_source(self) -> Link:
        wanted = {"edge": "part", "face": "part", "cut": "body", "silhouette": "body", "sketch": "sketch"}[self.way]
        given = [n for n in ("part", "body", "sketch") if getattr(self, n) is not None]
        if given != [wanted]:
            raise ValueError(f"{self.way} needs its {wanted} and nothing else")
        if self.part is not None and self.part.part != self.way:
            raise ValueError(f"{self.way} needs a reference to one")
        return self


def seen(curve: Curve, frame: PlaneFrame, key: str, faces: Sequence[str] = ()) -> LinkedPiece:
    """An analytic curve in space as it is seen square to the plane: exact, since the shadow of an ellipse is an ellipse, or a stretch of a line."""

    def piece(kind: PieceKind, points: Sequence[Array], size: float = 0.0) -> LinkedPiece:
        return LinkedPiece(key=key, kind=kind, points=tuple(map(_pair, points)), size=size, faces=tuple(faces))

    if isinstance(curve, Line):
        a, b = frame.to_plane(np.array([curve.start, curve.end]))
        return _stretch(piece, a, b)
    axes = np.array([frame.u, frame.v])
    centre = frame.to_plane(np.array([curve.centre]))[0]
    p, q = curve.long * axes @ np.array(curve.x), curve.short * axes @ np.array(curve.y)
    ways, (long, short), _ = np.linalg.svd(np.column_stack([p, q]))
    if short < max(SAME_MM, _ROUND * long):
        return _stretch(piece, *_edge_on(centre, p, q, curve.first, curve.last))
    ends = frame.to_plane(places(curve, np.array([curve.first, curve.last])))
    if p[0] * q[1] - p[1] * q[0] < 0:  # it runs clockwise as it is seen
        ends = ends[::-1]
    if long - short < _ROUND * long:
        return piece("circle", [centre], long) if curve.whole else piece("arc", [centre, *ends])
    return piece("ellipse", [centre, centre + long * ways[:, 0], *([] if curve.whole else ends)], short)


def _stretch(piece: Callable[..., LinkedPiece], a: Array, b: Array) -> LinkedPiece:
    return piece("point", [(a + b) / 2]) if np.linalg.norm(b - a) < SAME_MM else piece("line", [a, b])


def _edge_on(centre: Array, p: Array, q: Array, first: float, last: float) -> tuple[Array, Array]:
    """Ends of what is seen of ``centre + p cos t + q sin t`` where p and q lie along one line."""
    way = p if np.linalg.norm(p) > np.linalg.norm(q) else q
    size = float(np.linalg.norm(way))
    if size < SAME_MM:
        return centre, centre
    way = way / size
    a, b = float(p @ way), float(q @ way)
    peak = math.atan2(b, a)
    turned = [first + (t - first) % (2 * math.pi) for t in (peak, peak + math.pi)]
    reach = [a * math.cos(t) + b * math.sin(t) for t in (first, last, *(t for t in turned if t <= last))]
    return centre + min(reach) * way, centre + max(reach) * way


def freely(points: Array, frame: PlaneFrame, key: str, faces: Sequence[str] = ()) -> LinkedPiece:
    """Any other curve, by DENSE places (n, 3) along it, mm."""
    flat = frame.to_plane(points)
    kind: PieceKind = "spline"
    if float(np.ptp(flat, axis=0).max()) < SAME_MM:
        kind, flat = "point", flat[:1]
    return LinkedPiece(key=key, kind=kind, points=tuple(map(_pair, flat)), faces=tuple(faces))


def _pair(p: Sequence[float] | Array) -> Point2:
    return float(p[0]), float(p[1])


def drawn_piece(piece: LinkedPiece, point: Callable[[Point2], str], *, bounds: bool = False) -> text.Entity | None:
    """The entity that a piece becomes; none where it is a point, which `point` makes. bounds: profiles are made of it, too."""
    told = {"linked": True, "construction": not bounds}
    match piece.kind:
        case "point":
            point(piece.points[0])
            return None
        case "line":
            return text.Line(start=point(piece.points[0]), end=point(piece.points[1]), **told)
        case "circle":
            return text.Circle(centre=point(piece.points[0]), radius=piece.size, **told)
        case "arc":
            m, a, b = map(point, piece.points)
            return text.Arc(centre=m, start=a, end=b, **told)
        case "ellipse":
            m, tip, *ends = map(point, piece.points)
            return text.Ellipse(
                centre=m,
                major=tip,
                minor=piece.size,
                start=ends[0] if ends else None,
                end=ends[-1] if ends else None,
                **told,
            )
        case "spline":
            *through, start, end = map(point, _laid(piece))
            return text.Spline(through=tuple(through), start=start, end=end, **told)


def _laid(piece: LinkedPiece) -> Sequence[Point2]:
    """Places of the points that a piece is drawn by: of a free curve those that it goes through, and what it leaves and arrives towards."""
    if piece.kind != "spline":
        return piece.points
    p = np.array(piece.points)
    through = p[::_EVERY]
    ends = []
    for tip, one, two, next_one in ((p[0], p[1], p[2], through[1]), (p[-1], p[-2], p[-3], through[-2])):
        way = 4 * one - 3 * tip - two  # the slope of the parabola through three places
        ends.append(tip + way / max(float(np.linalg.norm(way)), 1e-12) * float(np.linalg.norm(next_one - tip)) / 3)
    return [_pair(q) for q in (*through, *ends)]


def traced(pieces: Sequence[LinkedPiece]) -> list[tuple[int, Trace]]:
    """Pieces that have a length as curves, by their places in the list."""
    entities: dict[str, text.Entity] = {}

    def point(at: Point2) -> str:
        name = f"p{len(entities)}"
        entities[name] = text.Point(at=at)
        return name

    for k, piece in enumerate(pieces):
        entity = drawn_piece(piece, point)
        if entity is not None:
            entities[f"c{k}"] = entity
    return [(int(t.entity[1:]), t) for t in traces_shown(Drawing(entities=entities))]


def put(entities: dict[str, text.Entity], name: str, piece: LinkedPiece) -> bool:
    """An entity is put where a piece of its kind is now; whether it could be."""
    e = entities[name]
    points = points_of(entities, name)
    at = _laid(piece)
    if piece.kind != e.kind or len(at) != len(points):
        return False
    for p, place in zip(points, at, strict=True):
        entities[p] = entities[p].model_copy(update={"at": place})
    own: dict[str, dict[str, Any]] = {
        "circle": {"radius": piece.size},
        "ellipse": {"minor": piece.size},
        "spline": {"at": ()},
    }
    if e.kind in own:
        entities[name] = e.model_copy(update=own[e.kind])
    return True


def own_numbers(e: text.Entity) -> tuple[float, ...]:
    """What an entity has besides the points that it is drawn by: a point's place, a radius, a half axis, mm."""
    match e:
        case text.Point():
            return e.at
        case text.Circle():
            return (e.radius,)
        case text.Ellipse():
            return (e.minor,)
        case _:
            return ()


def with_numbers(e: text.Entity, numbers: Sequence[float]) -> text.Entity:
    """The entity with these as its own numbers; as it is where they are not of its kind."""
    match e, list(numbers):
        case text.Point(), [x, y]:
            return e.model_copy(update={"at": (x, y)})
        case text.Circle(), [radius]:
            return e.model_copy(update={"radius": radius})
        case text.Ellipse(), [minor]:
            return e.model_copy(update={"minor": minor})
        case text.Spline(), []:
            return e.model_copy(update={"at": ()})
        case _:
            return e


def refreshed(
    drawing: Drawing, links: Sequence[tuple[Link, Sequence[LinkedPiece]]], frame: PlaneFrame
) -> tuple[Drawing, list[Problem]]:
    """The drawing with everything linked where it is now, and what of it is no longer there, or not as it was: that stays where it was."""
    entities = dict(drawing.entities)
    problems: list[Problem] = []
    for link, pieces in links:
        now = {p.key: p for p in pieces}
        for key, name in link.pieces.items():
            piece = now.get(key)
            if name in entities and (piece is None or not put(entities, name, piece)):
                problems.append(_stays(name, piece, drawing, frame))
        fresh = len(now.keys() - link.pieces.keys())
        if fresh:
            problems.append(_grown(link, fresh))
    return drawing.model_copy(update={"entities": entities}), problems


def _stays(name: str, now: LinkedPiece | None, drawing: Drawing, frame: PlaneFrame) -> Problem:
    at = frame.to_space(np.array([drawing.point(points_of(drawing.entities, name)[0])]))[0]
    return Problem(
        code="ref-lost",
        message=f"what {name} was brought in from is {'gone' if now is None else 'another curve now'}: it stays where it was",
        where=Where(entity=name, point=(float(at[0]), float(at[1]), float(at[2]))),
        got="nothing there" if now is None else f"a {now.kind}",
        need=f"a {drawing.entities[name].kind}",
        remedy="bring it in anew, or detach it",
    )


def _grown(link: Link, count: int) -> Problem:
    what = {
        "edge": "the edge",
        "face": "the face",
        "cut": "the cut",
        "silhouette": "the silhouette",
        "sketch": "the sketch",
    }[link.way]
    return Problem(
        code="outline-changed",
        message=f"{what} that was brought in has {count} piece{'s' if count > 1 else ''} more now",
        where=Where(entity=next(iter(link.pieces.values()))),
        got=f"{count} that {'are' if count > 1 else 'is'} not in the drawing",
        need="all that is to be drawn on",
        remedy="bring it in again: what is there stays as it is",
    )


def entity_pieces(sketch: Sketch, frame: PlaneFrame) -> list[LinkedPiece]:
    """Everything drawn in another sketch, seen on this plane: exact where the planes are parallel, else by places along it."""
    flat = bool(abs(float(sketch.frame.normal @ frame.normal)) > 1 - 1e-12)
    return [_of_entity(sketch, k, frame, flat) for k in range(len(sketch.entities))]


def _of_entity(sketch: Sketch, k: int, frame: PlaneFrame, flat: bool) -> LinkedPiece:
    e = sketch.entities[k]

    def here(p: Sequence[float] | Array) -> Array:
        return np.asarray(frame.to_plane(sketch.frame.to_space(np.array([p])))[0])

    if e.kind == "line":
        a, b = (sketch.frame.to_space(np.array([p]))[0] for p in (e.start, e.end))
        return seen(Line(triple(a), triple(b)), frame, e.id)
    if e.kind == "arc" and flat:
        centre, radius = e.circle()
        m = here(centre)
        if e.whole:
            return LinkedPiece(key=e.id, kind="circle", points=(_pair(m),), size=float(radius))
        a, b, c = (here(p) for p in (e.start, e.mid or e.start, e.end))
        if _turn(a - m, b - m) > _turn(a - m, c - m):  # clockwise
            a, c = c, a
        return LinkedPiece(key=e.id, kind="arc", points=(_pair(m), _pair(a), _pair(c)))
    path = entity_points(e, step_deg=1.0)
    long = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(path, axis=0), axis=1))])
    even = np.linspace(0, long[-1], DENSE)
    places_on = np.stack([np.interp(even, long, path[:, i]) for i in (0, 1)], axis=1)
    return freely(sketch.frame.to_space(places_on), frame, e.id)


def _turn(a: Array, b: Array) -> float:
    return float((math.atan2(b[1], b[0]) - math.atan2(a[1], a[0])) % (2 * math.pi))
