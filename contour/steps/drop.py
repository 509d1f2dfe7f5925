"""Drop: facets that say nothing taken out of a scan: repeated ones, flat ones, and islands."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from contour.mesh.mend import drop_islands
from contour.mesh.stitch import dropped_repeats
from contour.mesh.thin import drop_thin
from contour.present.scans import changed_scan, scan_of
from contour.products.scan import ScanFigures
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import ScanRef
from contour.recipe.registry import Inputs, Outcome, StepKind
from contour.recipe.values import Number, Value

__all__ = ["KIND", "Params"]


class Params(BaseModel):
    """Flat facets go by collapsing their short side or turning their long one, so that nothing opens."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    scan: ScanRef
    repeated: bool = Field(default=True, description="facets that stand twice")
    flat: bool = Field(default=True, description="facets without area")
    islands: bool = Field(default=True, description="small pieces by themselves")
    share: Number = Field(
        title="Smaller than, of the scan",
        default=Value(text="0.01"),
        description="what counts as small, of the largest piece's area",
        json_schema_extra={"when": {"islands": [True]}},
    )


class DropFacts(ScanFigures):
    """islands: how many pieces went."""

    of: Literal["drop"] = "drop"
    islands: int


def _run(params: Params, inputs: Inputs) -> Outcome:
    scan, mesh = scan_of(inputs)
    share = inputs.values["share"]
    if not 0 < share <= 1:
        raise ContourError(
            "bad-params",
            "the share must lie between 0 and 1",
            where=Where(param="share"),
            got=f"{share:g}",
            need="above 0, up to 1",
            remedy="type a share such as 0.01",
        )
    count, moved, islands = 0, 0.0, 0
    if params.repeated:
        mesh, gone = dropped_repeats(mesh)
        count += gone
    if params.flat:
        mesh, gone, moved = drop_thin(mesh)
        count += gone
    if params.islands:
        mesh, islands = drop_islands(mesh, share)
        count += islands
    return changed_scan(params.scan.id, scan, mesh, count=count, moved=moved, told=DropFacts, islands=islands)


KIND: StepKind[Params] = StepKind(
    id="drop",
    title="Drop",
    help="Repeated and flat facets and islands taken out",
    version=1,
    makes="scan",
    params=Params,
    key_value="share",
    run=_run,
    facts=DropFacts,
)
