"""Reads the kernel's faces and edges into the arrays that :mod:`contour.mesh.exact` measures against."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.GCPnts import GCPnts_QuasiUniformDeflection
from OCP.GeomAbs import GeomAbs_CurveType, GeomAbs_SurfaceType
from OCP.TopAbs import TopAbs_Orientation
from OCP.TopoDS import TopoDS_Edge, TopoDS_Face, TopoDS_Shape

from contour.mesh.exact import CIRCLE, CONE, CYLINDER, FREE, LINE, PLANE, POLYLINE, SPHERE, TORUS, ExactSolid, chord_of
from contour.solid.shape import edges, faces
from contour.solid.tessellate import tessellate

__all__ = ["exact_arrays", "face_kinds"]

_CHORD_MM = 0.02
_FREE_CHORD_MM = 0.004
_EDGE_CHORD_MM = 0.0002
_AT_TIP = 1e-6  # of the radius: a face that comes as near to its axis touches it

_T = GeomAbs_SurfaceType
_KINDS = {
    _T.GeomAbs_Plane: PLANE,
    _T.GeomAbs_Cylinder: CYLINDER,
    _T.GeomAbs_Cone: CONE,
    _T.GeomAbs_Sphere: SPHERE,
    _T.GeomAbs_Torus: TORUS,
}
_NAMES = {PLANE: "plane", CYLINDER: "cylinder", CONE: "cone", SPHERE: "sphere", TORUS: "torus", FREE: "freeform"}


def _triple(p) -> list[float]:  # type: ignore[no-untyped-def]
    return [p.X(), p.Y(), p.Z()]


def face_kinds(shape: TopoDS_Shape) -> list[str]:
    """Kind of each face of ``faces(shape)`` in trade words."""
    return [_NAMES[_KINDS.get(BRepAdaptor_Surface(f, False).GetType(), FREE)] for f in faces(shape)]


def _face_row(face: TopoDS_Face) -> tuple[int, list[float]]:
    surface = BRepAdaptor_Surface(face)
    kind = _KINDS.get(surface.GetType(), FREE)
    if kind == FREE:
        return kind, [0.0] * 14
    item = {
        PLANE: surface.Plane,
        CYLINDER: surface.Cylinder,
        CONE: surface.Cone,
        SPHERE: surface.Sphere,
        TORUS: surface.Torus,
    }[kind]()
    frame = item.Position()
    axis = frame.Direction()
    # The surface's own normal is x cross y of its frame: a left-handed frame turns it round.
    outward = 1.0 if frame.Direct() else -1.0
    if face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED:
        outward = -outward
    first = second = 0.0
    more = [1.0, np.nan, np.nan, 0.0, 0.0]
    if kind in (CYLINDER, SPHERE):
        first = item.Radius()
    elif kind == CONE:
        first, second = item.RefRadius(), item.SemiAngle()
        ends = [first + v * np.sin(second) for v in _v_range(surface)]
        if sum(ends) < 0:  # on the nappe beyond the tip: the same cone told from its other end
            axis, first = axis.Reversed(), -first
        if min(map(abs, ends)) < _AT_TIP * max(map(abs, ends)):
            more[1] = -first / np.tan(second)
    elif kind == TORUS:
        first, second = item.MajorRadius(), item.MinorRadius()
        v = _v_range(surface)
        if first + second * np.cos(sum(v) / 2) < 0:  # the kernel's normal turns round where the tube passes the axis
            more[0], outward = -1.0, -outward
        more[1:] = [
            *(second * np.sin(end) if abs(first + second * np.cos(end)) < _AT_TIP * second else np.nan for end in v),
            v[0],
            v[1] - v[0],
        ]
    return kind, [*_triple(frame.Location()), *_triple(axis), first, second, outward, *more]


def _v_range(surface: BRepAdaptor_Surface) -> tuple[float, float]:
    return surface.FirstVParameter(), surface.LastVParameter()


def _edge_row(edge: TopoDS_Edge) -> tuple[int, list[float], NDArray[np.float64] | None]:
    empty = [0.0] * 12
    if BRep_Tool.Degenerated_s(edge):
        return 0, empty, None
    curve = BRepAdaptor_Curve(edge)
    a, b = curve.FirstParameter(), curve.LastParameter()
    if curve.GetType() == GeomAbs_CurveType.GeomAbs_Line:
        return LINE, [*_triple(curve.Value(a)), *_triple(curve.Value(b)), *[0.0] * 6], None
    if curve.GetType() == GeomAbs_CurveType.GeomAbs_Circle:
        circle = curve.Circle()
        frame = circle.Position()
        row = [*_triple(circle.Location()), *_triple(frame.XDirection()), *_triple(frame.YDirection())]
        return CIRCLE, [*row, circle.Radius(), a, b], None
    walk = GCPnts_QuasiUniformDeflection(curve, _EDGE_CHORD_MM)
    points = np.array([_triple(walk.Value(i)) for i in range(1, walk.NbPoints() + 1)])
    return POLYLINE, empty, points


def exact_arrays(shape: TopoDS_Shape) -> ExactSolid:
    """Arrays of a solid; faces without a formula are meshed finely enough to speak for themselves."""
    rows = [_face_row(f) for f in faces(shape)]
    chord = _FREE_CHORD_MM if any(kind == FREE for kind, _ in rows) else _CHORD_MM
    mesh = tessellate(shape, chord_mm=chord)
    edge_rows = [_edge_row(e) for e in edges(shape)]
    spans, points, at = [], [], 0
    for _, _, line in edge_rows:
        n = 0 if line is None else len(line)
        spans.append((at, at + n))
        at += n
        if line is not None:
            points.append(line)
    made = ExactSolid(
        mesh.vertices,
        mesh.triangles,
        mesh.face,
        mesh.side_edge,
        mesh.side_sense,
        np.array([k for k, _ in rows], np.int32),
        np.array([d for _, d in rows]),
        np.array([k for k, _, _ in edge_rows], np.int32),
        np.array([d for _, d, _ in edge_rows]),
        np.vstack(points) if points else np.empty((0, 3)),
        np.array(spans, np.int64).reshape(-1, 2),
        chord,
    )
    return replace(made, chord_mm=max(chord, chord_of(made)))
