"""Measures of a body that need the kernel: a wall behind a face, edges between two faces, a face's area."""

from __future__ import annotations

from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepGProp import BRepGProp
from OCP.GCPnts import GCPnts_AbscissaPoint
from OCP.gp import gp_Dir, gp_Lin, gp_Pnt
from OCP.GProp import GProp_GProps
from OCP.IntCurvesFace import IntCurvesFace_ShapeIntersector
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopoDS import TopoDS

from contour.construct.place import Array
from contour.recipe.problem import ContourError, Where
from contour.solid.face_geometry import array
from contour.solid.facts import face_spot
from contour.solid.shape import NamedShape, edge_faces, faces, owners_of, read_shape, shape_map
from contour.solid.topology.edges import edges_named

__all__ = ["edge_between", "edge_length", "face_area", "face_wall"]


def face_wall(brep: bytes, face: int) -> tuple[float, Array, Array]:
    """Thickness (mm) behind a face: from a place in its middle against its normal to the next face; both places.

    Places (3,), mm.
    """
    shape = read_shape(brep)
    spot, normal = face_spot(faces(shape)[face])
    line = gp_Lin(gp_Pnt(*map(float, spot)), gp_Dir(*map(float, -normal)))
    tool = IntCurvesFace_ShapeIntersector()
    tool.Load(shape, 1e-7)
    tool.Perform(line, 1e-4, 1e6)
    hits = [tool.WParameter(i) for i in range(1, tool.NbPnt() + 1)] if tool.IsDone() else []
    if not hits:
        raise ContourError(
            "nothing-found",
            "there is no other side behind the face",
            where=Where(point=tuple(map(float, spot))),
            got="0 places",
            need="a face across from it",
            remedy="choose another face",
        )
    t = float(min(hits))
    return t, spot, spot - t * normal


def edge_between(brep: bytes, a: int, b: int) -> tuple[float, Array, Array, int]:
    """Length (mm) of the edges that two faces share, ends of the first, and how many there are. Ends (3,), mm."""
    shape = read_shape(brep)
    lookup = shape_map(shape, TopAbs_ShapeEnum.TopAbs_FACE)
    around = edge_faces(shape)
    total, found = 0.0, []
    for i in range(1, around.Size() + 1):
        edge = TopoDS.Edge(around.FindKey(i))
        if {lookup.FindIndex(f) - 1 for f in owners_of(around, i)} == {a, b}:
            props = GProp_GProps()
            BRepGProp.LinearProperties_s(edge, props)
            total += props.Mass()
            found.append(edge)
    if not found:
        raise ContourError(
            "nothing-found",
            "the two faces share no edge",
            where=Where(param="other_face"),
            got="0 edges",
            need="an edge in common",
            remedy="choose faces that meet",
        )
    curve = BRepAdaptor_Curve(found[0])
    return total, array(curve.Value(curve.FirstParameter())), array(curve.Value(curve.LastParameter())), len(found)


def edge_length(named: NamedShape, name: str) -> tuple[float, Array, Array]:
    """Length (mm) of the edge of that name, and its ends. Raises ContourError (ref-lost). Ends (3,), mm."""
    (edge,) = edges_named(named, [name])
    curve = BRepAdaptor_Curve(edge)
    start, end = array(curve.Value(curve.FirstParameter())), array(curve.Value(curve.LastParameter()))
    return float(GCPnts_AbscissaPoint.Length_s(curve)), start, end


def face_area(brep: bytes, face: int) -> tuple[float, Array]:
    """Area (mm²) of a face and a place in its middle. (3,), mm."""
    props = GProp_GProps()
    found = faces(read_shape(brep))[face]
    BRepGProp.SurfaceProperties_s(found, props)
    return props.Mass(), face_spot(found)[0]
