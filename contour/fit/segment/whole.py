"""The segmentation of a whole scan: grow from the smoothest places, merge, let regions contest their borders, fit again.

Every threshold follows the scan's own noise, never the size of the part.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from contour.fit.covariance import Covariance, fit_covariance
from contour.fit.primitives import face_side, refine
from contour.fit.region import PENALTY, corners_of, sampled
from contour.fit.segment.curvature import bending
from contour.fit.segment.gaps import merge_across_gaps
from contour.fit.segment.labels import FREE, depth_of
from contour.fit.segment.merging import Draft, core_of, merge_across_holes, merge_touching, refit, simplest_kinds
from contour.fit.segment.rings import follow_axes, part_rings
from contour.fit.segment.run_out import follow_rounds, part_run_outs
from contour.fit.segment.scale import handy_scale, scaled_covariance, scaled_scan, scaled_surface, scaled_thread
from contour.fit.segment.seeding import sow
from contour.fit.segment.tidy import (
    absorb_into_freeform,
    contest,
    drop_poor,
    drop_scraps,
    drop_strips,
    evict,
    free_rests,
    keep_largest_pieces,
    open_freeform,
)
from contour.fit.segment.worn import give_back_worn
from contour.fit.thread.form import ThreadForm
from contour.fit.thread.walls import ThreadedWall, threaded_walls
from contour.geometry.surfaces import Surface, distances
from contour.mesh.noise import uneven_noise
from contour.mesh.prepare import PreparedScan
from contour.recipe.problem import ContourError, Where

__all__ = ["FoundRegion", "Segmentation", "Settings", "segment"]

_MOST_REGIONS = 4000
_LEAST_AREA, _LEAST_SIDES = 3.0, 14.0  # mm², and squares of a facet's side: the smaller of both
_COSINE = float(np.cos(np.radians(12.0)))
_REACH = 2.4  # sigmas that a facet may lie off the surface it belongs to
_MISFIT = 0.12  # radians: where normals stray more, no surface begins


@dataclass(frozen=True, slots=True)
class Settings:
    """coarseness: factor on how far a facet may lie off its surface (1: three times the noise) · least_area: mm², smaller
    regions are given to their neighbours; none: as small as the facets let a region be told."""

    coarseness: float = 1.0
    least_area: float | None = None


@dataclass(frozen=True, slots=True)
class FoundRegion:
    """surface: none for a freeform region and for a thread, whose form is told instead · rms: of its vertices, mm · area mm² · middle: a
    facet well inside it · worn_area mm²: of it, what seems worn away and has no say in the fit."""

    surface: Surface | None
    facets: int
    area: float
    rms: float
    uncertainty: Covariance | None
    middle: int
    worn_area: float = 0.0
    thread: ThreadForm | None = None

    @property
    def kind(self) -> str:
        if self.thread is not None:
            return "thread"
        return self.surface.kind if self.surface is not None else "freeform"


@dataclass(frozen=True, slots=True)
class Segmentation:
    """labels (n,) i32 over the prepared scan's facets, the place in `regions`, -1 where nothing was found · noise mm · worn (n,): facets
    of worn patches."""

    labels: NDArray[np.int32]
    regions: tuple[FoundRegion, ...]
    noise: float
    worn: NDArray[np.bool_]


def _said(_: str, __: float) -> None:
    return


@dataclass(slots=True)
class _Sowing:
    """What growing from seeds needs; surfaces found so far lie in labels, codes and values."""

    scan: PreparedScan
    least_area: float
    sigmas: NDArray[np.float64]
    labels: NDArray[np.int64]
    codes: NDArray[np.int64]
    values: NDArray[np.float64]
    found: int

    @property
    def limits(self) -> tuple[float, float]:
        """Smallest and largest radius that is looked for, mm."""
        return 1.6 * self.scan.edge_mm, 2 * float(np.linalg.norm(np.ptp(self.scan.vertices, axis=0)))

    def round(
        self,
        misfit: NDArray[np.float64],
        most: float,
        sizes: tuple[int, ...],
        report: Callable[[str, float], None],
        span: tuple[float, float],
    ) -> None:
        """Surfaces grown where there is none yet, from facets whose surroundings stray less than `most` radians."""
        scan = self.scan
        taken = (self.labels >= 0).astype(np.uint8)
        order = np.argsort(misfit, kind="stable")
        order = order[(misfit[order] < most) & (taken[order] == 0)]
        tried, stamp, mark = np.zeros(len(taken), np.uint8), np.zeros(len(taken), np.int32), 0
        parts = 40
        for k in range(parts):
            begin, until = len(order) * k // parts, len(order) * (k + 1) // parts
            report("growing surfaces", span[0] + (span[1] - span[0]) * k / parts)
            self.found, mark = sow(
                order,
                begin,
                until,
                np.array(sizes),
                scan.across,
                scan.centroids,
                scan.smooth_normals,
                scan.areas,
                taken,
                tried,
                self.labels,
                stamp,
                mark,
                _REACH,
                self.sigmas,
                _COSINE,
                *self.limits,
                self.least_area,
                np.array(PENALTY),
                self.codes,
                self.values,
                self.found,
            )


def _core_vertices(scan: PreparedScan, facets: NDArray[np.int64], depth: NDArray[np.int32]) -> NDArray[np.int64]:
    inner = core_of(facets, depth, 4)
    return sampled(corners_of(scan, inner))


def _settled(draft: Draft, noise: float, worn: NDArray[np.bool_], threads: dict[int, ThreadForm]) -> Segmentation:
    """Final fits on vertices away from borders, largest region first; worn facets have no say."""
    scan = draft.scan
    own = draft.facets_by_label()
    order = sorted(
        (k for k in range(len(own)) if draft.codes[k] and len(own[k])), key=lambda k: -float(scan.areas[own[k]].sum())
    )
    depth = depth_of(draft.labels, scan.across, 6)
    depth_without = depth_of(np.where(worn, -1, draft.labels), scan.across, 6) if worn.any() else depth
    labels = np.full(len(draft.labels), -1, np.int32)
    regions: list[FoundRegion] = []
    for k in order:
        facets = own[k]
        inner = facets[depth[facets] == depth[facets].max()]
        middle = int(inner[len(inner) // 2])
        area = float(scan.areas[facets].sum())
        labels[facets] = len(regions)
        if k in threads:
            form = threads[k]
            regions.append(FoundRegion(None, len(facets), area, form.rms, None, middle, thread=form))
            continue
        if draft.codes[k] == FREE:
            regions.append(FoundRegion(None, len(facets), area, 0.0, None, middle))
            continue
        code, p = int(draft.codes[k]), draft.values[k].copy()
        sound = facets[~worn[facets]]
        # Where a worn patch begins is no border of the face, but no evidence of it either.
        ids = _core_vertices(scan, sound, depth if len(sound) == len(facets) else depth_without)
        if draft.follows[k] < 0:
            refine(code, p, scan.vertices, ids, len(ids), 25, 1.5 * draft.sigma)
        face_side(code, p, scan.centroids, scan.smooth_normals, facets, len(facets))
        surface = Surface.unpacked(code, p)
        points = np.ascontiguousarray(scan.vertices[ids])
        rms = float(np.sqrt(np.mean(distances(surface, points) ** 2)))
        spread = fit_covariance(surface, points, edge_mm=scan.edge_mm)
        gone = float(scan.areas[facets[worn[facets]]].sum())
        regions.append(FoundRegion(surface, len(facets), area, rms, spread, middle, gone))
    return Segmentation(labels, tuple(regions), noise, worn)


def _walls_beside(
    scan: PreparedScan, protected: list[NDArray[np.int64]], report: Callable[[float], None]
) -> list[ThreadedWall]:
    """Threaded walls that no region which stays as it is has a share in."""
    mine = np.zeros(len(scan.facets), np.bool_)
    for facets in protected:
        mine[facets] = True
    return [w for w in threaded_walls(scan, report) if not mine[w.facets].any()]


def _spread(scan: PreparedScan, noise: Any) -> Any:
    """What facets stray by where the noise is so large, mm."""
    return np.maximum(1.3 * noise, max(0.002 * scan.edge_mm, 1e-4))


def _resettle(draft: Draft, misfit: NDArray[np.float64]) -> None:
    """After narrow faces got labels: their neighbours are fitted without them, and they follow."""
    for _ in range(2):
        contest(draft, misfit)
        refit(draft)
        follow_axes(draft)
        follow_rounds(draft)


def segment(
    scan: PreparedScan,
    settings: Settings | None = None,
    *,
    protected: tuple[tuple[NDArray[np.int64], Surface], ...] = (),
    report: Callable[[str, float], None] = _said,
) -> Segmentation:
    """Regions of a whole scan.

    Threads are found first, and their walls stay theirs.

    protected: (facets, surface) of regions that stay as they are. report(what, share) is called on the way and may raise to stop.
    Raises ContourError (nothing-found) when no surface is larger than the noise lets it be told.
    """
    settings = settings or Settings()
    by = handy_scale(scan)
    if by == 1.0:
        return _segmented(scan, settings, protected, report)
    larger = replace(settings, least_area=None if settings.least_area is None else settings.least_area * by**2)
    kept = tuple((facets, scaled_surface(surface, by)) for facets, surface in protected)
    found = _segmented(scaled_scan(scan, by), larger, kept, report)
    regions = tuple(
        replace(
            r,
            surface=None if r.surface is None else scaled_surface(r.surface, 1 / by),
            area=r.area / by**2,
            worn_area=r.worn_area / by**2,
            rms=r.rms / by,
            uncertainty=scaled_covariance(r.uncertainty, 1 / by),
            thread=scaled_thread(r.thread, 1 / by),
        )
        for r in found.regions
    )
    return replace(found, regions=regions, noise=found.noise / by)


def _nothing(scan: PreparedScan, least: float | None) -> ContourError:
    """least: mm², the smallest region that was asked for, where there are others."""
    if least is not None:
        return ContourError(
            "nothing-found",
            "no region of this scan is as large as was asked for",
            where=Where(param="least_area"),
            got=f"{least / float(scan.areas.sum()):.1%} of the scan's whole area",  # a share, for a scan may be scaled here
            need="an area that some of its faces have",
            remedy="take a smaller one, or leave it open",
        )
    return ContourError(
        "nothing-found",
        "no surface stands out of this scan's noise",
        got=f"noise {scan.noise_mm:.3f} mm, facets of {scan.edge_mm:.3f} mm",
        need="a surface larger than the noise",
        remedy="take a smaller least area, go coarser, or smooth the scan first",
    )


def _segmented(
    scan: PreparedScan,
    settings: Settings,
    protected: tuple[tuple[NDArray[np.int64], Surface], ...],
    report: Callable[[str, float], None],
) -> Segmentation:
    n = len(scan.facets)
    usual = least = min(_LEAST_AREA, _LEAST_SIDES * scan.edge_mm**2)
    free_area = 8.0 / _LEAST_AREA * least
    if settings.least_area is not None:
        least, free_area = settings.least_area, max(free_area, settings.least_area)
    # The estimate is of vertices along the normal; the patches between them stray a little more at edges and in creases.
    sigma = _spread(scan, scan.noise_mm) * settings.coarseness
    local = uneven_noise(scan.vertices, scan.facets, scan.areas, scan.noise_mm)
    sigmas = np.full(n, sigma) if local is None else _spread(scan, local) * settings.coarseness
    report("reading how the scan bends", 0.02)
    bend = bending(scan.across, scan.centroids, scan.smooth_normals)
    labels = np.full(n, -1, np.int64)
    codes, values = np.zeros(_MOST_REGIONS, np.int64), np.zeros((_MOST_REGIONS, 9))
    report("looking for threads", 0.04)
    walls = _walls_beside(
        scan, [facets for facets, _ in protected], lambda x: report("looking for threads", 0.04 + 0.06 * x)
    )
    kept = [*protected, *((w.facets, w.form.cylinder) for w in walls)]
    threads = {len(protected) + k: w.form for k, w in enumerate(walls)}
    for k, (facets, surface) in enumerate(kept):
        labels[facets] = k
        codes[k], values[k] = surface.code, surface.packed()
    # What will be too small is found as well, and dropped later: a seed in it that takes nothing would be asked again from every facet.
    sowing = _Sowing(scan, min(least, usual), sigmas, labels, codes, values, len(kept))
    misfit = np.ascontiguousarray(bend[:, 2])
    sowing.round(misfit, _MISFIT, (40, 160), report, (0.1, 0.5))
    if sowing.found == 0:  # not even a thread
        raise _nothing(scan, None)
    mine = np.zeros(_MOST_REGIONS, np.uint8)
    mine[: len(kept)] = 1
    draft = Draft(
        scan,
        labels,
        codes,
        values,
        np.full(_MOST_REGIONS, sigma),
        sigma,
        sigmas,
        _REACH * sigma,
        _COSINE,
        *sowing.limits,
        mine,
    )
    report("joining pieces of one surface", 0.52)
    refit(draft)
    merge_touching(draft)
    simplest_kinds(draft)
    contest(draft, misfit)
    # Narrow faces were too small for the first patches; what lies on nobody's surface gets its chance from smaller ones.
    evict(draft)
    nearby = bending(scan.across, scan.centroids, scan.smooth_normals, 14)
    nearby_misfit = np.ascontiguousarray(nearby[:, 2])
    sowing.round(nearby_misfit, 2 * _MISFIT, (14, 40), report, (0.58, 0.7))
    report("choosing the simplest kinds", 0.72)
    free_rests(draft, free_area)
    contest(draft, misfit)
    refit(draft)
    merge_touching(draft)
    simplest_kinds(draft)
    merge_touching(draft)
    open_freeform(draft, free_area)
    drop_scraps(draft, least)
    if not draft.codes.any():
        raise _nothing(scan, settings.least_area)
    report("settling borders", 0.82)
    contest(draft, misfit)
    refit(draft)
    drop_strips(draft)
    drop_poor(draft)
    absorb_into_freeform(draft, bend)
    merge_touching(draft)
    open_freeform(draft, free_area)
    contest(draft, misfit)
    keep_largest_pieces(draft, least)
    drop_scraps(draft, least)
    contest(draft, misfit)
    refit(draft)
    simplest_kinds(draft)
    merge_touching(draft)
    while merge_across_holes(draft, only_curved=True) and merge_touching(draft):
        pass
    if part_rings(draft, least):
        _resettle(draft, misfit)
    while merge_across_holes(draft) and merge_touching(draft):
        pass
    while merge_across_gaps(draft):  # what was joined says more of its surface than its pieces did
        merge_touching(draft)
    if drop_poor(draft):
        contest(draft, misfit)
    if part_run_outs(draft, least):
        _resettle(draft, misfit)
    # A facet in a rounded edge belongs to one of its faces; one that lies elsewhere altogether belongs to none.
    evict(draft, far=max(4 * draft.tolerance, 0.7 * scan.edge_mm), turned_deg=65.0)
    sowing.found = int(np.flatnonzero(draft.codes).max(initial=-1)) + 1
    sowing.round(nearby_misfit, 2 * _MISFIT, (14, 40), report, (0.9, 0.94))
    drop_strips(draft)
    drop_poor(draft)
    drop_scraps(draft, least)
    if not draft.codes.any():
        raise _nothing(scan, settings.least_area)
    while merge_across_gaps(draft):
        pass
    report("fitting", 0.94)
    return _settled(draft, scan.noise_mm, give_back_worn(draft), threads)
