"""Who owns what lies at a border: bands that belong to a larger neighbour, chords on two surfaces, facets with all corners on the border."""

from __future__ import annotations

import numba as nb
import numpy as np
from numpy.typing import NDArray

from contour.fit.modelled.chords import Chords
from contour.fit.modelled.faces import sides_of
from contour.fit.modelled.growth import Grown, off_of, settled
from contour.fit.modelled.through import fitted
from contour.geometry.surface_rows import gap
from contour.geometry.surfaces import Surface, distances
from contour.mesh.prepare import PreparedScan

__all__ = ["absorb", "adopt", "cut_ears", "release", "settle"]

Ints = NDArray[np.int64]

_jit = nb.njit(cache=True, nogil=True)


_FAR_DEEPER, _MANY = 4.0, 12  # times as deep as nine in ten of a face of so many chords
_FAR_LESS = 0.3  # of how deep it lies under one surface, where a chord belongs to another
_FINE = 40.0  # times the tolerance, that chords are deep where whole strips of them lie in one plane
_DEEPER = 3.0  # times as deep as the deepest of a face: no chord of it
_FACING = 0.2  # cosine of the most that a sliver may lean
_MOST_EARS = 4  # rounds: along a band of them one after the other would go


@_jit
def facing(code, p, middle, normal):  # type: ignore[no-untyped-def]
    """Cosine between a chord's normal and the surface's over its middle."""
    g = np.empty(3)
    gap(code, p, middle, g)
    return (g[0] * normal[0] + g[1] * normal[1] + g[2] * normal[2]) * p[8]


@_jit
def _held(code, p, groups, xyz, vertices, vertex_at, middle, normal, tolerance, deepest, shallow):  # type: ignore[no-untyped-def]
    """Whether every chord lies on a surface, no deeper under it than `deepest`. About a ball's pole many facets lie in one plane to within the
    tolerance; what is no deeper than `shallow` is no flat on it."""
    g = np.empty(3)
    for k in groups:
        deep = abs(gap(code, p, middle[k], g))
        if deep > deepest:
            return False
        if not settled(code, p, k, xyz, vertices, vertex_at, middle, normal, tolerance, deep > shallow):
            return False
    return True


def _pairs(chords: Chords, owner: Ints) -> tuple[Ints, Ints]:
    """Chords on both sides of every border between owners."""
    x = np.repeat(np.arange(chords.count), np.diff(chords.near_at))
    apart = owner[x] != owner[chords.near]
    return x[apart], chords.near[apart]


def _owners(chords: Chords, found: list[Grown]) -> Ints:
    owner = np.full(chords.count, -1)
    for k, grown in enumerate(found):
        owner[grown.members] = k
    return owner


def _sagitta(chords: Chords, members: Ints, surface: Surface) -> float:
    """How deep the deepest chord lies under its surface, mm."""
    return float(np.abs(distances(surface, chords.middle[members])).max())


def _usual(chords: Chords, members: Ints, surface: Surface, tolerance_mm: float) -> float:
    """How deep a chord may lie under the surface of a face as it is, mm; of many, not so deep as a few that are far deeper than the others."""
    deep = np.abs(distances(surface, chords.middle[members]))
    if len(members) < _MANY:
        return _DEEPER * float(deep.max()) + tolerance_mm
    return _FAR_DEEPER * float(np.percentile(deep, 90)) + tolerance_mm


def _depths(chords: Chords, found: list[Grown], tolerance_mm: float) -> list[float]:
    """How deep a chord of each face may lie under its surface, mm: what lies deeper is a flat on it, though its corners lie on it."""
    return [_DEEPER * _sagitta(chords, g.members, g.surface) + tolerance_mm if len(g.members) else 0.0 for g in found]


@_jit
def deep_of(code, p, middle):  # type: ignore[no-untyped-def]
    """How deep a chord's middle lies under its surface, mm."""
    return abs(gap(code, p, middle, np.empty(3)))


def _joined(one: Grown, other: Grown, chords: Chords, xyz: NDArray[np.float64], tolerance_mm: float) -> Surface | None:
    """The one surface that two pieces of a kind lie on together, where there is one: each alone knows it but nearby."""
    if one.surface.kind != other.surface.kind or one.surface.outward != other.surface.outward:
        return None
    surface, worst = fitted(chords, xyz, np.concatenate([one.members, other.members]), one.surface)
    return surface if worst <= tolerance_mm else None


def release(chords: Chords, found: list[Grown], free: NDArray[np.bool_], tolerance_mm: float) -> Ints:
    """Chords (k,) far deeper under their surface than the others, let go of, to be tried again: the wall of a hole through a ball ends on the
    ball. Marks them in `free` (g,)."""
    gone = [np.empty(0, np.int64)]
    for grown in found:
        if len(grown.members) < _MANY:
            continue
        deep = np.abs(distances(grown.surface, chords.middle[grown.members]))
        out = deep > _usual(chords, grown.members, grown.surface, tolerance_mm)
        if out.any():
            gone.append(grown.members[out])
            grown.members = grown.members[~out]
    free[np.concatenate(gone)] = True
    return np.concatenate(gone)


def absorb(chords: Chords, xyz: NDArray[np.float64], found: list[Grown], tolerance_mm: float) -> None:
    """What lies on a larger neighbour by all its vertices, no deeper than that one's own chords, was a band of it: a ring of a torus lies on
    a sphere and a cone too, and its lowest in a plane. Changes `found` in place; what is absorbed has no members left."""
    owner = _owners(chords, found)
    x, y = _pairs(chords, owner)
    beside: dict[int, set[int]] = {}
    loose: dict[int, set[int]] = {}
    for a, b, g in zip(owner[x].tolist(), owner[y].tolist(), y.tolist(), strict=True):
        if a < 0:
            continue
        if b < 0:
            loose.setdefault(a, set()).add(g)
        else:
            beside.setdefault(a, set()).add(b)
    for k in sorted(range(len(found)), key=lambda k: (-len(found[k].members), k)):
        grown = found[k]
        if not len(grown.members):
            continue
        sagitta = _sagitta(chords, grown.members, grown.surface)
        deep = _DEEPER * sagitta + tolerance_mm
        shallow = min(sagitta, _FINE * tolerance_mm)
        # What has a surface of its own has to be as deep as the others are.
        usual = _usual(chords, grown.members, grown.surface, tolerance_mm)

        def own(groups: Ints, deep: float, grown: Grown = grown, shallow: float = shallow) -> bool:
            return bool(
                _held(
                    grown.surface.code, grown.surface.packed(), groups, xyz, chords.vertices, chords.vertex_at,
                    chords.middle, chords.normal, 2 * tolerance_mm, deep, shallow,
                )
            )  # fmt: skip

        todo = [*beside.get(k, ())]
        seen = {k}
        while todo:
            o = todo.pop()
            if o in seen or len(found[o].members) > len(grown.members) or not len(found[o].members):
                continue
            seen.add(o)
            # Pieces of one face that were begun apart; or a band of it that something else goes through as well.
            joined = _joined(grown, found[o], chords, xyz, 2 * tolerance_mm)
            if joined is not None or own(found[o].members, usual):
                grown.surface = joined or grown.surface
                grown.members = np.sort(np.concatenate([grown.members, found[o].members]))
                found[o].members = found[o].members[:0]
                todo += beside.get(o, ())
                loose.setdefault(k, set()).update(loose.pop(o, ()))
                owner[grown.members] = k
        front = [g for g in loose.get(k, ()) if owner[g] < 0]
        more = []
        while front:
            g = front.pop()
            if owner[g] < 0 and own(np.array([g]), deep):
                owner[g] = k
                more.append(g)
                front += [h for h in chords.near_of(g).tolist() if owner[h] < 0]
        if more:
            grown.members = np.sort(np.concatenate([grown.members, np.array(more, np.int64)]))


def settle(chords: Chords, xyz: NDArray[np.float64], found: list[Grown], tolerance_mm: float) -> None:
    """Chords at a border go to the surface they lie nearer to; those left free to the one all around them, if they lie on it."""
    owner = _owners(chords, found)
    packed = [(g.surface.code, g.surface.packed()) for g in found]
    depth = _depths(chords, found, tolerance_mm)
    lone = np.diff(chords.facet_at) <= 2
    for _ in range(3):
        moved = 0
        x, y = _pairs(chords, owner)
        around: dict[int, set[int]] = {}
        for g, o in zip(x.tolist(), owner[y].tolist(), strict=True):
            if o >= 0:
                around.setdefault(g, set()).add(o)
        for g in sorted(around):
            own = int(owner[g])
            off = {
                k: float(off_of(*packed[k], g, xyz, chords.vertices, chords.vertex_at))
                for k in around[g] | ({own} if own >= 0 else set())
            }
            best = min(around[g], key=lambda k: (off[k], k))
            if own >= 0:
                nearer = off[best] < 0.5 * off[own] and off[own] > 0.25 * tolerance_mm
                if not nearer and off[own] <= 2 * tolerance_mm:
                    # Its corners lie on both: of the two it is a chord of the one that it lies far less deep under.
                    deep = {k: float(deep_of(*packed[k], chords.middle[g])) for k in off if off[k] <= 2 * tolerance_mm}
                    best = min(deep, key=lambda k: (deep[k], k))
                    nearer = best != own and deep[best] + tolerance_mm < _FAR_LESS * deep[own]
                wins = nearer and settled(
                    *packed[best], g, xyz, chords.vertices, chords.vertex_at, chords.middle, chords.normal, tolerance_mm,
                )  # fmt: skip
            else:
                # At a pole chords lean more than elsewhere: what is held all around belongs there.
                soft = chords.near[chords.near_at[g] : chords.soft_end[g]]
                wins = (
                    bool(lone[g])
                    and off[best] <= 2 * tolerance_mm
                    and deep_of(*packed[best], chords.middle[g]) <= depth[best]
                    and len(soft) > 0
                    and bool((owner[soft] == best).all())
                )
            if wins:
                owner[g] = best
                moved += 1
        if not moved:
            break
    for k, grown in enumerate(found):
        grown.members = np.flatnonzero(owner == k)


def adopt(chords: Chords, xyz: NDArray[np.float64], found: list[Grown], tolerance_mm: float) -> None:
    """Lone facets that nothing took, though all their corners lie on the surface beside them, belong to it: slivers face anywhere. Where
    several offer themselves, the one that most of its neighbours belong to."""
    owner = _owners(chords, found)
    packed = [(g.surface.code, g.surface.packed()) for g in found]
    depth = _depths(chords, found, tolerance_mm)
    lone = np.diff(chords.facet_at) <= 2
    todo = np.flatnonzero((owner < 0) & lone).tolist()
    while todo:
        left = []
        moved = False
        for g in todo:
            beside = [int(k) for k in owner[chords.near_of(g)] if k >= 0]
            for k in sorted(set(beside), key=lambda k: (-beside.count(k), k)):
                on = deep_of(*packed[k], chords.middle[g]) <= depth[k] and (
                    off_of(*packed[k], g, xyz, chords.vertices, chords.vertex_at) <= 2 * tolerance_mm
                )
                # One that is folded over is held on two of its sides.
                held = facing(*packed[k], chords.middle[g], chords.normal[g]) > _FACING or beside.count(k) > 1
                if on and held:
                    owner[g] = k
                    moved = True
                    break
            else:
                left.append(g)
        todo = left if moved else []
    for k, grown in enumerate(found):
        grown.members = np.flatnonzero(owner == k)


def cut_ears(
    scan: PreparedScan, labels: NDArray[np.int32], surfaces: list[Surface | None], tolerance_mm: float
) -> None:
    """Facets with all corners on the surfaces of both sides of a border: they belong to the side that leaves the border its shorter sides, for
    there the border runs through all three corners. Changes `labels` (n,) in place."""
    sides = sides_of(scan)
    a, b = sides.a, sides.b
    corners = scan.vertices[scan.facets]
    lengths = np.linalg.norm(corners - np.roll(corners, -1, axis=1), axis=2)
    most: dict[int, float] = {}  # deep, that a facet of each face may lie
    fresh = np.ones(len(labels), bool)  # beside what has moved
    for _ in range(_MOST_EARS):
        apart = (labels[a] != labels[b]) & (labels[a] >= 0) & (labels[b] >= 0) & (fresh[a] | fresh[b])
        pairs = np.unique(
            np.concatenate([np.column_stack([a, labels[b]])[apart], np.column_stack([b, labels[a]])[apart]]), axis=0
        )
        moved = []
        for o in np.unique(pairs[:, 1]).tolist():
            surface = surfaces[o]
            if surface is None:
                continue
            ids = pairs[pairs[:, 1] == o, 0]
            off = np.abs(distances(surface, corners[ids].reshape(-1, 3))).reshape(-1, 3).max(axis=1)
            deep = np.abs(distances(surface, scan.centroids[ids]))
            if o not in most:
                own = scan.centroids[labels == o]
                most[o] = _DEEPER * float(np.abs(distances(surface, own)).max(initial=0.0)) + tolerance_mm
            for f in ids[(off <= 2 * tolerance_mm) & (deep <= most[o])].tolist():
                mine = labels[f]
                across = scan.across[f]
                beside = np.where(across >= 0, labels[across // 3], -1)
                inside, outside = lengths[f][beside == mine], lengths[f][beside == o]
                alone = len(inside) == 0 and len(outside) > 0 and surfaces[mine] is not None
                if alone or (len(inside) and len(outside) and outside.max() > 1.01 * inside.max()):
                    labels[f] = o
                    moved.append(f)
        fresh[:] = False
        fresh[moved] = True
        if not moved:
            return
