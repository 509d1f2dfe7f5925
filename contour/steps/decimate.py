"""Decimate: fewer facets, to a count or as far as an error allows."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from contour.mesh.reshape import decimated, decimated_within, deviation_between
from contour.present.scans import changed_scan, positive, scan_of
from contour.products.scan import ScanFacts
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import ScanRef
from contour.recipe.registry import Inputs, Outcome, StepKind
from contour.recipe.values import Length, Number, Value

__all__ = ["KIND", "Params"]


class Params(BaseModel):
    """New facets carry the number of the facet they lie on, so that regions picked before still find their place."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    scan: ScanRef
    to: Literal["error", "count"] = Field(title="Limit", default="error", description="what limits the thinning")
    error: Length = Field(
        title="Largest error",
        default=Value(text="0.02 mm"),
        description="no point farther off than this",
        json_schema_extra={"when": {"to": ["error"]}},
    )
    count: Number = Field(
        title="Facets to keep",
        default=Value(text="100000"),
        description="facets to keep",
        json_schema_extra={"when": {"to": ["count"]}},
    )


def _run(params: Params, inputs: Inputs) -> Outcome:
    scan, mesh = scan_of(inputs)
    if params.to == "count":
        wanted = inputs.values["count"]
        if wanted < 4:
            raise ContourError(
                "bad-params",
                "a mesh needs at least 4 facets",
                where=Where(param="count"),
                got=f"{wanted:g}",
                need="4 or more",
                remedy="keep more facets",
            )
        made = decimated(mesh, int(wanted))
        error = deviation_between(mesh, made) if made is not mesh else 0.0
    else:
        made, error = decimated_within(mesh, positive(inputs.values["error"], "error", "the error"))
    return changed_scan(params.scan.id, scan, made, count=len(mesh.facets) - len(made.facets), moved=error)


KIND: StepKind[Params] = StepKind(
    id="decimate",
    title="Decimate",
    help="Fewer facets, to a count or within an error",
    version=1,
    makes="scan",
    params=Params,
    key_value="error",
    run=_run,
    facts=ScanFacts,
)
