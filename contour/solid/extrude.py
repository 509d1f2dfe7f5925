"""Extruding profiles of a sketch into solids whose faces are named by sketch entity."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Builder
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeEdge,
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakeVertex,
    BRepBuilderAPI_MakeWire,
)
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism
from OCP.collections import HArray1_gp_Pnt
from OCP.ElCLib import ElCLib
from OCP.GC import GC_MakeArcOfCircle
from OCP.Geom import Geom_Ellipse
from OCP.GeomAPI import GeomAPI_Interpolate
from OCP.gp import gp_Ax2, gp_Ax3, gp_Circ, gp_Dir, gp_Elips, gp_Pln, gp_Pnt, gp_Vec
from OCP.TopoDS import TopoDS_Compound, TopoDS_Edge, TopoDS_Shape, TopoDS_Vertex, TopoDS_Wire

from contour.geometry.frames import PlaneFrame
from contour.outline.ellipses import Ellipse
from contour.recipe.problem import ContourError, Where
from contour.sketch.entities import Entity, Loop, Profile, entity_points
from contour.solid.gate import require_solid
from contour.solid.shape import NamedShape
from contour.solid.topology.names import names_by_face

__all__ = ["extrude"]


def _point(frame: PlaneFrame, p: tuple[float, float], lift: NDArray[np.float64]) -> gp_Pnt:
    x, y, z = frame.to_space(np.array(p)) + lift
    return gp_Pnt(float(x), float(y), float(z))


def _edge(
    entity: Entity,
    frame: PlaneFrame,
    lift: NDArray[np.float64],
    ends: tuple[TopoDS_Vertex, TopoDS_Vertex],
    clockwise: bool,
) -> TopoDS_Edge:
    if entity.kind == "line":
        return BRepBuilderAPI_MakeEdge(*ends).Edge()
    if entity.ellipse is not None:
        return _elliptic_edge(entity, entity.ellipse, frame, lift, ends, clockwise)
    if entity.whole:
        centre, radius = entity.circle()
        # Start and end are one point, so only the axis tells which way round a whole circle runs.
        n, u = frame.normal * (-1 if clockwise else 1), np.array(entity.start) - centre
        x = u[0] * frame.u + u[1] * frame.v
        axes = gp_Ax2(_point(frame, (centre[0], centre[1]), lift), gp_Dir(*map(float, n)), gp_Dir(*map(float, x)))
        return BRepBuilderAPI_MakeEdge(gp_Circ(axes, radius), *ends).Edge()
    if entity.kind == "arc":
        assert entity.mid is not None
        through = [_point(frame, p, lift) for p in (entity.start, entity.mid, entity.end)]
        return BRepBuilderAPI_MakeEdge(GC_MakeArcOfCircle(*through).Value(), *ends).Edge()
    points = HArray1_gp_Pnt(1, len(entity.points))
    for i, p in enumerate(entity.points, 1):
        points.SetValue(i, _point(frame, p, lift))
    maker = GeomAPI_Interpolate(points, False, 1e-9)
    maker.Perform()
    return BRepBuilderAPI_MakeEdge(maker.Curve(), *ends).Edge()


def _elliptic_edge(
    entity: Entity,
    e: Ellipse,
    frame: PlaneFrame,
    lift: NDArray[np.float64],
    ends: tuple[TopoDS_Vertex, TopoDS_Vertex],
    clockwise: bool,
) -> TopoDS_Edge:
    along = np.cos(e[4]) * frame.u + np.sin(e[4]) * frame.v
    path = entity_points(entity)
    d = path - np.array(e[:2])
    turning = (d[:-1, 0] * d[1:, 1] - d[:-1, 1] * d[1:, 0]).sum()
    backward = clockwise if entity.whole else turning < 0
    n = -frame.normal if backward else frame.normal
    axes = gp_Ax2(_point(frame, (e[0], e[1]), lift), gp_Dir(*map(float, n)), gp_Dir(*map(float, along)))
    curve = gp_Elips(axes, e[2], e[3])
    if not entity.whole:
        return BRepBuilderAPI_MakeEdge(curve, *ends).Edge()
    # The seam lies where the loop begins, which need not be the end of the longer axis.
    at = ElCLib.Parameter_s(curve, _point(frame, entity.start, lift))
    return BRepBuilderAPI_MakeEdge(Geom_Ellipse(curve), *ends, at, at + 2 * np.pi).Edge()


def _wire(
    loop: Loop, frame: PlaneFrame, lift: NDArray[np.float64], clockwise: bool
) -> tuple[TopoDS_Wire, list[tuple[str, TopoDS_Edge]]]:
    entities = [e.reversed() for e in reversed(loop.entities)] if clockwise else list(loop.entities)
    corners = [BRepBuilderAPI_MakeVertex(_point(frame, e.start, lift)).Vertex() for e in entities]
    builder = BRepBuilderAPI_MakeWire()
    keyed = []
    for i, e in enumerate(entities):
        builder.Add(_edge(e, frame, lift, (corners[i], corners[(i + 1) % len(entities)]), clockwise))
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


def extrude(
    profiles: Sequence[Profile], frame: PlaneFrame, *, start_mm: float, end_mm: float, prefix: str
) -> NamedShape:
    """Solid between two heights over the sketch plane, measured along its normal.

    Faces are named ``prefix.side[entity]``, ``prefix.start[profile]`` and ``prefix.end[profile]``.
    Raises ContourError (body-broken) when the heights are one or the solid fails the gate.
    """
    if abs(end_mm - start_mm) < 1e-4:
        raise ContourError(
            "body-broken",
            "an extrusion needs a distance",
            got=f"{end_mm - start_mm:g} mm",
            need="at least 0.0001 mm either way",
            remedy="type a distance",
            where=Where(param="distance"),
        )
    n = frame.normal
    lift = n * start_mm
    base = frame.origin + lift
    plane = gp_Pln(gp_Ax3(gp_Pnt(*map(float, base)), gp_Dir(*map(float, n)), gp_Dir(*map(float, frame.u))))
    vector = gp_Vec(*map(float, n * (end_mm - start_mm)))
    given: list[tuple[TopoDS_Shape, str]] = []
    shapes = []
    for profile in profiles:
        wire, keyed = _wire(profile.outer, frame, lift, clockwise=False)
        maker = BRepBuilderAPI_MakeFace(plane, wire, True)
        for island in profile.islands:
            hole, more = _wire(island, frame, lift, clockwise=True)
            maker.Add(hole)
            keyed += more
        prism = BRepPrimAPI_MakePrism(maker.Face(), vector)
        shape = prism.Shape()
        require_solid(shape, doing="extruding", pieces=1)
        for entity, edge in keyed:
            given += [(f, f"{prefix}.side[{entity}]") for f in prism.Generated(edge)]
        given += [
            (prism.FirstShape(), f"{prefix}.start[{profile.id}]"),
            (prism.LastShape(), f"{prefix}.end[{profile.id}]"),
        ]
        shapes.append(shape)
    if len(shapes) == 1:
        return NamedShape(shapes[0], names_by_face(shapes[0], given))
    whole = TopoDS_Compound()
    builder = BRep_Builder()
    builder.MakeCompound(whole)
    for shape in shapes:
        builder.Add(whole, shape)
    return NamedShape(whole, names_by_face(whole, given))
