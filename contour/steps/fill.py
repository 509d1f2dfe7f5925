"""Fill: holes of a scan closed, flat or going on as the surface around them bends."""

from __future__ import annotations

from typing import Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from contour.mesh.fill import all_loops, fill_loops
from contour.present.scans import changed_scan, positive, scan_of
from contour.products.scan import ScanFigures
from contour.recipe.problem import ContourError, Problem, Where
from contour.recipe.reference import ScanRef
from contour.recipe.registry import Inputs, Outcome, StepKind
from contour.recipe.values import Length

__all__ = ["KIND", "Params"]


class Params(BaseModel):
    """Filled facets are no evidence: they have no number in the file, and regions leave them out."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    scan: ScanRef
    shape: Literal["curved", "flat"] = Field(
        title="Filled", default="curved", description="as the surface around bends, or the least surface"
    )
    which: Literal["all", "small", "picked"] = Field(
        title="Which holes", default="all", description="all holes, those up to a length of rim, or picked ones"
    )
    longest: Length | None = Field(
        title="Longest rim",
        default=None,
        description="rims up to this length",
        json_schema_extra={"when": {"which": ["small"]}},
    )
    rims: list[int] = Field(
        default_factory=list,
        max_length=2000,
        description="facets at the picked holes' rims, by their number in the file",
        json_schema_extra={"when": {"which": ["picked"]}},
    )


class FillFacts(ScanFigures):
    """added: facets that close the holes."""

    of: Literal["fill"] = "fill"
    added: int


def _run(params: Params, inputs: Inputs) -> Outcome:
    scan, mesh = scan_of(inputs)
    longest = None
    if params.which == "small":
        if "longest" not in inputs.values:
            raise ContourError(
                "bad-params",
                "say up to which length of rim",
                where=Where(param="longest"),
                got="no length",
                need="a length",
                remedy="type something like 20 mm",
            )
        longest = positive(inputs.values["longest"], "longest", "the length")
    loops = all_loops(mesh, most_mm=longest)
    if params.which == "picked":
        wanted = np.array(params.rims, dtype=np.int64)
        loops = [h for h in loops if np.isin(mesh.source[h // 3], wanted).any()]
    made = fill_loops(mesh, loops, shape=params.shape)
    problems = tuple(
        Problem(
            code="not-mended",
            message="a hole whose rim does not close was left open",
            remedy="split junctions first",
            where=Where(point=tuple(float(c) for c in mesh.vertices[mesh.facets[h[0] // 3, h[0] % 3]])),  # type: ignore[arg-type]
        )
        for h in made.left[:10]
    )
    return changed_scan(
        params.scan.id,
        scan,
        made.mesh,
        count=made.closed,
        problems=problems,
        told=FillFacts,
        added=len(made.mesh.facets) - len(mesh.facets),
    )


KIND: StepKind[Params] = StepKind(
    id="fill",
    title="Fill holes",
    help="Holes closed, flat or following the curvature",
    version=2,
    makes="scan",
    params=Params,
    key_value="longest",
    run=_run,
    facts=FillFacts,
)
