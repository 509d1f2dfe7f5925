"""Offset: the whole skin of a scan moved outwards or inwards by a distance."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict, Field

from contour.mesh.piercing import pierced_pairs
from contour.mesh.reshape import offset_mesh
from contour.present.scans import changed_scan, scan_of
from contour.products.scan import ScanFacts
from contour.recipe.problem import ContourError, Problem, Where
from contour.recipe.reference import ScanRef
from contour.recipe.registry import Inputs, Outcome, StepKind
from contour.recipe.values import Length

__all__ = ["KIND", "Params"]


class Params(BaseModel):
    """For coatings, clearances and worn skins; edges stay sharp."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    scan: ScanRef
    distance: Length = Field(description="outwards; inwards when negative")


def _run(params: Params, inputs: Inputs) -> Outcome:
    scan, mesh = scan_of(inputs)
    distance = inputs.values["distance"]
    if distance == 0:
        raise ContourError(
            "bad-params",
            "an offset of nothing",
            where=Where(param="distance"),
            got="0 mm",
            need="a distance other than 0",
            remedy="type a distance",
        )
    made = offset_mesh(mesh, distance)
    before = len(pierced_pairs(mesh.vertices, mesh.facets))
    pairs = pierced_pairs(made.vertices, made.facets)
    problems: tuple[Problem, ...] = ()
    if len(pairs) > before:
        x, y, z = (float(c) for c in made.vertices[made.facets[pairs[0, 0]]].mean(axis=0))
        problems = (
            Problem(
                code="self-crossing",
                message="the offset skin passes through itself where the scan is tighter than the distance",
                where=Where(point=(x, y, z)),
                got=f"{len(pairs)} pairs of facets",
                remedy="patch it afterwards, or offset by less",
            ),
        )
    return changed_scan(params.scan.id, scan, made, count=len(mesh.facets), moved=abs(distance), problems=problems)


KIND: StepKind[Params] = StepKind(
    id="offset-scan",
    title="Offset scan",
    help="The skin of a scan moved out or in",
    version=2,
    makes="scan",
    params=Params,
    key_value="distance",
    run=_run,
    facts=ScanFacts,
)
