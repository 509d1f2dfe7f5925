"""Weld: vertices that mean one point merged, and borders zipped where faces were meshed one by one."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict, Field

from contour.mesh.mend import stitched
from contour.mesh.stitch import dropped_repeats
from contour.present.scans import changed_scan, positive, scan_of
from contour.products.scan import ScanFacts
from contour.recipe.reference import ScanRef
from contour.recipe.registry import Inputs, Outcome, StepKind
from contour.recipe.values import Length

__all__ = ["KIND", "Params"]


class Params(BaseModel):
    """Without a reach only borders are welded, with the least reach that closes them."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    scan: ScanRef
    reach: Length | None = Field(title="Largest gap", default=None, description="vertices nearer than this become one")


def _run(params: Params, inputs: Inputs) -> Outcome:
    scan, mesh = scan_of(inputs)
    reach = inputs.values.get("reach")
    if reach is not None:
        positive(reach, "reach", "the reach")
    mesh, count, moved = stitched(mesh, reach)
    mesh, _ = dropped_repeats(mesh)
    return changed_scan(params.scan.id, scan, mesh, count=count, moved=moved)


KIND: StepKind[Params] = StepKind(
    id="weld",
    title="Weld",
    help="Borders of loose parts made one",
    version=2,
    makes="scan",
    params=Params,
    key_value="reach",
    run=_run,
    facts=ScanFacts,
)
