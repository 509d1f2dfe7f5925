"""Tools that end or part a body: everything beyond a plane, within a round surface, or on one side of an outline, as a solid."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCylinder
from OCP.gp import gp_Ax2, gp_Ax3, gp_Trsf
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS_Shape

from contour.geometry.frames import PlaneFrame, plane_frame
from contour.geometry.surfaces import Surface
from contour.geometry.vectors import unit
from contour.recipe.problem import ContourError, Where
from contour.sketch.entities import Entity, Point2, Sketch, chains_of, ends_meet, entity_points, find_profiles
from contour.solid.extent import bounds
from contour.solid.extrude import extrude
from contour.solid.face_geometry import direction, face_kind, face_surface, pnt
from contour.solid.primitives import cone, sphere, torus
from contour.solid.shape import NamedShape, faces

__all__ = ["beyond_plane", "beyond_surface", "left_of_outline", "reach_of", "within_cylinder"]

Array = NDArray[np.float64]


def reach_of(shape: TopoDS_Shape, origin: Array, normal: Array) -> tuple[float, float]:
    """Lowest and highest height of a shape over a plane, mm. origin (3,) mm, normal (3,) unit."""
    upright = gp_Trsf()
    upright.SetTransformation(gp_Ax3(pnt(origin), direction(normal)))
    low, high = bounds(shape.Moved(TopLoc_Location(upright)))
    return float(low[2]), float(high[2])


def beyond_plane(origin: Array, normal: Array, size_mm: float, near: Array, name: str) -> NamedShape:
    """A block on the normal's side of a plane, `size_mm` each way around `near`; its face on the plane is `name`.

    All (3,), mm.
    """
    frame = plane_frame(origin, normal)
    u, v = frame.u, frame.v
    foot = near - ((near - origin) @ normal) * normal
    corner = foot - size_mm * (u + v)
    axes = gp_Ax2(pnt(corner), direction(normal), direction(u))
    shape = BRepPrimAPI_MakeBox(axes, 2 * size_mm, 2 * size_mm, 2 * size_mm).Solid()
    names = []
    for i, face in enumerate(faces(shape)):
        g = face_surface(face)
        on = g is not None and float(g.along @ normal) < -0.999
        names.append(name if on else f"{name}.far{i}")
    return NamedShape(shape, tuple(names))


def within_cylinder(origin: Array, axis: Array, radius: float, size_mm: float, name: str) -> NamedShape:
    """A round bar about an axis, `size_mm` long both ways; its round face is `name`.

    origin (3,), radius: mm; axis (3,) unit.
    """
    axes = gp_Ax2(pnt(origin - size_mm * axis), direction(axis))
    shape = BRepPrimAPI_MakeCylinder(axes, radius, 2 * size_mm).Solid()
    kinds = [face_kind(f) for f in faces(shape)]
    return NamedShape(shape, tuple(name if k == "cylinder" else f"{name}.far{i}" for i, k in enumerate(kinds)))


def beyond_surface(surface: Surface, offset: float, size_mm: float, near: Array, name: str) -> NamedShape:
    """What lies on a plane's front, or within a round surface, `offset` further out; its face on the surface is `name`.

    offset, size_mm: mm; near (3,), a place about which the tool reaches `size_mm`. Raises ContourError (bad-params) where the offset leaves nothing of it.
    """
    if surface.kind == "plane":
        return beyond_plane(surface.at + offset * surface.along, surface.along, size_mm, near, name)
    radius = (surface.minor if surface.kind == "torus" else surface.radius) + offset
    if radius <= 1e-3 and surface.kind != "cone":
        raise ContourError(
            "bad-params",
            f"the offset leaves nothing of the {surface.kind}",
            where=Where(param="offset"),
            got=f"radius {radius:.3f} mm",
            need="some radius left",
            remedy="type a larger offset",
        )
    at, way = surface.at, surface.along
    reach = float(np.linalg.norm(near - at)) + size_mm
    if surface.kind == "cylinder":
        return within_cylinder(at, way, radius, reach, name)
    if surface.kind == "sphere":
        made = sphere(at, radius, prefix=name)
    elif surface.kind == "torus":
        made = torus(at, way, surface.radius, radius, prefix=name)
    else:
        slope = np.tan(surface.half_angle)
        tip = at - (surface.radius / slope + offset / np.sin(surface.half_angle)) * way
        high = float(np.linalg.norm(near - tip)) + size_mm
        made = cone(tip, way, (0.0, high), (0.0, high * float(slope)), prefix=name)
    wall = f"{name}.side[wall]"
    return NamedShape(made.shape, tuple(name if n == wall else n for n in made.names))


def left_of_outline(
    sketch: Sketch, body: NamedShape, prefix: str, *, between: tuple[float, float] | None = None
) -> NamedShape:
    """What lies within a closed outline, or to the left of an open one that runs on straight from both its ends, square to the sketch and through all
    of a body, or between two heights over the sketch (mm). Faces on the outline are named ``prefix.side[entity]``; of an open one, what closes it
    far from the body is ``prefix.side[around]``.

    Raises ContourError (open-end, self-crossing, no-profile).
    """
    if sketch.refused is not None:
        raise ContourError.of(sketch.refused)
    if between is None:
        low, high = reach_of(body.shape, sketch.frame.origin, sketch.frame.normal)
        between = low - 1, high + 1
    chains = chains_of(sketch.entities)
    if all(ends_meet(c[0].start, c[-1].end) for c in chains):
        profiles = find_profiles(sketch)
    else:
        closed = _closed_round(chains, sketch.frame, body)
        profiles = find_profiles(Sketch(sketch.frame, tuple(closed), sketch.loops))
    return extrude(profiles, sketch.frame, start_mm=between[0], end_mm=between[1], prefix=prefix)


def _outwards(entity: Entity) -> tuple[Array, Array]:
    """Where an entity begins and the unit direction straight out of it there, (2,) each."""
    p = entity_points(entity, step_deg=0.5)
    if entity.kind in ("arc", "ellipse") and len(p) > 3:
        # One-sided difference of the third order: places along a round piece lie evenly.
        return p[0], unit(11 * p[0] - 18 * p[1] + 9 * p[2] - 2 * p[3])
    return p[0], unit(p[0] - p[1])


def _closed_round(chains: list[list[Entity]], frame: PlaneFrame, body: NamedShape) -> list[Entity]:
    """An open chain, and the way back around the body on its left."""
    if len(chains) > 1:
        at = frame.to_space(np.array([chains[1][0].start]))[0]
        raise ContourError(
            "open-end",
            "a body is parted by one open outline, or by closed ones",
            where=Where(param="sketch", entity=chains[1][0].id, point=(float(at[0]), float(at[1]), float(at[2]))),
            got=f"{len(chains)} outlines apart from each other",
            need="one line of pieces that join",
            remedy="join the pieces, or take some out of the sketch",
        )
    (chain,) = chains
    box = bounds(body.shape)
    middle = frame.to_plane(box.mean(axis=0)[None])[0]
    drawn = np.vstack([entity_points(e) for e in chain])
    radius = 2 * float(max(np.linalg.norm(drawn - middle, axis=1).max(), np.linalg.norm(box[1] - box[0]))) + 10

    def out(end: Array, way: Array) -> Point2:
        """Where a ray from an end meets the circle round everything."""
        d = end - middle
        b = float(d @ way)
        p = end + (-b + float(np.sqrt(b * b - d @ d + radius * radius))) * way
        return float(p[0]), float(p[1])

    tail, head = (out(*_outwards(e)) for e in (chain[0], chain[-1].reversed()))
    a, b = (np.arctan2(p[1] - middle[1], p[0] - middle[0]) for p in (head, tail))
    half = a + (b - a) % (2 * np.pi) / 2
    turn = (float(middle[0] + radius * np.cos(half)), float(middle[1] + radius * np.sin(half)))
    return [
        Entity("before", "line", tail, chain[0].start),
        *chain,
        Entity("after", "line", chain[-1].end, head),
        Entity("around", "arc", head, tail, mid=turn),
    ]
