"""Region: connected facets that one surface explains, grown from picked facets."""

from __future__ import annotations

from typing import Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from contour.fit.region import Region, default_tolerance, grow_region
from contour.mesh.prepare import PreparedScan
from contour.recipe.problem import ContourError
from contour.recipe.registry import Inputs, Outcome, StepKind
from contour.recipe.values import Length, ScanRef
from contour.steps.products import RegionProduct, ScanProduct

__all__ = ["KIND", "Params", "region_of"]


class Params(BaseModel):
    """Seeds are raw facet numbers: the first decides the surface, more add pieces that lie on it."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    scan: ScanRef
    seeds: list[int] = Field(min_length=1, max_length=200, description="picked facets, by their number in the file")
    removed: list[int] = Field(default_factory=list, max_length=200_000, description="facets kept out by hand")
    surface: Literal["auto", "plane", "cylinder"] = Field(default="auto", description="kind of surface")
    tolerance: Length | None = Field(default=None, description="how far a facet may lie off the surface")


def region_of(
    scan: PreparedScan, seeds: list[int], removed: list[int], surface: str, tolerance_mm: float | None
) -> Region:
    """What both the preview under the pointer and the step compute.

    Raises ContourError (ref-lost, fit-failed) when a seed is no longer in the scan or nothing fits around it.
    """
    found = [scan.facets_of_source(np.array([s])) for s in seeds]
    if len(found[0]) == 0:
        raise ContourError(
            "ref-lost", "the picked facet is not in the scan", got=f"facet {seeds[0]}", remedy="pick the region again"
        )
    return grow_region(
        scan,
        np.concatenate(found),
        kind=None if surface == "auto" else surface,  # type: ignore[arg-type]
        tolerance_mm=tolerance_mm,
        removed=scan.facets_of_source(np.array(removed, dtype=np.int64)) if removed else None,
    )


def _run(params: Params, inputs: Inputs) -> Outcome:
    product: ScanProduct = inputs.products["scan"]
    scan = product.scan
    region = region_of(scan, params.seeds, params.removed, params.surface, inputs.lengths.get("tolerance"))
    s = region.surface
    facts = {
        "kind": s.kind,
        "facets": len(region.facets),
        "rms": region.rms,
        "largest": region.largest,
        "largest_at": region.largest_at,
        "area": region.area,
        "origin": s.origin,
        "axis": s.axis,
        "tolerance": inputs.lengths.get("tolerance") or default_tolerance(scan),
    }
    if s.kind == "cylinder":
        facts |= {"diameter": 2 * s.radius, "inside": s.outward < 0}
    return Outcome(RegionProduct(np.sort(scan.source_facet[region.facets]), s, region.rms), facts)


KIND: StepKind[Params] = StepKind(
    id="region", title="Region", help="Facets that one plane or cylinder explains", version=1, makes="region",
    params=Params, key_value="tolerance", run=_run,
)  # fmt: skip
