"""Earlier scan: the scan again as it was before one of its steps, where it lies now."""

from __future__ import annotations

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from contour.geometry.rigid import inverse
from contour.mesh.prepare import placed
from contour.present.scans import scan_of
from contour.products.scan import ScanFacts, ScanProduct
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import MendRef, ScanRef
from contour.recipe.registry import Inputs, Outcome, StepKind

__all__ = ["KIND", "Params"]


class Params(BaseModel):
    """What was drawn on a part of the scan, on one sector of it or on what a cut has left, stays; what comes below has all of it, and so has the check."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    scan: ScanRef
    before: MendRef = Field(title="As before", description="the step before which the scan was as it is wanted")


def _run(params: Params, inputs: Inputs) -> Outcome:
    now, _ = scan_of(inputs)
    then = inputs.products["before"]
    told = getattr(then.params, "scan", None)
    if told is None or told.id != params.scan.id:
        raise ContourError(
            "bad-params",
            "that step changed another scan",
            where=Where(param="before"),
            got=then.kind.title,
            need="a step that changed this scan",
            remedy="choose another step",
        )
    scan, _ = scan_of(then.inputs)
    since = np.asarray(now.pose) @ inverse(np.asarray(scan.pose))
    made = scan if np.allclose(since, np.eye(4), atol=1e-12) else placed(scan, since)
    facts = ScanFacts(changed=len(made.facets), moved=0.0, facets=len(made.facets), facets_before=len(now.facets))
    return Outcome({params.scan.id: ScanProduct(made)}, facts)


KIND: StepKind[Params] = StepKind(
    id="earlier",
    title="Earlier scan",
    help="The scan again as it was before one of its steps, such as the one that cut a sector out of it",
    version=1,
    makes="scan",
    params=Params,
    key_value="before",
    run=_run,
    ends=True,
    facts=ScanFacts,
)
