"""Faces of regions sewn into a solid: edges along the borders between regions, shared by both; seams and poles put in by the kernel."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Builder
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeSolid
from OCP.BRepLib import BRepLib
from OCP.ShapeFix import ShapeFix_Shape
from OCP.TopoDS import TopoDS_Compound, TopoDS_Face, TopoDS_Shape, TopoDS_Shell
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

from contour.geometry.surfaces import Surface
from contour.geometry.vectors import triple
from contour.mesh.facets import pieces_of
from contour.mesh.topology import neighbours
from contour.solid.face_geometry import array
from contour.solid.gate import SolidFacts, check_solid
from contour.solid.mass import face_mass
from contour.solid.of_regions.borders import Chain, borders_of
from contour.solid.of_regions.courses import courses_of, kinks_of
from contour.solid.of_regions.meeting import laid_over
from contour.solid.of_regions.patches import Ground, Known, Laid, Sheet
from contour.solid.of_regions.trimmed import Trimming
from contour.solid.shape import ShapeMap, edges, faces, free_edges, is_valid

__all__ = ["OpenPlace", "RegionSolid", "solid_of_regions"]

Array = NDArray[np.float64]
Ints = NDArray[np.int64]

_AS_LARGE = 0.3  # of its facets' area, that a face may be off it
_ASIDE = 0.2  # of how far they reach, that its middle may be off theirs
_SLIVERS = 1e-5  # of the whole area: what is smaller is not told by its middle
_SEAMS = 6  # rounds in which a face that its seam has cut in two, or spoilt, is given another


@dataclass(frozen=True, slots=True)
class OpenPlace:
    """Where the mesh is open: the middle of the border about a hole, and how long it is, mm."""

    place: tuple[float, float, float]
    width: float


@dataclass(frozen=True, slots=True)
class RegionSolid:
    """shape: a solid, several, or open faces · regions: of which each face of ``faces(shape)`` is a part · refused: regions whose faces the kernel
    finds wrong, that do not meet their neighbours, or whose patches are too far off · facts: of it · open: where the mesh
    itself is."""

    shape: TopoDS_Shape
    regions: tuple[int, ...]
    refused: tuple[int, ...]
    facts: SolidFacts
    open: tuple[OpenPlace, ...]


def _signed_volume(vertices: Array, facets: NDArray[np.int32]) -> float:
    a, b, c = (vertices[facets[:, k]] for k in range(3))
    return float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum() / 6)


def _lengths(points: Array) -> float:
    return float(np.linalg.norm(np.diff(points, axis=0), axis=1).sum())


def solid_of_regions(
    vertices: Array,
    facets: NDArray[np.int32],
    labels: Ints,
    surfaces: list[Surface | Sheet],
    flat: NDArray[np.bool_],
    *,
    tolerance_mm: float,
    known: Known | None = None,
    report: Callable[[str, float], None] = lambda _, __: None,
) -> RegionSolid:
    """The solid whose faces are regions of a mesh.

    vertices (m, 3) mm, facets (n, 3), labels (n,) from 0, surfaces: of each region, or the region spread out where a patch is to cover it; flat
    (regions,): those that are facets of something that no surface explains, whose borders stay where the mesh has them. tolerance_mm: how far
    vertices may lie off their surfaces · known: patches over the same sheets of before; what is made is added.
    """
    across, _ = neighbours(facets, len(vertices))
    pieces = _Pieces.of(vertices, facets, across, labels, len(surfaces))
    report("making edges", 0.1)
    held = [s if isinstance(s, Surface) else None for s in surfaces]
    borders = borders_of(facets, across, labels, len(surfaces))
    courses = courses_of(vertices, borders, held, flat, tolerance_mm)
    kinks = kinks_of(vertices, borders, courses)
    if kinks:
        borders = borders_of(facets, across, labels, len(surfaces), kinks)
        courses = courses_of(vertices, borders, held, flat, tolerance_mm)
    torn = [c for c in borders.chains if c.right < 0]
    of = [s.of if isinstance(s, Sheet) else None for s in surfaces]
    soft = {
        k for k, c in enumerate(borders.chains) if c.right >= 0 and of[c.left] is not None and of[c.left] == of[c.right]
    }
    report("covering freeform faces", 0.2)
    ground = Ground(vertices, borders, courses, soft, tolerance_mm, {} if known is None else known)
    covers, courses = laid_over(surfaces, ground)
    rough = {r for r, laid in enumerate(covers) if isinstance(laid, Laid) and laid.rough}
    tried: dict[int, list[Array]] = {}
    best: tuple[tuple[bool, int, int], TopoDS_Shape, tuple[int, ...], SolidFacts, set[int]] | None = None
    for k in range(_SEAMS):
        report("closing the solid", 0.3 + 0.7 * k / _SEAMS)
        made = Trimming(vertices, borders, courses, covers, tolerance_mm, tried)
        shape, regions = _closed(made, pieces, tolerance_mm)
        facts = check_solid(shape)
        bad = _elsewhere(shape, regions, pieces)
        if not (facts.valid and facts.closed):
            bad |= _wrong(shape, regions, facts, torn=bool(torn))
        rank = (not facts.valid, len(bad), len(regions))
        if best is None or rank < best[0]:
            best = rank, shape, regions, facts, bad
        # Cut in two by its seam, or not valid with it.
        again = {r for r, n in Counter(regions).items() if n > 1 or r in bad} & set(made.seams)
        if rough or not again:
            break
        for r in again:
            tried.setdefault(r, []).append(made.seams[r])
    assert best is not None
    _, shape, regions, facts, bad = best
    open_places = _open_places(vertices, torn)
    return RegionSolid(shape, regions, tuple(sorted(rough or bad)), facts, open_places)


def _elsewhere(shape: TopoDS_Shape, regions: tuple[int, ...], pieces: _Pieces) -> set[int]:
    """Regions whose faces are not about where and as large as their facets: the kernel has taken the part of a surface that lies outside of a border,
    and finds that valid."""
    areas, moments = np.zeros(len(pieces.areas)), np.zeros((len(pieces.areas), 3))
    for face, r in zip(faces(shape), regions, strict=True):
        size, middle = face_mass(face)
        areas[r] += size
        moments[r] += size * array(middle)
    middles = moments / np.maximum(areas, pieces.areas / 10)[:, None]
    aside = np.linalg.norm(middles - pieces.middles, axis=1)
    off = np.abs(areas - pieces.areas) > _AS_LARGE * pieces.areas
    told = pieces.areas > _SLIVERS * pieces.areas.sum()
    return set(np.flatnonzero(told & (off | (aside > _ASIDE * pieces.reaches))).tolist())


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
    """A mesh's pieces: regions of each, bounds (2, 3) and signed volume; and of each region the middle (3,), the area and how far it
    reaches from the middle, mm and mm²."""

    regions: list[list[int]]
    bounds: list[Array]
    volumes: list[float]
    middles: Array
    areas: Array
    reaches: Array

    @staticmethod
    def of(vertices: Array, facets: NDArray[np.int32], across: NDArray[np.int32], labels: Ints, count: int) -> _Pieces:
        corners = vertices[facets]
        areas = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1) / 2
        weight = np.bincount(labels, areas, count)
        moments = np.stack(
            [np.bincount(labels, areas * corners[:, :, d].mean(axis=1), count) for d in range(3)], axis=1
        )
        middles = moments / np.maximum(weight, 1e-300)[:, None]
        reaches = np.zeros(count)
        np.maximum.at(reaches, labels, np.linalg.norm(corners - middles[labels][:, None], axis=2).max(axis=1))
        number, piece = pieces_of(facets, across)
        owns = [facets[piece == k] for k in range(number)]
        return _Pieces(
            [np.unique(labels[piece == k]).tolist() for k in range(number)],
            [np.array([vertices[own.ravel()].min(axis=0), vertices[own.ravel()].max(axis=0)]) for own in owns],
            [_signed_volume(vertices, own) for own in owns],
            np.asarray(middles, np.float64),
            np.asarray(weight, np.float64),
            reaches,
        )


def _closed(made: Trimming, pieces: _Pieces, tolerance_mm: float) -> tuple[TopoDS_Shape, tuple[int, ...]]:
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
