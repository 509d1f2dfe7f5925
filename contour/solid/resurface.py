"""Moving faces of a solid and keeping its topology: new surfaces in old faces, edges and corners recomputed.

Faces move outwards or inwards: planes along their normal, cylinders in radius about their own axis. Rounds that are
tangent to a moved face follow it and stay tangent. Nothing is cut or joined, so every face, edge and name stays; a move
that would need another topology fails the gate and changes nothing.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepLib import BRepLib
from OCP.Geom import Geom_Circle, Geom_Curve, Geom_CylindricalSurface, Geom_Line, Geom_Plane, Geom_Surface
from OCP.Geom2d import Geom2d_Curve, Geom2d_Line
from OCP.GeomAbs import GeomAbs_CurveType, GeomAbs_SurfaceType
from OCP.GeomAPI import GeomAPI_IntSS, GeomAPI_ProjectPointOnCurve, GeomAPI_ProjectPointOnSurf
from OCP.gp import gp_Ax2, gp_Ax3, gp_Circ, gp_Dir, gp_Dir2d, gp_Pnt, gp_Pnt2d, gp_Vec
from OCP.ShapeAnalysis import ShapeAnalysis_Surface
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

from contour.mesh.slice import plane_frame
from contour.recipe.problem import ContourError, Where
from contour.solid.gate import require_solid
from contour.solid.mass import volume
from contour.solid.shape import NamedShape, ShapeMap, edge_faces, edges, faces, owners_of, shape_map

__all__ = ["FaceGeometry", "face_geometry", "resurface", "rolling_faces"]

Array = NDArray[np.float64]
_TOL = 1e-7
_FORWARD, _REVERSED = TopAbs_Orientation.TopAbs_FORWARD, TopAbs_Orientation.TopAbs_REVERSED
_TANGENT_COS = math.cos(math.radians(1.0))


def _a(p) -> Array:  # type: ignore[no-untyped-def]
    return np.array([p.X(), p.Y(), p.Z()])


def _pnt(p: Array) -> gp_Pnt:
    return gp_Pnt(float(p[0]), float(p[1]), float(p[2]))


def _dir(v: Array) -> gp_Dir:
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
    surface = BRepAdaptor_Surface(face)
    turned = -1.0 if face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED else 1.0
    if surface.GetType() == GeomAbs_SurfaceType.GeomAbs_Plane:
        frame = surface.Plane().Position()
        side = turned * (1.0 if frame.Direct() else -1.0)
        return FaceGeometry("plane", _a(frame.Location()), side * _a(frame.Direction()), 0.0, 1.0)
    if surface.GetType() == GeomAbs_SurfaceType.GeomAbs_Cylinder:
        cylinder = surface.Cylinder()
        frame = cylinder.Position()
        side = turned * (1.0 if frame.Direct() else -1.0)
        return FaceGeometry("cylinder", _a(frame.Location()), _a(frame.Direction()), cylinder.Radius(), side)
    return FaceGeometry("other", np.zeros(3), np.zeros(3), 0.0, turned)


@dataclass(slots=True)
class _Work:
    """A private copy of the shape with what each part of it is to become."""

    shape: TopoDS_Shape
    faces: list[TopoDS_Face]
    old: list[FaceGeometry]
    new: list[FaceGeometry]
    surfaces: list[Geom_Surface]  # as they will be
    edges: list[TopoDS_Edge]
    beside: list[list[int]]  # faces of each edge
    seam: list[bool]
    tangent: list[tuple[int, int]] = field(default_factory=list)  # faces that meet smoothly
    spots: list[Array] = field(default_factory=list)  # of each vertex, as it will be


def _normal_at(face: TopoDS_Face, p: Array) -> Array | None:
    surface = BRep_Tool.Surface_s(face)
    tool = ShapeAnalysis_Surface(surface)
    uv = tool.ValueOfUV(_pnt(p), 1e-6)
    q, du, dv = gp_Pnt(), gp_Vec(), gp_Vec()
    surface.D1(uv.X(), uv.Y(), q, du, dv)
    n = np.cross(_a(du), _a(dv))
    size = float(np.linalg.norm(n))
    return None if size < 1e-12 else n / size


def _tangent_pairs(work: _Work) -> list[tuple[int, int]]:
    """Faces that meet smoothly."""
    found = set()
    for edge, beside in zip(work.edges, work.beside, strict=True):
        if len(beside) != 2 or BRep_Tool.Degenerated_s(edge):
            continue
        curve = BRepAdaptor_Curve(edge)
        p = _a(curve.Value((curve.FirstParameter() + curve.LastParameter()) / 2))
        a, b = (_normal_at(work.faces[k], p) for k in beside)
        if (
            a is not None
            and b is not None
            and abs(float(a @ b)) > _TANGENT_COS
            and _touch(*(work.old[k] for k in beside))
        ):
            found.add((min(beside), max(beside)))
    return sorted(found)


def _touch(a: FaceGeometry, b: FaceGeometry) -> bool:
    """Two rounds of nearly one axis and radius cross at a small angle without being tangent: a worn bore's arcs do."""
    if a.kind != "cylinder" or b.kind != "cylinder":
        return True
    d = a.origin - b.origin
    apart = float(np.linalg.norm(d - (d @ a.axis) * a.axis))
    sizes = (a.radius + b.radius, abs(a.radius - b.radius))
    return min(abs(apart - size) for size in sizes) < 2e-4 * sizes[0]


def rolling_faces(shape: TopoDS_Shape) -> dict[int, Array]:
    """Cylinders that meet a neighbour smoothly: only their radius is their own. With each, how far its axis moves per
    millimetre of radius (3,) to stay tangent; those that cannot change alone are left out."""
    own = faces(shape)
    old = [face_geometry(f) for f in own]
    neighbourhood = _neighbourhood(shape, own)
    pairs = _tangent_pairs(_Work(shape, own, old, list(old), [], *neighbourhood))
    out = {}
    for k in {k for pair in pairs for k in pair if old[k].kind == "cylinder"}:
        g, new = old[k], list(old)
        new[k] = FaceGeometry(g.kind, g.origin, g.axis, g.radius + 0.01, g.outward)
        work = _Work(shape, own, old, new, [], *neighbourhood, tangent=pairs)
        try:
            _follow(work, {k})
        except ContourError:
            continue
        out[k] = (work.new[k].origin - g.origin) / 0.01
    return out


def _neighbourhood(
    shape: TopoDS_Shape, own: list[TopoDS_Face]
) -> tuple[list[TopoDS_Edge], list[list[int]], list[bool]]:
    edge_list = edges(shape)
    owners = edge_faces(shape)
    face_map = shape_map(shape, TopAbs_ShapeEnum.TopAbs_FACE)
    beside = [[face_map.FindIndex(f) - 1 for f in owners_of(owners, owners.FindIndex(e))] for e in edge_list]
    seam = [any(BRep_Tool.IsClosed_s(e, own[k]) for k in b) for e, b in zip(edge_list, beside, strict=True)]
    return edge_list, beside, seam


def _hold(where: str) -> ContourError:
    return ContourError(
        "body-broken",
        f"a face tangent to this one holds it back ({where})",
        remedy="seat the tangent faces as well, or leave this one out",
    )


def _follow(work: _Work, moved: set[int]) -> None:
    """Shift the axes of rounds so that everything that was tangent is tangent again."""
    work.tangent = pairs = work.tangent or _tangent_pairs(work)
    reached = set(moved)
    while True:
        more = {
            k for a, b in pairs for k in (a, b) if (a in reached or b in reached) and work.old[k].kind == "cylinder"
        }
        if more <= reached:
            break
        reached |= more
    pairs = [(a, b) for a, b in pairs if a in reached or b in reached]
    if not pairs:
        return
    flat = [(a, b) for a, b in pairs if work.old[a].kind == work.old[b].kind == "plane"]
    if any(k in moved for pair in flat for k in pair):
        raise _hold("two planes that are one")
    pairs = [pair for pair in pairs if pair not in flat]
    for a, b in pairs:
        if "other" in (work.old[a].kind, work.old[b].kind):
            raise _hold("it is neither a plane nor a cylinder")
    free = sorted({k for pair in pairs for k in pair if work.old[k].kind == "cylinder"})
    if not free:
        return
    shift = {k: np.zeros(3) for k in free}

    def misfit() -> Array:
        out = []
        for a, b in pairs:
            if work.old[a].kind == "plane":
                a, b = b, a
            was_a, was_b, now_a, now_b = work.old[a], work.old[b], work.new[a], work.new[b]
            at = was_a.origin + shift[a]
            if was_b.kind == "plane":
                side = math.copysign(1.0, float((was_a.origin - was_b.origin) @ was_b.axis))
                out.append(float((at - now_b.origin) @ now_b.axis) - side * now_a.radius)
            else:

                def apart(p: Array, q: Array, axis: Array) -> float:
                    d = p - q
                    return float(np.linalg.norm(d - (d @ axis) * axis))

                was = apart(was_a.origin, was_b.origin, was_a.axis)
                outside = abs(was - was_a.radius - was_b.radius) < abs(was - abs(was_a.radius - was_b.radius))
                want = now_a.radius + now_b.radius if outside else abs(now_a.radius - now_b.radius)
                out.append(apart(at, was_b.origin + shift[b], was_a.axis) - want)
        return np.array(out)

    frames = {k: plane_frame(work.old[k].origin, work.old[k].axis) for k in free}
    columns = [(k, u) for k in free for u in (frames[k].u, frames[k].v)]
    for _ in range(30):
        r = misfit()
        if np.abs(r).max() < 1e-10:
            break
        jac = np.zeros((len(r), len(columns)))
        for c, (k, u) in enumerate(columns):
            shift[k] = shift[k] + 1e-6 * u
            jac[:, c] = (misfit() - r) / 1e-6
            shift[k] = shift[k] - 1e-6 * u
        step = np.linalg.lstsq(jac, -r, rcond=1e-8)[0]
        for c, (k, u) in enumerate(columns):
            shift[k] = shift[k] + step[c] * u
    if np.abs(misfit()).max() > 1e-6:
        raise _hold("they cannot all stay tangent")
    for k in free:
        g = work.new[k]
        work.new[k] = FaceGeometry(g.kind, g.origin + shift[k], g.axis, g.radius, g.outward)


def _changed(a: FaceGeometry, b: FaceGeometry) -> bool:
    return bool(np.abs(a.origin - b.origin).max() > 1e-12 or abs(a.radius - b.radius) > 1e-12)


def _surface(face: TopoDS_Face, was: FaceGeometry, now: FaceGeometry) -> Geom_Surface:
    """The face's surface with its own frame moved, so that places in u and v keep their meaning."""
    adaptor = BRepAdaptor_Surface(face)
    shift = now.origin - was.origin
    if was.kind == "plane":
        frame = adaptor.Plane().Position()
        return Geom_Plane(_moved(frame, shift))
    frame = adaptor.Cylinder().Position()
    return Geom_CylindricalSurface(_moved(frame, shift), now.radius)


def _moved(frame: gp_Ax3, shift: Array) -> gp_Ax3:
    return frame.Translated(gp_Vec(*map(float, shift)))


def _pull(surface: Geom_Surface, geometry: FaceGeometry, p: Array) -> tuple[float, Array]:
    """Signed distance of p to a surface and its gradient."""
    if geometry.kind == "plane":
        return float((p - geometry.origin) @ geometry.axis), geometry.axis
    if geometry.kind == "cylinder":
        d = p - geometry.origin
        d = d - (d @ geometry.axis) * geometry.axis
        r = float(np.linalg.norm(d))
        return r - geometry.radius, d / max(r, 1e-12)
    foot = GeomAPI_ProjectPointOnSurf(_pnt(p), surface)
    if foot.NbPoints() == 0:
        return 0.0, np.zeros(3)
    u, v = foot.LowerDistanceParameters()
    q, du, dv = gp_Pnt(), gp_Vec(), gp_Vec()
    surface.D1(u, v, q, du, dv)
    n = np.cross(_a(du), _a(dv))
    size = float(np.linalg.norm(n))
    return (0.0, np.zeros(3)) if size < 1e-12 else (float((p - _a(q)) @ n) / size, n / size)


def _corner(p: Array, around: list[int], seams: list[tuple[Array, Array]], work: _Work) -> Array:
    """The place nearest to p that lies on all surfaces (and seams) that meet there."""
    begun = p
    for _ in range(30):
        rows = [_pull(work.surfaces[k], work.new[k], p) for k in around]
        rows += [(float((p - o) @ n), n) for o, n in seams]
        r = np.array([d for d, _ in rows])
        if np.abs(r).max() < 1e-11:
            break
        p = p + np.linalg.lstsq(np.array([g for _, g in rows]), -r, rcond=1e-6)[0]
    if np.abs(r).max() > 1e-6:
        raise ContourError(
            "body-broken",
            "the faces that meet at a corner would no longer meet",
            where=Where(point=(float(begun[0]), float(begun[1]), float(begun[2]))),
            remedy="leave one of them out",
        )
    return p


def _circle(
    edge: TopoDS_Edge, beside: list[int], first: Array, last: Array, work: _Work
) -> tuple[Geom_Curve, float, float]:
    curve = BRepAdaptor_Curve(edge)
    old = curve.Circle()
    axis = _a(old.Axis().Direction())
    on = _a(old.Location())
    for k in beside:
        g = work.new[k]
        if g.kind == "cylinder" and abs(float(g.axis @ axis)) > 1 - 1e-9:
            on = g.origin
    centre = on + ((first - on) @ axis) * axis
    radius = float(np.linalg.norm(first - centre))
    if abs(float(np.linalg.norm(last - centre)) - radius) > 1e-6 or abs(float((last - centre) @ axis)) > 1e-6:
        raise ContourError("body-broken", "a round edge would not stay round", remedy="leave this face out")
    x = _a(old.XAxis().Direction())
    y = np.cross(axis, x)
    # The old circle may be left-handed only through its frame, which gp does not allow: axis x X is Y.
    circle = gp_Circ(gp_Ax2(_pnt(centre), _dir(axis), _dir(x)), radius)

    def angle(p: Array) -> float:
        d = p - centre
        return math.atan2(float(d @ y), float(d @ x))

    begin, was_begin, span = angle(first), curve.FirstParameter(), curve.LastParameter() - curve.FirstParameter()
    begin += 2 * math.pi * round((was_begin - begin) / (2 * math.pi))
    if abs(span - 2 * math.pi) < 1e-9:
        return Geom_Circle(circle), begin, begin + span
    end = angle(last)
    end += 2 * math.pi * round((begin + span - end) / (2 * math.pi))
    if end <= begin + 1e-9:
        raise ContourError("body-broken", "a round edge would vanish", remedy="leave this face out")
    return Geom_Circle(circle), begin, end


def _curve(edge: TopoDS_Edge, beside: list[int], ends: tuple[int, int], work: _Work) -> tuple[Geom_Curve, float, float]:
    """The edge's new curve and its range."""
    adaptor = BRepAdaptor_Curve(edge)
    first, last = work.spots[ends[0]], work.spots[ends[1]]
    a, b = _a(adaptor.Value(adaptor.FirstParameter())), _a(adaptor.Value(adaptor.LastParameter()))
    if adaptor.GetType() == GeomAbs_CurveType.GeomAbs_Line:
        d = last - first
        size = float(np.linalg.norm(d))
        if size < 1e-6 or float(d @ (b - a)) <= 0:
            raise ContourError(
                "body-broken",
                "an edge would vanish or turn round",
                where=Where(point=tuple(map(float, (a + b) / 2))),
                remedy="leave this face out, or rebuild it with the step that made it",
            )
        return Geom_Line(_pnt(first), _dir(d / size)), 0.0, size
    if adaptor.GetType() == GeomAbs_CurveType.GeomAbs_Circle:
        return _circle(edge, beside, first, last, work)
    begin, end = adaptor.FirstParameter(), adaptor.LastParameter()
    shift = first - a
    if float(np.abs(last - b - shift).max()) < 1e-6:
        # The whole edge went with a plane along the rulings of its other face.
        moved = adaptor.Curve().Curve().Translated(gp_Vec(*map(float, shift)))
        samples = [_a(moved.Value(t)) for t in np.linspace(begin, end, 7)]
        if all(abs(_pull(work.surfaces[k], work.new[k], p)[0]) < 1e-5 for k in beside for p in samples):
            return moved, begin, end
    middle = _pnt(_a(adaptor.Value((begin + end) / 2)) + (first - a + last - b) / 2)
    met = GeomAPI_IntSS(work.surfaces[beside[0]], work.surfaces[beside[-1]], 1e-7)
    found = []
    for i in range(1, met.NbLines() + 1) if met.IsDone() else ():
        tool = GeomAPI_ProjectPointOnCurve(middle, met.Line(i))
        if tool.NbPoints():
            found.append((tool.LowerDistance(), i))
    if not found:
        raise ContourError("body-broken", "two faces would no longer meet in an edge", remedy="leave this face out")
    line = met.Line(min(found)[1])
    t = [GeomAPI_ProjectPointOnCurve(_pnt(p), line) for p in (first, last)]
    if any(x.NbPoints() == 0 or x.LowerDistance() > 1e-4 for x in t):
        raise ContourError("body-broken", "an edge would no longer reach its corners", remedy="leave this face out")
    u, v = (x.LowerDistanceParameter() for x in t)
    if line.IsPeriodic():
        half = GeomAPI_ProjectPointOnCurve(middle, line).LowerDistanceParameter()
        period = line.Period()
        u = half - ((half - u) % period)
        v = half + ((v - half) % period)
    if u < v:
        return line, u, v
    line = line.Reversed()
    return line, line.ReversedParameter(u), line.ReversedParameter(v)


def _pcurve(
    surface: Geom_Surface, old: tuple[Geom2d_Curve, float, float], curve: Geom_Curve, begin: float, end: float
) -> Geom2d_Curve | None:
    """The edge in u and v when that is a straight run along one of them; none when it has to be projected."""
    was, was_begin, was_end = old
    p, q = was.Value(was_begin), was.Value(was_end)
    du, dv = q.X() - p.X(), q.Y() - p.Y()
    if min(abs(du), abs(dv)) > 1e-6 * (1 + max(abs(du), abs(dv))):
        return None
    tool = ShapeAnalysis_Surface(surface)
    uv = tool.ValueOfUV(curve.Value(begin), 1e-7)
    u, v = uv.X(), uv.Y()
    if surface.IsUPeriodic():
        u += surface.UPeriod() * round((p.X() - u) / surface.UPeriod())
    if surface.IsVPeriodic():
        v += surface.VPeriod() * round((p.Y() - v) / surface.VPeriod())
    if abs(du) < abs(dv):
        way, u = (0.0, math.copysign(1.0, dv)), p.X() if surface.IsUPeriodic() and abs(p.X() - u) < 1e-6 else u
    else:
        way = (math.copysign(1.0, du), 0.0)
    line = Geom2d_Line(gp_Pnt2d(u - begin * way[0], v - begin * way[1]), gp_Dir2d(*way))
    for t in (begin, (begin + end) / 2, end):
        at = line.Value(t)
        if surface.Value(at.X(), at.Y()).Distance(curve.Value(t)) > 1e-5:
            return None
    return line


def _spots(work: _Work, vertex_map: ShapeMap, ends: list[tuple[int, int]]) -> list[bool]:
    """Where each corner goes (into ``work.spots``); tells which ones moved."""
    around: list[set[int]] = [set() for _ in range(vertex_map.Size())]
    seams: list[list[tuple[Array, Array]]] = [[] for _ in around]
    for pair, beside, seam in zip(ends, work.beside, work.seam, strict=True):
        for k in pair:
            around[k] |= set(beside)
        if seam and work.new[beside[0]].kind == "cylinder":
            g = work.new[beside[0]]
            frame = BRepAdaptor_Surface(work.faces[beside[0]]).Cylinder().Position()
            for k in pair:
                seams[k].append((g.origin, np.cross(g.axis, _a(frame.XDirection()))))
    for a, b in work.tangent:
        # Where two surfaces touch, "on both" leaves the place open along them: the line of contact settles it.
        if work.new[a].kind == "plane":
            a, b = b, a
        g, h = work.new[a], work.new[b]
        if g.kind != "cylinder" or h.kind == "other":
            continue
        across = np.cross(g.axis, h.axis if h.kind == "plane" else h.origin - g.origin)
        for k in range(len(around)):
            if a in around[k] and b in around[k]:
                seams[k].append((g.origin, across / np.linalg.norm(across)))
    moved = []
    for k in range(vertex_map.Size()):
        spot = _a(BRep_Tool.Pnt_s(TopoDS.Vertex(vertex_map.FindKey(k + 1))))
        touched = any(_changed(work.old[f], work.new[f]) for f in around[k])
        work.spots.append(_corner(spot, sorted(around[k]), seams[k], work) if touched else spot)
        moved.append(float(np.abs(work.spots[k] - spot).max()) > 1e-12)
    return moved


def _children(shape: TopoDS_Shape) -> Iterator[TopoDS_Shape]:
    walk = TopoDS_Iterator(shape.Oriented(_FORWARD), False, True)
    while walk.More():
        yield walk.Value()
        walk.Next()


def _edge_on_face(
    work: _Work,
    i: int,
    f: int,
    new_edge: TopoDS_Edge,
    new_face: TopoDS_Face,
    run: tuple[Geom_Curve, float, float],
    changed: bool,
) -> None:
    """Give the new edge its place in u and v of the new face; planes need none."""
    if work.old[f].kind == "plane":
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
    lines = [_pcurve(work.surfaces[f], o, curve, begin, end) if changed else o[0] for o in olds]
    if any(line is None for line in lines):
        ShapeFix_Edge().FixAddPCurve(new_edge, new_face, work.seam[i], _TOL)
        return
    builder = BRep_Builder()
    builder.UpdateEdge(new_edge, *lines, new_face, _TOL)
    builder.Range(new_edge, new_face, begin, end)


def _rebuild(work: _Work) -> TopoDS_Shape:
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
    changed = [_changed(a, b) for a, b in zip(work.old, work.new, strict=True)]
    moved = _spots(work, vertex_map, ends)
    vertices = []
    for k, spot in enumerate(work.spots):
        vertex = TopoDS_Vertex()
        kept = BRep_Tool.Tolerance_s(TopoDS.Vertex(vertex_map.FindKey(k + 1)))
        builder.MakeVertex(vertex, _pnt(spot), max(kept, _TOL))
        vertices.append(vertex)
    new_edges: list[TopoDS_Edge] = []
    runs: list[tuple[Geom_Curve, float, float] | None] = []
    fresh: list[bool] = []
    for i, edge in enumerate(work.edges):
        beside = work.beside[i]
        touched = any(changed[f] for f in beside) or moved[ends[i][0]] or moved[ends[i][1]]
        if BRep_Tool.Degenerated_s(edge):
            if touched:
                raise ContourError("body-broken", "a face that ends in a point cannot move", remedy="leave it out")
            new_edges.append(TopoDS.Edge(edge.Oriented(_FORWARD)))
            runs.append(None)
            fresh.append(False)
            continue
        forward = TopoDS.Edge(edge.Oriented(_FORWARD))
        run = (
            _curve(forward, beside, ends[i], work)
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
            if f in edge_beside and known is not None:
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
    return result


def resurface(named: NamedShape, moves: Mapping[int, float]) -> NamedShape:
    """`named` with faces moved by signed distances, + out of the material; keys are places in ``faces(shape)``.

    All faces move at once. Names stay as they are. Raises ContourError (wrong-kind) for a face that is neither plane
    nor cylinder, (body-broken) when the moved faces no longer close a solid with the same faces and edges.
    """
    shape = named.shape
    own_faces = faces(shape)
    old = [face_geometry(f) for f in own_faces]
    new = list(old)
    for k, d in moves.items():
        g = old[k]
        if g.kind == "plane":
            new[k] = FaceGeometry(g.kind, g.origin + d * g.axis, g.axis, 0.0, 1.0)
        elif g.kind == "cylinder":
            radius = g.radius + d * g.outward
            if radius < 1e-3:
                raise ContourError("body-broken", "the round would vanish", got=f"radius {radius:.3f} mm")
            new[k] = FaceGeometry(g.kind, g.origin, g.axis, radius, g.outward)
        else:
            raise ContourError("wrong-kind", "only planes and cylinders can be moved", got=g.kind)
    work = _Work(shape, own_faces, old, new, [], *_neighbourhood(shape, own_faces))
    _follow(work, set(moves))
    work.surfaces = [
        _surface(f, a, b) if _changed(a, b) else BRep_Tool.Surface_s(f)
        for f, a, b in zip(own_faces, old, work.new, strict=True)
    ]
    result = _rebuild(work)
    require_solid(result, doing="moving the faces")
    if len(faces(result)) != len(named.names) or abs(volume(result) / volume(shape) - 1) > 0.5:
        raise ContourError("body-broken", "moving the faces turns the body inside out", remedy="leave a face out")
    return NamedShape(result, named.names)
