"""The plane, axis or point that a face, edge or corner of a body stands for."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.GCPnts import GCPnts_AbscissaPoint
from OCP.TopoDS import TopoDS_Edge, TopoDS_Face, TopoDS_Vertex

from contour.construct.place import Place, place_of_surface
from contour.geometry.curves import Line, Oval
from contour.geometry.vectors import triple
from contour.recipe.problem import ContourError
from contour.solid.extent import bounds
from contour.solid.face_geometry import array, edge_curve, face_surface, v_range

__all__ = ["place_of_edge", "place_of_face", "place_of_vertex"]


def place_of_face(face: TopoDS_Face) -> Place:
    """Abreast of the face's middle. Raises ContourError (wrong-kind) for a freeform face."""
    low, high = bounds(face)
    middle = (low + high) / 2
    reach = float(np.linalg.norm(high - low)) / 2
    surface = face_surface(face)
    if surface is None:
        raise ContourError(
            "wrong-kind",
            "a freeform face has no plane, axis or centre",
            got="freeform face",
            need="a plane, cylinder, cone, sphere or torus",
            remedy="choose another face, or a region",
        )
    place = place_of_surface(surface, middle=middle, reach=reach, u={})
    if surface.kind == "cylinder":
        item = BRepAdaptor_Surface(face, False).Cylinder()
        foot, way = array(item.Location()), array(item.Axis().Direction())
        ends = sorted(float((foot + v * way - place.at) @ place.along) for v in v_range(face))
        return replace(place, span=(ends[0], ends[1]))
    if surface.kind != "cone":
        return place
    # It has no one radius; and which way along its axis counts as ahead stays as the face has it, for steps rest on that.
    ahead = BRepAdaptor_Surface(face, False).Cone().Axis().Direction()
    return replace(place, radius=0.0, direction=triple(array(ahead)))


def place_of_edge(edge: TopoDS_Edge, *, as_point: bool = False) -> Place:
    """The axis of a straight edge, abreast of its middle, or of a round one, at its centre; `as_point`: the middle or centre
    itself. Raises ContourError (wrong-kind) for other curves, which have no axis."""
    curve = BRepAdaptor_Curve(edge)
    first, last = curve.FirstParameter(), curve.LastParameter()
    reach = float(GCPnts_AbscissaPoint.Length_s(curve)) / 2
    found = edge_curve(edge)
    if isinstance(found, Oval):
        radius = found.long if found.kind == "circle" else 0.0
        return Place("point" if as_point else "axis", found.centre, triple(found.axis), radius=radius, reach=reach)
    middle = triple(array(curve.Value((first + last) / 2)))
    if as_point:
        return Place("point", middle, reach=reach)
    if isinstance(found, Line):
        return Place("axis", middle, triple(found.direction), reach=reach)
    raise ContourError(
        "wrong-kind",
        "a curved edge has no axis",
        got="curve",
        need="a straight or round edge",
        remedy="choose another edge",
    )


def place_of_vertex(vertex: TopoDS_Vertex) -> Place:
    """The point itself."""
    return Place("point", triple(array(BRep_Tool.Pnt_s(vertex))))
