"""Where something enters a body through a face: the place on the face's surface and the way into the material."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace
from OCP.BRepTools import BRepTools
from OCP.Geom import Geom_Line
from OCP.GeomAPI import GeomAPI_IntCS, GeomAPI_ProjectPointOnSurf
from OCP.TopAbs import TopAbs_Orientation
from OCP.TopoDS import TopoDS_Face

from contour.recipe.problem import ContourError
from contour.solid.face_geometry import array, direction, face_kind, normal_at, pnt
from contour.solid.shifted import face_middle

__all__ = ["crossing", "foot", "into", "outline_middle", "place_on"]

Array = NDArray[np.float64]


def foot(face: TopoDS_Face, p: Array) -> Array:
    """The place on a face's surface nearest to p, (3,), mm; the surface goes on past the face's borders. Raises ContourError (degenerate)."""
    found = GeomAPI_ProjectPointOnSurf(pnt(p), BRep_Tool.Surface_s(face))
    if found.NbPoints() == 0:
        raise ContourError(
            "degenerate",
            "no place of the face is nearest to the point",
            got="a point in the middle of it",
            need="a point nearer to one side",
            remedy="choose another point",
        )
    return array(found.NearestPoint())


def place_on(face: TopoDS_Face) -> Array:
    """A place on a face's surface, (3,), mm: in the middle of its two parameters."""
    part = BRepAdaptor_Surface(face)
    u, v = (part.FirstUParameter() + part.LastUParameter()) / 2, (part.FirstVParameter() + part.LastVParameter()) / 2
    return array(part.Value(u, v))


def into(face: TopoDS_Face, p: Array) -> Array:
    """The unit direction (3,) into the material, square to a face at the place on it nearest to p. Raises ContourError (degenerate) at a pole."""
    normal = normal_at(face, p)
    if normal is None:
        raise ContourError(
            "degenerate",
            "the face has no direction there",
            got="the tip of a cone",
            need="a place beside it",
            remedy="choose another point",
        )
    return normal if face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED else -normal


def crossing(face: TopoDS_Face, at: Array, along: Array) -> Array:
    """Where a line meets a face's surface, (3,), mm: of several places the one nearest to the face's middle. Raises ContourError (wrong-ending)."""
    line = Geom_Line(pnt(at), direction(along))
    found = GeomAPI_IntCS(line, BRep_Tool.Surface_s(face))
    places = [array(found.Point(k)) for k in range(1, found.NbPoints() + 1)] if found.IsDone() else []
    if not places:
        raise ContourError(
            "wrong-ending",
            "the axis never meets the face",
            got="a line beside it",
            need="an axis that leads through the face",
            remedy="choose another face or axis",
        )
    middle = face_middle(face)
    return min(places, key=lambda p: float(np.linalg.norm(p - middle)))


def outline_middle(face: TopoDS_Face) -> Array:
    """The middle of what a face's outer border encloses, (3,), mm: holes in it do not matter. Of a face that is not flat, on it, abreast of
    its own middle."""
    if face_kind(face) == "plane":
        whole = BRepBuilderAPI_MakeFace(BRep_Tool.Surface_s(face), BRepTools.OuterWire_s(face), True)
        if whole.IsDone():
            return face_middle(whole.Face())
    return foot(face, face_middle(face))
