"""A region: the connected facets that one surface explains, grown from a click.

Growing alternates with refitting while the region doubles; each plausible kind is tried and the better score wins
(after design trials: distance 3 sigma, normal 12 degrees, Huber 2 sigma while growing and 1.5 sigma at the end).
"""

from __future__ import annotations

from dataclasses import dataclass

import numba as nb
import numpy as np
from numpy.typing import NDArray

from contour.fit.budget import UNLIMITED, Budget
from contour.fit.growth import grow, spread
from contour.fit.primitives import face_side, guess, plausible, refine
from contour.geometry.surface_rows import CODES, PLANE
from contour.geometry.surfaces import Surface, SurfaceKind, distances
from contour.mesh.prepare import PreparedScan
from contour.recipe.problem import ContourError, Where

__all__ = [
    "Region",
    "corners_of",
    "default_tolerance",
    "grow_region",
    "inner_vertices",
    "patch_around",
    "region_of_facets",
    "sampled",
]

NORMAL_COS = float(np.cos(np.radians(12.0)))
# What a kind with more unknowns must explain more of: share of facets by which it has to win.
PENALTY = (0.0, 0.0, 0.06, 0.12, 0.06, 0.15)
_FEW = 6
# A fit through so many places is as good as one through all of them: noise is averaged out long before, what is systematic stays.
MOST_FITTED = 30_000

_jit = nb.njit(cache=True, nogil=True, fastmath=True)


@dataclass(frozen=True, slots=True)
class Region:
    """`facets` (n,) int64 of the prepared scan, sorted; residuals over its vertices, mm; area mm². untried: kinds that there was no time for."""

    facets: NDArray[np.int64]
    surface: Surface
    rms: float
    largest: float
    largest_at: tuple[float, float, float]
    area: float
    auto: bool
    untried: tuple[SurfaceKind, ...] = ()


def default_tolerance(scan: PreparedScan) -> float:
    """How far a facet may lie off the surface: 3 sigma of the scan's noise, and never below what facets resolve. mm."""
    return max(3.0 * scan.noise_mm, 1e-3, 0.002 * scan.edge_mm)


def _kinds(scan: PreparedScan, kind: SurfaceKind | None) -> tuple[SurfaceKind, ...]:
    """Kinds to try, simplest first. A modelled mesh has chords, not noise: only the two kinds that survive them are guessed."""
    if kind is not None:
        return (kind,)
    return ("plane", "cylinder", "sphere", "cone", "torus") if scan.noise_mm > 0 else ("plane", "cylinder")


@_jit
def patch_around(across, centroids, seed, radius):  # type: ignore[no-untyped-def]
    """Connected facets whose centroid lies within `radius` mm of the seed facet's: what one brush touch removes."""
    found = [np.int64(seed)]
    seen = {np.int64(seed)}
    head = 0
    while head < len(found):
        f = found[head]
        head += 1
        for k in range(3):
            if across[f, k] < 0:
                continue
            q = np.int64(across[f, k] // 3)
            if q in seen:
                continue
            seen.add(q)
            away = 0.0
            for d in range(3):
                away += (centroids[q, d] - centroids[seed, d]) ** 2
            if away <= radius * radius:
                found.append(q)
    return np.array(found)


def corners_of(scan: PreparedScan, facets: NDArray[np.int64]) -> NDArray[np.int64]:
    """Vertex ids (n,) of the facets, sorted, each once: by marks, since sorting the corners of two million facets takes a second."""
    used = np.zeros(len(scan.vertices), np.bool_)
    used[scan.facets[facets].ravel()] = True
    return np.flatnonzero(used)


def inner_vertices(scan: PreparedScan, facets: NDArray[np.int64], rings: int = 3) -> NDArray[np.int64]:
    """Vertex ids of a region without its outermost rings of facets: rounded edges and open rims are no evidence. A narrow strip has
    no inside; then fewer rings are left out, or none."""
    inside = np.zeros(len(scan.facets) + 1, np.bool_)
    inside[facets] = True
    kept = np.asarray(facets, np.int64)
    vertices = corners_of(scan, kept)
    for _ in range(rings):
        beyond = np.where(scan.across[kept] < 0, -1, scan.across[kept] // 3)
        rim = ~inside[beyond].all(axis=1)
        touched = np.zeros(len(scan.vertices), np.bool_)
        touched[scan.facets[kept[rim]].ravel()] = True
        core = vertices[~touched[vertices]]
        if len(core) < max(30, 0.35 * len(vertices)):
            break
        inside[kept[rim]] = False
        kept, vertices = kept[~rim], core
    return np.asarray(vertices, np.int64)


def sampled(ids: NDArray[np.int64]) -> NDArray[np.int64]:
    """Of more ids than a fit needs, every so many-th."""
    if len(ids) <= 2 * MOST_FITTED:
        return ids
    return np.ascontiguousarray(ids[:: len(ids) // MOST_FITTED])  # strided would be another type to compile for


@dataclass(frozen=True, slots=True)
class _Evidence:
    """facets (n,) of a region, all its vertices, and those away from its rim, where the scan is most trustworthy."""

    facets: NDArray[np.int64]
    vertices: NDArray[np.int64]
    inner: NDArray[np.int64]

    @classmethod
    def of(cls, scan: PreparedScan, facets: NDArray[np.int64]) -> _Evidence:
        return cls(facets, corners_of(scan, facets), sampled(inner_vertices(scan, facets)))


def _settle(
    scan: PreparedScan,
    code: int,
    p: NDArray[np.float64],
    of: _Evidence,
    sigma: float,
    auto: bool,
    left: tuple[SurfaceKind, ...] = (),
) -> Region:
    """Final fit on the region's vertices away from its rim."""
    facets, vertices, ids = of.facets, of.vertices, of.inner
    trial = p.copy()
    refine(code, trial, scan.vertices, ids, len(ids), 20, 1.5 * sigma)
    surface = Surface.unpacked(code, trial)
    residuals = distances(surface, scan.vertices[vertices])
    worst = int(np.argmax(np.abs(residuals)))
    at = scan.vertices[vertices[worst]]
    return Region(
        np.sort(facets),
        surface,
        float(np.sqrt(np.mean(residuals**2))),
        float(residuals[worst]),
        (float(at[0]), float(at[1]), float(at[2])),
        float(scan.areas[facets].sum()),
        auto,
        left,
    )


def _exact_plane(
    scan: PreparedScan, seeds: NDArray[np.int64], tolerance: float, barred: NDArray[np.uint8], out: NDArray[np.int64]
) -> tuple[float, int, NDArray[np.float64], NDArray[np.int64]]:
    """On a mesh without noise two facets can be a whole face: take the picked facet's own plane as it is."""
    p = np.zeros(9)
    p[:3], p[3:6], p[8] = scan.centroids[seeds[0]], scan.normals[seeds[0]], 1.0
    stamp = np.zeros(len(scan.facets), np.int32)
    n = spread(
        seeds,
        len(seeds),
        PLANE,
        p,
        scan.across,
        scan.centroids,
        scan.normals,
        tolerance,
        NORMAL_COS,
        len(scan.facets),
        stamp,
        1,
        barred,
        out,
    )
    return float(n), PLANE, p, out[:n].copy()


def grow_region(
    scan: PreparedScan,
    seeds: NDArray[np.int64],
    *,
    kind: SurfaceKind | None = None,
    tolerance_mm: float | None = None,
    removed: NDArray[np.int64] | None = None,
    kinds: tuple[SurfaceKind, ...] | None = None,
    budget: Budget = UNLIMITED,
) -> Region:
    """The region around the seed facets.

    seeds : (k,) facet ids of the prepared scan; the first decides the surface, the others add pieces that lie on it.
    removed : facets that must stay out (the region does not grow through them). kind None lets the data choose, among `kinds`.
    budget : once it is spent and a kind has been found, no further kind is tried; the region says which (`untried`).
    Raises ContourError (fit-failed) at the first seed when no surface of the kind explains its surroundings.
    """
    tolerance = tolerance_mm or default_tolerance(scan)
    sigma = max(scan.noise_mm, tolerance / 3, 1e-6)
    barred = np.zeros(len(scan.facets), np.uint8)
    if removed is not None and len(removed):
        barred[removed] = 1
        barred[seeds[:1]] = 0
    seeds = np.asarray(seeds, dtype=np.int64)
    out = np.empty(len(scan.facets), np.int64)
    smallest, largest = 1.6 * scan.edge_mm, 500.0
    best: tuple[float, int, NDArray[np.float64], NDArray[np.int64]] | None = None
    best_rms = 0.0
    names = (kind,) if kind else (kinds or _kinds(scan, None))
    untried: tuple[SurfaceKind, ...] = ()
    for k, name in enumerate(names):
        code = CODES[name]
        if best is not None and budget.spent:
            untried = names[k:]
            break
        if code != PLANE and best is not None and best[3].size >= 2000 and best_rms < 0.9 * sigma:
            break  # a strip of a cylinder fills the whole band of 3 sigma (rms 1.7); so flat and so large is a plane
        # Few facets in a fine patch carry more noise than shape: a second, larger patch gets its chance.
        for size in (40, 160):
            p = np.zeros(9)
            stamp = np.zeros(len(scan.facets), np.int32)
            n, rms, _ = grow(
                seeds,
                code,
                size,
                scan.across,
                scan.centroids,
                scan.smooth_normals,
                tolerance,
                sigma,
                NORMAL_COS,
                smallest * (0.2 if kind else 1.0),
                largest,
                stamp,
                1,
                barred,
                p,
                out,
            )
            if n < _FEW:
                continue
            score = n * (1 - PENALTY[code]) * (1 - 0.05 * min(rms / sigma, 3.0))
            if best is None or score > best[0]:
                best, best_rms = (score, code, p, out[:n].copy()), rms
            break
    if scan.noise_mm == 0.0 and kind in (None, "plane") and (best is None or best[1] == PLANE):
        exact = _exact_plane(scan, seeds, tolerance, barred, out)
        if best is None or len(exact[3]) >= len(best[3]):
            best = exact
    if best is None:
        at = scan.centroids[seeds[0]]
        raise ContourError(
            "fit-failed",
            f"no {kind or 'surface'} explains the facets around this place",
            where=Where(facets=(int(scan.source_facet[seeds[0]]),), point=(float(at[0]), float(at[1]), float(at[2]))),
            need=f"at least {_FEW} connected facets within {tolerance:.3f} mm",
            got="no surface within the tolerance",
            remedy="pick further from the edge, raise the tolerance, or choose the kind by hand",
        )
    return _settle(scan, best[1], best[2], _Evidence.of(scan, best[3]), sigma, kind is None, untried)


def region_of_facets(scan: PreparedScan, facets: NDArray[np.int64], *, kind: SurfaceKind | None = None) -> Region:
    """The region of facets picked by hand: nothing is added to them; the surface is fitted to just these.

    kind None takes a surface with more unknowns only when it explains them clearly better than a simpler one.
    Raises ContourError (too-few-facets, fit-failed). facets: ids (k,) int64 of the prepared scan.
    """
    chosen = np.zeros(len(scan.facets), np.bool_)
    chosen[facets] = True
    facets = np.flatnonzero(chosen)
    if len(facets) < _FEW:
        raise ContourError(
            "too-few-facets",
            "too few facets for a surface",
            got=len(facets),
            need=f"at least {_FEW}",
            remedy="pick more",
        )
    sigma = max(scan.noise_mm, 1e-6)
    best: Region | None = None
    evidence, some = _Evidence.of(scan, facets), sampled(facets)
    for name in _kinds(scan, kind):
        code = CODES[name]
        p = np.zeros(9)
        if not guess(code, p, scan.centroids, scan.smooth_normals, some, len(some)):
            continue
        refine(code, p, scan.centroids, some, len(some), 30, 0.0)
        if not plausible(code, p, 0.1 * scan.edge_mm, 1e4):
            continue
        face_side(code, p, scan.centroids, scan.smooth_normals, some, len(some))
        found = _settle(scan, code, p, evidence, sigma, kind is None)
        if best is None or found.rms < 0.8 * best.rms:
            best = found
    if best is None:
        at = scan.centroids[facets[0]]
        raise ContourError(
            "fit-failed",
            f"no {kind or 'surface'} fits these facets",
            where=Where(facets=(int(scan.source_facet[facets[0]]),), point=(float(at[0]), float(at[1]), float(at[2]))),
            got=f"{len(facets)} facets",
            need="facets of one surface",
            remedy="pick facets of one surface, or choose the kind by hand",
        )
    return best
