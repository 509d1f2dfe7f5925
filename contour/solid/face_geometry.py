"""What a plane or cylinder face is, in numbers, and how its kernel values become arrays and back."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.GeomAbs import GeomAbs_SurfaceType
from OCP.gp import gp_Dir, gp_Pnt, gp_Vec
from OCP.ShapeAnalysis import ShapeAnalysis_Surface
from OCP.TopAbs import TopAbs_Orientation
from OCP.TopoDS import TopoDS_Face

__all__ = ["FaceGeometry", "array", "direction", "face_geometry", "normal_at", "pnt", "touch"]

Array = NDArray[np.float64]
_FORWARD, _REVERSED = TopAbs_Orientation.TopAbs_FORWARD, TopAbs_Orientation.TopAbs_REVERSED


def array(p) -> Array:  # type: ignore[no-untyped-def]
    """Of a kernel point, vector or direction: (3,), mm."""
    return np.array([p.X(), p.Y(), p.Z()])


def pnt(p: Array) -> gp_Pnt:
    """The kernel's point of p (3,), mm."""
    return gp_Pnt(float(p[0]), float(p[1]), float(p[2]))


def direction(v: Array) -> gp_Dir:
    """The kernel's direction of v (3,), of any length but none."""
    return gp_Dir(float(v[0]), float(v[1]), float(v[2]))


@dataclass(frozen=True, slots=True)
class FaceGeometry:
    """plane: a point and the normal out of the material. cylinder: a point on the axis, the axis, the radius, and
    `outward` +1 for a shaft, -1 for a bore. Anything else: kind "other"."""

    kind: str
    origin: Array
    axis: Array
    radius: float
    outward: float


def face_geometry(face: TopoDS_Face) -> FaceGeometry:
    """What a face lies on, mm; its kind is "other" where it is neither a plane nor a cylinder."""
    surface = BRepAdaptor_Surface(face, False)
    turned = -1.0 if face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED else 1.0
    if surface.GetType() == GeomAbs_SurfaceType.GeomAbs_Plane:
        frame = surface.Plane().Position()
        side = turned * (1.0 if frame.Direct() else -1.0)
        return FaceGeometry("plane", array(frame.Location()), side * array(frame.Direction()), 0.0, 1.0)
    if surface.GetType() == GeomAbs_SurfaceType.GeomAbs_Cylinder:
        cylinder = surface.Cylinder()
        frame = cylinder.Position()
        side = turned * (1.0 if frame.Direct() else -1.0)
        return FaceGeometry("cylinder", array(frame.Location()), array(frame.Direction()), cylinder.Radius(), side)
    return FaceGeometry("other", np.zeros(3), np.zeros(3), 0.0, turned)


def normal_at(face: TopoDS_Face, p: Array) -> Array | None:
    """Unit normal (3,) of a face's surface at the place on it nearest to p (3,), mm, as the surface runs, whichever way the face is
    turned; none at a pole."""
    known = BRepAdaptor_Surface(face, False)  # its borders, which may be hundreds, are not asked for
    if known.GetType() == GeomAbs_SurfaceType.GeomAbs_Plane:
        frame = known.Plane().Position()
        return array(frame.Direction()) * (1.0 if frame.Direct() else -1.0)
    if known.GetType() == GeomAbs_SurfaceType.GeomAbs_Cylinder:
        frame = known.Cylinder().Position()
        away = p - array(frame.Location())
        axis = array(frame.Direction())
        away -= (away @ axis) * axis
        far = float(np.linalg.norm(away))
        return None if far < 1e-12 else away / far * (1.0 if frame.Direct() else -1.0)
    surface = BRep_Tool.Surface_s(face)
    tool = ShapeAnalysis_Surface(surface)
    uv = tool.ValueOfUV(pnt(p), 1e-6)
    q, du, dv = gp_Pnt(), gp_Vec(), gp_Vec()
    surface.D1(uv.X(), uv.Y(), q, du, dv)
    n = np.cross(array(du), array(dv))
    size = float(np.linalg.norm(n))
    return None if size < 1e-12 else n / size


def touch(a: FaceGeometry, b: FaceGeometry) -> bool:
    """Two rounds of nearly one axis and radius cross at a small angle without being tangent: a worn bore's arcs do."""
    if a.kind != "cylinder" or b.kind != "cylinder":
        return True
    d = a.origin - b.origin
    apart = float(np.linalg.norm(d - (d @ a.axis) * a.axis))
    sizes = (a.radius + b.radius, abs(a.radius - b.radius))
    return min(abs(apart - size) for size in sizes) < 2e-4 * sizes[0]
