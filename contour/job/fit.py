"""The fit of a job's bodies to its scan: of a fixed sample, of the whole scan, after each step, and at the probes."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from pydantic import BaseModel, ConfigDict

from contour.check.deviation import at_facet, deviations, sample_order, summarise, unseen_share
from contour.job.keys import fit_key
from contour.job.store import Store
from contour.mesh.exact import load_exact
from contour.mesh.prepare import PreparedScan
from contour.recipe.file import Recipe

__all__ = ["FitState", "StepFit", "fit_by_step", "measure_fit", "probe_values"]


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
    figures: dict[str, Any]
    by_step: dict[str, StepFit] = {}
    probes: dict[str, float] = {}


def _measured(
    scan_id: str, scan: PreparedScan, bodies: tuple[str, ...], store: Store, acceptance: float, *, sampled: bool
) -> tuple[str, dict[str, Any]]:
    key = fit_key(scan_id, list(bodies), acceptance) + ("-s" if sampled else "")
    if not store.has(key):
        solids = [load_exact(store.folder(k) / "exact.npz") for k in bodies]
        ids = sample_order(len(scan.vertices)) if sampled else np.arange(len(scan.vertices))
        points = scan.vertices[ids]
        d = deviations(solids, points)
        # A face of the body counts as seen when a scan vertex lies within a few facets of it, or where the fit is poor.
        reach = 3 * scan.edge_mm + 2 * acceptance
        unseen = None if sampled else unseen_share(solids, np.asarray(scan.vertices), reach)
        figures = summarise(
            points, np.asarray(scan.vertex_areas)[ids], d, acceptance_mm=acceptance, unseen=unseen, sampled=sampled
        )
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
) -> FitState:
    """Figures of the fit, kept in the store under their own key."""
    key, figures = _measured(scan_id, scan, bodies, store, acceptance, sampled=sampled)
    return FitState(key=key, scan=evidence, figures=figures)


def fit_by_step(
    history: Sequence[tuple[str, tuple[str, ...]]], scan_id: str, scan: PreparedScan, store: Store, acceptance: float
) -> dict[str, StepFit]:
    """The sample's fit after each step that made or changed a body."""
    out: dict[str, StepFit] = {}
    before: float | None = None
    for step, bodies in history:
        if not bodies:
            continue
        share = _measured(scan_id, scan, bodies, store, acceptance, sampled=True)[1]["inside_share"]
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
            out[probe.id] = at_facet(scan, values, int(found[0]), np.array(probe.point))
    return out
