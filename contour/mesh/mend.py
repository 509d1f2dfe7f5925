"""Mending: one operation each for one kind of defect, and all that blocks in the right order.

What is cut is cut with two rings around it and filled again so that the surface goes on; no vertex outside such a
patch moves. Welding and splitting move vertices by what they report.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from contour.mesh.defects import Defect, Place, bad_facets, find_defects, split_vertices
from contour.mesh.facets import Mesh, border_loops, compacted, near_facets, pieces_of, side_lengths
from contour.mesh.fill import FillShape, all_loops, fill_loops
from contour.mesh.orient import turned_facets
from contour.mesh.piercing import pierced_pairs
from contour.mesh.stitch import (
    drop_fins,
    dropped_repeats,
    part_edges,
    split_junctions,
    weld_borders,
    welded,
    zip_borders,
)
from contour.mesh.thin import drop_thin
from contour.mesh.topology import component_labels, facet_geometry
from contour.mesh.unite import unite_shells
from contour.recipe.problem import ContourError, Where

__all__ = [
    "Change",
    "Mended",
    "drop_islands",
    "fill_holes",
    "mend_all",
    "mend_skin",
    "orient",
    "stitched",
    "taken_apart",
]


@dataclass(frozen=True, slots=True)
class Change:
    """One operation: what it did, in how many places, facets gone and new, largest movement of any kept point in mm."""

    operation: str
    count: int
    dropped: int = 0
    added: int = 0
    moved: float = 0.0
    note: str = ""

    def as_json(self) -> dict[str, Any]:
        return {k: getattr(self, k) for k in ("operation", "count", "dropped", "added", "moved", "note")}


@dataclass(slots=True)
class Mended:
    """The mesh as mended so far, and what was done to it."""

    mesh: Mesh
    done: list[Change] = field(default_factory=list)

    def take(self, mesh: Mesh, operation: str, count: int, moved: float = 0.0, note: str = "") -> None:
        """Keep a result; operations that found nothing leave no entry."""
        if count:
            kept = np.bincount(mesh.source[mesh.source >= 0], minlength=1)
            was = np.bincount(self.mesh.source[self.mesh.source >= 0], minlength=1)
            size = max(len(kept), len(was))
            gone = np.maximum(np.pad(was, (0, size - len(was))) - np.pad(kept, (0, size - len(kept))), 0).sum()
            fresh = max(len(mesh.facets) - (len(self.mesh.facets) - int(gone)), 0)
            self.done.append(Change(operation, count, int(gone), fresh, moved, note))
        self.mesh = mesh

    @property
    def moved(self) -> float:
        return max((c.moved for c in self.done), default=0.0)


def stitched(mesh: Mesh, reach_mm: float | None = None) -> tuple[Mesh, int, float]:
    """Borders welded and zipped. Without a reach, one far below the sides' length and the size is found."""
    if reach_mm is not None:
        mesh, count, moved = welded(mesh, reach_mm)
    else:
        side = float(np.median(side_lengths(mesh)))
        reach_mm = min(1e-4 * float(np.linalg.norm(np.ptp(mesh.vertices, axis=0))), 0.05 * side)
        mesh, count, moved = weld_borders(mesh, reach_mm, torn_mm=0.25 * side)
    mesh, splits = zip_borders(mesh, reach_mm)
    return mesh, count + splits, moved


def orient(mesh: Mesh) -> tuple[Mesh, int]:
    """Every piece one way round and outwards; how many facets were turned."""
    turned = turned_facets(mesh, mesh.across())
    facets = np.where(turned[:, None], mesh.facets[:, ::-1], mesh.facets).astype(np.int32)
    return Mesh(mesh.vertices, facets, mesh.source), int(turned.sum())


def taken_apart(mesh: Mesh) -> tuple[Mesh, int, float]:
    """Fins dropped, junctions of more than two facets and vertices of several fans split."""
    mesh, fins = drop_fins(mesh)
    mesh, new, moved = split_junctions(mesh)
    mesh, parted = part_edges(mesh)
    return compacted(mesh), fins + new + parted, moved


def drop_islands(mesh: Mesh, share: float = 0.01) -> tuple[Mesh, int]:
    """Pieces smaller than `share` of the largest dropped; how many."""
    count, piece = component_labels(mesh.facets, len(mesh.vertices))
    _, _, areas = facet_geometry(mesh.vertices, mesh.facets)
    size = np.bincount(piece, areas, count)
    small = size < share * size.max(initial=0.0)
    return compacted(mesh.without(small[piece])), int(small.sum())


def fill_holes(
    mesh: Mesh,
    *,
    shape: FillShape,
    most_mm: float | None = None,
    only: Callable[[NDArray[np.float64]], bool] | None = None,
) -> tuple[Mesh, int, int]:
    """Holes up to a length of rim (or those whose rim points `only` accepts) closed; how many, and how many could not be.

    Lengths mm; `only` takes (k, 3).
    """
    loops = all_loops(mesh, most_mm=most_mm)
    if only is not None:
        loops = [h for h in loops if only(mesh.vertices[mesh.facets[h // 3, h % 3]])]
    made = fill_loops(mesh, loops, shape=shape)
    return made.mesh, made.closed, len(made.left)


def _own_border(mesh: Mesh) -> NDArray[np.int64]:
    """Border sides as keys of their vertices, to know them again after a cut (vertices keep their numbers)."""
    f, k = np.nonzero(mesh.across() == -1)
    return np.unique(mesh.facets[f, k].astype(np.int64) << 32 | mesh.facets[f, (k + 1) % 3].astype(np.int64))


def _cut(mesh: Mesh, marked: NDArray[np.bool_], rings: int) -> Mesh:
    """Without the marked facets and rings around them, ragged borders evened: no vertex keeps two fans, no crumb stays."""
    border = _own_border(mesh)
    before, _ = pieces_of(mesh.facets, mesh.across())
    left = mesh.without(near_facets(mesh.facets, marked, rings, len(mesh.vertices)))
    for _ in range(20):
        across = left.across()
        touching = split_vertices(left, across)
        f, k = np.nonzero(across == -1)
        keys = left.facets[f, k].astype(np.int64) << 32 | left.facets[f, (k + 1) % 3].astype(np.int64)
        fresh = ~np.isin(keys, border)
        rim = np.zeros(len(left.vertices), np.bool_)
        rim[left.facets[f[fresh], k[fresh]]] = True
        ragged = np.zeros(len(left.vertices), np.bool_)
        ragged[touching] = True
        ragged &= rim
        # A facet with all three sides open, or two of them fresh, only makes the rim jagged.
        open_sides = np.bincount(f[fresh], minlength=len(left.facets))
        gone = ragged[left.facets].any(axis=1) | (open_sides >= 2)
        if not gone.any():
            break
        left = left.without(gone)
    count, piece = pieces_of(left.facets, left.across())
    if count > before:
        size = np.bincount(piece)
        _, _, areas = facet_geometry(left.vertices, left.facets)
        share = np.bincount(piece, areas)
        crumb = (share < 1e-3 * share.max()) & (size < 200)
        left = left.without(crumb[piece])
    return left


def _fresh_loops(mesh: Mesh, border: NDArray[np.int64]) -> list[NDArray[np.int64]]:
    """Borders that a cut has made: most of their sides were no border before."""
    out = []
    for loop in border_loops(mesh.facets, mesh.across()):
        f, k = loop // 3, loop % 3
        keys = mesh.facets[f, k].astype(np.int64) << 32 | mesh.facets[f, (k + 1) % 3].astype(np.int64)
        if np.isin(keys, border).mean() < 0.5:
            out.append(loop)
    return out


def mend_skin(
    mesh: Mesh,
    kinds: tuple[str, ...] = ("spike", "fold", "piercing", "degenerate"),
    *,
    passes: int = 6,
    pairs: NDArray[np.int64] | None = None,
    report: Callable[[str], None] = lambda _: None,
) -> tuple[Mesh, int, bool]:
    """Spikes, folds and piercings cut out with two rings around them and refilled: the mesh, how many facets were bad, and
    whether nothing of it is left.

    What a refill leaves bad is cut wider the next time. A cut that meets a border of the scan opens into it: nothing is
    filled there that was open before. `pairs` are the piercings when they are known. pairs (k, 2) facets.
    """
    total, last = 0, len(mesh.facets)
    for turn in range(passes):
        across = mesh.across()
        bad = bad_facets(mesh, across, pairs)
        marked = np.zeros(len(mesh.facets), np.bool_)
        for kind in kinds:
            marked |= bad[kind]
        if not marked.any():
            return mesh, total, True
        if (count := int(marked.sum())) > max(last, 1000):
            break  # cutting makes it worse: skins that lie upon each other
        last = count
        report(f"cutting out {int(marked.sum()):,} bad facets" + (", wider" if turn else ""))
        if turn == 0:
            total = int(marked.sum())
        border = _own_border(mesh)
        left = _cut(mesh, marked, 2 + turn // 2)
        if len(left.facets) < 0.5 * len(mesh.facets):
            break  # more bad than good: this is no scan with a few bad places
        mesh = fill_loops(left, _fresh_loops(left, border), shape="curved").mesh
        # What was there before and was no piercing is none now.
        fresh = np.arange(len(mesh.facets)) >= len(left.facets)
        pairs = pierced_pairs(mesh.vertices, mesh.facets, only=fresh)
    return compacted(mesh), total, False


def _spots(points: Any) -> str:
    return "; ".join("({:.2f}, {:.2f}, {:.2f})".format(*p) for p in points)


def _require_skin(mesh: Mesh) -> None:
    """Raises ContourError (not-mended) for a heap of loose facets: filling between them would make up a part."""
    loose = mesh.across() == -1
    if len(mesh.facets) and loose.mean() > 0.5:
        worst = mesh.vertices[mesh.facets[np.flatnonzero(loose.all(axis=1))[:10]]].mean(axis=1)
        raise ContourError(
            "not-mended",
            "the facets do not hang together, even after welding what lies close",
            where=Where(point=(float(worst[0][0]), float(worst[0][1]), float(worst[0][2])) if len(worst) else None),
            got=f"{100 * loose.mean():.0f} % of the sides open; " + _spots(worst),
            need="at most 50 %",
            remedy="weld it with a larger reach first, or export the mesh again",
        )


def _unblocked(defects: tuple[Defect, ...], holes_too: bool) -> bool:
    return not any(d.blocking and (holes_too or d.kind != "hole") for d in defects)


def mend_all(
    mesh: Mesh, *, holes: bool, report: Callable[[str], None] = lambda _: None
) -> tuple[Mended, tuple[Defect, ...]]:
    """Everything that blocks, in the order in which one mend makes the next possible; the defects that are left.

    holes: close every hole too, the scan's own included.
    """
    work = Mended(mesh)
    report("dropping facets that stand twice")
    made, count = dropped_repeats(work.mesh)
    work.take(made, "drop duplicates", count)
    left: tuple[Defect, ...] = ()
    bearable = max(len(mesh.facets) // 20, 1000)
    for _turn in range(3):
        again = len(work.done)
        report("stitching borders")
        made, count, moved = stitched(work.mesh)
        work.take(made, "weld", count, moved)
        _require_skin(work.mesh)
        made, count = dropped_repeats(work.mesh)
        work.take(made, "drop duplicates", count)
        report("turning facets outwards")
        made, count = orient(work.mesh)
        work.take(made, "orient", count)
        made, count, moved = taken_apart(work.mesh)
        work.take(made, "split non-manifold", count, moved)
        made, count = orient(work.mesh)
        work.take(made, "orient", count)
        made, count, moved = drop_thin(work.mesh)
        work.take(made, "drop degenerate", count, moved)
        report("uniting shells")
        pairs: NDArray[np.int64] | None = pierced_pairs(work.mesh.vertices, work.mesh.facets)
        made, count = unite_shells(work.mesh, pairs if pairs is not None else np.empty((0, 2), np.int64))
        work.take(made, "unite shells", count)
        if count:
            made, count, moved = drop_thin(work.mesh)
            work.take(made, "drop degenerate", count, moved)
            pairs = None
        made, count, clean = mend_skin(work.mesh, pairs=pairs, report=report)
        work.take(made, "mend folds, spikes and piercings", count)
        old = len(work.mesh.facets)
        if holes:
            report("filling holes")
            made, count = drop_islands(work.mesh, 1e-4)
            work.take(made, "drop islands", count)
            old = len(work.mesh.facets)
            made, count, _ = fill_holes(work.mesh, shape="curved")
            work.take(made, "fill holes", count)
        report("looking again")
        known = (
            pierced_pairs(work.mesh.vertices, work.mesh.facets, only=np.arange(len(work.mesh.facets)) >= old)
            if clean
            else None
        )
        left = find_defects(work.mesh, pairs=known)
        blocks = sum(d.count for d in left if d.blocking)
        if _unblocked(left, holes) or len(work.done) == again or blocks > bearable:
            break
        bearable = blocks // 2  # a turn that does not halve what blocks is not worth another
    return work, left


def require_mended(
    before: Mesh, work: Mended, left: tuple[Defect, ...], *, holes: bool, file: str | None = None
) -> None:
    """Raises ContourError (not-mended) with places when something that blocks is left, or when hardly anything is."""
    _, _, areas = facet_geometry(before.vertices, before.facets)
    _, _, now = facet_geometry(work.mesh.vertices, work.mesh.facets)
    kept = float(now[work.mesh.source >= 0].sum() / max(areas.sum(), 1e-300)) if len(areas) else 0.0
    if kept < 0.25:
        raise ContourError(
            "not-mended",
            "so much is broken that mending would leave hardly anything of it",
            where=Where(file=file),
            got=f"{100 * kept:.0f} % of the surface kept",
            need="at least 25 %",
            remedy="weld it with a larger reach, or export the mesh again",
        )
    worst = blocking_places(left, holes=holes)
    if worst:
        kinds = ", ".join(f"{d.count} x {d.kind}" for d in left if d.blocking and (holes or d.kind != "hole"))
        kind, place = worst[0]
        raise ContourError(
            "not-mended",
            "some of what blocks could not be mended",
            where=Where(file=file, point=place.point),
            got=f"{kinds}; " + _spots([p.point for _, p in worst[:10]]),
            need="none of them left",
            remedy="look at these places, delete the facets around them, and fill the holes",
        )


def largest_movement(before: NDArray[np.float64], after: NDArray[np.float64]) -> float:
    """How far the farthest of the `after` vertices lies from any of the `before` ones. (n, 3) and (m, 3), mm."""
    gap, _ = cKDTree(before).query(after)
    return float(gap.max(initial=0.0))


def blocking_places(defects: tuple[Defect, ...], *, holes: bool) -> list[tuple[str, Place]]:
    """Kind and place of all that blocks later work, the worst of each kind first; holes only where they count."""
    return [(d.kind, p) for d in defects if d.blocking and (holes or d.kind != "hole") for p in d.places]
