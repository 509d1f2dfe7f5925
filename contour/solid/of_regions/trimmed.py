"""The kernel's faces over regions, trimmed by edges that both sides share; seams lie where they leave faces whole."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Builder
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace
from OCP.Geom import (
    Geom_ConicalSurface,
    Geom_CylindricalSurface,
    Geom_Plane,
    Geom_SphericalSurface,
    Geom_Surface,
    Geom_ToroidalSurface,
)
from OCP.gp import gp_Ax3
from OCP.ShapeFix import ShapeFix_Edge, ShapeFix_Face
from OCP.TopAbs import TopAbs_Orientation
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Face, TopoDS_Vertex, TopoDS_Wire

from contour.fit.patch import DEGREE
from contour.geometry.surfaces import Surface
from contour.geometry.vectors import square_to
from contour.solid.face_geometry import direction, pnt
from contour.solid.of_regions.borders import Borders
from contour.solid.of_regions.courses import Courses
from contour.solid.of_regions.curves import Run
from contour.solid.of_regions.patches import Laid, kernel_track
from contour.solid.of_regions.seams import seam_of, turns_about
from contour.solid.shape import faces
from contour.solid.splines import kernel_spline

__all__ = ["Trimming"]

Array = NDArray[np.float64]

_FORWARD, _REVERSED = TopAbs_Orientation.TopAbs_FORWARD, TopAbs_Orientation.TopAbs_REVERSED
_TOL = 1e-7
_SHALLOW = 0.7  # sine of the angle between two edges, below which what they are off tells at their corner
_WIDEST = 100.0  # times the tolerance of vertices, that a corner reaches at most


def _surface(s: Surface, middle: Array, axis: Array, across: Array) -> Geom_Surface:
    """The kernel's surface. middle (3,): of its facets, where a cone keeps a radius · axis, across (3,): of its frame, its seam in the direction
    of the latter."""
    origin = s.at

    def frame(at: Array) -> gp_Ax3:
        return gp_Ax3(pnt(at), direction(axis), direction(across))

    if s.kind == "plane":
        return Geom_Plane(frame(middle - ((middle - origin) @ axis) * axis))
    if s.kind == "sphere":
        return Geom_SphericalSurface(frame(origin), s.radius)
    if s.kind == "torus":
        return Geom_ToroidalSurface(frame(origin), s.radius, s.minor)
    along = float((middle - origin) @ axis)
    at = origin + along * axis
    if s.kind == "cylinder":
        return Geom_CylindricalSurface(frame(at), s.radius)
    return Geom_ConicalSurface(frame(at), s.half_angle, s.radius + along * float(np.tan(s.half_angle)))


class Trimming:
    """Vertices and edges that faces share while a solid is put together.

    seams: the direction (3,) that each round face has been given its seam in.
    """

    def __init__(
        self,
        vertices: Array,
        borders: Borders,
        courses: Courses,
        covers: list[Surface | Laid],
        tolerance: float,
        tried: dict[int, list[Array]],
    ) -> None:
        """covers: what lies over each region · tolerance: of vertices, mm · tried: directions of seams that have not done, by region."""
        self._vertices, self._borders, self._courses, self._covers = vertices, borders, courses, covers
        self._tolerance, self._tried = tolerance, tried
        self._builder = BRep_Builder()
        self._corners: dict[int, TopoDS_Vertex] = {}
        self._leaving: dict[int, list[tuple[Array, float]]] = {}
        off: dict[int, float] = {}
        for laid in covers:
            if isinstance(laid, Laid):
                off |= {c: max(off.get(c, 0.0), d) for c, d in laid.beside.items()}
        self._edges = [self._edge(c, off.get(c, 0.0)) for c in range(len(borders.chains))]
        self._widen()
        self.seams: dict[int, Array] = {}

    def _vertex(self, v: int, off: float) -> TopoDS_Vertex:
        known = self._corners.get(v)
        if known is None:
            known = TopoDS_Vertex()
            self._builder.MakeVertex(known, pnt(self._courses.spots[v]), max(off, _TOL))
            self._corners[v] = known
        else:
            self._builder.UpdateVertex(known, max(off, _TOL))
        return known

    def _edge(self, c: int, beside: float) -> TopoDS_Edge:
        run: Run = self._courses.runs[c]
        ends = (int(self._borders.chains[c].vertices[end]) for end in (0, -1))
        reach = max(run.off, beside)
        edge = TopoDS_Edge()
        self._builder.MakeEdge(edge, run.curve, TopLoc_Location(), max(reach, _TOL))
        for v, t, way in zip(ends, (run.begin, run.end), (_FORWARD, _REVERSED), strict=True):
            p, spot = run.curve.Value(t), self._courses.spots[v]
            off = float(np.linalg.norm([p.X() - spot[0], p.Y() - spot[1], p.Z() - spot[2]]))
            self._builder.Add(edge, self._vertex(v, 1.01 * off + reach).Oriented(way))
            tangent = run.curve.DN(t, 1)
            away = np.array([tangent.X(), tangent.Y(), tangent.Z()]) * (1.0 if way == _FORWARD else -1.0)
            self._leaving.setdefault(v, []).append((away / max(float(np.linalg.norm(away)), 1e-30), off + reach))
        self._builder.Range(edge, run.begin, run.end)
        return edge

    def _widen(self) -> None:
        """Edges that leave a corner at a small angle cross as much farther from it as the angle is small; the corner reaches that far."""
        for v, ways in self._leaving.items():
            reach = 0.0
            for i, (a, off) in enumerate(ways):
                for b, other in ways[:i]:
                    sine = float(np.linalg.norm(np.cross(a, b)))
                    if a @ b > 0 and sine < _SHALLOW:
                        reach = max(reach, 1.5 * (off + other + _TOL) / max(sine, 1e-3))
            if reach > 0:
                self._vertex(v, min(reach, _WIDEST * self._tolerance))

    def _way(self, loop: list[tuple[int, bool]]) -> Array:
        """Places (k, 3) along a loop, the first again at its end."""
        ways = [self._vertices[self._borders.chains[c].vertices] for c, _ in loop]
        ways = [way if forwards else way[::-1] for way, (_, forwards) in zip(ways, loop, strict=True)]
        return np.vstack([ways[0][:1], *(way[1:] for way in ways)])

    def _ends(self, loops: list[list[tuple[int, bool]]]) -> Array:
        """Places (k, 3) where edges end on loops: corners, and where rings begin if there are none."""
        busy = [loop for loop in loops if len(loop) > 1] or loops
        starts = [int(self._borders.chains[c].vertices[0]) for loop in busy for c, _ in loop]
        return np.array([self._courses.spots[v] for v in starts])

    def _laid(self, r: int, middle: Array) -> tuple[Geom_Surface, bool]:
        """(The kernel's surface over a region, whether its normal points out of the material)."""
        s = self._covers[r]
        if isinstance(s, Laid):
            return kernel_spline(s.patch.poles, s.patch.knots, (DEGREE, DEGREE)), True
        loops = self._borders.loops[r]
        axis, across = s.along, square_to(s.along)[0]
        if s.kind != "plane" and loops:
            ways = [self._way(loop) for loop in loops]
            axis, across = seam_of(s, ways, self._ends(loops), self._tried.get(r, []))
            self.seams[r] = across
        return _surface(s, middle, axis, across), s.kind == "plane" or s.outward > 0

    def face(self, r: int, middle: Array) -> TopoDS_Face:
        """The face over a region. middle (3,): of its facets, mm."""
        surface, out = self._laid(r, middle)
        loops = self._borders.loops[r]
        if not loops:
            whole = BRepBuilderAPI_MakeFace(surface, _TOL).Face()
            return TopoDS.Face(whole if out else whole.Reversed())
        face = TopoDS_Face()
        self._builder.MakeFace(face, surface, TopLoc_Location(), _TOL)
        around = self._about_tip(r)
        for loop in loops if around is None else [around]:
            self._bound(r, face, loop, out)
        if around is not None:
            # The kernel closes a cone over its tip only as long as nothing else is cut out of it.
            fix = ShapeFix_Face(face)
            fix.SetPrecision(_TOL)
            fix.Perform()
            face = next(iter(faces(fix.Result())), face)
            for loop in loops:
                if loop is not around:
                    self._bound(r, face, loop, out)
        return TopoDS.Face(face if out else face.Oriented(_REVERSED))

    def _about_tip(self, r: int) -> list[tuple[int, bool]] | None:
        """The loop about the tip of a cone that belongs to a face with other loops as well."""
        s, loops = self._covers[r], self._borders.loops[r]
        if isinstance(s, Laid) or s.kind != "cone" or len(loops) < 2:
            return None
        about = [loop for loop in loops if turns_about(s, self._way(loop))]
        return about[0] if len(about) == 1 else None

    def _bound(self, r: int, face: TopoDS_Face, loop: list[tuple[int, bool]], out: bool) -> None:
        """A loop added to its face. out: whether the surface's normal points out of the material."""
        wire = TopoDS_Wire()
        self._builder.MakeWire(wire)
        for c, forwards in loop:
            self._builder.Add(wire, self._edges[c].Oriented(_FORWARD if forwards == out else _REVERSED))
        wire.Closed(True)
        self._builder.Add(face, wire)
        self._track(r, face, loop)

    def _track(self, r: int, face: TopoDS_Face, loop: list[tuple[int, bool]]) -> None:
        """Where edges run in the parameters of their face; on a plane the kernel needs no telling."""
        s, fix = self._covers[r], ShapeFix_Edge()
        for c, _ in loop:
            if isinstance(s, Laid):
                track = kernel_track(s.tracks[c], self._courses.runs[c])
                self._builder.UpdateEdge(self._edges[c], track, face, max(s.beside[c], _TOL))
            elif s.kind != "plane":
                fix.FixAddPCurve(self._edges[c], face, False, _TOL)
