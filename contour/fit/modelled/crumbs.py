"""A second look at the crumbs between faces, facet by facet: what lies in one plane by chance with a facet of the next face, what the vertices of two
surfaces share, and pieces that each alone tells too little of.

Faces grow over groups of facets in one plane, each to as much as was left. What is left over in the end is given to the surface beside it that it lies
on; pieces side by side that one surface goes through are one face; and the pieces of a face that a band with
all its corners on it has parted are joined by that band.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

import numba as nb
import numpy as np
from numpy.typing import NDArray

from contour.fit.modelled.faces import Face, labels_of, sides_of
from contour.fit.modelled.growth import settled
from contour.fit.modelled.through import fit_through
from contour.geometry.surface_rows import CODES
from contour.geometry.surfaces import Surface, distances, gradients
from contour.mesh.prepare import PreparedScan

__all__ = ["without_crumbs"]

Array = NDArray[np.float64]
Ints = NDArray[np.int64]
Flags = NDArray[np.bool_]

_jit = nb.njit(cache=True, nogil=True)

_CRUMB = 16  # facets at most, of a freeform or round one
_FLAT_CRUMB = 6  # of one that lies in a plane
_PIECE = 60  # of a piece that is joined to its neighbour, whatever the kinds of both
_SOFT = 0.82  # cosine between facets that may be of one face
_DEEPER = 3.0  # times as deep as the deepest of a face: no facet of it
_ALIKE = 0.15  # of each other, that radii of pieces may differ which are one face
# Times the tolerance that one surface may be off pieces which otherwise are several: modellers make blends no nearer to what they mean.
_LOOSE = 20.0
_BAND = 40  # facets of a band between two pieces of a face
_ROUNDS = 4
_FACING = 0.2  # cosine of the most that a sliver may lean
_MOST = 4000  # crumbs: more are no leftovers
_LEAST = {"sphere": 6, "cylinder": 7, "cone": 8}  # vertices that tell a surface of so few facets


@_jit
def _settled(code, p, ids, xyz, corners, at, middle, normal, tolerance, out):  # type: ignore[no-untyped-def]
    for i in range(len(ids)):
        out[i] = settled(code, p, ids[i], xyz, corners, at, middle, normal, tolerance)


class _Faces:
    """label (n,): the face of each facet · surfaces: of each face, none where it is freeform · owns: facets (k,) of each face."""

    def __init__(self, scan: PreparedScan, faces: list[Face], tolerance: float) -> None:
        self.scan, self.tolerance = scan, tolerance
        self.surfaces = [s for s, _ in faces]
        self.label = labels_of(scan, faces)
        self.owns = [own for _, own in faces]
        self.corners = np.ascontiguousarray(scan.facets, np.int64).ravel()
        self.at = np.arange(0, len(self.corners) + 1, 3)
        sides = sides_of(scan)
        self.a, self.b = sides.a, sides.b
        self.soft = np.einsum("ij,ij->i", scan.normals[self.a], scan.normals[self.b]) > _SOFT

    def sizes(self) -> Ints:
        return np.array([len(own) for own in self.owns], np.int64)

    def give(self, rows: list[tuple[Ints | list[int], int]]) -> None:
        """Facets to the faces of these numbers."""
        for facets, k in rows:
            self.label[facets] = k
        order = np.argsort(self.label, kind="stable")
        order = order[self.label[order] >= 0]
        count = np.bincount(self.label[order], minlength=len(self.owns))
        self.owns = np.split(order, np.cumsum(count)[:-1])

    def lies_on(self, surface: Surface, facets: Ints) -> tuple[Array, Array, Array]:
        """Of facets (k,): how far the farthest vertex of each is off a surface, how deep it lies under that, mm, and the cosine of how it leans."""
        middles = self.scan.centroids[facets]
        off = np.abs(distances(surface, self.scan.vertices[self.scan.facets[facets].ravel()])).reshape(-1, 3)
        facing = np.einsum("ij,ij->i", gradients(surface, middles), self.scan.normals[facets])
        return off.max(axis=1), np.abs(distances(surface, middles)), np.asarray(facing)

    def vertices(self, facets: Ints) -> Ints:
        return np.unique(self.scan.facets[facets]).astype(np.int64)

    def depth(self, k: int) -> float:
        """How deep a facet of a face may lie under its surface, mm."""
        surface = self.surfaces[k]
        assert surface is not None
        return _DEEPER * self._deepest(surface, self.owns[k]) + self.tolerance

    def _deepest(self, surface: Surface, facets: Ints) -> float:
        return float(np.abs(distances(surface, self.scan.centroids[facets])).max(initial=0.0))

    def on(self, surface: Surface, facets: Ints, deep_mm: float, off_mm: float) -> Flags:
        """(k,): which facets are chords of a surface, no deeper than so much, with their vertices no farther off than so much."""
        out = np.zeros(len(facets), np.bool_)
        scan = self.scan
        _settled(
            surface.code, surface.packed(), facets, scan.vertices, self.corners, self.at, scan.centroids, scan.normals,
            off_mm, out,
        )  # fmt: skip
        return np.asarray(out & (np.abs(distances(surface, scan.centroids[facets])) <= deep_mm))

    def through(self, near: Surface | str, facets: Ints) -> tuple[Surface, float] | None:
        """The surface of a kind through all vertices of facets, and the farthest of them from it, mm; begun at one near it where there is one."""
        code = CODES[near] if isinstance(near, str) else near.code
        start = None if isinstance(near, str) else near
        return fit_through(code, start, self.scan, facets)

    def crumbs(self) -> Flags:
        """(faces,): which of them are leftovers."""
        sizes = self.sizes()
        kinds = np.array(["" if s is None else s.kind for s in self.surfaces])
        return np.asarray((sizes > 0) & (sizes <= np.where(kinds == "plane", _FLAT_CRUMB, _CRUMB)))

    def beside(self) -> Iterator[tuple[int, int]]:
        """Faces that bend softly into each other, the larger one first."""
        x, y = self.label[self.a], self.label[self.b]
        apart = self.soft & (x != y) & (x >= 0) & (y >= 0)
        sizes = self.sizes()
        pairs = np.unique(np.sort(np.column_stack([x[apart], y[apart]]), axis=1), axis=0)
        order = np.argsort(-sizes[pairs].max(axis=1, initial=0), kind="stable")
        for p, q in pairs[order].tolist():
            yield (p, q) if sizes[p] >= sizes[q] else (q, p)


def _round(surface: Surface | None) -> bool:
    return surface is not None and surface.kind != "plane"


def _hand_over(f: _Faces) -> bool:
    """Facets of crumbs go to the round face beside them that they are chords of; whether any did."""
    any_ = False
    for _ in range(_ROUNDS):
        crumb = f.crumbs()
        x, y = f.label[f.a], f.label[f.b]
        rows = []
        for one, other, facet in ((x, y, f.b), (y, x, f.a)):
            at = f.soft & (one != other) & (one >= 0) & (other >= 0)
            at[at] &= crumb[other[at]] & ~crumb[one[at]]
            rows.append(np.column_stack([one[at], facet[at]]))
        pairs = np.unique(np.vstack(rows), axis=0)
        best: dict[int, tuple[float, int]] = {}  # of several the one that it lies least deep under
        for k in np.unique(pairs[:, 0]).tolist():
            surface = f.surfaces[k]
            if surface is None or not _round(surface):
                continue
            facets = pairs[pairs[:, 0] == k, 1]
            off, deep, facing = f.lies_on(surface, facets)
            # Slivers face anywhere.
            took = (off <= 2 * f.tolerance) & (deep <= f.depth(k)) & (facing > _FACING)
            for g, far in zip(facets[took].tolist(), deep[took].tolist(), strict=True):
                best[g] = min(best.get(g, (np.inf, k)), (far, k))
        if not best:
            break
        f.give([([g], k) for g, (_, k) in best.items()])
        any_ = True
    return any_


def _hand_over_whole(f: _Faces) -> None:
    """Freeform crumbs all of whose vertices lie on the round face beside them go to that: of folded slivers each by itself faces anywhere."""
    crumb = f.crumbs()
    x, y = f.label[f.a], f.label[f.b]
    apart = (x != y) & (x >= 0) & (y >= 0)
    pairs = np.unique(np.concatenate([np.column_stack([x, y])[apart], np.column_stack([y, x])[apart]]), axis=0)
    for small, big in pairs[crumb[pairs[:, 0]] & ~crumb[pairs[:, 1]]].tolist():
        surface, own = f.surfaces[big], f.owns[small]
        if f.surfaces[small] is not None or surface is None or not _round(surface) or not len(own):
            continue
        off, deep, facing = f.lies_on(surface, own)
        mean = np.average(facing, weights=np.maximum(f.scan.areas[own], 1e-30))
        if off.max() <= 2 * f.tolerance and deep.max() <= f.depth(big) and mean > _FACING:
            f.give([(own, big)])


def _alike(one: Surface, other: Surface) -> bool:
    def near(x: float, y: float) -> bool:
        return abs(x - y) <= _ALIKE * max(abs(x), abs(y))

    same = one.kind == other.kind and one.outward == other.outward
    if one.kind == "cone":
        return same and near(one.half_angle, other.half_angle)
    return same and near(one.radius, other.radius) and near(one.minor, other.minor)


def _join(f: _Faces, loosely: bool) -> bool:
    """Faces side by side that one surface goes through are one; whether any were."""
    any_ = False
    for big, small in list(f.beside()):
        one, other = f.owns[big], f.owns[small]
        if not len(one) or not len(other):
            continue
        s, t = f.surfaces[big], f.surfaces[small]
        same = s is not None and t is not None and _round(s) and _alike(s, t)
        crumb = len(other) <= (_FLAT_CRUMB if t is not None and t.kind == "plane" else _PIECE)
        if not (same or (crumb and (len(one) <= _PIECE or _round(s)))):
            continue
        both = np.concatenate([one, other])
        loose = _LOOSE if loosely and (same or len(both) <= 2 * _PIECE) else 2.0
        for near in (s, t):
            if near is None or not _round(near) or (near is t and same):
                continue
            made = f.through(near, both)
            if made is None or made[1] > loose * f.tolerance:
                continue
            deep = _DEEPER * f._deepest(made[0], one) + f.tolerance
            if f.on(made[0], both, deep, max(2 * f.tolerance, 1.01 * made[1])).all():
                f.label[other] = big
                f.owns[big], f.owns[small] = np.sort(both), other[:0]
                f.surfaces[big] = replace(made[0], outward=near.outward)
                any_ = True
                break
    return any_


def _tell_few(f: _Faces) -> None:
    """Freeform crumbs that a simple surface goes through all vertices of are of that."""
    sizes = f.sizes()
    for k, surface in enumerate(f.surfaces):
        if surface is not None or not 3 <= sizes[k] <= _CRUMB:
            continue
        own = f.owns[k]
        for kind, least in _LEAST.items():
            if len(f.vertices(own)) < least:
                continue
            made = f.through(kind, own)
            if made and made[1] <= f.tolerance and f.on(made[0], own, np.inf, 2 * f.tolerance).all():
                f.surfaces[k] = made[0]
                break


def _band(f: _Faces, surface: Surface, start: int, goal: int, deep_mm: float) -> list[int] | None:
    """Facets of other faces, all chords of a surface, by way of which one piece of it reaches another."""
    across = f.scan.across
    came: dict[int, int] = {}
    front = f.owns[start].tolist()
    seen = set(front)
    for _ in range(_BAND):
        following: dict[int, int] = {}
        for facet in front:
            for mate in across[facet]:
                g = int(mate) // 3
                if mate < 0 or g in seen:
                    continue
                if f.label[g] == goal:
                    way = []
                    while facet in came:
                        way.append(facet)
                        facet = came[facet]
                    return way
                following[g] = facet
        if not following:
            return None
        ids = np.array(sorted(following), np.int64)
        seen |= set(following)
        front = ids[f.on(surface, ids, deep_mm, 2 * f.tolerance)].tolist()
        came |= {g: following[g] for g in front}
    return None


def _reunite(f: _Faces) -> None:
    """Small pieces of a face apart from it take what is between them, where all of that lies on it."""
    sizes = f.sizes()
    rounds = [k for k in range(len(sizes)) if sizes[k] and _round(f.surfaces[k])]
    for small in (k for k in rounds if sizes[k] <= _CRUMB):
        t = f.surfaces[small]
        for big in (k for k in rounds if sizes[k] > sizes[small]):
            s = f.surfaces[big]
            assert s is not None and t is not None
            if not _alike(s, t):
                continue
            own = f.owns[small]
            deep = f.depth(big)
            if not f.on(s, own, deep, 2 * f.tolerance).all():
                continue
            way = _band(f, s, small, big, deep)
            if way is not None:
                f.give([(own, big), (way, big)])
                break


def without_crumbs(scan: PreparedScan, faces: list[Face], tolerance_mm: float, *, loosely: bool = False) -> list[Face]:
    """Faces (surface or none, facets (k,)) with their crumbs joined to them, where those lie on them. loosely: also pieces that one surface
    goes through as nearly as modellers make it."""
    f = _Faces(scan, faces, tolerance_mm)
    if f.crumbs().sum() > _MOST:
        return faces
    for _ in range(_ROUNDS):
        handed = _hand_over(f)
        if not _join(f, loosely) and not handed:
            break
    _hand_over_whole(f)
    _tell_few(f)
    _reunite(f)
    return [(s, own) for s, own in zip(f.surfaces, f.owns, strict=True) if len(own)]
