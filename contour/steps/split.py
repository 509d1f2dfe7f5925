"""Split: edges of more than two facets and vertices of several fans taken apart; fins dropped."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict

from contour.mesh.mend import taken_apart
from contour.present.scans import changed_scan, scan_of
from contour.products.scan import ScanFacts
from contour.recipe.reference import ScanRef
from contour.recipe.registry import Inputs, Outcome, StepKind

__all__ = ["KIND", "Params"]


class Params(BaseModel):
    """What touches at an edge or a point only is pulled apart by a fiftieth of a facet side."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    scan: ScanRef


def _run(params: Params, inputs: Inputs) -> Outcome:
    scan, mesh = scan_of(inputs)
    mesh, count, moved = taken_apart(mesh)
    return changed_scan(params.scan.id, scan, mesh, count=count, moved=moved)


KIND: StepKind[Params] = StepKind(
    id="split",
    title="Split junctions",
    help="Edges of more than two facets and pinched points taken apart",
    version=1,
    makes="scan",
    params=Params,
    key_value="",
    run=_run,
    facts=ScanFacts,
)
