"""Meshes that were modelled, not scanned: vertices lie on their surfaces to float precision, facets are as few as the chord error asks.

There is no noise to follow, so the method is another than that of :mod:`contour.fit.segment`: facets in exactly one plane are grouped; a
group that bends softly into its neighbours is a chord of something round, and grows as long as one surface goes through all *vertices*. What
bends nowhere is a plane. Rests stay freeform.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csr_matrix
from scipy.sparse.csgraph import connected_components

from contour.fit.covariance import fit_covariance
from contour.fit.primitives import CODES, face_side, guess, refine
from contour.fit.segment.whole import FoundRegion, Segmentation
from contour.fit.surface import Surface, distances
from contour.mesh.prepare import PreparedScan

__all__ = ["MOST_FACETS", "Nature", "exact_regions", "nature_of", "precision_of"]

Nature = Literal["scanned", "modelled", "mixed"]
Array = NDArray[np.float64]
Ints = NDArray[np.int64]

MOST_FACETS = 60_000  # beyond, growing chord by chord takes too long
_FLAT_DEG = 0.03  # facets of one plane; more where slivers have no better normal
_SOFT_DEG = 50.0  # between chords of one round surface: a cylinder of eight sides turns by 45
_MODELLED, _SCANNED = 0.6, 0.1  # shares of the area that lie in exact planes
_KINDS = ("cylinder", "cone", "sphere", "torus")
# Vertices on more lines (or points) than define a surface: those beyond it prove it.
_PROOF = {"cylinder": 8, "cone": 8, "sphere": 7, "torus": 12}
_ROUNDS = 200
_WIDER = 12.0  # chords of one surface are of one size, more or less
_PATCHES = (4, 9, 20, 45)  # chords that a surface may begin with


def precision_of(scan: PreparedScan) -> float:
    """How exactly vertices are given: single precision at the largest coordinate; no worse than a rounded text file. mm."""
    size = float(np.ptp(scan.vertices, axis=0).max())
    single = 4 * 2.0**-24 * float(np.abs(scan.vertices).max())
    return float(np.clip(_off_planes(scan, 2e-6 * size), single, 2e-6 * size))


def _off_planes(scan: PreparedScan, most: float) -> float:
    """How far vertices lie off the planes that they share: the file's own rounding. mm."""
    edges = _edges(scan, most)
    flat = edges.turn < np.minimum(_FLAT_DEG + edges.slack, 0.2)
    group = _components(len(scan.facets), edges.a[flat], edges.b[flat])
    counts = np.bincount(group)
    found = []
    for g in np.argsort(-counts)[:40]:
        at = np.unique(scan.facets[group == g])
        if len(at) < 5:
            break
        off = scan.vertices[at] - scan.vertices[at].mean(axis=0)
        _, _, rows = np.linalg.svd(off, full_matrices=False)
        found.append(float(np.abs(off @ rows[2]).max()))
    return 2 * float(np.percentile(found, 25)) if found else 0.0


@dataclass(frozen=True, slots=True)
class _Edges:
    """Inner edges: facets on both sides, and the angle between them (degrees) with what it may be off by."""

    a: Ints
    b: Ints
    turn: Array
    slack: Array


def _edges(scan: PreparedScan, precision: float) -> _Edges:
    n = len(scan.facets)
    inner = scan.across >= 0
    a = np.repeat(np.arange(n), 3)[inner.ravel()]
    b = (scan.across[inner] // 3).astype(np.int64)
    once = a < b
    a, b = a[once], b[once]
    cosine = np.clip(np.einsum("ij,ij->i", scan.normals[a], scan.normals[b]), -1, 1)
    sine = np.linalg.norm(np.cross(scan.normals[a], scan.normals[b]), axis=1)
    corners = scan.vertices[scan.facets]
    longest = np.linalg.norm(corners - np.roll(corners, -1, axis=1), axis=2).max(axis=1)
    off = np.degrees(2 * precision * longest / np.maximum(2 * scan.areas, 1e-30))
    return _Edges(a, b, np.degrees(np.arctan2(sine, cosine)), np.minimum(off[a] + off[b], 180.0))


def _components(n: int, a: Ints, b: Ints) -> Ints:
    graph = csr_matrix((np.ones(len(a), np.int8), (a, b)), shape=(n, n))
    return np.asarray(connected_components(graph, directed=False)[1], np.int64)


def nature_of(scan: PreparedScan) -> Nature:
    """Whether a mesh was modelled: whether facets lie in exact planes with their neighbours, which those of a scan never do."""
    edges = _edges(scan, precision_of(scan))
    flat = edges.turn < np.minimum(_FLAT_DEG + edges.slack, 0.2)
    paired = np.zeros(len(scan.facets), bool)
    paired[edges.a[flat]] = True
    paired[edges.b[flat]] = True
    # A facet that is a plane by itself has sharp edges only: a wedge, a pyramid.
    sharp = np.ones(len(scan.facets), bool)
    soft = (edges.turn < _SOFT_DEG) & ~flat
    sharp[edges.a[soft]] = False
    sharp[edges.b[soft]] = False
    share = float(scan.areas[paired | (sharp & (len(scan.facets) < 2000))].sum() / max(scan.areas.sum(), 1e-30))
    return "modelled" if share >= _MODELLED else "mixed" if share >= _SCANNED else "scanned"


class _Chords:
    """Flat groups with their facets, vertices and soft neighbours."""

    def __init__(self, scan: PreparedScan, precision: float) -> None:
        self.scan = scan
        edges = _edges(scan, precision)
        flat = edges.turn < np.minimum(_FLAT_DEG + edges.slack, 1.0)
        self.group = _components(len(scan.facets), edges.a[flat], edges.b[flat])
        self.count = int(self.group.max()) + 1
        self.area = np.bincount(self.group, scan.areas, self.count)
        order = np.argsort(self.group, kind="stable")
        self.facets = np.split(order, np.cumsum(np.bincount(self.group, minlength=self.count))[:-1])
        normal = np.stack(
            [np.bincount(self.group, scan.areas * scan.normals[:, k], self.count) for k in range(3)], axis=1
        )
        self.normal = normal / np.maximum(np.linalg.norm(normal, axis=1), 1e-30)[:, None]
        centre = [np.bincount(self.group, scan.areas * scan.centroids[:, k], self.count) for k in range(3)]
        self.middle = np.stack(centre, axis=1) / np.maximum(self.area, 1e-30)[:, None]
        # The middle of a ring is not on it: of larger groups that of the largest facet.
        for g, own in enumerate(self.facets):
            if len(own) > 4:
                self.middle[g] = scan.centroids[own[np.argmax(scan.areas[own])]]
        ga, gb = self.group[edges.a], self.group[edges.b]
        soft = (ga != gb) & (edges.turn < _SOFT_DEG)
        self.soft: list[dict[int, float]] = [{} for _ in range(self.count)]
        for x, y, t in zip(ga[soft], gb[soft], edges.turn[soft], strict=True):
            self.soft[x][int(y)] = float(t)
            self.soft[y][int(x)] = float(t)

    def vertices(self, groups: list[int]) -> Ints:
        return np.unique(self.scan.facets[np.concatenate([self.facets[g] for g in groups])])


def _fitted(chords: _Chords, groups: list[int], kind: str, near: Surface | None = None) -> tuple[Surface, float] | None:
    """The surface through the vertices, and the farthest of them from it, mm. It begins at `near`, else at a guess."""
    scan, code, p = chords.scan, CODES[kind], np.zeros(9)
    points = np.ascontiguousarray(scan.vertices[chords.vertices(groups)])
    if len(points) < 6:
        return None
    # A chord faces as its surface does over its middle; normals at vertices lean at the border of a patch.
    middles, normals = np.ascontiguousarray(chords.middle[groups]), np.ascontiguousarray(chords.normal[groups])
    ids, all_of = np.arange(len(points)), np.arange(len(groups))
    if near is not None:
        p[:] = near.packed()
    elif not guess(code, p, middles, normals, all_of, len(all_of)):
        return None
    refine(code, p, points, ids, len(ids), 60, 0.0)
    face_side(code, p, middles, normals, all_of, len(all_of))
    if not np.isfinite(p).all():
        return None
    surface = Surface.unpacked(code, p)
    return surface, float(np.abs(distances(surface, points)).max())


def _off(chords: _Chords, groups: list[int], surface: Surface) -> Array:
    """How far the farthest vertex of each chord lies off, mm."""
    return np.array([np.abs(distances(surface, chords.scan.vertices[chords.vertices([g])])).max() for g in groups])


def _begun(chords: _Chords, patch: list[int], kind: str, tolerance: float) -> tuple[Surface, set[int]] | None:
    """A surface through the seed (first of the patch) and as much of the patch as lies on one."""
    groups = patch
    held = _fitted(chords, groups, kind)
    for _ in range(8):
        if held is None or len(groups) < 3:
            return None
        if held[1] <= tolerance:
            return held[0], set(groups)
        off = _off(chords, groups, held[0])
        # The worse half goes, never the seed.
        keep = [g for g, d in zip(groups, off, strict=True) if d <= max(np.median(off), tolerance) or g == patch[0]]
        if len(keep) == len(groups):
            return None
        groups = keep
        held = _fitted(chords, groups, kind)
    return None


def _patch(chords: _Chords, seed: int, free: NDArray[np.bool_], most: int) -> list[int]:
    """The seed and the free chords around it, ring by ring, the gentlest bends first."""
    patch, ring, held = [seed], [seed], {seed}
    while ring and len(patch) < most:
        outer: dict[int, float] = {}
        for g in ring:
            for h, turn in chords.soft[g].items():
                # A wide plane that a fillet runs into is no chord of it.
                if free[h] and h not in held and chords.area[h] < _WIDER * chords.area[seed]:
                    outer[h] = min(turn, outer.get(h, 180.0))
        ring = sorted(outer, key=lambda h: (outer[h], h))[: most - len(patch)]
        held.update(ring)
        patch += ring
    return patch


def _follows(chords: _Chords, g: int, surface: Surface, tolerance: float) -> bool:
    """Whether a chord's vertices lie on a surface and the chord faces as the surface does there: a plane that only touches does not."""
    points = chords.scan.vertices[np.unique(chords.scan.facets[chords.facets[g]])]
    if np.abs(distances(surface, points)).max() > tolerance:
        return False
    middle = chords.middle[g]
    step = 1e-4 * max(float(np.ptp(points, axis=0).max()), 1e-6)
    eye = np.eye(3) * step
    slope = (distances(surface, middle + eye) - distances(surface, middle - eye)) / (2 * step)
    length = float(np.linalg.norm(slope))
    if length < 1e-9:
        return False
    # By its neighbours one knows how coarse the chords are here: it may lean by a part of one step.
    step_deg = max(chords.soft[g].values(), default=0.0)
    leans = np.degrees(np.arccos(min(1.0, abs(float(slope @ chords.normal[g]) / length))))
    return bool(leans < 0.6 * step_deg + 0.5)


def _proved(chords: _Chords, groups: list[int], surface: Surface, tolerance: float) -> bool:
    """Whether more vertices lie on a surface than define it. Three circles about one axis lie on a torus whatever they belong to."""
    points = chords.scan.vertices[chords.vertices(groups)]
    if len(points) < _PROOF[surface.kind]:
        return False
    if surface.kind != "torus":
        return True
    axis, off = np.array(surface.axis), points - np.array(surface.origin)
    heights = off @ axis
    reach = np.linalg.norm(off - heights[:, None] * axis, axis=1)
    rows = np.unique(np.round(np.column_stack([heights, reach]) / (20 * tolerance)).astype(np.int64), axis=0)
    # Rounding may part one circle into two neighbours; those count once.
    apart = [rows[0]]
    for row in rows[1:]:
        if all(np.abs(row - other).max() > 1 for other in apart):
            apart.append(row)
        if len(apart) > 3:
            return True
    return False


def _grown(
    chords: _Chords, seed: int, kind: str, free: NDArray[np.bool_], tolerance: float
) -> tuple[Surface, set[int]] | None:
    """A surface of a kind that begins at a chord and takes all that follow it; None where too few prove it."""
    largest = 3 * float(np.linalg.norm(np.ptp(chords.scan.vertices, axis=0)))
    for most in _PATCHES:
        patch = _patch(chords, seed, free, most)
        begun = _begun(chords, patch, kind, tolerance) if len(patch) >= 3 else None
        if begun is None or begun[0].radius > largest:
            if len(patch) < most:
                break
            continue
        surface, members = begun
        if not all(_follows(chords, g, surface, 2 * tolerance) for g in members):
            continue
        for _ in range(_ROUNDS):
            front = sorted({h for g in members for h in chords.soft[g] if h not in members and free[h]})
            more = [h for h in front if _follows(chords, h, surface, 2 * tolerance)]
            if not more:
                break
            members |= set(more)
            again = _fitted(chords, sorted(members), kind, surface)
            if again is not None and again[1] <= 2 * tolerance:
                surface = again[0]
        if len(members) >= 3 and _proved(chords, sorted(members), surface, tolerance):
            return surface, members
    return None


def _plane(scan: PreparedScan, facets: Ints) -> Surface:
    w = scan.areas[facets] / max(scan.areas[facets].sum(), 1e-30)
    at = np.unique(scan.facets[facets])
    middle = scan.vertices[at].mean(axis=0)
    _, _, rows = np.linalg.svd(scan.vertices[at] - middle, full_matrices=False)
    normal = rows[2] if len(rows) > 2 else scan.normals[facets[0]]
    mean = w @ scan.normals[facets]
    normal = normal if normal @ mean > 0 else -normal
    at_x, at_y, at_z = (float(x) for x in middle)
    n_x, n_y, n_z = (float(x) for x in normal)
    return Surface("plane", (at_x, at_y, at_z), (n_x, n_y, n_z), 0.0, 1)


def _sagitta(chords: _Chords, groups: list[int], surface: Surface) -> float:
    """How deep the deepest chord lies under its surface, mm."""
    return float(np.abs(distances(surface, chords.middle[groups])).max())


def _absorbed(
    chords: _Chords, found: list[tuple[Surface, set[int]]], free: NDArray[np.bool_], tolerance: float
) -> None:
    """What lies on a larger neighbour by all its vertices, no deeper than that one's own chords, was a band of it: a ring of a torus lies on a
    sphere and a cone too, and its lowest in a plane."""
    owner = np.full(chords.count, -1)
    for k, (_, members) in enumerate(found):
        owner[list(members)] = k
    for k in sorted(range(len(found)), key=lambda k: (-len(found[k][1]), k)):
        surface, members = found[k]
        if not members:
            continue
        deep = 1.5 * _sagitta(chords, sorted(members), surface) + tolerance

        def own(groups: list[int], surface: Surface = surface, deep: float = deep) -> bool:
            on = float(_off(chords, groups, surface).max()) <= 2 * tolerance
            return (
                on
                and _sagitta(chords, groups, surface) <= deep
                and all(_follows(chords, g, surface, 2 * tolerance) for g in groups)
            )

        grown = True
        while grown:
            grown = False
            for g in sorted({h for m in members for h in chords.soft[m]} - members):
                if g in members:
                    continue
                o = int(owner[g])
                groups = sorted(found[o][1]) if o >= 0 else [g]
                if (o >= 0 and len(groups) > len(members)) or not own(groups):
                    continue
                members |= set(groups)
                owner[groups] = k
                free[groups] = False
                if o >= 0:
                    found[o][1].clear()
                grown = True


def _contested(
    chords: _Chords, found: list[tuple[Surface, set[int]]], free: NDArray[np.bool_], tolerance: float
) -> None:
    """Chords at a border go to the surface they lie nearer to; those left free to the one around them, if they lie on it."""
    owner = np.full(chords.count, -1)
    for k, (_, members) in enumerate(found):
        owner[list(members)] = k
    for _ in range(3):
        moved = 0
        for g in range(chords.count):
            around = {int(owner[h]) for h in chords.soft[g] if owner[h] >= 0} - {int(owner[g])}
            if not around:
                continue
            off = {k: float(_off(chords, [g], found[k][0])[0]) for k in around}
            best = min(off, key=lambda k: (off[k], k))
            if owner[g] >= 0:
                own = float(_off(chords, [g], found[owner[g]][0])[0])
                wins = (
                    off[best] < 0.5 * own and own > 0.25 * tolerance and _follows(chords, g, found[best][0], tolerance)
                )
            else:
                # At a pole chords lean more than elsewhere: what is held all around belongs there.
                held = all(owner[h] == best for h in chords.soft[g])
                wins = off[best] <= 2 * tolerance and held
            if wins:
                if owner[g] >= 0:
                    found[owner[g]][1].discard(g)
                owner[g] = best
                found[best][1].add(g)
                free[g] = False
                moved += 1
        if not moved:
            return


def _rests(chords: _Chords, free: NDArray[np.bool_]) -> list[list[int]]:
    """Chords that no surface explains and that bend softly into each other: freeform, all that hang together as one, not a plane a facet."""
    loose = free & (np.array([len(f) for f in chords.facets]) <= 2)
    pairs = [(g, h) for g in np.flatnonzero(loose) for h in chords.soft[g] if h > g and loose[h]]
    a, b = np.array(pairs, np.int64).reshape(-1, 2).T
    label = _components(chords.count, a, b)
    groups: dict[int, list[int]] = {}
    for g in np.flatnonzero(loose):
        groups.setdefault(int(label[g]), []).append(int(g))
    return [own for own in groups.values() if len(own) >= 3]


def exact_regions(
    scan: PreparedScan,
    *,
    protected: tuple[tuple[Ints, Surface], ...] = (),
    report: Callable[[str, float], None] = lambda _, __: None,
) -> Segmentation:
    """Every face of a modelled mesh with its surface through its vertices.

    protected: (facets, surface) of regions that stay as they are; they come first. report(what, share) is called on the way and may raise to stop.
    """
    precision = precision_of(scan)
    tolerance = 4 * precision
    chords = _Chords(scan, precision)
    found = _surfaces(chords, tolerance, report)
    free = np.ones(chords.count, bool)
    for _, members in found:
        free[list(members)] = False
    report("settling borders", 0.9)
    _absorbed(chords, found, free, tolerance)
    _contested(chords, found, free, tolerance)
    faces: list[tuple[Surface | None, Ints]] = [
        (s, np.concatenate([chords.facets[g] for g in sorted(members)])) for s, members in found if members
    ]
    rests = _rests(chords, free)
    free[[g for groups in rests for g in groups]] = False
    faces += [(None, np.concatenate([chords.facets[g] for g in groups])) for groups in rests]
    flat = [g for g in np.argsort(-chords.area, kind="stable") if free[g] and chords.area[g] > 0]
    faces += [(_plane(scan, chords.facets[g]), chords.facets[g]) for g in flat]
    held = np.zeros(len(scan.facets), bool)
    for facets, _ in protected:
        held[facets] = True
    rest = [(s, facets[~held[facets]]) for s, facets in faces]
    labels = np.full(len(scan.facets), -1, np.int32)
    regions: list[FoundRegion] = []
    for surface, facets in [*((s, f) for f, s in protected), *rest]:
        if not len(facets):
            continue
        at = scan.vertices[np.unique(scan.facets[facets])]
        rms = float(np.sqrt(np.mean(distances(surface, at) ** 2))) if surface else 0.0
        u = fit_covariance(surface, at, edge_mm=precision, least_mm=precision) if surface else None
        middle = int(facets[np.argmax(scan.areas[facets])])
        labels[facets] = len(regions)
        regions.append(
            FoundRegion(
                surface, len(facets), float(scan.areas[facets].sum()), rms, u if u and u.settled else None, middle
            )
        )
    return Segmentation(labels, tuple(regions), precision, np.zeros(len(scan.facets), bool))


def _surfaces(
    chords: _Chords, tolerance: float, report: Callable[[str, float], None]
) -> list[tuple[Surface, set[int]]]:
    """Round surfaces with their chords, grown from the narrowest chords on: a wide plane has soft neighbours too, where a fillet runs into it."""
    free = np.ones(chords.count, bool)
    found: list[tuple[Surface, set[int]]] = []
    for n, seed in enumerate(np.argsort(chords.area, kind="stable")):
        if n % 50 == 0:
            report("looking for exact surfaces", 0.1 + 0.8 * n / chords.count)
        if not free[seed] or not chords.soft[seed] or chords.area[seed] <= 0:
            continue
        tried = [got for kind in _KINDS if (got := _grown(chords, int(seed), kind, free, tolerance)) is not None]
        if tried:
            # A ring of a torus lies on a sphere and on a cone as well: what explains most is meant, of equals the simpler one.
            best = max(tried, key=lambda got: chords.area[list(got[1])].sum() * (1 - 1e-6 * _KINDS.index(got[0].kind)))
            found.append(best)
            free[list(best[1])] = False
    return found
