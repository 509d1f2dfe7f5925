"""An edge seen between its two faces: its middle, its direction, and the way into each face."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Curve2d, BRepAdaptor_Surface
from OCP.gp import gp_Pnt, gp_Vec
from OCP.TopAbs import TopAbs_Orientation, TopAbs_ShapeEnum
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import TopoDS_Edge, TopoDS_Face, TopoDS_Shape

from contour.geometry.vectors import cross
from contour.recipe.problem import ContourError
from contour.solid.face_geometry import array, face_kind, normal_at
from contour.solid.shape import edge_faces, owners_of

__all__ = ["EdgeFrame", "edge_frame", "frame_between", "turn_between"]

Array = NDArray[np.float64]
_REVERSED = TopAbs_Orientation.TopAbs_REVERSED


@dataclass(frozen=True, slots=True)
class EdgeFrame:
    """middle (3,) mm · along (3,) unit · into: for each face the unit direction (3,) from the edge into it · normals: its outward
    unit normal (3,) there · outer: whether the material lies inside the corner (a convex edge)."""

    middle: Array
    along: Array
    into: tuple[Array, Array]
    normals: tuple[Array, Array]
    outer: bool


def _as_it_runs(face: TopoDS_Face, edge: TopoDS_Edge) -> float:
    """+1 when the face's border runs with the edge's curve, -1 against it."""
    walk = TopExp_Explorer(face, TopAbs_ShapeEnum.TopAbs_EDGE)
    while walk.More():
        if walk.Current().IsSame(edge):
            return -1.0 if walk.Current().Orientation() == _REVERSED else 1.0
        walk.Next()
    return 1.0


def edge_frame(shape: TopoDS_Shape, edge: TopoDS_Edge, *, at: float = 0.5) -> EdgeFrame:
    """The frame of an edge of `shape` so far along it (0 to 1). Raises ContourError (wrong-kind) for an edge with fewer than two faces."""
    around = edge_faces(shape)
    return frame_between(owners_of(around, around.FindIndex(edge)), edge, at=at)


def frame_between(owners: Sequence[TopoDS_Face], edge: TopoDS_Edge, *, at: float = 0.5) -> EdgeFrame:
    """The same where the edge's faces are known. at: the share of the edge's length, 0..1."""
    if len(owners) < 2:
        raise ContourError(
            "wrong-kind",
            "the edge does not lie between two faces",
            got=f"{len(owners)} face",
            need="two faces",
            remedy="choose another edge",
        )
    middle, along = _spot(edge, at)
    normals = [_outward(face, edge, at) for face in owners[:2]]
    into = []
    for face, normal in zip(owners, normals, strict=False):
        # The material of a face lies to the left of its border, seen from outside.
        way = cross(normal, along) * _as_it_runs(face, edge)
        into.append(way / max(float(np.linalg.norm(way)), 1e-300))
    outer = float(into[0] @ normals[1]) < 0
    return EdgeFrame(middle, along, (into[0], into[1]), (normals[0], normals[1]), outer)


def turn_between(owners: Sequence[TopoDS_Face], edge: TopoDS_Edge, *, at: float = 0.5) -> float:
    """Cosine of the angle between the outward normals of an edge's two faces so far along it (0 to 1)."""
    a, b = (_outward(face, edge, at) for face in owners[:2])
    return float(a @ b)


def _spot(edge: TopoDS_Edge, at: float) -> tuple[Array, Array]:
    """A place on an edge and its unit direction there."""
    curve = BRepAdaptor_Curve(edge)
    p, d = gp_Pnt(), gp_Vec()
    first, last = curve.FirstParameter(), curve.LastParameter()
    curve.D1(first + at * (last - first), p, d)
    return array(p), array(d) / max(d.Magnitude(), 1e-300)


def _outward(face: TopoDS_Face, edge: TopoDS_Edge, at: float) -> Array:
    """A face's unit normal out of the material so far along an edge of it; at a pole one across the edge."""
    middle, along = _spot(edge, at)
    normal = _on_border(face, edge, at) if face_kind(face) == "freeform" else normal_at(face, middle)
    if normal is None:
        normal = cross(along, np.array([0.0, 0.0, 1.0]))
    return normal * (-1.0 if face.Orientation() == _REVERSED else 1.0)


def _on_border(face: TopoDS_Face, edge: TopoDS_Edge, at: float) -> Array | None:
    """By the edge's curve in the surface's own parameters: finding the place on a thread's flank takes milliseconds."""
    curve = BRepAdaptor_Curve2d(edge, face)
    first, last = curve.FirstParameter(), curve.LastParameter()
    uv = curve.Value(first + at * (last - first))
    p, du, dv = gp_Pnt(), gp_Vec(), gp_Vec()
    BRepAdaptor_Surface(face, False).D1(uv.X(), uv.Y(), p, du, dv)
    n = cross(array(du), array(dv))
    size = float(np.linalg.norm(n))
    return None if size < 1e-12 else n / size
