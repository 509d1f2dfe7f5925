"""Orient: facets of a scan turned so that all face outwards."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict, Field

from contour.mesh.facets import Mesh
from contour.mesh.mend import orient
from contour.mesh.orient import one_sided_places
from contour.present.scans import changed_scan, scan_of
from contour.products.scan import ScanFacts
from contour.recipe.problem import Problem, Where
from contour.recipe.reference import ScanRef
from contour.recipe.registry import Inputs, Outcome, StepKind

__all__ = ["KIND", "Params"]


class Params(BaseModel):
    """Each piece one way round, shells outwards, cavities inwards; or everything turned over."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    scan: ScanRef
    turn_over: bool = Field(default=False, description="turn every facet over instead: the whole scan is inside out")


def _run(params: Params, inputs: Inputs) -> Outcome:
    scan, mesh = scan_of(inputs)
    if params.turn_over:
        return changed_scan(
            params.scan.id, scan, Mesh(mesh.vertices, mesh.facets[:, ::-1].copy(), mesh.source), count=len(mesh.facets)
        )
    mesh, count = orient(mesh)
    torn = one_sided_places(mesh, mesh.across())
    problems: tuple[Problem, ...] = ()
    if len(torn):
        x, y, z = (float(c) for c in mesh.vertices[mesh.facets[torn[0], 0]])
        problems = (
            Problem(
                code="not-mended",
                message="a part of the scan has one side only and cannot face outwards",
                where=Where(point=(x, y, z)),
                remedy="delete some facets there, then fill the hole",
            ),
        )
    return changed_scan(params.scan.id, scan, mesh, count=count, problems=problems)


KIND: StepKind[Params] = StepKind(
    id="orient",
    title="Orient",
    help="Facets turned to face outwards",
    version=1,
    makes="scan",
    params=Params,
    key_value="turn_over",
    run=_run,
    facts=ScanFacts,
)
