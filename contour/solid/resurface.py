"""Moving faces of a solid and keeping its topology: new surfaces in old faces, edges and corners recomputed.

Faces move outwards or inwards: planes along their normal, cylinders in radius about their own axis, cones, spheres and tubes likewise. Rounds
that are tangent to a moved face follow it and stay tangent. Nothing is cut or joined, so every face, edge and name stays; a move
that would need another topology fails the gate and changes nothing.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping

from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.BRepLib import BRepLib
from OCP.Geom import Geom_Curve
from OCP.Geom2d import Geom2d_Line
from OCP.gp import gp_Dir2d, gp_Pnt2d
from OCP.ShapeFix import ShapeFix_Edge
from OCP.TopAbs import TopAbs_Orientation, TopAbs_ShapeEnum
from OCP.TopExp import TopExp
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import (
    TopoDS,
    TopoDS_Compound,
    TopoDS_Edge,
    TopoDS_Face,
    TopoDS_Iterator,
    TopoDS_Shape,
    TopoDS_Shell,
    TopoDS_Solid,
    TopoDS_Vertex,
    TopoDS_Wire,
)

from contour.recipe.problem import ContourError
from contour.solid.face_geometry import array, face_surface, pnt
from contour.solid.gate import require_solid
from contour.solid.mass import volume
from contour.solid.moved_edges import moved_curve, moved_pcurve, moved_spots, moved_surface, pole_of
from contour.solid.moved_faces import Work, differs, move, neighbourhood_of
from contour.solid.shape import NamedShape, faces, shape_map

__all__ = ["resurface"]

_TOL = 1e-7
_MOST = 4.0  # times the volume, or that part of it
_FORWARD, _REVERSED = TopAbs_Orientation.TopAbs_FORWARD, TopAbs_Orientation.TopAbs_REVERSED


def _children(shape: TopoDS_Shape) -> Iterator[TopoDS_Shape]:
    walk = TopoDS_Iterator(shape.Oriented(_FORWARD), False, True)
    while walk.More():
        yield walk.Value()
        walk.Next()


def _edge_on_face(
    work: Work,
    i: int,
    f: int,
    new_edge: TopoDS_Edge,
    new_face: TopoDS_Face,
    run: tuple[Geom_Curve, float, float],
    changed: bool,
) -> None:
    """Give the new edge its place in u and v of the new face; planes need none."""
    was = work.old[f]
    if was and was.kind == "plane":
        return
    forward = TopoDS.Edge(work.edges[i].Oriented(_FORWARD))
    sides = [forward, TopoDS.Edge(forward.Oriented(_REVERSED))] if work.seam[i] else [forward]
    # Through a reversed face the kernel would swap the two sides of a seam.
    old_face = TopoDS.Face(work.faces[f].Oriented(_FORWARD))
    olds = [(BRep_Tool.CurveOnSurface_s(e, old_face, 0.0, 0.0), *BRep_Tool.Range_s(e, old_face)) for e in sides]
    curve, begin, end = run
    if any(old[0] is None for old in olds):
        ShapeFix_Edge().FixAddPCurve(new_edge, new_face, work.seam[i], _TOL)
        return
    lines = [moved_pcurve(work.surfaces[f], o, curve, begin, end) if changed else o[0] for o in olds]
    if any(line is None for line in lines):
        ShapeFix_Edge().FixAddPCurve(new_edge, new_face, work.seam[i], _TOL)
        return
    builder = BRep_Builder()
    builder.UpdateEdge(new_edge, *lines, new_face, _TOL)
    builder.Range(new_edge, new_face, begin, end)


def _pole(edge: TopoDS_Edge, vertex: TopoDS_Vertex) -> TopoDS_Edge:
    """An edge that is a point, as an old one was, at its new corner."""
    builder, new = BRep_Builder(), TopoDS_Edge()
    builder.MakeEdge(new)
    builder.Degenerated(new, True)
    for child in _children(edge):
        builder.Add(new, vertex.Oriented(child.Orientation()))
    return new


def _pole_on_face(work: Work, i: int, f: int, new_edge: TopoDS_Edge, new_face: TopoDS_Face) -> None:
    """Where a point lies in u and v of its face: all along u."""
    old_face = TopoDS.Face(work.faces[f].Oriented(_FORWARD))
    forward = TopoDS.Edge(work.edges[i].Oriented(_FORWARD))
    line, (begin, end) = BRep_Tool.CurveOnSurface_s(forward, old_face, 0.0, 0.0), BRep_Tool.Range_s(forward, old_face)
    corner = array(BRep_Tool.Pnt_s(TopExp.FirstVertex_s(forward)))
    if differs(work.old[f], work.new[f]):
        p, q = line.Value(begin), line.Value(end)
        _, v = pole_of(work.faces[f], work.surfaces[f], corner)
        way = math.copysign(1.0, q.X() - p.X())
        line = Geom2d_Line(gp_Pnt2d(p.X() - begin * way, v), gp_Dir2d(way, 0.0))
    builder = BRep_Builder()
    builder.UpdateEdge(new_edge, line, new_face, _TOL)
    builder.Range(new_edge, new_face, begin, end)


def _rebuild(work: Work) -> TopoDS_Shape:
    """A new shape of the same parts. Built afresh, because prisms share one edge between bottom and top by location."""
    builder, here = BRep_Builder(), TopLoc_Location()
    vertex_map = shape_map(work.shape, TopAbs_ShapeEnum.TopAbs_VERTEX)
    edge_map = shape_map(work.shape, TopAbs_ShapeEnum.TopAbs_EDGE)
    face_map = shape_map(work.shape, TopAbs_ShapeEnum.TopAbs_FACE)
    ends = []
    for edge in work.edges:
        forward = TopoDS.Edge(edge.Oriented(_FORWARD))
        pair = tuple(vertex_map.FindIndex(v(forward)) - 1 for v in (TopExp.FirstVertex_s, TopExp.LastVertex_s))
        ends.append((pair[0], pair[1]))
    changed = [differs(a, b) for a, b in zip(work.old, work.new, strict=True)]
    moved = moved_spots(work, vertex_map, ends)
    vertices = []
    for k, spot in enumerate(work.spots):
        vertex = TopoDS_Vertex()
        kept = BRep_Tool.Tolerance_s(TopoDS.Vertex(vertex_map.FindKey(k + 1)))
        builder.MakeVertex(vertex, pnt(spot), max(kept, _TOL))
        vertices.append(vertex)
    new_edges: list[TopoDS_Edge] = []
    runs: list[tuple[Geom_Curve, float, float] | None] = []
    fresh: list[bool] = []
    for i, edge in enumerate(work.edges):
        beside = work.beside[i]
        touched = any(changed[f] for f in beside) or moved[ends[i][0]] or moved[ends[i][1]]
        if BRep_Tool.Degenerated_s(edge):
            new_edges.append(_pole(edge, vertices[ends[i][0]]))
            runs.append(None)
            fresh.append(touched)
            continue
        forward = TopoDS.Edge(edge.Oriented(_FORWARD))
        run = (
            moved_curve(forward, beside, ends[i], work)
            if touched
            else (BRep_Tool.Curve_s(forward, 0.0, 0.0), *BRep_Tool.Range_s(forward))
        )
        new = TopoDS_Edge()
        builder.MakeEdge(new, run[0], here, max(BRep_Tool.Tolerance_s(edge), _TOL))
        for child in _children(forward):
            builder.Add(new, vertices[vertex_map.FindIndex(child) - 1].Oriented(child.Orientation()))
        builder.Range(new, run[1], run[2])
        new_edges.append(new)
        runs.append(run)
        fresh.append(touched)

    def wire(old: TopoDS_Shape) -> TopoDS_Shape:
        new = TopoDS_Wire()
        builder.MakeWire(new)
        for child in _children(old):
            builder.Add(new, new_edges[edge_map.FindIndex(child) - 1].Oriented(child.Orientation()))
        new.Closed(old.Closed())
        return new.Oriented(old.Orientation())

    new_faces = []
    for f, old_face in enumerate(work.faces):
        new_face = TopoDS_Face()
        builder.MakeFace(new_face, work.surfaces[f], here, _TOL)
        for child in _children(old_face):
            builder.Add(new_face, wire(child))
        for i, edge_beside in enumerate(work.beside):
            known = runs[i]
            if f in edge_beside and known is None:
                _pole_on_face(work, i, f, new_edges[i], new_face)
            elif f in edge_beside and known is not None:
                _edge_on_face(work, i, f, new_edges[i], new_face, known, fresh[i] or changed[f])
        new_faces.append(new_face)

    def whole(old: TopoDS_Shape) -> TopoDS_Shape:
        kind = old.ShapeType()
        if kind == TopAbs_ShapeEnum.TopAbs_FACE:
            return new_faces[face_map.FindIndex(old) - 1].Oriented(old.Orientation())
        new: TopoDS_Shell | TopoDS_Solid | TopoDS_Compound
        if kind == TopAbs_ShapeEnum.TopAbs_SHELL:
            new = TopoDS_Shell()
            builder.MakeShell(new)
        elif kind == TopAbs_ShapeEnum.TopAbs_SOLID:
            new = TopoDS_Solid()
            builder.MakeSolid(new)
        else:
            new = TopoDS_Compound()
            builder.MakeCompound(new)
        for child in _children(old):
            builder.Add(new, whole(child))
        new.Closed(old.Closed())
        return new.Oriented(old.Orientation())

    result = whole(work.shape)
    BRepLib.SameParameter_s(result, 1e-6, False)
    BRepLib.UpdateTolerances_s(result, False)  # corners as wide as their edges' ends are apart
    return result


def resurface(named: NamedShape, moves: Mapping[int, float]) -> NamedShape:
    """`named` with faces moved by signed distances, + out of the material; keys are places in ``faces(shape)``.

    All faces move at once. Names stay as they are. Raises ContourError (wrong-kind) for a freeform face,
    (body-broken) when the moved faces no longer close a solid with the same faces and edges.
    """
    shape = named.shape
    own_faces = faces(shape)
    old = [face_surface(f) for f in own_faces]
    work = Work(shape, own_faces, old, list(old), [], *neighbourhood_of(shape, own_faces))
    move(work, moves)
    work.surfaces = [
        moved_surface(f, a, b) if a and b and differs(a, b) else BRep_Tool.Surface_s(f)
        for f, a, b in zip(own_faces, old, work.new, strict=True)
    ]
    result = _rebuild(work)
    require_solid(result, doing="moving the faces")
    if len(faces(result)) != len(named.names) or not 1 / _MOST < volume(result) / volume(shape) < _MOST:
        raise ContourError(
            "body-broken",
            "moving the faces turns the body inside out",
            got="a body of another make",
            need=f"the same faces, and not {_MOST:g} times the volume",
            remedy="leave a face out",
        )
    return NamedShape(result, named.names)
