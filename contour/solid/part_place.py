"""The plane, axis or point that a face, edge or corner of a body stands for."""

from __future__ import annotations

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.GCPnts import GCPnts_AbscissaPoint
from OCP.GeomAbs import GeomAbs_CurveType, GeomAbs_SurfaceType
from OCP.gp import gp_Ax3
from OCP.TopoDS import TopoDS_Edge, TopoDS_Face, TopoDS_Vertex

from contour.construct.place import Array, Place, triple
from contour.recipe.problem import ContourError
from contour.solid.face_geometry import array, face_geometry
from contour.solid.shape import bounds

__all__ = ["place_of_edge", "place_of_face", "place_of_vertex"]


def place_of_face(face: TopoDS_Face) -> Place:
    """Abreast of the face's middle. Raises ContourError (wrong-kind) for a freeform face."""
    low, high = bounds(face)
    middle = (low + high) / 2
    reach = float(np.linalg.norm(high - low)) / 2
    g = face_geometry(face)
    if g.kind == "plane":
        return Place("plane", triple(middle - ((middle - g.origin) @ g.axis) * g.axis), triple(g.axis), reach=reach)
    surface = BRepAdaptor_Surface(face)
    kinds = GeomAbs_SurfaceType
    frame: gp_Ax3
    if surface.GetType() == kinds.GeomAbs_Cylinder:
        frame, radius = surface.Cylinder().Position(), surface.Cylinder().Radius()
    elif surface.GetType() == kinds.GeomAbs_Cone:
        frame, radius = surface.Cone().Position(), 0.0
    elif surface.GetType() == kinds.GeomAbs_Torus:
        torus = surface.Torus()
        frame = torus.Position()
        return Place(
            "axis", triple(array(frame.Location())), triple(_direction(frame)), radius=torus.MajorRadius(), reach=reach
        )
    elif surface.GetType() == kinds.GeomAbs_Sphere:
        ball = surface.Sphere()
        return Place("point", triple(array(ball.Location())), radius=ball.Radius(), reach=reach)
    else:
        raise ContourError(
            "wrong-kind",
            "a freeform face has no plane, axis or centre",
            got="freeform face",
            need="a plane, cylinder, cone, sphere or torus",
            remedy="choose another face, or a region",
        )
    o, d = array(frame.Location()), _direction(frame)
    return Place("axis", triple(o + ((middle - o) @ d) * d), triple(d), radius=radius, reach=reach)


def place_of_edge(edge: TopoDS_Edge, *, as_point: bool = False) -> Place:
    """The axis of a straight edge, abreast of its middle, or of a round one, at its centre; `as_point`: the middle or centre
    itself. Raises ContourError (wrong-kind) for other curves, which have no axis."""
    curve = BRepAdaptor_Curve(edge)
    first, last = curve.FirstParameter(), curve.LastParameter()
    reach = float(GCPnts_AbscissaPoint.Length_s(curve)) / 2
    kinds = GeomAbs_CurveType
    if curve.GetType() in (kinds.GeomAbs_Circle, kinds.GeomAbs_Ellipse):
        round_one = curve.Circle() if curve.GetType() == kinds.GeomAbs_Circle else curve.Ellipse()
        radius = round_one.Radius() if curve.GetType() == kinds.GeomAbs_Circle else 0.0
        at, along = array(round_one.Location()), array(round_one.Axis().Direction())
        return Place("point" if as_point else "axis", triple(at), triple(along), radius=radius, reach=reach)
    middle = triple(array(curve.Value((first + last) / 2)))
    if as_point:
        return Place("point", middle, reach=reach)
    if curve.GetType() == kinds.GeomAbs_Line:
        return Place("axis", middle, triple(array(curve.Line().Direction())), reach=reach)
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


def _direction(frame: gp_Ax3) -> Array:
    return array(frame.Direction())
