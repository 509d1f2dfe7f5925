"""Reads the kernel's faces and edges into the arrays that :mod:`contour.check.exact_distance` measures against."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.GCPnts import GCPnts_QuasiUniformDeflection
from OCP.TopAbs import TopAbs_Orientation
from OCP.TopoDS import TopoDS_Edge, TopoDS_Face, TopoDS_Shape

from contour.check.exact_faces import chord_of
from contour.check.exact_solid import FACE_ROW, FREE, SPLINE, ExactSolid
from contour.geometry.bspline_rows import HEAD
from contour.geometry.curve_rows import ARC, LINE, POLYLINE, ROW
from contour.geometry.curves import Line
from contour.geometry.surfaces import Surface
from contour.solid.face_geometry import array, cone_radii, edge_curve, face_surface, v_range
from contour.solid.same_parts import told_of_parts
from contour.solid.shape import edges, faces
from contour.solid.splines import spline_rows
from contour.solid.tessellate import Tessellation, tessellate

__all__ = ["exact_arrays"]

Array = NDArray[np.float64]

_CHORD_MM = 0.02
_FREE_CHORD_MM = 0.004  # where a face has no formula and its triangles speak for it
_EDGE_CHORD_MM = 0.0002
_AT_TIP = 1e-6  # of the radius: a face that comes as near to its axis touches it


def _face_row(face: TopoDS_Face, surface: Surface | None) -> list[float]:
    if surface is None:
        turned = face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED
        return [0.0] * 8 + [-1.0 if turned else 1.0] + [np.nan, np.nan, 0.0, 0.0]
    row = [*surface.packed(), np.nan, np.nan, 0.0, 0.0]
    if surface.kind == "cone":
        ends = cone_radii(face)
        if min(map(abs, ends)) < _AT_TIP * max(map(abs, ends)):
            row[9] = -surface.radius / float(np.tan(surface.half_angle))
    elif surface.kind == "torus":
        v = v_range(face)
        ring, tube = surface.radius, surface.minor
        if ring + tube * np.cos(sum(v) / 2) < 0:  # the kernel's normal turns round where the tube passes the axis
            row[6], row[8] = -ring, -row[8]
        row[9:] = [
            *(tube * np.sin(end) if abs(ring + tube * np.cos(end)) < _AT_TIP * tube else np.nan for end in v),
            v[0],
            v[1] - v[0],
        ]
    return row


@told_of_parts
def _edge_row(edge: TopoDS_Edge) -> tuple[int, list[float], Array | None]:
    empty = [0.0] * ROW
    if BRep_Tool.Degenerated_s(edge):
        return 0, empty, None
    curve = edge_curve(edge)
    if isinstance(curve, Line):
        return LINE, [*curve.start, *curve.end, *[0.0] * 6], None
    if curve and curve.kind == "circle":
        return ARC, [*curve.centre, *curve.x, *curve.y, curve.long, curve.first, curve.last], None
    walk = GCPnts_QuasiUniformDeflection(BRepAdaptor_Curve(edge), _EDGE_CHORD_MM)
    return POLYLINE, empty, np.array([array(walk.Value(i)) for i in range(1, walk.NbPoints() + 1)])


def exact_arrays(shape: TopoDS_Shape, mesh: Tessellation | None = None) -> ExactSolid:
    """Arrays of a solid, with the triangles that are at hand or else some of its own; faces without a formula are meshed finely enough
    to speak for themselves."""
    listed = faces(shape)
    surfaces = [face_surface(f) for f in listed]
    heads: list[NDArray[np.int64]] = []
    numbers: list[Array] = []
    kinds, spline = [], []
    for face, surface in zip(listed, surfaces, strict=True):
        found = None if surface else spline_rows(face, sum(n.size for n in numbers))
        spline.append(len(heads) if found else -1)
        kinds.append(surface.code if surface else SPLINE if found else FREE)
        if found:
            heads.append(found[0])
            numbers.append(found[1])
    if FREE in kinds:
        mesh = tessellate(shape, chord_mm=_FREE_CHORD_MM)
    elif mesh is None:
        mesh = tessellate(shape, chord_mm=_CHORD_MM)
    edge_rows = [_edge_row(e) for e in edges(shape)]
    ends = np.cumsum([0] + [0 if line is None else len(line) for _, _, line in edge_rows])
    points = [line for _, _, line in edge_rows if line is not None]
    made = ExactSolid(
        mesh.vertices,
        mesh.triangles,
        mesh.face,
        mesh.side_edge,
        mesh.side_sense,
        mesh.uv,
        np.array(kinds, np.int32),
        np.array([_face_row(f, s) for f, s in zip(listed, surfaces, strict=True)]).reshape(-1, FACE_ROW),
        np.array(spline, np.int32),
        np.array(heads, np.int64).reshape(-1, HEAD),
        np.concatenate(numbers) if numbers else np.empty(0),
        np.array([k for k, _, _ in edge_rows], np.int32),
        np.array([d for _, d, _ in edge_rows]).reshape(-1, ROW),
        np.vstack(points) if points else np.empty((0, 3)),
        np.stack([ends[:-1], ends[1:]], axis=1).astype(np.int64),
        mesh.chord_mm,
    )
    return replace(made, chord_mm=max(mesh.chord_mm, chord_of(made)))
