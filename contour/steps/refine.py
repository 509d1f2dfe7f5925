"""Refine: long facet sides split, so that what follows has points enough."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict, Field

from contour.mesh.reshape import refined
from contour.present.scans import changed_scan, positive, scan_of
from contour.products.scan import ScanFacts
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import ScanRef
from contour.recipe.registry import Inputs, Outcome, StepKind
from contour.recipe.values import Length

__all__ = ["KIND", "Params"]

_MOST = 5_000_000


class Params(BaseModel):
    """Facets are split where they are; no point moves."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    scan: ScanRef
    longest: Length = Field(title="Longest side", description="sides longer than this are split")


def _run(params: Params, inputs: Inputs) -> Outcome:
    scan, mesh = scan_of(inputs)
    longest = positive(inputs.values["longest"], "longest", "the length")
    wanted = float(scan.areas.sum()) / (0.3 * longest**2)
    if wanted > _MOST:
        raise ContourError(
            "too-many-facets",
            "that would be too many facets",
            where=Where(param="longest"),
            got=f"about {wanted:,.0f}",
            need=f"at most {_MOST:,}",
            remedy="choose a greater length",
        )
    made = refined(mesh, longest)
    return changed_scan(params.scan.id, scan, made, count=len(made.facets) - len(mesh.facets))


KIND: StepKind[Params] = StepKind(
    id="refine",
    title="Refine",
    help="Long facet sides split",
    version=1,
    makes="scan",
    params=Params,
    key_value="longest",
    run=_run,
    facts=ScanFacts,
)
