"""From a modelled mesh to a solid in one go: its exact regions as faces, what no surface explains as flat facets."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from contour.fit.modelled import exact_regions, nature_of, precision_of
from contour.fit.modelled.chords import chords_of
from contour.fit.modelled.regions import plane_of, require_few_pieces
from contour.fit.segment.whole import Segmentation
from contour.geometry.surfaces import Surface, distances
from contour.mesh.facets import Mesh
from contour.mesh.prepare import PreparedScan, mesh_of, prepare_mesh
from contour.mesh.stitch import dropped_repeats, welded, zip_borders
from contour.recipe.problem import ContourError
from contour.solid.of_regions import OpenPlace, Sheet, sheet_of, solid_of_regions
from contour.solid.shape import NamedShape

__all__ = ["Solidified", "solidify"]

_TRIES = 6  # rounds in which faces that the kernel refuses become flat facets
_DEEPER = 2.5  # times the deepest chord of a round region: what is freeform has none deeper
_MANY, _GENTLE = (
    24,
    0.35,
)  # facets of a freeform region, and radians between most of them, where the mesh has no round region to compare with
_MOST_FLAT = 6000  # facets that stay flat faces: a solid of more can be opened by nobody


@dataclass(frozen=True, slots=True)
class Solidified:
    """body: with faces named after the largest facet of each, by its number in the file, so that another tolerance keeps the names of the faces
    it leaves · closed, valid: of the body · kinds: faces by kind · flat: facets that stayed flat faces · open: where the mesh is open ·
    tolerance mm: what vertices may lie off their surfaces."""

    body: NamedShape
    solids: int
    closed: bool
    valid: bool
    volume: float
    kinds: dict[str, int]
    flat: int
    open: tuple[OpenPlace, ...]
    tolerance: float


def _sewn(scan: PreparedScan, reach_mm: float) -> PreparedScan:
    """Vertices that lie on each other made one, and corners that lie on a side put into it, where the mesh is open."""
    if not (scan.across < 0).any():
        return scan
    mesh = mesh_of(scan)
    mesh, _, _ = welded(mesh, reach_mm)
    mesh, _ = dropped_repeats(mesh)
    mesh, _ = zip_borders(mesh, reach_mm)
    return prepare_mesh(
        Mesh(mesh.vertices, mesh.facets, mesh.source), pose=np.asarray(scan.pose), raw_facets=scan.raw_facets
    )


def _covers(scan: PreparedScan, found: Segmentation) -> list[Surface | Sheet | None]:
    """Surfaces of regions; of those that have none the region spread out for a patch, if its facets are chords as those of round regions are: deeper ones are
    flat faces that happen to bend little."""
    deepest = 0.0
    for k, region in enumerate(found.regions):
        if region.surface is not None and region.surface.kind != "plane":
            deepest = max(deepest, float(np.abs(distances(region.surface, scan.centroids[found.labels == k])).max()))
    out: list[Surface | Sheet | None] = []
    for k, region in enumerate(found.regions):
        sheet = sheet_of(scan.vertices, scan.facets[found.labels == k]) if region.surface is None else None
        alike = sheet is not None and (
            sheet.chord <= _DEEPER * deepest if deepest else len(sheet.facets) >= _MANY and sheet.turn <= _GENTLE
        )
        out.append(region.surface or (sheet if alike else None))
    return out


def _with_flats(
    scan: PreparedScan,
    found: NDArray[np.int32],
    covers: list[Surface | Sheet | None],
    tolerance_mm: float,
    shattered: set[int],
) -> tuple[list[Surface | Sheet], NDArray[np.int64], NDArray[np.bool_], int]:
    """(Surfaces, region of each facet, which regions are flat facets of something else, facets in those): planes in the place of what has no
    surface; of shattered regions one for each facet. Raises ContourError (body-broken) where that would be too many."""
    labels = found.astype(np.int64)
    loose = np.flatnonzero((labels < 0) | np.array([s is None for s in covers])[np.maximum(labels, 0)])
    if len(loose) > _MOST_FLAT:
        raise ContourError(
            "body-broken",
            "too much of this mesh lies on no plane, cylinder, cone, sphere or torus",
            got=f"{len(loose):,} facets that would stay flat faces",
            need=f"at most {_MOST_FLAT:,}",
            remedy="allow vertices to lie farther off, or make those places patches",
        )
    every = list(covers)
    group = chords_of(scan, tolerance_mm).group[loose].astype(np.int64)
    alone = np.isin(found[loose], list(shattered))
    group[alone] = group.max(initial=0) + 1 + np.arange(alone.sum())
    for g in np.unique(group):
        own = loose[group == g]
        labels[own] = len(every)
        every.append(plane_of(scan, own))
    used, labels = np.unique(labels, return_inverse=True)
    kept = [s for s in (every[k] for k in used) if s is not None]
    return kept, labels.astype(np.int64), np.asarray(used >= len(covers)), len(loose)


def solidify(
    scan: PreparedScan,
    *,
    tolerance_mm: float | None = None,
    prefix: str = "face",
    report: Callable[[str, float], None] = lambda _, __: None,
) -> Solidified:
    """The solid that a modelled mesh was made from, every region's surface trimmed by its neighbours.

    tolerance_mm: how far vertices may lie off their surfaces; by the file's own rounding when none is given. Raises ContourError (wrong-kind)
    for a scan, whose facets lie on no surface exactly, and (body-broken) where hardly anything is left but facets.
    """
    report("looking at the mesh", 0.01)
    tolerance = tolerance_mm or 4 * precision_of(scan)
    if nature_of(scan) == "scanned":
        raise ContourError(
            "wrong-kind",
            "this is a scan: its facets lie on no surface exactly",
            got="noise",
            need="a mesh that was exported from a model",
            remedy="keep regions of it, cut sections and build on those; or put patches over it",
        )
    require_few_pieces(scan)
    scan = _sewn(scan, tolerance)
    found = exact_regions(scan, tolerance_mm=tolerance, report=lambda what, share: report(what, 0.5 * share))
    covers = _covers(scan, found)
    shattered: set[int] = set()
    for _ in range(_TRIES):
        own, labels, stays, flat = _with_flats(scan, found.labels, covers, tolerance, shattered)
        made = solid_of_regions(
            scan.vertices,
            scan.facets,
            labels,
            own,
            stays,
            tolerance_mm=tolerance,
            report=lambda what, share: report(what, 0.5 + 0.5 * share),
        )
        # A face that the kernel refuses was none, or a sliver of one: its facets stay flat faces, and the rest closes around them; or each by itself,
        # where that is not enough.
        refused = {int(found.labels[np.argmax(labels == r)]) for r in made.refused} - {-1} - shattered
        if not refused:
            break
        shattered |= {r for r in refused if covers[r] is None}
        covers = [None if k in refused else s for k, s in enumerate(covers)]
    order = np.lexsort((-scan.areas, labels))
    first = order[np.searchsorted(labels[order], np.arange(len(own)))]
    seen: Counter[int] = Counter()
    names = []
    for r in made.regions:
        again = f".{seen[r]}" if seen[r] else ""
        names.append(f"{prefix}[{int(scan.source_facet[first[r]])}]{again}")
        seen[r] += 1
    covering = (own[r] for r in set(made.regions))
    kinds = Counter("freeform" if isinstance(s, Sheet) else s.kind for s in covering)
    return Solidified(
        NamedShape(made.shape, tuple(names)),
        made.facts.solids,
        made.facts.closed,
        made.facts.valid,
        made.facts.volume,
        dict(sorted(kinds.items())),
        flat,
        made.open,
        tolerance,
    )
