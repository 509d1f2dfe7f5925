"""What a face and an edge lie on, as the geometry leaf's own, and how the kernel's values become arrays and back."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.GeomAbs import GeomAbs_CurveType, GeomAbs_SurfaceType
from OCP.gp import gp_Dir, gp_Pnt, gp_Vec
from OCP.ShapeAnalysis import ShapeAnalysis_Surface
from OCP.TopAbs import TopAbs_Orientation
from OCP.TopoDS import TopoDS_Edge, TopoDS_Face, TopoDS_Shape

from contour.geometry.curves import Curve, Line, Oval
from contour.geometry.surfaces import Surface, SurfaceKind
from contour.geometry.vectors import cross, triple
from contour.solid.shape import faces

__all__ = [
    "FaceKind",
    "array",
    "cone_radii",
    "direction",
    "edge_curve",
    "face_kind",
    "face_kinds",
    "face_surface",
    "goes_round",
    "middle_of",
    "normal_at",
    "pnt",
    "touch",
    "v_range",
]

Array = NDArray[np.float64]
FaceKind = SurfaceKind | Literal["freeform"]

_REVERSED = TopAbs_Orientation.TopAbs_REVERSED
_KINDS: dict[GeomAbs_SurfaceType, SurfaceKind] = {
    GeomAbs_SurfaceType.GeomAbs_Plane: "plane",
    GeomAbs_SurfaceType.GeomAbs_Cylinder: "cylinder",
    GeomAbs_SurfaceType.GeomAbs_Cone: "cone",
    GeomAbs_SurfaceType.GeomAbs_Sphere: "sphere",
    GeomAbs_SurfaceType.GeomAbs_Torus: "torus",
}


def array(p) -> Array:  # type: ignore[no-untyped-def]
    """Of a kernel point, vector or direction: (3,), mm."""
    return np.array([p.X(), p.Y(), p.Z()])


def middle_of(edge: TopoDS_Edge) -> tuple[float, float, float]:
    """The place half-way along an edge, mm."""
    curve = BRepAdaptor_Curve(edge)
    return triple(array(curve.Value((curve.FirstParameter() + curve.LastParameter()) / 2)))


def pnt(p: Array) -> gp_Pnt:
    """The kernel's point of p (3,), mm."""
    return gp_Pnt(float(p[0]), float(p[1]), float(p[2]))


def direction(v: Array) -> gp_Dir:
    """The kernel's direction of v (3,), of any length but none."""
    return gp_Dir(float(v[0]), float(v[1]), float(v[2]))


def face_kinds(shape: TopoDS_Shape) -> list[FaceKind]:
    """Kind of each face of ``faces(shape)`` in trade words."""
    return [face_kind(f) for f in faces(shape)]


def face_kind(face: TopoDS_Face) -> FaceKind:
    """Kind of a face in trade words."""
    return _KINDS.get(BRepAdaptor_Surface(face, False).GetType(), "freeform")


def face_surface(face: TopoDS_Face) -> Surface | None:
    """The surface a face lies on, mm, a plane's axis out of the material, a cone's towards its open end and round that part of it which the
    face is of; none for a freeform face."""
    adaptor = BRepAdaptor_Surface(face, False)
    kind = _KINDS.get(adaptor.GetType())
    if kind is None:
        return None
    item = getattr(adaptor, kind.capitalize())()
    frame = item.Position()
    origin, axis = array(frame.Location()), array(frame.Direction())
    # The surface's own normal is x cross y of its frame: a left-handed frame turns it round.
    outward = 1 if frame.Direct() else -1
    if face.Orientation() == _REVERSED:
        outward = -outward
    if kind == "plane":
        return Surface("plane", triple(origin), triple(outward * axis), 0.0, 1)
    radius = half_angle = minor = 0.0
    if kind == "torus":
        radius, minor = item.MajorRadius(), item.MinorRadius()
    elif kind == "cone":
        radius, half_angle = item.RefRadius(), item.SemiAngle()
        if sum(cone_radii(face)) < 0:  # on the nappe beyond the tip: the same cone told from its other end
            axis, radius = -axis, -radius
        if half_angle < 0:
            axis, half_angle = -axis, -half_angle
    else:
        radius = item.Radius()
    return Surface(kind, triple(origin), triple(axis), radius, outward, half_angle, minor)


def cone_radii(face: TopoDS_Face) -> tuple[float, float]:
    """Radii (mm) at both ends of a conical face, below nothing past its tip."""
    cone = BRepAdaptor_Surface(face, False).Cone()
    first, last = (cone.RefRadius() + v * float(np.sin(cone.SemiAngle())) for v in v_range(face))
    return first, last


def v_range(face: TopoDS_Face) -> tuple[float, float]:
    """Along the second parameter of its surface, as far as its borders go."""
    trimmed = BRepAdaptor_Surface(face)
    return trimmed.FirstVParameter(), trimmed.LastVParameter()


def goes_round(face: TopoDS_Face) -> bool:
    """Whether a face of turning goes all the way round its axis."""
    trimmed = BRepAdaptor_Surface(face)
    return bool(trimmed.LastUParameter() - trimmed.FirstUParameter() > 2 * np.pi - 1e-6)


def edge_curve(edge: TopoDS_Edge) -> Curve | None:
    """The line, circle or ellipse an edge runs along, as its curve runs, or none; mm. Not of an edge that is a point."""
    adaptor = BRepAdaptor_Curve(edge)
    first, last = adaptor.FirstParameter(), adaptor.LastParameter()
    kind = adaptor.GetType()
    if kind == GeomAbs_CurveType.GeomAbs_Line:
        return Line(triple(array(adaptor.Value(first))), triple(array(adaptor.Value(last))))
    if kind == GeomAbs_CurveType.GeomAbs_Circle:
        circle = adaptor.Circle()
        frame, long, short = circle.Position(), circle.Radius(), circle.Radius()
    elif kind == GeomAbs_CurveType.GeomAbs_Ellipse:
        ellipse = adaptor.Ellipse()
        frame, long, short = ellipse.Position(), ellipse.MajorRadius(), ellipse.MinorRadius()
    else:
        return None
    x, y = triple(array(frame.XDirection())), triple(array(frame.YDirection()))
    return Oval(triple(array(frame.Location())), x, y, long, short, first, last)


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
    n = cross(array(du), array(dv))
    size = float(np.linalg.norm(n))
    return None if size < 1e-12 else n / size


def touch(a: Surface | None, b: Surface | None) -> bool:
    """Two rounds of nearly one axis and radius cross at a small angle without being tangent: a worn bore's arcs do."""
    if a is None or b is None or not a.kind == b.kind == "cylinder":
        return True
    d = a.at - b.at
    apart = float(np.linalg.norm(d - (d @ a.along) * a.along))
    sizes = (a.radius + b.radius, abs(a.radius - b.radius))
    return min(abs(apart - size) for size in sizes) < 2e-4 * sizes[0]
