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
from contour.fit.primitives import NOISY, face_side, guess, plausible, refine
from contour.geometry.surface_rows import CODES, CONE, PLANE
from contour.geometry.surfaces import Surface, SurfaceKind, distances, gradients
from contour.mesh.noise import noise_near
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

_LARGEST = 500.0  # radius, mm
# A place that lies off what was found around it by so many sigma, or leans from it by so much (cosine), is none of its kind: it is on an edge.
_ASIDE, _LEANS = 1.5, float(np.cos(np.radians(6.0)))
# A surface of so many facets that fits as well as the noise lets it is no strip of a more bent one, which would fill its band evenly (rms of 1.7 sigma):
# what has more unknowns has to explain so much more, or it has bent to take rounded edges along.
_MANY, _TRUE, _MUCH = 100, 1.1, 1.5
_WIDE = 4  # times the facets of the patch it began with, that a surface covers which began well
_RINGS = 8  # of facets inwards from a region's rim, to begin again
_SAME = 0.6  # of the facets found first, that what is found from there has to share
# Of their score and rms, that a simpler surface from there has at least, and at most.
_AS_WIDE, _AS_WELL = 0.8, 1.2

# A round surface that fits so badly (sigma) is none of the part's (a flat one may be narrow, most of it beside its rounded edges): what is grown from
# places so many rings around may be what was meant.
_POOR, _AROUND, _PLACES = 1.6, 7, 6
_TURNED = 0.5  # of what a region's vertices lie off its last fit, that they lay off the one before
_ASTRAY = 2.0  # tolerances: the rms of what has nothing to do with the region it was fitted to
_REACH = 1.0  # facet sides that the place may lie off that: edges are rounded by about so much

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


def default_tolerance(scan: PreparedScan, facet: int | None = None) -> float:
    """How far a facet may lie off the surface: 3 sigma of the scan's noise (at a facet, or of all of it), and never below what facets resolve. mm."""
    noise = scan.noise_mm
    if facet is not None:
        noise = noise_near(scan.vertices, scan.facets, scan.across, facet, noise)
    return max(3.0 * noise, 1e-3, 0.002 * scan.edge_mm)


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
    # Away from its rim a narrow region may be a line, about which a plane can turn: then what it grew with stays.
    grown = Surface.unpacked(code, p)
    before = distances(grown, scan.vertices[vertices])
    if np.median(np.abs(before)) < _TURNED * np.median(np.abs(residuals)):
        surface, residuals = grown, before
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


@dataclass(frozen=True, slots=True)
class _Found:
    """What grew: how much it explains, by what kind of surface, packed (9,), over which facets (n,), with what rms, mm."""

    score: float
    code: int
    packed: NDArray[np.float64]
    facets: NDArray[np.int64]
    rms: float


def _exact_plane(
    scan: PreparedScan, seeds: NDArray[np.int64], tolerance: float, barred: NDArray[np.uint8], out: NDArray[np.int64]
) -> _Found:
    """On a mesh without noise two facets can be a whole face: take the picked facet's own plane as it is."""
    p = np.zeros(9)
    p[:3], p[3:6], p[8] = scan.centroids[seeds[0]], scan.normals[seeds[0]], 1.0
    stamp = np.zeros(len(scan.facets), np.int32)
    n = spread(
        seeds, len(seeds), PLANE, p, scan.across, scan.centroids, scan.normals, tolerance, NORMAL_COS, len(scan.facets),
        stamp, 1, barred, out,
    )  # fmt: skip
    return _Found(float(n), PLANE, p, out[:n].copy(), 0.0)


@dataclass(frozen=True, slots=True)
class _Growth:
    """How regions of a scan grow. names: kinds to try, simplest first · smallest: radius, mm · barred (facets,): what stays out."""

    scan: PreparedScan
    names: tuple[SurfaceKind, ...]
    tolerance: float
    sigma: float
    smallest: float
    barred: NDArray[np.uint8]
    out: NDArray[np.int64]

    def from_(self, seeds: NDArray[np.int64], budget: Budget) -> tuple[_Found | None, tuple[SurfaceKind, ...]]:
        """(What explains most around seeds (k,), kinds that there was no time for)."""
        scan, best = self.scan, None
        for k, name in enumerate(self.names):
            code = CODES[name]
            if best is not None and budget.spent:
                return best, self.names[k:]
            if code != PLANE and best is not None and best.facets.size >= 2000 and best.rms < 0.9 * self.sigma:
                break  # a strip of a cylinder fills the whole band of 3 sigma (rms 1.7); so flat and so large is a plane
            # Few facets in a fine patch carry more noise than shape: a second, larger patch gets its chance.
            # A cone that narrows by a few degrees is told by no patch so small; then what was found before fills its band.
            poor = best is None or best.rms > _TRUE * self.sigma
            for size in (40, 160, 640) if code == CONE and poor else (40, 160):
                p = np.zeros(9)
                n, rms, _ = grow(
                    seeds, code, size, scan.across, scan.centroids, scan.smooth_normals, self.tolerance, self.sigma,
                    NORMAL_COS, self.smallest, _LARGEST, np.zeros(len(scan.facets), np.int32), 1, self.barred, p, self.out,
                )  # fmt: skip
                if n < _FEW:
                    continue
                score = n * (1 - PENALTY[code]) * (1 - 0.05 * min(rms / self.sigma, 3.0))
                if best is None or score > best.score * self.handicap(best, code):
                    best = _Found(score, code, p, self.out[:n].copy(), rms)
                if n >= _WIDE * size:
                    break  # one that came hardly beyond the patch it began with may have begun badly
        return best, ()

    def handicap(self, best: _Found, code: int) -> float:
        """How many times as much as a surface so far one of a kind with more unknowns has to explain."""
        true = best.code != code and best.facets.size >= _MANY and best.rms < _TRUE * self.sigma
        return _MUCH if true else 1.0

    def doubtful(self, seed: int, found: _Found) -> bool:
        """Whether a facet is on the edge of what was found around it rather than of its kind; or that fits worse than the noise lets it."""
        if found.rms > _TRUE * self.sigma:
            return True
        at, normal = self.scan.centroids[[seed]], self.scan.smooth_normals[seed]
        surface = Surface.unpacked(found.code, found.packed)
        off = abs(float(distances(surface, at)[0]))
        return off > _ASIDE * self.sigma or float(gradients(surface, at)[0] @ normal) < _LEANS

    def inmost(self, facets: NDArray[np.int64], seed: int) -> int:
        """Of a region's facets (n,) the one nearest to a seed that is some rings away from its rim."""
        inside = np.zeros(len(self.scan.facets) + 1, np.bool_)
        inside[facets] = True
        for _ in range(_RINGS):
            beyond = np.where(self.scan.across[facets] < 0, -1, self.scan.across[facets] // 3)
            core = facets[inside[beyond].all(axis=1)]
            if not len(core):
                break
            inside[facets] = False
            inside[core] = True
            facets = core
        way = self.scan.centroids[facets] - self.scan.centroids[seed]
        return int(facets[np.argmin(np.linalg.norm(way, axis=1))])

    def around(self, seed: int) -> NDArray[np.int64]:
        """Some facets that lie some rings away from one, each as far from the others as can be."""
        known = front = np.array([seed])
        for _ in range(_AROUND):
            beyond = self.scan.across[front].ravel()
            beyond = np.unique(beyond[beyond >= 0] // 3)
            front = beyond[~np.isin(beyond, known)]
            known = np.append(known, front)
        at = self.scan.centroids[front]
        away = np.linalg.norm(at - self.scan.centroids[seed], axis=1)
        chosen: list[int] = []
        for _ in range(min(_PLACES, len(front))):
            chosen.append(int(np.argmax(away)))
            away = np.minimum(away if len(chosen) > 1 else np.inf, np.linalg.norm(at - at[chosen[-1]], axis=1))
        return np.asarray(front[chosen])

    def beside(self, seeds: NDArray[np.int64], budget: Budget) -> _Found | None:
        """The surface nearest to a place that is on none, among those that fit as well as the noise lets them and begin some rings away from it."""
        at, best, least = self.scan.centroids[seeds[:1]], None, _REACH * self.scan.edge_mm
        for facet in self.around(int(seeds[0])):
            if budget.spent:
                break
            found, _ = self.from_(np.append(facet, seeds[1:]), budget)
            if found is None or found.facets.size < _MANY or found.rms > _TRUE * self.sigma:
                continue
            off = abs(float(distances(Surface.unpacked(found.code, found.packed), at)[0]))
            if off < least:
                best, least = found, off
        return best


def _instead(again: _Found, first: _Found) -> bool:
    """Whether what was found from inside of a region is what was meant by the place at its edge that it was grown from."""
    shared = np.isin(first.facets, again.facets, assume_unique=True).mean()
    simpler = again.code < first.code and again.score > _AS_WIDE * first.score and again.rms < _AS_WELL * first.rms
    return bool(shared >= _SAME and (again.score > first.score or simpler))


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

    seeds : (k,) facet ids of the prepared scan; the first decides the surface, the others add pieces that lie on it. Where it lies on the rounded edge
    of what grows around it, or that fits badly, that is grown again from its inside: a cylinder of 400 mm takes a flat along with its edge, and a ball a round wall.
    removed : facets that must stay out (the region does not grow through them). kind None lets the data choose, among `kinds`.
    budget : once it is spent and a kind has been found, no further kind is tried; the region says which (`untried`).
    Raises ContourError (fit-failed) at the first seed when no surface of the kind explains its surroundings.
    """
    tolerance = tolerance_mm or default_tolerance(scan, int(seeds[0]))
    # A tolerance that somebody chose says nothing of the noise where it is smaller.
    sigma = max(tolerance / 3, scan.noise_mm if tolerance_mm else 0.0, 1e-6)
    barred = np.zeros(len(scan.facets), np.uint8)
    if removed is not None and len(removed):
        barred[removed] = 1
        barred[seeds[:1]] = 0
    seeds = np.asarray(seeds, dtype=np.int64)
    out = np.empty(len(scan.facets), np.int64)
    smallest = 1.6 * scan.edge_mm * (0.2 if kind else 1.0)
    names = (kind,) if kind else (kinds or _kinds(scan, None))
    growth = _Growth(scan, names, tolerance, sigma, smallest, barred, out)
    best, untried = growth.from_(seeds, budget)
    if best is not None and kind is None and scan.noise_mm > 0 and growth.doubtful(int(seeds[0]), best):
        inner = np.append(growth.inmost(best.facets, int(seeds[0])), seeds[1:])
        again, _ = growth.from_(inner, budget)
        if again is not None and _instead(again, best):
            best = again
    if kind is None and scan.noise_mm > 0 and (best is None or (best.code != PLANE and best.rms > _POOR * sigma)):
        best = growth.beside(seeds, budget) or best
    if scan.noise_mm == 0.0 and kind in (None, "plane") and (best is None or best.code == PLANE):
        exact = _exact_plane(scan, seeds, tolerance, barred, out)
        if best is None or len(exact.facets) >= len(best.facets):
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
    region = _settle(scan, best.code, best.packed, _Evidence.of(scan, best.facets), sigma, kind is None, untried)
    others = tuple(name for name in names if CODES[name] != best.code)
    if kind is None and others and region.rms > _ASTRAY * tolerance:
        # A ring whose tube is wider than itself has two sheets, and may be fitted by the wrong one.
        return grow_region(scan, seeds, tolerance_mm=tolerance_mm, removed=removed, kinds=others, budget=budget)
    return region


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
        if not guess(code, p, scan.centroids, scan.smooth_normals, some, len(some), NOISY):
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
