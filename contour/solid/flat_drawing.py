"""Triangles of flat faces that the kernel cannot draw, from the nodes that the faces beside them have along their shared edges.

Where two borders of a face run nearer to each other than their chords are deep (two circles that were fitted one by one to the same boss) their chords
cross, and the kernel's triangulations give nothing. Ears cut within a tolerance (the manifold3d library) leave no node out and give the face its shape.
"""

from __future__ import annotations

import manifold3d
import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepGProp import BRepGProp
from OCP.BRepTools import BRepTools_WireExplorer
from OCP.GCPnts import GCPnts_TangentialDeflection
from OCP.GeomAbs import GeomAbs_SurfaceType
from OCP.gp import gp_Pnt, gp_Pnt2d
from OCP.GProp import GProp_GProps
from OCP.Poly import Poly_PolygonOnTriangulation, Poly_Triangle, Poly_Triangulation
from OCP.TopAbs import TopAbs_Orientation, TopAbs_ShapeEnum
from OCP.TopExp import TopExp_Explorer
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Face, TopoDS_Shape

from contour.solid.shape import AncestorMap, ShapeMap, edge_faces, edges, faces, owners_of

__all__ = ["draw_flat", "few_sided", "is_flat"]

Array = NDArray[np.float64]
_FEW = 24  # edges
_REVERSED, _FORWARD = TopAbs_Orientation.TopAbs_REVERSED, TopAbs_Orientation.TopAbs_FORWARD


def _nodes(edge: TopoDS_Edge, around: AncestorMap, chord_mm: float, angle_rad: float) -> Array:
    """(n, 4): of the first face at it that is drawn, along the edge's curve; where none is, on the curve. Last comes where each lies on the curve: edges that do
    not say so are called invalid by the kernel, and every boolean with them."""
    for face in owners_of(around, around.FindIndex(edge)):
        location = TopLoc_Location()
        drawn = BRep_Tool.Triangulation_s(face, location)
        line = None if drawn is None else BRep_Tool.PolygonOnTriangulation_s(edge, drawn, location)
        if line is not None and line.HasParameters():
            at = (drawn.Node(line.Node(i)) for i in range(1, line.NbNodes() + 1))
            if not location.IsIdentity():
                move = location.Transformation()
                at = (p.Transformed(move) for p in at)
            return np.array([(*p.Coord(), line.Parameter(i)) for i, p in enumerate(at, 1)])
    curve = BRepAdaptor_Curve(edge)
    points = GCPnts_TangentialDeflection(curve, angle_rad, chord_mm, 2)
    return np.array([(*points.Value(i).Coord(), points.Parameter(i)) for i in range(1, points.NbPoints() + 1)])


def _loops(
    face: TopoDS_Face, around: AncestorMap, chord_mm: float, angle_rad: float
) -> list[list[tuple[TopoDS_Edge, Array]]] | None:
    """The edges of each border in order with their nodes, along their curves; None where they do not follow one another."""
    out = []
    walk = TopExp_Explorer(face, TopAbs_ShapeEnum.TopAbs_WIRE)
    count = 0
    while walk.More():
        way = BRepTools_WireExplorer(TopoDS.Wire(walk.Current()), face)
        loop = []
        while way.More():
            edge = TopoDS.Edge(way.Current())
            loop.append((edge, _nodes(edge, around, chord_mm, angle_rad)))
            way.Next()
        count += len(loop)
        out.append(loop)
        walk.Next()
    return out if count == len(edges(face)) else None


def _ears(rings: list[Array], flat: Array, chord_mm: float) -> NDArray[np.int64]:
    """Triangles (m, 3) over rings, by places (n, 2) of all of them. Exactly, where that covers the face once; where chords cross, they may cross so far as these are deep."""
    best, covered = np.empty((0, 3), np.int64), np.inf
    for epsilon in (-1.0, 0.1 * chord_mm, chord_mm):
        corners = np.asarray(manifold3d.triangulate(rings, epsilon=epsilon), np.int64).reshape(-1, 3)
        a, b = flat[corners[:, 1]] - flat[corners[:, 0]], flat[corners[:, 2]] - flat[corners[:, 0]]
        twice = a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]
        if np.abs(twice).sum() < covered * (1 - 1e-9):
            best, covered = corners, float(np.abs(twice).sum())
        if covered <= twice.sum() * (1 + 1e-6):
            break
    return best


def _draw(face: TopoDS_Face, around: AncestorMap, chord_mm: float, angle_rad: float) -> None:
    forward = TopoDS.Face(face.Oriented(_FORWARD))
    loops = _loops(forward, around, chord_mm, angle_rad)
    if not loops:
        return
    position = BRepAdaptor_Surface(forward).Plane().Position()
    origin, u, v = (np.array(d.Coord()) for d in (position.Location(), position.XDirection(), position.YDirection()))
    rings, lines, base = [], [], 0
    for loop in loops:
        ring = [nodes[::-1][:-1] if edge.Orientation() == _REVERSED else nodes[:-1] for edge, nodes in loop]
        count = sum(map(len, ring))
        begin = 0
        for (edge, nodes), part in zip(loop, ring, strict=True):
            ids = base + (begin + np.arange(len(part) + 1)) % count
            lines.append((edge, ids[::-1] if edge.Orientation() == _REVERSED else ids, nodes[:, 3]))
            begin += len(part)
        rings.append(np.vstack(ring)[:, :3])
        base += count
    places = np.vstack(rings)
    flat = np.column_stack([(places - origin) @ u, (places - origin) @ v])
    corners = _ears(np.split(flat, np.cumsum([len(r) for r in rings])[:-1]), flat, chord_mm)
    if not len(corners):
        return
    location = TopLoc_Location()
    BRep_Tool.Triangulation_s(face, location)
    still, back = location.IsIdentity(), location.Transformation().Inverted()
    made = Poly_Triangulation(len(places), len(corners), True)
    for i, (p, q) in enumerate(zip(places.tolist(), flat.tolist(), strict=True), 1):
        made.SetNode(i, gp_Pnt(*p) if still else gp_Pnt(*p).Transformed(back))
        made.SetUVNode(i, gp_Pnt2d(*q))
    for i, (a, b, c) in enumerate(np.asarray(corners).tolist(), 1):
        made.SetTriangle(i, Poly_Triangle(a + 1, b + 1, c + 1))
    made.Deflection(chord_mm)
    build = BRep_Builder()
    build.UpdateFace(face, made)
    for edge, ids, at in lines:
        line = Poly_PolygonOnTriangulation(len(ids), True)
        for i, (k, t) in enumerate(zip(ids.tolist(), at.tolist(), strict=True), 1):
            line.SetNode(i, k + 1)
            line.SetParameter(i, t)
        build.UpdateEdge(edge, line, made, location)


def is_flat(face: TopoDS_Face) -> bool:
    """Whether a face's surface is a plane."""
    return bool(BRepAdaptor_Surface(face).GetType() == GeomAbs_SurfaceType.GeomAbs_Plane)


def _is_whole(face: TopoDS_Face, chord_mm: float) -> bool:
    """Whether the triangles of a flat face cover it once: as many as its nodes and borders ask for (Euler), and its area, off by no more than its chords are."""
    location = TopLoc_Location()
    drawn = BRep_Tool.Triangulation_s(face, location)
    if drawn is None or drawn.NbTriangles() == 0:
        return False
    rim, wires = 0, 0
    walk = TopExp_Explorer(face, TopAbs_ShapeEnum.TopAbs_EDGE)
    while walk.More():
        line = BRep_Tool.PolygonOnTriangulation_s(TopoDS.Edge(walk.Current()), drawn, location)
        rim += 0 if line is None else line.NbNodes() - 1
        walk.Next()
    walk.Init(face, TopAbs_ShapeEnum.TopAbs_WIRE)
    while walk.More():
        wires += 1
        walk.Next()
    if drawn.NbTriangles() != 2 * drawn.NbNodes() - rim + 2 * wires - 4:
        return False
    covered, true, around = GProp_GProps(), GProp_GProps(), GProp_GProps()
    BRepGProp.SurfaceProperties_s(face, covered, False, True)
    BRepGProp.SurfaceProperties_s(face, true, False, False)
    BRepGProp.LinearProperties_s(face, around)
    return abs(covered.Mass() - true.Mass()) <= chord_mm * around.Mass() + 1e-6 * true.Mass()


def few_sided(shape: TopoDS_Shape) -> list[TopoDS_Face]:
    """Flat faces that are drawn here as fast as by the kernel, which may take seconds in a cusp: where a line leaves a circle that it touches, say."""
    return [f for f in faces(shape) if is_flat(f) and len(edges(f)) <= _FEW]


def draw_flat(shape: TopoDS_Shape, own: ShapeMap, *, chord_mm: float, angle_rad: float) -> None:
    """Draws some of a shape's flat faces, and those anew that have no triangles, or not the right ones; kept with the shape. Those beside them have theirs already."""
    wanted = [f for f in faces(shape) if own.Contains(f) or (is_flat(f) and not _is_whole(f, chord_mm))]
    around = edge_faces(shape) if wanted else AncestorMap()
    for face in wanted:
        _draw(face, around, chord_mm, angle_rad)
