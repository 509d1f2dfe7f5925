"""Outlines of sketches as the kernel's wires and faces, each edge with the entity it was made of."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeEdge,
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakeVertex,
    BRepBuilderAPI_MakeWire,
)
from OCP.collections import HArray1_gp_Pnt
from OCP.ElCLib import ElCLib
from OCP.GC import GC_MakeArcOfCircle
from OCP.Geom import Geom_Ellipse
from OCP.GeomAPI import GeomAPI_Interpolate
from OCP.gp import gp_Ax2, gp_Ax3, gp_Circ, gp_Dir, gp_Elips, gp_Pln, gp_Pnt
from OCP.TopoDS import TopoDS_Edge, TopoDS_Face, TopoDS_Vertex, TopoDS_Wire

from contour.geometry.frames import PlaneFrame
from contour.outline.ellipses import Ellipse
from contour.recipe.problem import ContourError, Where
from contour.sketch.entities import Entity, Loop, Profile, entity_points

__all__ = ["Keyed", "chain_edges", "profile_face"]

Keyed = list[tuple[str, TopoDS_Edge]]  # entities by id, and the edges that they became


def profile_face(profile: Profile, frame: PlaneFrame) -> tuple[TopoDS_Face, Keyed]:
    """The face that a profile bounds in its plane. Raises ContourError (open-end) at the entity where it does not close."""
    n, u = frame.normal, frame.u
    plane = gp_Pln(gp_Ax3(gp_Pnt(*map(float, frame.origin)), gp_Dir(*map(float, n)), gp_Dir(*map(float, u))))
    wire, keyed = _wire(profile.outer, frame, clockwise=False)
    maker = BRepBuilderAPI_MakeFace(plane, wire, True)
    for island in profile.islands:
        hole, more = _wire(island, frame, clockwise=True)
        maker.Add(hole)
        keyed += more
    return maker.Face(), keyed


def chain_edges(chain: Sequence[Entity], frame: PlaneFrame) -> Keyed:
    """Entities head to tail as edges of their own, each running as its entity does."""
    out = []
    for e in chain:
        start, end = (BRepBuilderAPI_MakeVertex(_point(frame, p)).Vertex() for p in (e.start, e.end))
        out.append((e.id, _edge(e, frame, (start, start if e.whole else end), clockwise=False)))
    return out


def _point(frame: PlaneFrame, p: tuple[float, float]) -> gp_Pnt:
    x, y, z = frame.to_space(np.array(p))
    return gp_Pnt(float(x), float(y), float(z))


def _edge(entity: Entity, frame: PlaneFrame, ends: tuple[TopoDS_Vertex, TopoDS_Vertex], clockwise: bool) -> TopoDS_Edge:
    if entity.kind == "line":
        return BRepBuilderAPI_MakeEdge(*ends).Edge()
    if entity.ellipse is not None:
        return _elliptic_edge(entity, entity.ellipse, frame, ends, clockwise)
    if entity.whole:
        centre, radius = entity.circle()
        # Start and end are one point, so only the axis tells which way round a whole circle runs.
        n, u = frame.normal * (-1 if clockwise else 1), np.array(entity.start) - centre
        x = u[0] * frame.u + u[1] * frame.v
        axes = gp_Ax2(_point(frame, (centre[0], centre[1])), gp_Dir(*map(float, n)), gp_Dir(*map(float, x)))
        return BRepBuilderAPI_MakeEdge(gp_Circ(axes, radius), *ends).Edge()
    if entity.kind == "arc":
        assert entity.mid is not None
        through = [_point(frame, p) for p in (entity.start, entity.mid, entity.end)]
        return BRepBuilderAPI_MakeEdge(GC_MakeArcOfCircle(*through).Value(), *ends).Edge()
    points = HArray1_gp_Pnt(1, len(entity.points))
    for i, p in enumerate(entity.points, 1):
        points.SetValue(i, _point(frame, p))
    maker = GeomAPI_Interpolate(points, False, 1e-9)
    maker.Perform()
    return BRepBuilderAPI_MakeEdge(maker.Curve(), *ends).Edge()


def _elliptic_edge(
    entity: Entity, e: Ellipse, frame: PlaneFrame, ends: tuple[TopoDS_Vertex, TopoDS_Vertex], clockwise: bool
) -> TopoDS_Edge:
    along = np.cos(e[4]) * frame.u + np.sin(e[4]) * frame.v
    path = entity_points(entity)
    d = path - np.array(e[:2])
    turning = (d[:-1, 0] * d[1:, 1] - d[:-1, 1] * d[1:, 0]).sum()
    backward = clockwise if entity.whole else turning < 0
    n = -frame.normal if backward else frame.normal
    axes = gp_Ax2(_point(frame, (e[0], e[1])), gp_Dir(*map(float, n)), gp_Dir(*map(float, along)))
    curve = gp_Elips(axes, e[2], e[3])
    if not entity.whole:
        return BRepBuilderAPI_MakeEdge(curve, *ends).Edge()
    # The seam lies where the loop begins, which need not be the end of the longer axis.
    at = ElCLib.Parameter_s(curve, _point(frame, entity.start))
    return BRepBuilderAPI_MakeEdge(Geom_Ellipse(curve), *ends, at, at + 2 * np.pi).Edge()


def _wire(loop: Loop, frame: PlaneFrame, clockwise: bool) -> tuple[TopoDS_Wire, list[tuple[str, TopoDS_Edge]]]:
    entities = [e.reversed() for e in reversed(loop.entities)] if clockwise else list(loop.entities)
    corners = [BRepBuilderAPI_MakeVertex(_point(frame, e.start)).Vertex() for e in entities]
    builder = BRepBuilderAPI_MakeWire()
    keyed = []
    for i, e in enumerate(entities):
        builder.Add(_edge(e, frame, (corners[i], corners[(i + 1) % len(entities)]), clockwise))
        if not builder.IsDone():
            x, y, z = frame.to_space(np.array(e.start))
            raise ContourError(
                "open-end",
                f"the outline does not join at {e.id}",
                where=Where(entity=e.id, point=(float(x), float(y), float(z))),
                got="a gap",
                need="ends that meet",
                remedy="take the outline again",
            )
        keyed.append((e.id, builder.Edge()))  # Add copies the edge: the copy is what the prism knows
    return builder.Wire(), keyed
