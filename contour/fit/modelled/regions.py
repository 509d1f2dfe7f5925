"""Every face of a modelled mesh with its surface through its vertices.

There is no noise to follow, so the method is another than that of :mod:`contour.fit.segment`: facets in exactly one plane are grouped; a
group that bends softly into its neighbours is a chord of something round, and grows as long as one surface goes through all *vertices*. What
bends nowhere is a plane. Rests that hang together softly are freeform.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csr_matrix
from scipy.sparse.csgraph import connected_components

from contour.fit.covariance import fit_covariance
from contour.fit.modelled.borders import absorb, adopt, cut_ears, release, settle
from contour.fit.modelled.chance import without_chance
from contour.fit.modelled.chords import Chords, chords_of
from contour.fit.modelled.crumbs import without_crumbs
from contour.fit.modelled.faces import Face, labels_of
from contour.fit.modelled.growth import grow_all
from contour.fit.modelled.inexact import without_inexact
from contour.fit.modelled.joints import parted_at_joints
from contour.fit.modelled.nature import precision_of
from contour.fit.modelled.simpler import simplify
from contour.fit.segment.whole import FoundRegion, Segmentation
from contour.geometry.surfaces import Surface, distances, gradients
from contour.geometry.vectors import triple
from contour.mesh.facets import pieces_of
from contour.mesh.prepare import PreparedScan
from contour.recipe.problem import ContourError, Where

__all__ = ["exact_regions", "known_surface_of", "plane_of", "require_few_pieces"]

Ints = NDArray[np.int64]

_GENTLE = 0.94  # cosine of a bend
_MOST_PIECES = 4000
_LEAST_TOLD = 5  # vertices: fewer lie on a known surface by chance
_WIDE = 60.0  # times the area of its neighbour: a quadrangle so wide is a face of its own
_LEAST_REST = 3  # loose chords that hang together are a freeform face from so many on
_MOST_POINTS = 4000  # that an uncertainty is worked out from


def plane_of(scan: PreparedScan, facets: Ints) -> Surface:
    """The plane through the vertices of facets (k,), facing as they do."""
    w = scan.areas[facets] / max(scan.areas[facets].sum(), 1e-30)
    at = scan.vertices[np.unique(scan.facets[facets])]
    middle = at.mean(axis=0)
    _, _, rows = np.linalg.svd((at - middle)[:100_000], full_matrices=False)
    mean = w @ scan.normals[facets]
    normal = rows[2] if len(rows) > 2 and len(at) > 3 else mean / max(float(np.linalg.norm(mean)), 1e-30)
    normal = normal if normal @ mean > 0 else -normal
    return Surface("plane", triple(middle), triple(normal), 0.0, 1)


def _rests(chords: Chords, free: NDArray[np.bool_]) -> list[Ints]:
    """Chords that no surface explains and that bend softly into each other: freeform, all that hang together as one, not a plane a facet."""
    size = np.diff(chords.facet_at)
    loose = free & (size <= 2)
    x, y = np.repeat(np.arange(chords.count), np.diff(chords.near_at)), chords.near
    # Two flat quadrangles that bend more are two flat faces.
    gentle = np.einsum("ij,ij->i", chords.normal[x], chords.normal[y]) > _GENTLE
    # A wide quadrangle that a blend runs into is a flat face as well.
    alike = np.maximum(chords.area[x], chords.area[y]) < _WIDE * np.minimum(chords.area[x], chords.area[y])
    single = np.minimum(size[x], size[y]) == 1
    both = loose[x] & loose[y] & chords.soft & ((size[x] + size[y] == 2) | alike & (gentle | single))
    graph = csr_matrix((np.ones(int(both.sum()), np.int8), (x[both], y[both])), shape=(chords.count,) * 2)
    label = connected_components(graph, directed=False)[1]
    own = np.flatnonzero(loose)
    order = own[np.argsort(label[own], kind="stable")]
    parts = np.split(order, np.flatnonzero(np.diff(label[order])) + 1)
    return [p for p in parts if len(p) >= _LEAST_REST]


def known_surface_of(scan: PreparedScan, facets: Ints, known: list[Surface], tolerance_mm: float) -> Surface | None:
    """The one of known surfaces that facets (k,) lie on with all their vertices, within tolerance_mm, and face as it does: a piece of
    another face that something has parted from the rest, too small to be told by itself. None for fewer vertices than tell."""
    at = scan.vertices[np.unique(scan.facets[facets])]
    if len(at) < _LEAST_TOLD:
        return None
    best, least = None, np.inf
    for s in known:
        if abs(float(distances(s, at[:1])[0])) > tolerance_mm or np.abs(distances(s, at)).max() > tolerance_mm:
            continue
        middles = scan.centroids[facets]
        facing = np.einsum("ij,ij->i", gradients(s, middles), scan.normals[facets])
        # Of several the one whose chords are least deep: two rims of a cylinder lie on a sphere too.
        deep = float(np.abs(distances(s, middles)).max())
        if facing.min() > _GENTLE and deep < least:
            best, least = s, deep
    return best


def _facets(chords: Chords, groups: Ints) -> Ints:
    return np.concatenate([chords.facets_of(int(k)) for k in groups])


def _region(scan: PreparedScan, facets: Ints, surface: Surface | None, precision: float) -> FoundRegion:
    at = scan.vertices[np.unique(scan.facets[facets])]
    rms = float(np.sqrt(np.mean(distances(surface, at) ** 2))) if surface else 0.0
    some = at[:: 1 + len(at) // _MOST_POINTS]
    u = fit_covariance(surface, some, edge_mm=precision, least_mm=precision) if surface else None
    middle = int(facets[np.argmax(scan.areas[facets])])
    area = float(scan.areas[facets].sum())
    return FoundRegion(surface, len(facets), area, rms, u if u and u.settled else None, middle)


def require_few_pieces(scan: PreparedScan) -> None:
    """Raises ContourError (degenerate) for a mesh of more separate pieces than anybody modelled: lattices, crumbs, unwelded facets."""
    count, piece = pieces_of(scan.facets, scan.across)
    if count > _MOST_PIECES:
        largest = int(np.argmax(np.bincount(piece, scan.areas)))
        raise ContourError(
            "degenerate",
            "this mesh falls into far too many pieces that do not hang together",
            where=Where(point=triple(scan.centroids[np.argmax(piece == largest)])),
            got=f"{count:,} pieces of {len(scan.facets):,} facets",
            need=f"at most {_MOST_PIECES:,}",
            remedy="mend it: drop the islands, weld facets that do not share their corners; or bring its parts in one by one",
        )


def exact_regions(
    scan: PreparedScan,
    *,
    protected: tuple[tuple[Ints, Surface], ...] = (),
    tolerance_mm: float | None = None,
    strips: bool = False,
    report: Callable[[str, float], None] = lambda _, __: None,
) -> Segmentation:
    """Every face of a modelled mesh with its surface through its vertices.

    tolerance_mm: how far vertices may lie off their surfaces; by the file's own rounding when none is given. protected: (facets, surface) of regions that stay as
    they are; they come first. strips: round surfaces begin only where facets lie in one plane with a neighbour,
    as those of a scan hardly ever do. report(what, share) is called on the way and may raise to stop. Raises ContourError (degenerate).
    """
    require_few_pieces(scan)
    report("looking for exact planes", 0.02)
    tolerance = tolerance_mm or 4 * precision_of(scan)
    precision = tolerance / 4
    chords = chords_of(scan, tolerance)
    free = np.ones(chords.count, bool)
    seeds = np.argsort(chords.area, kind="stable")
    if strips:
        seeds = seeds[np.diff(chords.facet_at)[seeds] > 1]

    def told(share: float) -> None:
        report("looking for exact surfaces", 0.1 + 0.7 * share)

    found = grow_all(chords, scan.vertices, free, tolerance, told, seeds)
    report("settling borders", 0.8)
    gone = release(chords, found, free, tolerance)
    if len(gone):
        beside = np.concatenate([gone, *(chords.near_of(int(k)) for k in gone)])
        found += grow_all(chords, scan.vertices, free, tolerance, seeds=np.unique(beside[free[beside]]))
    for _ in range(2):  # what is taken in between lets pieces touch
        simplify(chords, scan.vertices, found, tolerance)
        absorb(chords, scan.vertices, found, tolerance)
        settle(chords, scan.vertices, found, tolerance)
        adopt(chords, scan.vertices, found, tolerance)
    faces: list[Face] = [(g.surface, _facets(chords, g.members)) for g in found if len(g.members)]
    free[:] = True
    for grown in found:
        free[grown.members] = False
    known = [s for s, _ in faces if s is not None and s.kind != "plane"]
    for rest in _rests(chords, free):
        free[rest] = False
        own = _facets(chords, rest)
        faces.append((known_surface_of(scan, own, known, tolerance), own))
    for k in np.argsort(-chords.area, kind="stable"):
        if free[k] and chords.area[k] > 0:
            own = chords.facets_of(int(k))
            faces.append((plane_of(scan, own), own))
    faces = without_inexact(scan, without_crumbs(scan, faces, tolerance), tolerance)
    faces = without_chance(scan, faces, tolerance)
    faces = parted_at_joints(scan, without_crumbs(scan, faces, tolerance, loosely=True), tolerance)
    labels = labels_of(scan, faces).astype(np.int32)
    cut_ears(scan, labels, [s for s, _ in faces], tolerance)
    held = np.zeros(len(scan.facets), bool)
    for facets, _ in protected:
        held[facets] = True
    order = np.argsort(labels, kind="stable")
    order = order[labels[order] >= 0]
    owns = np.split(order, np.cumsum(np.bincount(labels[order], minlength=len(faces)))[:-1]) if len(faces) else []
    rows = [*((s, f) for f, s in protected), *((s, f[~held[f]]) for (s, _), f in zip(faces, owns, strict=True))]
    labels[:] = -1
    regions: list[FoundRegion] = []
    report("working out uncertainties", 0.9)
    for surface, facets in rows:
        if len(facets):
            labels[facets] = len(regions)
            regions.append(_region(scan, facets, surface, precision))
    return Segmentation(labels, tuple(regions), precision, np.zeros(len(scan.facets), bool))
