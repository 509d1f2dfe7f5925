"""Triangles of a solid with the face each one belongs to and the edge each side lies on."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.BRepMesh import BRepMesh_IncrementalMesh
from OCP.BRepTools import BRepTools
from OCP.IMeshTools import IMeshTools_MeshAlgoType, IMeshTools_Parameters
from OCP.TopAbs import TopAbs_Orientation, TopAbs_ShapeEnum
from OCP.TopExp import TopExp_Explorer
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS, TopoDS_Compound, TopoDS_Face, TopoDS_Shape

from contour.solid.flat_drawing import draw_flat, few_sided, is_flat
from contour.solid.shape import ShapeMap, faces, shape_map

__all__ = ["Tessellation", "mesh", "tessellate"]


@dataclass(frozen=True, slots=True)
class Tessellation:
    """vertices (n, 3) f64, per face (shared corners repeat) · uv (n, 2): their parameters on the face · triangles (m, 3) i32, outward · face (m,) i32 ·
    side_edge (m, 3) i32: edge under the side from corner k to k + 1, -1 inside a face · side_sense (m, 3) i8: +1 when
    the side runs with its edge · edge_polylines: nodes along each edge, mm · chord_mm: how far it was to stray from the faces."""

    vertices: NDArray[np.float64]
    uv: NDArray[np.float64]
    triangles: NDArray[np.int32]
    face: NDArray[np.int32]
    side_edge: NDArray[np.int32]
    side_sense: NDArray[np.int8]
    edge_polylines: list[NDArray[np.float64]]
    chord_mm: float


# Chords tried for faces that cannot be drawn otherwise; finer ones take many seconds in the cusps between borders.
_FINER_MM = (5e-3, 1e-3)


def _draw(part: TopoDS_Shape, chord_mm: float, angle_rad: float, steady: bool) -> None:
    """Triangles where there are none yet. Edges that have their nodes keep them."""
    wanted = IMeshTools_Parameters()
    wanted.Deflection, wanted.Angle = chord_mm, angle_rad
    own = ShapeMap()
    if steady:
        BRepMesh_IncrementalMesh(part, wanted)
    else:
        for face in few_sided(part):
            own.Add(face)
        wanted.MeshAlgo = IMeshTools_MeshAlgoType.IMeshTools_MeshAlgoType_Delabella
        BRepMesh_IncrementalMesh(_together(f for f in faces(part) if not own.Contains(f)), wanted)
        wanted.MeshAlgo = IMeshTools_MeshAlgoType.IMeshTools_MeshAlgoType_Watson
        for face in _undrawn(part):
            if not is_flat(face):
                BRepMesh_IncrementalMesh(face, wanted)
    # These take the nodes that the others have along their shared edges.
    draw_flat(part, own, chord_mm=chord_mm, angle_rad=angle_rad)


def _together(some: Iterable[TopoDS_Face]) -> TopoDS_Compound:
    out = TopoDS_Compound()
    build = BRep_Builder()
    build.MakeCompound(out)
    for face in some:
        build.Add(out, face)
    return out


def _undrawn(part: TopoDS_Shape) -> list[TopoDS_Face]:
    drawn = ((face, BRep_Tool.Triangulation_s(face, TopLoc_Location())) for face in faces(part))
    return [face for face, triangles in drawn if triangles is None or triangles.NbTriangles() == 0]


def mesh(shape: TopoDS_Shape, *, chord_mm: float, angle_rad: float, steady: bool = False) -> None:
    """Triangles afresh, kept with the shape: by a sweep over the plane, six times faster on a face with hundreds of holes than the kernel's own triangulation; that one
    where the sweep gives nothing, as on an extruded free curve. Edges keep their places, so that the faces still meet. steady:
    by the kernel's own for all faces.

    Where borders of a face run nearer to each other than their chords are deep, neither draws it: flat ones are drawn from the nodes beside them, others first
    and finer, and those beside them take over the nodes.
    """
    hard: list[TopoDS_Face] = []
    for finer in (chord_mm, *(f for f in _FINER_MM if f < chord_mm)):
        BRepTools.Clean_s(shape)
        for chord, part in [*((finer, face) for face in hard), (chord_mm, shape)]:
            _draw(part, chord, angle_rad, steady)
        left = _undrawn(shape)
        if not left:
            return
        hard += [face for face in left if not any(face.IsSame(h) for h in hard)]


def tessellate(
    shape: TopoDS_Shape, *, chord_mm: float, angle_rad: float = 0.35, sides: bool = True, steady: bool = False
) -> Tessellation:
    """Mesh afresh at the given chord height and angle. sides: whether it is wanted what lies under the triangles' sides, and where
    on its face each vertex is; else -1 and zeros · steady: as for the mesh."""
    mesh(shape, chord_mm=chord_mm, angle_rad=angle_rad, steady=steady)
    edge_map = shape_map(shape, TopAbs_ShapeEnum.TopAbs_EDGE)
    vertices, parameters, triangles, owners = [], [], [], []
    borders: list[tuple[int, NDArray[np.int64]]] = []  # edge, its nodes along one face
    polylines: list[NDArray[np.float64]] = [np.empty((0, 3))] * edge_map.Size()
    base = 0
    for number, face in enumerate(faces(shape)):
        location = TopLoc_Location()
        drawn = BRep_Tool.Triangulation_s(face, location)
        if drawn is None:
            continue
        move = location.Transformation()
        still = location.IsIdentity()
        nodes = (drawn.Node(i) if still else drawn.Node(i).Transformed(move) for i in range(1, drawn.NbNodes() + 1))
        points = np.array([p.Coord() for p in nodes])
        corners = np.array([drawn.Triangle(i).Get() for i in range(1, drawn.NbTriangles() + 1)], dtype=np.int64) - 1
        reverse = face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED
        if reverse:
            corners = corners[:, [0, 2, 1]]
        walk = TopExp_Explorer(face, TopAbs_ShapeEnum.TopAbs_EDGE)
        while walk.More():
            edge = TopoDS.Edge(walk.Current())
            walk.Next()
            if BRep_Tool.Degenerated_s(edge) or BRep_Tool.IsClosed_s(edge, face):
                continue  # poles and seams are no border of the surface
            polygon = BRep_Tool.PolygonOnTriangulation_s(edge, drawn, location)
            if polygon is None:
                continue
            ids = np.array([polygon.Node(i) - 1 for i in range(1, polygon.NbNodes() + 1)])
            k = edge_map.FindIndex(edge) - 1
            polylines[k] = points[ids]
            borders.append((k, ids + base))
        vertices.append(points)
        if sides:
            parameters.append(np.array([drawn.UVNode(i).Coord() for i in range(1, drawn.NbNodes() + 1)]))
        else:
            parameters.append(np.zeros((len(points), 2)))
        triangles.append(corners + base)
        owners.append(np.full(len(corners), number, np.int32))
        base += len(points)
    corners = np.vstack(triangles)
    under, senses = _under_sides(corners, borders if sides else [], base)
    return Tessellation(
        np.vstack(vertices),
        np.vstack(parameters),
        corners.astype(np.int32),
        np.concatenate(owners),
        under,
        senses,
        polylines,
        chord_mm,
    )


def _under_sides(
    corners: NDArray[np.int64], borders: list[tuple[int, NDArray[np.int64]]], count: int
) -> tuple[NDArray[np.int32], NDArray[np.int8]]:
    """(edge under each side of the triangles (m, 3), whether the side runs with it), -1 and 0 inside a face. count: of vertices."""
    under, senses = np.full(corners.shape, -1, np.int32), np.zeros(corners.shape, np.int8)
    if not borders:
        return under, senses
    begins = np.concatenate([ids[:-1] for _, ids in borders])
    ends = np.concatenate([ids[1:] for _, ids in borders])
    edge = np.repeat([k for k, _ in borders], [len(ids) - 1 for _, ids in borders])
    there = np.concatenate([begins * count + ends, ends * count + begins])
    order = np.argsort(there, kind="stable")
    sides = corners * count + np.roll(corners, -1, axis=1)
    at = order[np.searchsorted(there[order], sides).clip(max=len(there) - 1)]
    met = there[at] == sides
    under[met] = edge[at[met] % len(edge)]
    senses[met] = np.where(at[met] < len(edge), 1, -1)
    return under, senses
