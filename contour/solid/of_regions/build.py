"""Faces of regions sewn into a solid: edges along the borders between regions, shared by both; seams and poles put in by the kernel."""

from __future__ import annotations

from collections import Counter
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
from contour.geometry.vectors import square_to, triple
from contour.mesh.facets import pieces_of
from contour.mesh.topology import neighbours
from contour.solid.face_geometry import direction, pnt
from contour.solid.gate import SolidFacts, check_solid
from contour.solid.of_regions.borders import Borders, Chain, borders_of
from contour.solid.of_regions.curves import Run, corner_of, run_along
from contour.solid.of_regions.seams import seam_of
from contour.solid.shape import ShapeMap, edges, faces, free_edges, is_valid

__all__ = ["OpenPlace", "RegionSolid", "solid_of_regions"]

Array = NDArray[np.float64]
Ints = NDArray[np.int64]

_FORWARD, _REVERSED = TopAbs_Orientation.TopAbs_FORWARD, TopAbs_Orientation.TopAbs_REVERSED
_TOL = 1e-7
_CURVES = 10.0  # times the tolerance of vertices: what a curve may be off both its surfaces to be told as a line, a circle or an ellipse
_SEAMS = 6  # rounds in which a face that its seam has cut in two, or spoilt, is given another
_SHALLOW = 0.7  # sine of the angle between two edges, below which what they are off tells at their corner
_WIDEST = 100.0  # times the tolerance of vertices, that a corner reaches at most


@dataclass(frozen=True, slots=True)
class OpenPlace:
    """Where the mesh is open: the middle of the border about a hole, and how long it is, mm."""

    place: tuple[float, float, float]
    width: float


@dataclass(frozen=True, slots=True)
class RegionSolid:
    """shape: a solid, several, or open faces · regions: of which each face of ``faces(shape)`` is a part · refused: regions whose faces the kernel
    finds wrong, or that do not meet their neighbours · facts: of it · open: where the mesh
    itself is."""

    shape: TopoDS_Shape
    regions: tuple[int, ...]
    refused: tuple[int, ...]
    facts: SolidFacts
    open: tuple[OpenPlace, ...]


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


class _Build:
    """Vertices and edges that faces share while a solid is put together."""

    def __init__(
        self,
        vertices: Array,
        borders: Borders,
        surfaces: list[Surface],
        flat: NDArray[np.bool_],
        tolerance: float,
        tried: dict[int, list[Array]],
    ) -> None:
        self.vertices, self.borders, self.surfaces, self.flat = vertices, borders, surfaces, flat
        self.tolerance, self.tried = tolerance, tried
        self.builder = BRep_Builder()
        self.seams: dict[int, Array] = {}
        self.spots: dict[int, Array] = {}
        self.corners: dict[int, TopoDS_Vertex] = {}
        self._meet()
        self.leaving: dict[int, list[tuple[Array, float]]] = {}
        self.edges = [self._edge(c) for c in borders.chains]
        self._widen()

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
            tangent = run.curve.DN(t, 1)
            away = np.array([tangent.X(), tangent.Y(), tangent.Z()]) * (1.0 if way == _FORWARD else -1.0)
            self.leaving.setdefault(v, []).append((away / max(float(np.linalg.norm(away)), 1e-30), off + run.off))
        self.builder.Range(edge, run.begin, run.end)
        return edge

    def _widen(self) -> None:
        """Edges that leave a corner at a small angle cross as much farther from it as the angle is small; the corner reaches that far."""
        for v, ways in self.leaving.items():
            reach = 0.0
            for i, (a, off) in enumerate(ways):
                for b, other in ways[:i]:
                    sine = float(np.linalg.norm(np.cross(a, b)))
                    if a @ b > 0 and sine < _SHALLOW:
                        reach = max(reach, 1.5 * (off + other + _TOL) / max(sine, 1e-3))
            if reach > 0:
                self._vertex(v, min(reach, _WIDEST * self.tolerance))

    def _way(self, loop: list[tuple[int, bool]]) -> Array:
        """Places (k, 3) along a loop, the first again at its end."""
        ways = [self.vertices[self.borders.chains[c].vertices] for c, _ in loop]
        ways = [way if forwards else way[::-1] for way, (_, forwards) in zip(ways, loop, strict=True)]
        return np.vstack([ways[0][:1], *(way[1:] for way in ways)])

    def _ends(self, loops: list[list[tuple[int, bool]]]) -> Array:
        """Places (k, 3) where edges end on loops: corners, and where rings begin if there are none."""
        busy = [loop for loop in loops if len(loop) > 1] or loops
        return np.array([self.spots[int(self.borders.chains[c].vertices[0])] for loop in busy for c, _ in loop])

    def face(self, r: int, middle: Array) -> TopoDS_Face:
        s = self.surfaces[r]
        loops = self.borders.loops[r]
        axis, across = s.along, square_to(s.along)[0]
        if s.kind != "plane" and loops:
            ways = [self._way(loop) for loop in loops]
            axis, across = seam_of(s, ways, self._ends(loops), self.tried.get(r, []))
            self.seams[r] = across
        surface = _surface(s, middle, axis, across)
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
    pieces = _Pieces.of(vertices, facets, across, labels, len(surfaces))
    torn = [c for c in borders.chains if c.right < 0]
    tried: dict[int, list[Array]] = {}
    best: tuple[tuple[bool, int], TopoDS_Shape, tuple[int, ...], SolidFacts, set[int]] | None = None
    for k in range(_SEAMS):
        report("making edges", 0.3 + 0.5 * k / _SEAMS)
        made = _Build(vertices, borders, surfaces, flat, tolerance_mm, tried)
        report("closing the solid", 0.5 + 0.5 * k / _SEAMS)
        shape, regions = _closed(made, pieces, tolerance_mm)
        facts = check_solid(shape)
        bad = set() if facts.valid and facts.closed else _wrong(shape, regions, facts, torn=bool(torn))
        rank = (not facts.valid, len(regions))
        if best is None or rank < best[0]:
            best = rank, shape, regions, facts, bad
        # Cut in two by its seam, or not valid with it.
        again = {r for r, n in Counter(regions).items() if n > 1 or r in bad} & set(made.seams)
        if not again:
            break
        for r in again:
            tried.setdefault(r, []).append(made.seams[r])
    assert best is not None
    _, shape, regions, facts, bad = best
    open_places = _open_places(vertices, torn)
    return RegionSolid(shape, regions, tuple(sorted(bad)), facts, open_places)


def _wrong(shape: TopoDS_Shape, regions: tuple[int, ...], facts: SolidFacts, *, torn: bool) -> set[int]:
    """Regions whose faces the kernel finds wrong, or that have a border for themselves though the mesh is not torn."""
    out = set()
    loose = [] if facts.closed or torn else free_edges(shape)
    for face, r in zip(faces(shape), regions, strict=True):
        if (not facts.valid and not is_valid(face)) or any(e.IsSame(own) for e in loose for own in edges(face)):
            out.add(r)
    return out


@dataclass(frozen=True, slots=True)
class _Pieces:
    """A mesh's pieces: regions of each, bounds (2, 3) and signed volume; and the middle (3,) of each region, mm."""

    regions: list[list[int]]
    bounds: list[Array]
    volumes: list[float]
    middles: Array

    @staticmethod
    def of(vertices: Array, facets: NDArray[np.int32], across: NDArray[np.int32], labels: Ints, count: int) -> _Pieces:
        corners = vertices[facets]
        areas = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1)
        weight = np.bincount(labels, areas, count)
        moments = np.stack(
            [np.bincount(labels, areas * corners[:, :, d].mean(axis=1), count) for d in range(3)], axis=1
        )
        number, piece = pieces_of(facets, across)
        owns = [facets[piece == k] for k in range(number)]
        return _Pieces(
            [np.unique(labels[piece == k]).tolist() for k in range(number)],
            [np.array([vertices[own.ravel()].min(axis=0), vertices[own.ravel()].max(axis=0)]) for own in owns],
            [_signed_volume(vertices, own) for own in owns],
            np.asarray(moments / np.maximum(weight, 1e-300)[:, None], np.float64),
        )


def _closed(made: _Build, pieces: _Pieces, tolerance_mm: float) -> tuple[TopoDS_Shape, tuple[int, ...]]:
    """The faces put together, and the region that each face of the outcome is of."""
    builder = BRep_Builder()
    shells = []
    built: list[tuple[TopoDS_Face, int]] = []
    for regions, box, signed in zip(pieces.regions, pieces.bounds, pieces.volumes, strict=True):
        shell = TopoDS_Shell()
        builder.MakeShell(shell)
        for r in regions:
            built.append((made.face(r, pieces.middles[r]), r))
            builder.Add(shell, built[-1][0])
        shells.append((box, signed, shell))
    shape, became = _fixed(_together(shells), built, tolerance_mm)
    owner = ShapeMap()
    for new, _ in became:
        owner.Add(new)
    return shape, tuple(became[owner.FindIndex(f) - 1][1] for f in faces(shape))


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
