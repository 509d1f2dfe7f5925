"""Edges and corners between faces that have moved: new surfaces, where they meet, and curves on both."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.Geom import (
    Geom_BSplineCurve,
    Geom_Circle,
    Geom_ConicalSurface,
    Geom_Curve,
    Geom_CylindricalSurface,
    Geom_Line,
    Geom_Plane,
    Geom_SphericalSurface,
    Geom_Surface,
    Geom_ToroidalSurface,
)
from OCP.Geom2d import Geom2d_Curve, Geom2d_Line
from OCP.GeomAbs import GeomAbs_CurveType, GeomAbs_SurfaceType
from OCP.GeomAPI import GeomAPI_IntSS, GeomAPI_ProjectPointOnCurve, GeomAPI_ProjectPointOnSurf
from OCP.gp import gp_Ax2, gp_Ax3, gp_Circ, gp_Dir2d, gp_Pnt, gp_Pnt2d, gp_Vec
from OCP.ShapeAnalysis import ShapeAnalysis_Surface
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Face

from contour.geometry.surfaces import Surface, distances, gradients
from contour.recipe.problem import ContourError, Where
from contour.solid.contacts import Contact, middle_near
from contour.solid.face_geometry import array, cone_radii, direction, middle_of, pnt
from contour.solid.moved_faces import Work, differs
from contour.solid.shape import ShapeMap

__all__ = ["moved_curve", "moved_pcurve", "moved_spots", "moved_surface", "pole_of"]

Array = NDArray[np.float64]
_LOOSE_MM = 5e-4  # where four faces meet, of which two are nearly one: the corner is as wide as they miss each other
_FAR_MM = 1e5  # no corner of a part is so far from where it was


def moved_surface(face: TopoDS_Face, was: Surface, now: Surface) -> Geom_Surface:
    """The face's surface with its own frame moved, so that places in u and v keep their meaning."""
    adaptor = BRepAdaptor_Surface(face)
    own = getattr(adaptor, was.kind.capitalize())()
    frame = _moved(own.Position(), now.at - was.at)
    if was.kind == "plane":
        return Geom_Plane(frame)
    if was.kind == "cone":
        # Told from its other end where the face lies beyond the tip: then the kernel's radius runs the other way.
        grown = (now.radius - was.radius) * (1.0 if sum(cone_radii(face)) >= 0 else -1.0)
        return Geom_ConicalSurface(frame, own.SemiAngle(), own.RefRadius() + grown)
    if was.kind == "torus":
        return Geom_ToroidalSurface(frame, now.radius, now.minor)
    return (Geom_SphericalSurface if was.kind == "sphere" else Geom_CylindricalSurface)(frame, now.radius)


def pole_of(face: TopoDS_Face, surface: Geom_Surface, spot: Array) -> tuple[Array, float]:
    """Where a face that ends in a point will end, mm, and at which v; spot: where it ends now."""
    adaptor = BRepAdaptor_Surface(face, False)
    if adaptor.GetType() == GeomAbs_SurfaceType.GeomAbs_Sphere:
        sphere = adaptor.Sphere().Position()
        v = math.copysign(math.pi / 2, float((spot - array(sphere.Location())) @ array(sphere.Direction())))
    elif isinstance(surface, Geom_ConicalSurface):
        v = -surface.RefRadius() / math.sin(surface.SemiAngle())
    else:
        raise ContourError(
            "body-broken",
            "a face that ends in a point cannot move",
            where=_spot(spot),
            got="a point",
            need="a face with edges all around",
            remedy="leave it out",
        )
    return array(surface.Value(0.0, v)), v


def _spot(p: Array) -> Where:
    return Where(point=(float(p[0]), float(p[1]), float(p[2])))


def _moved(frame: gp_Ax3, shift: Array) -> gp_Ax3:
    return frame.Translated(gp_Vec(*map(float, shift)))


def pull(surface: Geom_Surface, known: Surface | None, p: Array) -> tuple[float, Array]:
    """Signed distance of p to a surface and its gradient. (3,), mm; the gradient has length 1. known: in numbers, where it has any."""
    if known:
        return float(distances(known, p[None])[0]), gradients(known, p[None])[0]
    foot = GeomAPI_ProjectPointOnSurf(pnt(p), surface)
    if foot.NbPoints() == 0:
        return 0.0, np.zeros(3)
    u, v = foot.LowerDistanceParameters()
    q, du, dv = gp_Pnt(), gp_Vec(), gp_Vec()
    surface.D1(u, v, q, du, dv)
    n = np.cross(array(du), array(dv))
    size = float(np.linalg.norm(n))
    return (0.0, np.zeros(3)) if size < 1e-12 else (float((p - array(q)) @ n) / size, n / size)


def _corner(p: Array, around: list[int], seams: list[tuple[Array, Array]], smooth: list[Contact], work: Work) -> Array:
    """The place nearest to p that lies on all surfaces (and seams, and lines along which surfaces touch) that meet there."""
    begun = p
    for _ in range(30):
        rows = [pull(work.surfaces[k], work.new[k], p) for k in around]
        rows += [(float((p - o) @ n), n) for o, n in seams]
        rows += [row for c in smooth if (row := c.row(work.new, p)) is not None]
        r = np.array([d for d, _ in rows])
        gap = float(np.abs(r).max())
        if gap < 1e-11 or not gap < _FAR_MM:  # there, or on the way to nowhere
            break
        p = p + np.linalg.lstsq(np.array([g for _, g in rows]), -r, rcond=1e-6)[0]
    if not gap <= _LOOSE_MM:
        raise ContourError(
            "body-broken",
            "the faces that meet at a corner would no longer meet",
            where=_spot(begun),
            got=f"a gap of {gap:.3g} mm" if gap < _FAR_MM else "faces that run past each other",
            need="faces that meet in one point",
            remedy="leave one of them out",
        )
    return p


def _circle(
    edge: TopoDS_Edge, beside: list[int], first: Array, last: Array, work: Work
) -> tuple[Geom_Curve, float, float]:
    curve = BRepAdaptor_Curve(edge)
    old = curve.Circle()
    axis = array(old.Axis().Direction())
    on = array(old.Location())
    for k in beside:
        g = work.new[k]
        if g is not None and (g.kind == "sphere" or (g.round and abs(float(g.along @ axis)) > 1 - 1e-9)):
            on = g.at
        elif g is not None and g.kind == "torus" and abs(float(g.along @ axis)) < 1e-9:
            on = middle_near(g, first)  # around its tube
    centre = on + ((first - on) @ axis) * axis
    radius = float(np.linalg.norm(first - centre))
    if abs(float(np.linalg.norm(last - centre)) - radius) > 1e-6 or abs(float((last - centre) @ axis)) > 1e-6:
        raise ContourError(
            "body-broken",
            "a round edge would not stay round",
            got="ends at different distances from its axis",
            need="a circle",
            where=_spot(first),
            remedy="leave this face out",
        )
    x = array(old.XAxis().Direction())
    y = np.cross(axis, x)
    # The old circle may be left-handed only through its frame, which gp does not allow: axis x X is Y.
    circle = gp_Circ(gp_Ax2(pnt(centre), direction(axis), direction(x)), radius)

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
        raise ContourError(
            "body-broken",
            "a round edge would vanish",
            got="an arc of no length",
            need="some of the arc left",
            where=_spot(first),
            remedy="leave this face out",
        )
    return Geom_Circle(circle), begin, end


def moved_curve(
    edge: TopoDS_Edge, beside: list[int], ends: tuple[int, int], work: Work
) -> tuple[Geom_Curve, float, float]:
    """The edge's new curve and its range."""
    adaptor = BRepAdaptor_Curve(edge)
    first, last = work.spots[ends[0]], work.spots[ends[1]]
    a, b = array(adaptor.Value(adaptor.FirstParameter())), array(adaptor.Value(adaptor.LastParameter()))
    if adaptor.GetType() == GeomAbs_CurveType.GeomAbs_Line:
        d = last - first
        size = float(np.linalg.norm(d))
        if size < 1e-6 or float(d @ (b - a)) <= 0:
            raise ContourError(
                "body-broken",
                "an edge would vanish or turn round",
                where=_spot((a + b) / 2),
                got=f"{size:.3g} mm along the edge",
                need="some of it left, the same way round",
                remedy="leave this face out, or rebuild it with the step that made it",
            )
        return Geom_Line(pnt(first), direction(d / size)), 0.0, size
    if adaptor.GetType() == GeomAbs_CurveType.GeomAbs_Circle:
        return _circle(edge, beside, first, last, work)
    begin, end = adaptor.FirstParameter(), adaptor.LastParameter()
    shift = first - a
    if float(np.abs(last - b - shift).max()) < 1e-6:
        # The whole edge went with a plane along the rulings of its other face.
        moved = adaptor.Curve().Curve().Translated(gp_Vec(*map(float, shift)))
        samples = [array(moved.Value(t)) for t in np.linspace(begin, end, 7)]
        if all(abs(pull(work.surfaces[k], work.new[k], p)[0]) < 1e-5 for k in beside for p in samples):
            return moved, begin, end
    middle = pnt(array(adaptor.Value((begin + end) / 2)) + (first - a + last - b) / 2)
    met = GeomAPI_IntSS(work.surfaces[beside[0]], work.surfaces[beside[-1]], 1e-7)
    found = []
    for i in range(1, met.NbLines() + 1) if met.IsDone() else ():
        tool = GeomAPI_ProjectPointOnCurve(middle, met.Line(i))
        if tool.NbPoints():
            found.append((tool.LowerDistance(), i))
    if not found:
        raise ContourError(
            "body-broken",
            "two faces would no longer meet in an edge",
            got="faces that pass each other",
            need="an edge in common",
            remedy="leave this face out",
        )
    line = met.Line(min(found)[1])
    t = [GeomAPI_ProjectPointOnCurve(pnt(p), line) for p in (first, last)]
    if any(x.NbPoints() == 0 or x.LowerDistance() > 1e-4 for x in t):
        raise ContourError(
            "body-broken",
            "an edge would no longer reach its corners",
            got="an edge that passes its corners by",
            need="an edge through both",
            where=_spot(first),
            remedy="leave this face out",
        )
    u, v = (x.LowerDistanceParameter() for x in t)
    if not line.IsPeriodic() and ends[0] == ends[1] and isinstance(line, Geom_BSplineCurve):
        line.SetPeriodic()  # all around, from a corner that lies anywhere on it
    if line.IsPeriodic():
        half = GeomAPI_ProjectPointOnCurve(middle, line).LowerDistanceParameter()
        period = line.Period()
        before, after = (half - u) % period, (v - half) % period
        if ends[0] == ends[1]:
            u, v = u, u + period
        elif before + after <= period:
            u, v = half - before, half + after
        else:  # the curve that was found runs the other way
            u, v = half + period - before, half - period + after
    if u < v:
        return line, u, v
    line = line.Reversed()
    return line, line.ReversedParameter(u), line.ReversedParameter(v)


def moved_pcurve(
    surface: Geom_Surface, old: tuple[Geom2d_Curve, float, float], curve: Geom_Curve, begin: float, end: float
) -> Geom2d_Curve | None:
    """The edge in u and v when that is a straight run along one of them; none when it has to be projected.

    begin, end: parameters of the curve, mm on lines and radians on circles.
    """
    was, was_begin, was_end = old
    p, q = was.Value(was_begin), was.Value(was_end)
    du, dv = q.X() - p.X(), q.Y() - p.Y()
    if min(abs(du), abs(dv)) > 1e-6 * (1 + max(abs(du), abs(dv))):
        return None
    tool = ShapeAnalysis_Surface(surface)
    # At a pole one of the two says nothing: each is asked for where it stays the same, or where the edge begins.
    half, first = (tool.ValueOfUV(curve.Value(t), 1e-7) for t in ((begin + end) / 2, begin))
    u, v = (half.X(), first.Y()) if abs(du) < abs(dv) else (first.X(), half.Y())
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


def _across_seam(edge: TopoDS_Edge, face: TopoDS_Face, g: Surface) -> Array:
    """Normal of the plane that a seam lies in: through the axis, but for a full ring's second one."""
    frame = getattr(BRepAdaptor_Surface(face, False), g.kind.capitalize())().Position()
    x, axis = array(frame.XDirection()), array(frame.Direction())
    across = np.cross(axis, x)
    off = np.array(middle_of(edge)) - array(frame.Location())
    return across if g.kind != "torus" or abs(float(off @ across)) < 1e-6 * g.radius else axis


def moved_spots(work: Work, vertex_map: ShapeMap, ends: list[tuple[int, int]]) -> list[bool]:
    """Where each corner goes (into ``work.spots``); tells which ones moved."""
    around: list[set[int]] = [set() for _ in range(vertex_map.Size())]
    seams: list[list[tuple[Array, Array]]] = [[] for _ in around]
    poles: dict[int, int] = {}  # corner -> the face that ends in it
    for edge, pair, beside, seam in zip(work.edges, ends, work.beside, work.seam, strict=True):
        for k in pair:
            around[k] |= set(beside)
        if BRep_Tool.Degenerated_s(edge):
            poles[pair[0]] = beside[0]
        elif seam and (g := work.new[beside[0]]) is not None:
            for k in pair:
                seams[k].append((g.at, _across_seam(edge, work.faces[beside[0]], g)))
    moved = []
    for k in range(vertex_map.Size()):
        spot = array(BRep_Tool.Pnt_s(TopoDS.Vertex(vertex_map.FindKey(k + 1))))
        touched = any(differs(work.old[f], work.new[f]) for f in around[k])
        if not touched:
            work.spots.append(spot)
        elif k in poles:
            work.spots.append(pole_of(work.faces[poles[k]], work.surfaces[poles[k]], spot)[0])
        else:
            # Where two surfaces touch, "on both" leaves the place open along them: the line they touch in settles it.
            smooth = [c for a, b, c in work.touching if c is not None and {a, b} <= around[k]]
            work.spots.append(_corner(spot, sorted(around[k]), seams[k], smooth, work))
        moved.append(float(np.abs(work.spots[k] - spot).max()) > 1e-12)
    return moved
