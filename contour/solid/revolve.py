"""Revolving profiles of a sketch about an axis in their plane, into solids whose faces are named by sketch entity."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.BRepPrimAPI import BRepPrimAPI_MakeRevol
from OCP.gp import gp_Ax1, gp_Dir, gp_Pnt
from OCP.TopoDS import TopoDS_Edge, TopoDS_Shape
from scipy.spatial.transform import Rotation
from shapely.geometry import Polygon

from contour.geometry.frames import PlaneFrame, plane_frame
from contour.geometry.vectors import unit
from contour.recipe.problem import ContourError, Where
from contour.sketch.entities import Entity, Loop, Point2, Profile, entity_points
from contour.solid.gate import require_solid
from contour.solid.shape import NamedShape, faces
from contour.solid.topology.names import named_together
from contour.solid.wires import profile_face

__all__ = ["LaidAxis", "axis_in_plane", "on_axis", "revolve", "side_of"]

Array = NDArray[np.float64]
_TILT_DEG, _OFF_MM = 1.0, 0.5  # a fitted axis is laid into the sketch's plane when it is nearer than that
_ON_AXIS = 1e-6  # mm
_TOUCHES_MM = 2e-3  # an end nearer to the axis is meant on it: a hole or an overlap of that size is none
_LEAST_DEG = 1e-4


@dataclass(frozen=True, slots=True, eq=False)
class LaidAxis:
    """An axis in the plane of a sketch. origin, direction (3,) · tilt_deg, off_mm: how far it was moved for that."""

    origin: Array
    direction: Array
    tilt_deg: float
    off_mm: float


def axis_in_plane(frame: PlaneFrame, origin: Array, direction: Array) -> LaidAxis:
    """An axis laid into a sketch's plane, which a fitted one misses by a hair. origin, direction (3,), mm.

    Raises ContourError (too-tilted) where it is not one of that plane.
    """
    n, way = frame.normal, unit(direction)
    out, off = float(way @ n), float((origin - frame.origin) @ n)
    tilt = float(np.degrees(np.arcsin(min(abs(out), 1.0))))
    if tilt > _TILT_DEG or abs(off) > _OFF_MM:
        raise ContourError(
            "too-tilted",
            "the axis does not lie in the sketch's plane",
            where=Where(param="axis"),
            got=f"{tilt:.2f} deg and {abs(off):.3f} mm off",
            need=f"at most {_TILT_DEG:g} deg and {_OFF_MM:g} mm",
            remedy="choose a line of the sketch, or put the sketch on a plane through the axis",
        )
    return LaidAxis(origin - off * n, unit(way - out * n), tilt, abs(off))


def on_axis(profiles: Sequence[Profile], frame: PlaneFrame, axis: LaidAxis) -> list[Profile]:
    """Profiles whose corners within 0.002 mm of the axis lie on it: fitted pieces miss it by a hair, which the kernel turns into slivers."""
    start, ahead = frame.to_plane(axis.origin[None])[0], axis.direction @ np.stack([frame.u, frame.v], axis=1)

    # What ends an ellipse lies on it, and stays there.
    ovals = [e for p in profiles for loop in (p.outer, *p.islands) for e in loop.entities if e.kind == "ellipse"]
    stays = {end for e in ovals for end in (e.start, e.end)}

    def laid(p: Point2) -> Point2:
        if p in stays:
            return p
        foot = start + ((np.array(p) - start) @ ahead) * ahead
        return (float(foot[0]), float(foot[1])) if np.linalg.norm(foot - p) < _TOUCHES_MM else p

    def moved(e: Entity) -> Entity:
        if e.whole or e.kind == "ellipse":
            return e
        a, b = laid(e.start), laid(e.end)
        return replace(e, start=a, end=b, points=(a, *e.points[1:-1], b) if e.points else ())

    def of(loop: Loop) -> Loop:
        entities = tuple(moved(e) for e in loop.entities)
        if entities == loop.entities:
            return loop
        return Loop(entities, Polygon(np.vstack([entity_points(e)[:-1] for e in entities])), loop.name)

    return [Profile(of(p.outer), tuple(of(i) for i in p.islands)) for p in profiles]


def side_of(profiles: Sequence[Profile], frame: PlaneFrame, axis: LaidAxis) -> Array:
    """The unit vector (3,) in the plane from the axis to the side that the profiles lie on.

    Raises ContourError (self-crossing) at the entity that goes across the axis.
    """
    across = unit(np.cross(axis.direction, frame.normal))
    away: dict[str, Array] = {}
    for profile in profiles:
        for loop in (profile.outer, *profile.islands):
            for e in loop.entities:
                away[e.id] = (frame.to_space(entity_points(e)) - axis.origin) @ across
    every = np.concatenate(list(away.values()))
    sign = 1.0 if abs(every.max()) >= abs(every.min()) else -1.0
    for name, far in away.items():
        wrong = sign * far
        if float(wrong.min()) < -_ON_AXIS:
            raise ContourError(
                "self-crossing",
                f"the outline crosses the axis at {name}",
                where=Where(entity=name, param="axis"),
                got=f"{-float(wrong.min()):.3f} mm on the other side",
                need="an outline on one side of the axis; it may touch it",
                remedy="draw half of the section only, or choose another axis",
            )
    return sign * across


def revolve(
    profiles: Sequence[Profile], frame: PlaneFrame, axis: LaidAxis, *, start_deg: float, end_deg: float, prefix: str
) -> NamedShape:
    """Solid between two angles about an axis in the sketch's plane, counted by the right hand from that plane.

    Faces are named ``prefix.side[entity]``, and, of less than a whole turn, ``prefix.start[profile]`` and ``prefix.end[profile]``.
    Raises ContourError (body-broken), (bad-params) for no angle or more than a turn, (self-crossing) where a profile crosses the axis.
    """
    span = abs(end_deg - start_deg)
    if not _LEAST_DEG <= span <= 360 + 1e-9:
        raise ContourError(
            "bad-params",
            "a turn is between nothing and once round",
            where=Where(param="angle"),
            got=f"{span:g} deg",
            need="up to 360 deg",
            remedy="type an angle up to 360 deg",
        )
    side_of(profiles, frame, axis)
    whole = span > 360 - 1e-7
    first = Rotation.from_rotvec(np.radians(min(start_deg, end_deg)) * axis.direction)
    there = plane_frame(
        axis.origin + first.apply(frame.origin - axis.origin), first.apply(frame.normal), first.apply(frame.u)
    )
    about = gp_Ax1(gp_Pnt(*map(float, axis.origin)), gp_Dir(*map(float, axis.direction)))
    given: list[tuple[TopoDS_Shape, str]] = []
    shapes = []
    for profile in profiles:
        face, keyed = profile_face(profile, there)
        made = BRepPrimAPI_MakeRevol(face, about) if whole else BRepPrimAPI_MakeRevol(face, about, np.radians(span))
        if not made.IsDone():
            raise ContourError(
                "body-broken",
                "the profile cannot be turned about this axis",
                where=Where(param="axis"),
                got=f"an outline of {len(profile.outer.entities)} pieces that the kernel gives up on",
                need="an outline that stays clear of the axis, or lies on it",
                remedy="put the pieces next to the axis on it, or move them away from it",
            )
        shape = made.Shape()
        require_solid(shape, doing="revolving", pieces=1)
        for entity, edge in keyed:
            walls = list(made.Generated(edge)) or _flat_wall(shape, edge)
            given += [(f, f"{prefix}.side[{entity}]") for f in walls]
        if not whole:
            # Whichever way it turns, it begins where the sketch is, or where it was turned back to.
            ends = (
                (made.FirstShape(), made.LastShape()) if end_deg > start_deg else (made.LastShape(), made.FirstShape())
            )
            given += [(ends[0], f"{prefix}.start[{profile.id}]"), (ends[1], f"{prefix}.end[{profile.id}]")]
        shapes.append(shape)
    return named_together(shapes, given)


def _flat_wall(shape: TopoDS_Shape, edge: TopoDS_Edge) -> list[TopoDS_Shape]:
    """Of a whole turn the kernel tells nothing of edges square to the axis: the face that the edge's middle lies in. None for one on the axis."""
    curve = BRepAdaptor_Curve(edge)
    middle = curve.Value((curve.FirstParameter() + curve.LastParameter()) / 2)
    at = BRepBuilderAPI_MakeVertex(middle).Vertex()
    return [f for f in faces(shape) if BRepExtrema_DistShapeShape(at, f).Value() < _ON_AXIS]
