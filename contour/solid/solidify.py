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
from contour.geometry.surfaces import Surface
from contour.mesh.facets import Mesh
from contour.mesh.prepare import PreparedScan, mesh_of, prepare_mesh
from contour.mesh.stitch import dropped_repeats, welded, zip_borders
from contour.recipe.problem import ContourError
from contour.solid.of_regions import Covers, Known, OpenPlace, Sheet, covers_of, solid_of_regions
from contour.solid.shape import NamedShape

__all__ = ["Solidified", "solidify"]

_PARTING = 9  # first rounds, in which freeform faces that do not come near enough are cut in parts, and small faces are given up first
_TRIES = 17  # rounds in which faces that the kernel refuses become flat facets
_SMALL = 12  # facets: a face of so few is given up before the larger ones beside it, which may be well without it
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


def _with_flats(
    scan: PreparedScan, covers: Covers, tolerance_mm: float, shattered: set[int]
) -> tuple[list[Surface | Sheet], NDArray[np.int64], NDArray[np.bool_], int]:
    """(Surfaces, region of each facet, which regions are flat facets of something else, facets in those): planes in the place of what has no
    surface; of shattered regions one for each facet. Raises ContourError (body-broken) where that would be too many."""
    found, labels = covers.labels, covers.labels.copy()
    loose = np.flatnonzero((labels < 0) | np.array([s is None for s in covers.over])[np.maximum(labels, 0)])
    if len(loose) > _MOST_FLAT:
        raise ContourError(
            "body-broken",
            "too much of this mesh lies on no plane, cylinder, cone, sphere or torus",
            got=f"{len(loose):,} facets that would stay flat faces",
            need=f"at most {_MOST_FLAT:,}",
            remedy="allow vertices to lie farther off, or make those places patches",
        )
    every = list(covers.over)
    group = chords_of(scan, tolerance_mm).group[loose].astype(np.int64)
    alone = np.isin(found[loose], list(shattered))
    group[alone] = group.max(initial=0) + 1 + np.arange(alone.sum())
    for g in np.unique(group):
        own = loose[group == g]
        labels[own] = len(every)
        every.append(plane_of(scan, own))
    used, labels = np.unique(labels, return_inverse=True)
    kept = [s for s in (every[k] for k in used) if s is not None]
    return kept, labels.astype(np.int64), np.asarray(used >= len(covers.over)), len(loose)


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
    covers = covers_of(scan, found)
    shattered: set[int] = set()
    known: Known = {}
    for tried in range(_TRIES):
        own, labels, stays, flat = _with_flats(scan, covers, tolerance, shattered)
        made = solid_of_regions(
            scan.vertices,
            scan.facets,
            labels,
            own,
            stays,
            tolerance_mm=tolerance,
            known=known,
            report=lambda what, share: report(what, 0.5 + 0.5 * share),
        )
        # A face that the kernel refuses was none, or a sliver of one: its facets stay flat faces, and the rest closes around them; or each by itself,
        # where that is not enough. A freeform one may come near enough in parts.
        refused = {int(covers.labels[np.argmax(labels == r)]) for r in made.refused} - {-1} - shattered
        if not refused:
            break
        small = {r for r in refused if tried < _PARTING and np.count_nonzero(covers.labels == r) <= _SMALL}
        loose = {r for r in refused if isinstance(covers.over[r], Sheet)}
        for r in small or loose or refused:
            if covers.over[r] is None:
                shattered.add(r)
            elif not (tried < _PARTING and isinstance(covers.over[r], Sheet) and (covers.part(r) or covers.allow(r))):
                covers.over[r] = None
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
