"""Freeform faces: what no other surface explains and bends softly, spread out flat and covered by the smoothest surface through its vertices
and along its borders."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from OCP.collections import Array1_gp_Pnt2d
from OCP.Geom2d import Geom2d_BSplineCurve
from OCP.gp import gp_Pnt2d
from scipy.interpolate import make_interp_spline

from contour.fit.patch import Patch, patches_through
from contour.geometry.surfaces import Surface
from contour.mesh.flatten import flattened
from contour.mesh.topology import neighbours
from contour.solid.of_regions.borders import Borders, Chain
from contour.solid.of_regions.courses import Courses
from contour.solid.of_regions.curves import Run, faired, places_on, run_along
from contour.solid.splines import kernel_knots

__all__ = ["Ground", "Known", "Laid", "Sheet", "kernel_track", "laid_over", "sheet_of"]

Array = NDArray[np.float64]
Ints = NDArray[np.int64]

_LEAST_PLACES = 9  # a chain counts as at least so many points: the patch runs past its curve between them as evenly as the curve itself
_LEAST, _MOST = 3, 20_000  # facets that a patch is for: fewer are rather faces of their own, more take too long
_MOSTLY = 0.8  # of the chords are no deeper, of the neighbours turn no more
# Times the tolerance of vertices, and times the chords' depth: a patch so near need not come nearer.
_CLOSE = (50.0, 0.15)
_ROUGH = 3.0  # times that: what a patch may be off
_GAP = 1.0  # times the chords' depth, that it may be off a curve between two patches
_TRIES, _HOPELESS = 9, 12.0  # patches, after which one that is still so many times farther off than near is given up
_ALIKE = 0.8  # cosine of the angle between a facet and the patch at its middle: a patch that turns more has waves that the mesh has not


@dataclass(frozen=True, slots=True, eq=False)
class Sheet:
    """vertices (m,): those of a piece of the mesh, rising · facets (n, 3) by them · flat (m, 2): where they lie when it is spread out, mm · chord:
    about what its facets are off the surface that they stand for, mm · turn: radians between most neighbours · of: the freeform face that it is
    of, by a number."""

    vertices: Ints
    facets: Ints
    flat: Array
    chord: float
    turn: float
    of: int


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


def _points(chain: Chain, vertices: Array, courses: Courses) -> Array:
    """Vertices of a chain, with its ends where the corners are."""
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
    return bool((np.einsum("ij,ij->i", facing, own) > _ALIKE * size).all())


def _smoothest(
    sheet: Sheet, flat: Array, where: Array, loose: NDArray[np.bool_], vertices: Array, close_mm: float
) -> tuple[Patch, bool]:
    """(The smoothest patch through places (k, 3) that comes near enough, or else the nearest; whether it has waves that the mesh has not)."""
    best: Patch | None = None
    waves = True
    for tried, patch in enumerate(patches_through(flat, where, loose)):
        waved = not _lies_along(patch, sheet, vertices)
        if best is None or (waved, patch.off.max()) < (waves, best.off.max()):
            best, waves = patch, waved
        if (not waves and best.off.max() <= close_mm) or (tried >= _TRIES and best.off.max() > _HOPELESS * close_mm):
            break
    assert best is not None
    return best, waves


def _laid_over(region: int, sheet: Sheet, on: Ground) -> Laid:
    """The smoothest patch over a region that comes near enough to its vertices and the curves of its borders, but of soft ones."""
    chains = on.borders.chains
    every = {c for loop in on.borders.loops[region] for c, _ in loop}
    own = sorted(every - on.soft, key=lambda c: chains[c].vertices.tolist())
    rim = np.concatenate([chains[c].vertices for c in own]) if own else np.zeros(0, np.int64)
    inner = np.isin(sheet.vertices, rim, invert=True)
    flats, wheres = [sheet.flat[inner]], [on.vertices[sheet.vertices[inner]]]
    for c in own:
        flat, where = _along(sheet, chains[c], _points(chains[c], on.vertices, on.courses), on.courses.runs[c])
        flats.append(flat)
        wheres.append(where)
    ends = np.cumsum([len(f) for f in flats])
    places, loose = np.vstack(wheres), np.arange(ends[-1]) >= ends[0]
    close = max(_CLOSE[0] * on.tolerance, _CLOSE[1] * sheet.chord)
    key = sheet, places.tobytes()
    if key not in on.known:
        on.known[key] = _smoothest(sheet, np.vstack(flats), places, loose, on.vertices, close)
    best, waves = on.known[key]
    tracks = dict(zip(own, np.split(best.uv, ends[:-1])[1:], strict=True))
    beside = {c: float(off.max()) for c, off in zip(own, np.split(best.off, ends[:-1])[1:], strict=True)}
    return Laid(best, tracks, beside, waves or float(best.off.max()) > _ROUGH * close)


def laid_over(surfaces: list[Surface | Sheet], on: Ground) -> tuple[list[Surface | Laid], Courses]:
    """What lies over each region, and the courses with those of soft chains: the edge runs smoothly among their sides, midway between where both
    patches are nearest to it."""
    laid = {r: _laid_over(r, s, on) for r, s in enumerate(surfaces) if isinstance(s, Sheet)}
    runs = list(on.courses.runs)
    for c in on.soft:
        chain = on.borders.chains[c]
        sides = [(r, s) for r in (chain.left, chain.right) if isinstance(s := surfaces[r], Sheet)]
        points = _points(chain, on.vertices, on.courses)
        if not any(laid[r].rough for r, _ in sides):
            between = _between(chain, faired(points), [(laid[r].patch, sheet) for r, sheet in sides])
            if np.linalg.norm(np.diff(between, axis=0), axis=1).min() > on.tolerance:
                points, runs[c] = between, run_along(between, [], False, 0.0)
        for r, sheet in sides:
            flat, where = _along(sheet, chain, points, runs[c])
            own = laid[r]
            own.tracks[c] = own.patch.nearest(flat, where)
            own.beside[c] = float(np.linalg.norm(own.patch.at(own.tracks[c]) - where, axis=1).max())
            if own.beside[c] > _GAP * sheet.chord:
                laid[r] = replace(own, rough=True)
    return [laid[r] if isinstance(s, Sheet) else s for r, s in enumerate(surfaces)], replace(on.courses, runs=runs)


def _between(chain: Chain, points: Array, sides: list[tuple[Patch, Sheet]]) -> Array:
    """Points along a chain (k, 3) moved midway between where patches on both its sides are nearest to them; its ends stay."""
    out = points.copy()
    near = [p.at(p.nearest(s.flat[np.searchsorted(s.vertices, chain.vertices)], points)) for p, s in sides]
    out[1:-1] = np.mean(near, axis=0)[1:-1]
    return out


def kernel_track(track: Array, run: Run) -> Geom2d_BSplineCurve:
    """A chain's way over a patch, (k, 2), by the parameter of its curve."""
    at = np.linspace(run.begin, run.end, len(track))
    way = make_interp_spline(at, track, k=min(3, len(track) - 1))
    poles = Array1_gp_Pnt2d(1, len(way.c))
    for i, (u, v) in enumerate(way.c, 1):
        poles.SetValue(i, gp_Pnt2d(float(u), float(v)))
    return Geom2d_BSplineCurve(poles, *kernel_knots(way.t), way.k, False)
