"""Freeform faces: what no other surface explains and bends softly, spread out flat and covered by the smoothest surface through its vertices
and along its borders."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from OCP.collections import Array1_gp_Pnt2d
from OCP.Geom2d import Geom2d_BSplineCurve
from OCP.gp import gp_Pnt2d
from scipy.interpolate import make_interp_spline

from contour.fit.patch import Patch, patches_through
from contour.mesh.flatten import flattened
from contour.mesh.topology import neighbours
from contour.solid.of_regions.borders import Borders, Chain
from contour.solid.of_regions.courses import Courses
from contour.solid.of_regions.curves import Run, places_on
from contour.solid.splines import kernel_knots

__all__ = ["Ground", "Known", "Laid", "Sheet", "kernel_track", "laid", "points_of", "sheet_of", "tracked"]

Array = NDArray[np.float64]
Ints = NDArray[np.int64]
Flags = NDArray[np.bool_]

_LEAST_PLACES = 9  # a chain counts as at least so many points: the patch runs past its curve between them as evenly as the curve itself
_LEAST, _MOST = 3, 20_000  # facets that a patch is for: fewer are rather faces of their own, more take too long
_MOSTLY = 0.8  # of the chords are no deeper, of the neighbours turn no more
# Times the tolerance of vertices, and times the chords' depth: a patch so near need not come nearer.
_CLOSE = (50.0, 0.15)
_ROUGH = 3.0  # times that: what a patch may be off
# Times the chords' depth, that a patch may be off in the place of flat facets, which are as far off as the chords are deep; and in the place of so many
# that nobody can work with them, where it may be off by so much (mm) however fine they are.
_NO_WORSE, _RATHER, _RATHER_MM, _TOO_MANY = 0.8, 1.2, 0.01, 24
_GAP = 1.0  # times the chords' depth, that a patch may be off the curve between it and another
_TRIES, _HOPELESS = 9, 12.0  # patches, after which one that is still so many times farther off than near is given up
# Cosine of the angle between a facet and the patch at its middle: a patch that turns more has waves that the mesh has not; but for facets of so
# small a share of the area, bad ones at a corner, which it may turn away from by so much.
_ALIKE, _STRAYS, _TURNED = 0.8, 0.03, 0.25


@dataclass(frozen=True, slots=True, eq=False)
class Sheet:
    """vertices (m,): those of a piece of the mesh, rising · facets (n, 3) by them · flat (m, 2): where they lie when it is spread out, mm · chord:
    about what its facets are off the surface that they stand for, mm · turn: radians between most neighbours · of: the freeform face that it is
    of, by a number · last: it cannot be cut in parts, and flat facets are the other choice (1), also where that is all there is left (2)."""

    vertices: Ints
    facets: Ints
    flat: Array
    chord: float
    turn: float
    of: int
    last: int = 0

    def most_off(self, close_mm: float) -> float:
        """How far a patch may be off, mm, that need come no nearer than so much."""
        most = _ROUGH * close_mm
        if self.last:
            most = max(most, _NO_WORSE * self.chord)
        return max(most, self._rather())

    def most_gap(self) -> float:
        """How far a patch may be off the curve between it and another part of its face, mm."""
        return max(_GAP * self.chord, self._rather())

    def _rather(self) -> float:
        many = self.last > 1 and len(self.facets) >= _TOO_MANY
        return max(_RATHER * self.chord, _RATHER_MM) if many else 0.0


@dataclass(frozen=True, slots=True, eq=False)
class Laid:
    """A patch over a region · tracks: where on it each of the region's chains runs (k, 2), evenly in the parameter of its curve · beside: how far it is
    off them, mm · rough: it is too far off them or the vertices, or has waves that the mesh has not."""

    patch: Patch
    tracks: dict[int, Array]
    beside: dict[int, float]
    rough: bool


Known = dict[tuple[Sheet, bytes], tuple[Patch, bool]]  # by a sheet and the places that its patch goes through


@dataclass(frozen=True, slots=True, eq=False)
class Ground:
    """What patches are laid over: vertices (m, 3) mm of the mesh, with borders and their courses · soft: chains between parts of one freeform face,
    whose sides mean nothing · tolerance mm: what vertices may lie off · known: patches of before, added to."""

    vertices: Array
    borders: Borders
    courses: Courses
    soft: set[int]
    tolerance: float
    known: Known


def sheet_of(vertices: Array, facets: NDArray[np.int32], of: int) -> Sheet | None:
    """A piece of mesh, facets (n, 3), spread out, or a part of one; of: the number of the freeform face; none where it folds, or is no piece for a patch."""
    if not _LEAST <= len(facets) <= _MOST:
        return None
    own, within = np.unique(facets, return_inverse=True)
    within = within.reshape(-1, 3)
    flat = flattened(vertices[own], within)
    return None if flat is None else Sheet(own.astype(np.int64), within, flat, *_bends(vertices[own], within), of)


def _bends(vertices: Array, facets: Ints) -> tuple[float, float]:
    """(How deep the chords are that facets make, by how far apart neighbours are that turn by an angle; that angle), of most of them."""
    across, _ = neighbours(facets.astype(np.int32), len(vertices))
    f, k = np.nonzero(across >= 0)
    a, b, c = (vertices[facets[:, i]] for i in range(3))
    normal = np.cross(b - a, c - a)
    normal /= np.linalg.norm(normal, axis=1)[:, None]
    middle = (a + b + c) / 3
    g = across[f, k] // 3
    turn = np.arccos(np.clip(np.einsum("ij,ij->i", normal[f], normal[g]), -1, 1))
    apart = np.linalg.norm(middle[f] - middle[g], axis=1)
    return float(np.quantile(turn * apart / 8, _MOSTLY)), float(np.quantile(turn, _MOSTLY))


def _beside(points: Array, places: Array) -> Array:
    """How far along a chain of points (k, 3) places (n, 3) on a curve through them lie, in points passed, 0 to k - 1."""
    way = np.diff(points, axis=0)
    off = places[:, None] - points[None, :-1]
    share = np.clip(np.einsum("nkd,kd->nk", off, way) / np.maximum((way * way).sum(axis=1), 1e-30), 0, 1)
    side = np.argmin(np.linalg.norm(off - share[..., None] * way, axis=2), axis=1)
    return np.asarray(side + share[np.arange(len(places)), side])


def points_of(chain: Chain, vertices: Array, courses: Courses) -> Array:
    """Vertices of a chain, (k, 3) mm, with its ends where the corners are."""
    out = vertices[chain.vertices].copy()
    out[0], out[-1] = (courses.spots[int(chain.vertices[end])] for end in (0, -1))
    return out


def _along(sheet: Sheet, chain: Chain, points: Array, run: Run) -> tuple[Array, Array]:
    """(About where, where) places on the curve of a chain lie: (n, 2) when spread out, (n, 3)."""
    places = places_on(run, max(len(points), _LEAST_PLACES))
    flat = sheet.flat[np.searchsorted(sheet.vertices, chain.vertices)]
    passed = np.arange(len(points))
    spline = make_interp_spline(passed, flat, k=min(3, len(points) - 1))
    return np.asarray(spline(_beside(points, places))), places


def _lies_along(patch: Patch, sheet: Sheet, vertices: Array) -> bool:
    """Whether a patch faces everywhere about as the facets do that it covers."""
    a, b, c = (vertices[sheet.vertices[sheet.facets[:, k]]] for k in range(3))
    facing = np.cross(b - a, c - a)
    middle = sheet.flat[sheet.facets].mean(axis=1)
    own = np.cross(patch.at(middle, (1, 0)), patch.at(middle, (0, 1)))
    size = np.linalg.norm(facing, axis=1) * np.linalg.norm(own, axis=1)
    alike = np.einsum("ij,ij->i", facing, own) / np.maximum(size, 1e-30)
    area = np.linalg.norm(facing, axis=1)
    return bool(alike.min() > _TURNED and area[alike <= _ALIKE].sum() <= _STRAYS * area.sum())


def _smoothest(
    sheet: Sheet, flat: Array, where: Array, loose: Flags, held: Flags, vertices: Array, close_mm: float
) -> tuple[Patch, bool]:
    """(The smoothest patch through places (k, 3) that comes near enough to those that are held, or else the nearest; whether it has waves that
    the mesh has not)."""
    best: Patch | None = None
    least, waves = np.inf, True
    for tried, patch in enumerate(patches_through(flat, where, loose)):
        waved, off = not _lies_along(patch, sheet, vertices), float(patch.off[held].max())
        if best is None or (waved, off) < (waves, least):
            best, least, waves = patch, off, waved
        if (not waves and least <= close_mm) or (tried >= _TRIES and least > _HOPELESS * close_mm):
            break
    assert best is not None
    return best, waves


def laid(region: int, sheet: Sheet, on: Ground, runs: dict[int, tuple[Array, Run]]) -> Laid:
    """The smoothest patch over a region that comes near enough to its vertices and the curves of its borders; of soft ones to those in `runs`
    (points of the chain, its curve)."""
    chains = on.borders.chains
    every = {c for loop in on.borders.loops[region] for c, _ in loop}
    own = sorted(every - (on.soft - set(runs)), key=lambda c: chains[c].vertices.tolist())
    rim = np.concatenate([chains[c].vertices for c in own]) if own else np.zeros(0, np.int64)
    inner = np.isin(sheet.vertices, rim, invert=True)
    flats, wheres = [sheet.flat[inner]], [on.vertices[sheet.vertices[inner]]]
    for c in own:
        points, run = runs[c] if c in runs else (points_of(chains[c], on.vertices, on.courses), on.courses.runs[c])
        flat, where = _along(sheet, chains[c], points, run)
        flats.append(flat)
        wheres.append(where)
    ends = np.cumsum([len(f) for f in flats])
    places, loose = np.vstack(wheres), np.arange(ends[-1]) >= ends[0]
    held = np.repeat([True, *(c not in on.soft for c in own)], [len(f) for f in flats])
    held |= not held.any()  # a narrow part among others has nothing but such curves
    close = max(_CLOSE[0] * on.tolerance, _CLOSE[1] * sheet.chord)
    key = sheet, places.tobytes()
    if key not in on.known:
        on.known[key] = _smoothest(sheet, np.vstack(flats), places, loose, held, on.vertices, close)
    best, waves = on.known[key]
    tracks = dict(zip(own, np.split(best.uv, ends[:-1])[1:], strict=True))
    beside = {c: float(off.max()) for c, off in zip(own, np.split(best.off, ends[:-1])[1:], strict=True)}
    return Laid(best, tracks, beside, waves or float(best.off[held].max()) > sheet.most_off(close))


def tracked(patch: Patch, sheet: Sheet, chain: Chain, points: Array, run: Run) -> tuple[Array, Array]:
    """(Where on a patch the curve of a chain through points (m, 3) runs (k, 2), places (k, 3) on that curve), mm, evenly in its parameter."""
    flat, where = _along(sheet, chain, points, run)
    return patch.nearest(flat, where), where


def kernel_track(track: Array, run: Run) -> Geom2d_BSplineCurve:
    """A chain's way over a patch, (k, 2), by the parameter of its curve."""
    at = np.linspace(run.begin, run.end, len(track))
    way = make_interp_spline(at, track, k=min(3, len(track) - 1))
    poles = Array1_gp_Pnt2d(1, len(way.c))
    for i, (u, v) in enumerate(way.c, 1):
        poles.SetValue(i, gp_Pnt2d(float(u), float(v)))
    return Geom2d_BSplineCurve(poles, *kernel_knots(way.t), way.k, False)
