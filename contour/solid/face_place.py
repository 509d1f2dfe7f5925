"""The plane, axis or centre that a face of a body stands for."""

from __future__ import annotations

import numpy as np
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.GeomAbs import GeomAbs_SurfaceType
from OCP.gp import gp_Ax3, gp_Pnt
from OCP.TopoDS import TopoDS_Face

from contour.construct.place import Array, Place, triple
from contour.recipe.problem import ContourError
from contour.solid.face_geometry import face_geometry
from contour.solid.shape import bounds

__all__ = ["place_of_face"]


def _xyz(p: gp_Pnt) -> Array:
    return np.array([p.X(), p.Y(), p.Z()])


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
            "axis", triple(_xyz(frame.Location())), triple(_direction(frame)), radius=torus.MajorRadius(), reach=reach
        )
    elif surface.GetType() == kinds.GeomAbs_Sphere:
        ball = surface.Sphere()
        return Place("point", triple(_xyz(ball.Location())), radius=ball.Radius(), reach=reach)
    else:
        raise ContourError(
            "wrong-kind",
            "a freeform face has no plane, axis or centre",
            got="freeform face",
            remedy="choose another face, or a region",
        )
    o, d = _xyz(frame.Location()), _direction(frame)
    return Place("axis", triple(o + ((middle - o) @ d) * d), triple(d), radius=radius, reach=reach)


def _direction(frame: gp_Ax3) -> Array:
    d = frame.Direction()
    return np.array([d.X(), d.Y(), d.Z()])
