"""Faces of regions sewn into a solid: edges along the borders between regions, shared by both; seams and poles put in by the kernel."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Builder
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakeSolid
from OCP.BRepLib import BRepLib
from OCP.Geom import (
    Geom_ConicalSurface,
    Geom_CylindricalSurface,
    Geom_Plane,
    Geom_SphericalSurface,
    Geom_Surface,
    Geom_ToroidalSurface,
)
from OCP.gp import gp_Ax3
from OCP.ShapeFix import ShapeFix_Edge, ShapeFix_Shape
from OCP.TopAbs import TopAbs_Orientation
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import (
    TopoDS,
    TopoDS_Compound,
    TopoDS_Edge,
    TopoDS_Face,
    TopoDS_Shape,
    TopoDS_Shell,
    TopoDS_Vertex,
    TopoDS_Wire,
)
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

from contour.geometry.surfaces import Surface
from contour.geometry.vectors import triple
from contour.mesh.facets import pieces_of
from contour.mesh.topology import neighbours
from contour.solid.face_geometry import direction, pnt
from contour.solid.gate import SolidFacts, check_solid
from contour.solid.of_regions.borders import Borders, Chain, borders_of
from contour.solid.of_regions.curves import Run, corner_of, run_along
from contour.solid.shape import ShapeMap, faces, is_valid

__all__ = ["OpenPlace", "RegionSolid", "solid_of_regions"]

Array = NDArray[np.float64]
Ints = NDArray[np.int64]

_FORWARD, _REVERSED = TopAbs_Orientation.TopAbs_FORWARD, TopAbs_Orientation.TopAbs_REVERSED
_TOL = 1e-7
_CURVES = 10.0  # times the tolerance of vertices: what a curve may be off both its surfaces to be told as a line, a circle or an ellipse


@dataclass(frozen=True, slots=True)
class OpenPlace:
    """Where the mesh is open: the middle of the border about a hole, and how long it is, mm."""

    place: tuple[float, float, float]
    width: float


@dataclass(frozen=True, slots=True)
class RegionSolid:
    """shape: a solid, several, or open faces · regions: of which each face of ``faces(shape)`` is a part · refused: regions whose faces the kernel
    finds wrong · facts: of it · open: where the mesh
    itself is."""

    shape: TopoDS_Shape
    regions: tuple[int, ...]
    refused: tuple[int, ...]
    facts: SolidFacts
    open: tuple[OpenPlace, ...]


def _frame(s: Surface, origin: Array, towards: Array) -> gp_Ax3:
    """With u = 0 towards a place: a seam there meets no other border than the one that begins there."""
    axis = np.array(s.axis) if s.kind != "sphere" else np.array([0.0, 0.0, 1.0])
    x = towards - origin
    x = x - (x @ axis) * axis
    if np.linalg.norm(x) < 1e-9:
        x = np.cross(axis, [1.0, 0.0, 0.0] if abs(axis[0]) < 0.9 else [0.0, 1.0, 0.0])
    return gp_Ax3(pnt(origin), direction(axis), direction(x))


def _surface(s: Surface, middle: Array, towards: Array) -> Geom_Surface:
    """The kernel's surface. middle (3,): of its facets, where a cone keeps a radius; towards (3,): where its seam may lie."""
    origin, axis = np.array(s.origin), np.array(s.axis)
    if s.kind == "plane":
        return Geom_Plane(_frame(s, middle - ((middle - origin) @ axis) * axis, towards))
    if s.kind == "sphere":
        return Geom_SphericalSurface(_frame(s, origin, towards), s.radius)
    if s.kind == "torus":
        return Geom_ToroidalSurface(_frame(s, origin, towards), s.radius, s.minor)
    along = float((middle - origin) @ axis)
    at = origin + along * axis
    if s.kind == "cylinder":
        return Geom_CylindricalSurface(_frame(s, at, towards), s.radius)
    return Geom_ConicalSurface(_frame(s, at, towards), s.half_angle, s.radius + along * float(np.tan(s.half_angle)))


class _Build:
    """Vertices and edges that faces share while a solid is put together."""

    def __init__(
        self, vertices: Array, borders: Borders, surfaces: list[Surface], flat: NDArray[np.bool_], tolerance: float
    ) -> None:
        self.vertices, self.borders, self.surfaces, self.flat, self.tolerance = (
            vertices,
            borders,
            surfaces,
            flat,
            tolerance,
        )
        self.builder = BRep_Builder()
        self.spots: dict[int, Array] = {}
        self.corners: dict[int, TopoDS_Vertex] = {}
        self._meet()
        self.edges = [self._edge(c) for c in borders.chains]

    def _meet(self) -> None:
        """Corners where their surfaces meet; flat facets have theirs where the mesh has them."""
        around: dict[int, set[int]] = {}
        for c in self.borders.chains:
            for v in (int(c.vertices[0]), int(c.vertices[-1])):
                around.setdefault(v, set()).update(r for r in (c.left, c.right) if r >= 0)
        for v, regions in around.items():
            at = self.vertices[v]
            own = [self.surfaces[r] for r in sorted(regions) if not self.flat[r]]
            self.spots[v] = corner_of(at, own, 4 * self.tolerance) if own else at

    def _vertex(self, v: int, off: float) -> TopoDS_Vertex:
        known = self.corners.get(v)
        if known is None:
            known = TopoDS_Vertex()
            self.builder.MakeVertex(known, pnt(self.spots[v]), max(off, _TOL))
            self.corners[v] = known
        else:
            self.builder.UpdateVertex(known, max(off, _TOL))
        return known

    def _edge(self, chain: Chain) -> TopoDS_Edge:
        points = self.vertices[chain.vertices].copy()
        first, last = int(chain.vertices[0]), int(chain.vertices[-1])
        points[0], points[-1] = self.spots[first], self.spots[last]
        sides = [r for r in (chain.left, chain.right) if r >= 0]
        own = [self.surfaces[r] for r in sides if not self.flat[r]]
        bare = len(points) == 2 and (len(own) < len(sides) or not own)
        run = run_along(points, own, chain.ring or first == last, _CURVES * self.tolerance, flat=bare)
        return self._made(run, points, first, last)

    def _made(self, run: Run, points: Array, first: int, last: int) -> TopoDS_Edge:
        edge = TopoDS_Edge()
        self.builder.MakeEdge(edge, run.curve, TopLoc_Location(), max(run.off, _TOL))
        for v, t, way in ((first, run.begin, _FORWARD), (last, run.end, _REVERSED)):
            p = run.curve.Value(t)
            off = float(np.linalg.norm([p.X() - self.spots[v][0], p.Y() - self.spots[v][1], p.Z() - self.spots[v][2]]))
            self.builder.Add(edge, self._vertex(v, 1.01 * off + run.off).Oriented(way))
        self.builder.Range(edge, run.begin, run.end)
        return edge

    def face(self, r: int, middle: Array) -> TopoDS_Face:
        s = self.surfaces[r]
        loops = self.borders.loops[r]
        ends = [int(self.borders.chains[c].vertices[0]) for loop in loops for c, _ in loop]
        # Where more than rings end on a face its seam begins at a corner of theirs.
        busy = [int(self.borders.chains[c].vertices[0]) for loop in loops if len(loop) > 1 for c, _ in loop]
        towards = self.spots[(busy or ends)[0]] if ends else middle
        surface = _surface(s, middle, towards)
        out = s.kind == "plane" or s.outward > 0
        if not loops:
            whole = BRepBuilderAPI_MakeFace(surface, _TOL).Face()
            return TopoDS.Face(whole if out else whole.Reversed())
        face = TopoDS_Face()
        self.builder.MakeFace(face, surface, TopLoc_Location(), _TOL)
        fix = ShapeFix_Edge()
        for loop in loops:
            wire = TopoDS_Wire()
            self.builder.MakeWire(wire)
            for c, forwards in loop:
                self.builder.Add(wire, self.edges[c].Oriented(_FORWARD if forwards == out else _REVERSED))
            wire.Closed(True)
            self.builder.Add(face, wire)
        if s.kind != "plane":
            for loop in loops:
                for c, _ in loop:
                    fix.FixAddPCurve(self.edges[c], face, False, _TOL)
        return TopoDS.Face(face if out else face.Oriented(_REVERSED))


def _signed_volume(vertices: Array, facets: NDArray[np.int32]) -> float:
    a, b, c = (vertices[facets[:, k]] for k in range(3))
    return float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum() / 6)


def _lengths(points: Array) -> float:
    return float(np.linalg.norm(np.diff(points, axis=0), axis=1).sum())


def solid_of_regions(
    vertices: Array,
    facets: NDArray[np.int32],
    labels: Ints,
    surfaces: list[Surface],
    flat: NDArray[np.bool_],
    *,
    tolerance_mm: float,
    report: Callable[[str, float], None] = lambda _, __: None,
) -> RegionSolid:
    """The solid whose faces are regions of a mesh.

    vertices (m, 3) mm, facets (n, 3), labels (n,) from 0, surfaces: of each region; flat (regions,): those that are facets of something that no
    surface explains, whose borders stay where the mesh has them. tolerance_mm: how far vertices may lie off their surfaces.
    """
    across, _ = neighbours(facets, len(vertices))
    borders = borders_of(facets, across, labels, len(surfaces))
    report("making edges", 0.3)
    made = _Build(vertices, borders, surfaces, flat, tolerance_mm)
    count, piece = pieces_of(facets, across)
    builder = BRep_Builder()
    shells = []
    built: list[tuple[TopoDS_Face, int]] = []
    corners = vertices[facets]
    areas = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1)
    weight = np.bincount(labels, areas, len(surfaces))
    moments = np.stack(
        [np.bincount(labels, areas * corners[:, :, d].mean(axis=1), len(surfaces)) for d in range(3)], axis=1
    )
    middles = np.asarray(moments / np.maximum(weight, 1e-300)[:, None], np.float64)
    report("making faces", 0.5)
    for k in range(count):
        shell = TopoDS_Shell()
        builder.MakeShell(shell)
        for r in np.unique(labels[piece == k]).tolist():
            built.append((made.face(r, middles[r]), r))
            builder.Add(shell, built[-1][0])
        own = facets[piece == k]
        box = np.array([vertices[own.ravel()].min(axis=0), vertices[own.ravel()].max(axis=0)])
        shells.append((box, _signed_volume(vertices, own), shell))
    report("closing the solid", 0.8)
    shape, became = _fixed(_together(shells), built, tolerance_mm)
    owner = ShapeMap()
    for new, _ in became:
        owner.Add(new)
    regions = tuple(became[owner.FindIndex(f) - 1][1] for f in faces(shape))
    open_places = _open_places(vertices, [c for c in borders.chains if c.right < 0])
    facts = check_solid(shape)
    bad = () if facts.valid else tuple(r for f, r in zip(faces(shape), regions, strict=True) if not is_valid(f))
    return RegionSolid(shape, regions, bad, facts, open_places)


def _open_places(vertices: Array, chains: list[Chain]) -> tuple[OpenPlace, ...]:
    """One for each hole: the chains about it hang together at their ends."""
    first: dict[int, int] = {}
    links = [(k, first.setdefault(int(v), k)) for k, c in enumerate(chains) for v in (c.vertices[0], c.vertices[-1])]
    a, b = np.array(links, np.int64).reshape(-1, 2).T
    graph = coo_matrix((np.ones(len(a), np.int8), (a, b)), shape=(len(chains),) * 2)
    count, hole = connected_components(graph, directed=False)
    out = []
    for h in range(count if chains else 0):
        own = [vertices[c.vertices] for c, k in zip(chains, hole, strict=True) if k == h]
        out.append(OpenPlace(triple(np.vstack(own).mean(axis=0)), sum(map(_lengths, own))))
    return tuple(out)


def _together(shells: list[tuple[Array, float, TopoDS_Shell]]) -> TopoDS_Shape:
    """Shells (bounds (2, 3), volume, shell) of material, each with the shells of the hollows in it; what closes no volume stays a shell."""
    builder = BRep_Builder()
    outer = sorted(((b, v, BRepBuilderAPI_MakeSolid(s)) for b, v, s in shells if v > 0), key=lambda row: row[1])
    loose: list[TopoDS_Shape] = []
    for box, volume, shell in shells:
        if volume > 0:
            continue
        around = (m for b, v, m in outer if (b[0] <= box[0]).all() and (b[1] >= box[1]).all() and v > -volume)
        solid = next(around, None)
        if solid is None:
            loose.append(shell)
        else:
            solid.Add(shell)
    parts = [*(m.Solid() for _, _, m in outer), *loose]
    if len(parts) == 1:
        return parts[0]
    whole = TopoDS_Compound()
    builder.MakeCompound(whole)
    for part in parts:
        builder.Add(whole, part)
    return whole


def _fixed(
    shape: TopoDS_Shape, built: list[tuple[TopoDS_Face, int]], tolerance_mm: float
) -> tuple[TopoDS_Shape, list[tuple[TopoDS_Face, int]]]:
    """Seams, poles and places in u and v put in where faces lack them; and what became of the faces, with their regions."""
    fix = ShapeFix_Shape(shape)
    fix.SetPrecision(max(tolerance_mm, 1e-6))
    fix.SetMaxTolerance(max(100 * tolerance_mm, 1e-3))
    fix.Perform()
    result = fix.Shape()
    BRepLib.SameParameter_s(result, 1e-6, False)
    context = fix.Context()
    return result, [(new, r) for face, r in built for new in faces(context.Apply(face))]
