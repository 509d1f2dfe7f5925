"""How a profile's turns about an axis meet each other, and the round faces that they stand on: all of it in the profile's own plane, before anything is made.

Coordinates here are (away from the axis, along it), mm.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from OCP.TopoDS import TopoDS_Face
from shapely.affinity import translate
from shapely.geometry import LineString, Polygon
from shapely.ops import nearest_points, unary_union

from contour.geometry.frames import PlaneFrame
from contour.geometry.vectors import Vec3, triple
from contour.recipe.problem import ContourError, Where
from contour.sketch.entities import Entity, Point2, Profile, Sketch, entity_points, find_profiles
from contour.solid.face_geometry import face_surface
from contour.solid.halves import reach_of
from contour.solid.mass import area
from contour.solid.revolve import LaidAxis
from contour.solid.shape import NamedShape, faces

__all__ = ["Contact", "contact_of", "let_in"]

Array = NDArray[np.float64]
_FINE_DEG = 0.5  # of the chords that stand for arcs here
_MEET_MM = 1e-6
_SHARED_MM = 1e-3  # a common stretch of border from which on turns lie against each other
_STEEP = 0.25  # a neighbour leading away from the axis at least so steeply is made longer, any other one stays


@dataclass(frozen=True, slots=True)
class Contact:
    """apart: turns do not meet · edges: in corners, at the place `at` · faces: in whole walls, each of `pairs` being (one turn's, the next one's)."""

    kind: Literal["apart", "edges", "faces"]
    pairs: tuple[tuple[str, str], ...] = ()
    at: Vec3 | None = None


def contact_of(
    profiles: Sequence[Profile], frame: PlaneFrame, axis: LaidAxis, side: Array, shift: Point2, turns: float
) -> Contact:
    """How each turn meets the next. shift: how a turn changes the profile's place.

    Raises ContourError (self-crossing) where turns lie in each other, with the place, or against each other in part of a wall.
    """
    if turns <= 1:
        return Contact("apart")
    shapes = [Polygon(np.vstack([_seen(e, frame, axis, side)[:-1] for e in p.outer.entities])) for p in profiles]
    whole = unary_union(shapes)
    wide = whole.bounds[3] - whole.bounds[1]
    for k in range(1, min(int(np.ceil(turns)), int(wide / max(abs(shift[1]), 1e-9)) + 1) + 1):
        over = whole.intersection(translate(whole, k * shift[0], k * shift[1]))
        if over.area > 1e-6 * whole.area:
            at = np.array(over.representative_point().coords[0])
            raise ContourError(
                "self-crossing",
                "the turns overlap",
                where=Where(param="pitch", point=triple(axis.origin + at[0] * side + at[1] * axis.direction)),
                got=f"a pitch of {abs(shift[1]):g} mm, an outline of {wide:.3f} mm along the axis",
                need=f"a pitch of {wide:.3f} mm, or one at which turns keep clear of each other",
                remedy="type a larger pitch, or draw a narrower outline",
            )
    following = translate(whole, *shift)
    if whole.distance(following) > _MEET_MM:
        return Contact("apart")
    shared = whole.boundary.intersection(following.boundary.buffer(_MEET_MM)).length
    if shared < _SHARED_MM:
        there = np.array(nearest_points(whole, following)[0].coords[0])
        return Contact("edges", at=triple(axis.origin + there[0] * side + there[1] * axis.direction))
    pairs = tuple(_alike(profiles, frame, axis, side, shift))
    if abs(sum(length for _, _, length in pairs) - shared) > 10 * _SHARED_MM:
        raise ContourError(
            "self-crossing",
            "the turns lie against each other in part of a wall",
            where=Where(param="pitch"),
            got=f"{shared:.3f} mm in common",
            need="walls that meet as a whole, or not at all",
            remedy="type a pitch a little larger, or draw both sides alike",
        )
    return Contact("faces", tuple((a, b) for a, b, _ in pairs))


def _alike(
    profiles: Sequence[Profile], frame: PlaneFrame, axis: LaidAxis, side: Array, shift: Point2
) -> Iterator[tuple[str, str, float]]:
    """(a straight piece, that of the turn before which lies in the same place one turn on, their length)."""
    lines = [(e.id, _seen(e, frame, axis, side)) for p in profiles for e in p.outer.entities if e.kind == "line"]
    for one, there in lines:
        for other, here in lines:
            if one != other and np.abs(here + shift - there[::-1]).max() < _MEET_MM:
                yield one, other, float(LineString(there).length)


def _seen(entity: Entity, frame: PlaneFrame, axis: LaidAxis, side: Array) -> Array:
    """Places along an entity as (away, along), (n, 2)."""
    spots = frame.to_space(entity_points(entity, step_deg=_FINE_DEG)) - axis.origin
    return np.stack([spots @ side, spots @ axis.direction], axis=1)


def let_in(
    profile: Profile,
    frame: PlaneFrame,
    axis: LaidAxis,
    side: Array,
    bodies: Sequence[NamedShape],
    *,
    rise: float,
    adds: bool,
) -> Profile:
    """The profile with pieces that would lie on a round face of bodies moved a little further out of it, their neighbours made longer.

    rise: mm along the axis on the whole way · adds: whether the profile is added, or taken away. What is more of it lies in material where it is added, in the
    air where it is taken away: nothing changes but that faces cross instead of lying on each other, which a kernel cannot be trusted with. Only on faces
    that are whole, and as long as the way is.
    """
    spots = np.vstack([_seen(e, frame, axis, side) for e in profile.outer.entities])
    span = float(spots[:, 1].min() + min(rise, 0.0)), float(spots[:, 1].max() + max(rise, 0.0))
    stands = [row for b in bodies for f in faces(b.shape) if (row := _stand(f, axis, span)) is not None]
    chain, out = profile.outer.entities, list[Entity]()
    for k, e in enumerate(chain):
        seen = _seen(e, frame, axis, side)
        flat = e.kind == "line" and abs(seen[0, 0] - seen[-1, 0]) < _MEET_MM
        # Counter-clockwise the outside lies to the right.
        run = np.subtract(e.end, e.start)
        outwards = float((run[1] * frame.u - run[0] * frame.v) @ side)
        # Beyond a shaft's face there is air outwards and material inwards; beyond a bore's it is the other way round.
        beyond = (-outwards if adds else outwards) > 0
        if (
            len(chain) < 3
            or not flat
            or not any(abs(r - seen[0, 0]) < _MEET_MM and shaft == beyond for r, shaft in stands)
        ):
            out.append(e)
            continue
        away = np.array([run[1], -run[0]]) / np.linalg.norm(run) * min(0.1, 0.05 * float(np.linalg.norm(run)))
        first = _onward(chain[k - 1], e.start, away, 1.0)
        last = _onward(chain[(k + 1) % len(chain)], e.end, away, -1.0)
        out += [
            Entity(f"{e.id}-in", "line", e.start, first),
            replace(e, start=first, end=last),
            Entity(f"{e.id}-out", "line", last, e.end),
        ]
    if len(out) == len(chain):
        return profile
    (made,) = find_profiles(Sketch(frame, _joined(out)))
    return Profile(replace(made.outer, name=profile.outer.name), profile.islands)


def _stand(face: TopoDS_Face, axis: LaidAxis, span: tuple[float, float]) -> tuple[float, bool] | None:
    """(its radius, whether it is a shaft's) of a whole round face about an axis that is as long as a span along it, mm; none for any other one."""
    s = face_surface(face)
    if s is None or s.kind != "cylinder" or not _about(s.at, s.along, axis):
        return None
    low, high = reach_of(face, axis.origin, axis.direction)
    whole = area(face) > 2 * np.pi * s.radius * (high - low) * (1 - 1e-6)
    return (s.radius, s.outward > 0) if whole and low <= span[0] + _MEET_MM and high >= span[1] - _MEET_MM else None


def _about(at: Array, along: Array, axis: LaidAxis) -> bool:
    away = at - axis.origin
    off = float(np.linalg.norm(away - (away @ axis.direction) * axis.direction))
    return off < _MEET_MM and abs(float(along @ axis.direction)) > 1 - 1e-12


def _onward(neighbour: Entity, end: Point2, away: Array, sense: float) -> Point2:
    """Where a neighbour's line, run on past its end, is as far away; straight away where it has none that is steep enough."""
    way = np.subtract(neighbour.end, neighbour.start)
    steep = float(way @ away) / float(np.linalg.norm(way) * np.linalg.norm(away)) if neighbour.kind == "line" else 0.0
    along = way / np.linalg.norm(way) / steep * np.linalg.norm(away) if sense * steep > _STEEP else away
    return (float(end[0] + along[0]), float(end[1] + along[1]))


def _joined(chain: Sequence[Entity]) -> tuple[Entity, ...]:
    """Lines that run on straight as one, under the name of the longer one."""
    out = list(chain)
    k = 0
    while k < len(out):
        a, b = out[k - 1], out[k]
        if a.kind == b.kind == "line":
            u, v = np.subtract(a.end, a.start), np.subtract(b.end, b.start)
            if abs(u[0] * v[1] - u[1] * v[0]) < 1e-9 * np.linalg.norm(u) * np.linalg.norm(v) and u @ v > 0:
                out[k] = replace(a if u @ u > v @ v else b, start=a.start, end=b.end)
                del out[k - 1]
                continue
        k += 1
    return tuple(out)
