"""Patch: spikes, folds and piercings cut out of a scan with two rings around them, refilled and faired."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict, Field

from contour.mesh.mend import mend_skin
from contour.present.scans import changed_scan, scan_of
from contour.products.scan import ScanFacts
from contour.recipe.problem import Problem
from contour.recipe.reference import ScanRef
from contour.recipe.registry import Inputs, Outcome, StepKind

__all__ = ["KIND", "Params"]


class Params(BaseModel):
    """No point outside the patches moves."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    scan: ScanRef
    spikes: bool = Field(default=True, description="vertices that stick out like needles")
    folds: bool = Field(default=True, description="where the surface turns back on itself")
    piercings: bool = Field(default=True, description="where facets pass through each other")


def _run(params: Params, inputs: Inputs) -> Outcome:
    scan, mesh = scan_of(inputs)
    wanted = {"spike": params.spikes, "fold": params.folds, "piercing": params.piercings}
    mesh, count, clean = mend_skin(mesh, tuple(k for k, on in wanted.items() if on))
    problems: tuple[Problem, ...] = ()
    if not clean:
        problems = (
            Problem(
                code="not-mended",
                message="some of it came back after every cut",
                remedy="delete the facets there and fill the hole",
            ),
        )
    return changed_scan(params.scan.id, scan, mesh, count=count, problems=problems)


KIND: StepKind[Params] = StepKind(
    id="patch",
    title="Patch",
    help="Spikes, folds and piercings cut out and refilled",
    version=2,
    makes="scan",
    params=Params,
    key_value="",
    run=_run,
    facts=ScanFacts,
)
