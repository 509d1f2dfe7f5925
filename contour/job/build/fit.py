"""The fit of a job's bodies to its scan: of a fixed sample, of the whole scan, after each step, and at the probes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict
from typing_extensions import TypedDict

from contour.check.deviation import at_facet, deviations, sample_order, summarise, unseen_share
from contour.check.exact_solid import load_exact
from contour.fit.region import corners_of
from contour.geometry.rigid import moved
from contour.job.build.keys import fit_key
from contour.job.build.store import Store
from contour.mesh.facets import compacted
from contour.mesh.prepare import PreparedScan, mesh_of
from contour.recipe.evidence.scan import ScanEvidence
from contour.recipe.problem import ContourError, Where
from contour.recipe.recipe import Recipe
from contour.recipe.values import facets_from_bytes

__all__ = ["Figures", "FitState", "StepFit", "Zone", "fit_by_step", "measure_fit", "probe_values", "zone_of"]


class WorstPlace(TypedDict):
    """mm, in the scan's frame."""

    point: tuple[float, float, float]
    deviation: float


class Figures(TypedDict):
    """Deviation of the scan from the bodies: see :class:`contour.check.deviation.Fit`. mm and shares of area."""

    points: int
    acceptance: float
    inside_share: float
    mean: float
    rms: float
    p95: float
    max: float
    unseen_share: float | None
    worst: list[WorstPlace]
    histogram: list[float]
    sampled: bool


class StepFit(BaseModel):
    """Share of the scan inside the acceptance after a step (by the sample), and what the step changed in it."""

    model_config = ConfigDict(frozen=True)

    inside_share: float
    change: float | None


class FitState(BaseModel):
    """The fit of all bodies to the first scan; `probes` are deviations in mm by the probe's id."""

    model_config = ConfigDict(frozen=True)

    key: str
    scan: str
    figures: Figures
    by_step: dict[str, StepFit] = {}
    probes: dict[str, float] = {}


@dataclass(frozen=True, slots=True)
class Zone:
    """Where the fit counts: vertices of the scan, and the blob of facets they come from."""

    blob: str
    vertices: NDArray[np.int64]


def zone_of(evidence: ScanEvidence, scan: PreparedScan, store: Store) -> Zone | None:
    """The painted zone of a scan; none when all of it counts. Raises ContourError (ref-lost) when none of it is left."""
    if evidence.zone is None:
        return None
    facets = scan.facets_of_source(facets_from_bytes(store.read_blob(evidence.zone.blob)))
    if len(facets) == 0:
        raise ContourError(
            "ref-lost",
            "nothing of the zone of the fit is left in the scan",
            got="0 facets",
            need="at least one facet",
            where=Where(param="zone"),
            remedy="paint the zone again",
        )
    return Zone(evidence.zone.blob, corners_of(scan, facets))


def _scanned(scan: PreparedScan, seen: NDArray[np.bool_]) -> tuple[NDArray[np.float64], NDArray[np.int32]]:
    """Vertices and facets without what mends have made."""
    if seen.all():
        return np.asarray(scan.vertices), np.asarray(scan.facets)
    own = compacted(mesh_of(scan).without(~seen))
    return own.vertices, own.facets


def _measured(
    scan_id: str,
    scan: PreparedScan,
    bodies: tuple[str, ...],
    store: Store,
    acceptance: float,
    *,
    sampled: bool,
    zone: Zone | None,
) -> tuple[str, dict[str, Any]]:
    key = fit_key(scan_id, list(bodies), acceptance, zone.blob if zone else None) + ("-s" if sampled else "")
    if not store.has(key):
        solids = [load_exact(store.folder(k) / "exact.npz") for k in bodies]
        seen = scan.seen()
        counted = np.arange(len(scan.vertices)) if zone is None else zone.vertices
        if not seen.all():  # what a mend has made was measured nowhere
            evidence = np.intersect1d(counted, corners_of(scan, np.flatnonzero(seen)))
            counted = evidence if len(evidence) else counted
        ids = counted[sample_order(len(counted))] if sampled else counted
        points = scan.vertices[ids]
        d = deviations(solids, points)
        # A face of the body counts as seen when the scan lies within a few facets of it, or where the fit is poor.
        reach = 3 * scan.edge_mm + 2 * acceptance
        unseen = None if sampled or zone is not None else unseen_share(solids, *_scanned(scan, seen), reach)
        figures = summarise(
            points, np.asarray(scan.vertex_areas)[ids], d, acceptance_mm=acceptance, unseen=unseen, sampled=sampled
        )
        if len(counted) < len(scan.vertices) and not sampled:  # elsewhere nothing is measured, and nothing is coloured
            whole = np.full(len(scan.vertices), np.nan)
            whole[ids] = d
            d = whole
        store.put(key, {"figures": figures.as_json()}, lambda f: np.save(f / "deviation.npy", d.astype(np.float32)))
    return key, store.outcome(key)["figures"]


def measure_fit(
    evidence: str,
    scan_id: str,
    scan: PreparedScan,
    bodies: tuple[str, ...],
    store: Store,
    acceptance: float,
    *,
    sampled: bool,
    zone: Zone | None = None,
) -> FitState:
    """Figures of the fit, kept in the store under their own key. acceptance, mm."""
    key, figures = _measured(scan_id, scan, bodies, store, acceptance, sampled=sampled, zone=zone)
    return FitState(key=key, scan=evidence, figures=figures)


def fit_by_step(
    history: Sequence[tuple[str, tuple[str, ...]]],
    scan_id: str,
    scan: PreparedScan,
    store: Store,
    acceptance: float,
    zone: Zone | None = None,
) -> dict[str, StepFit]:
    """The sample's fit after each step that made or changed a body. acceptance, mm."""
    out: dict[str, StepFit] = {}
    before: float | None = None
    for step, bodies in history:
        if not bodies:
            continue
        share = _measured(scan_id, scan, bodies, store, acceptance, sampled=True, zone=zone)[1]["inside_share"]
        out[step] = StepFit(inside_share=share, change=None if before is None else share - before)
        before = share
    return out


def probe_values(recipe: Recipe, evidence: str, scan: PreparedScan, fit: str, store: Store) -> dict[str, float]:
    """Deviation at each pinned probe of that scan; a probe whose facet is gone is left out."""
    mine = [p for p in recipe.probes if p.scan == evidence]
    if not mine:
        return {}
    values = np.load(store.folder(fit) / "deviation.npy", mmap_mode="r")
    out = {}
    for probe in mine:
        found = scan.facets_of_source(np.array([probe.facet]))
        if len(found):
            point = moved(np.asarray(scan.pose), np.array(probe.point))
            value = at_facet(scan, values, int(found[0]), point)
            if np.isfinite(value):
                out[probe.id] = value
    return out
