"""Mend what blocks: every mend that is needed, in the order in which one makes the next possible."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from contour.mesh.defects import Defect, find_defects
from contour.mesh.mend import blocking_places, mend_all, require_mended
from contour.present.scans import changed_scan, scan_of
from contour.products.scan import ScanFigures
from contour.recipe.problem import Problem, Where
from contour.recipe.reference import ScanRef
from contour.recipe.registry import Inputs, Outcome, StepKind

__all__ = ["KIND", "Params"]


class Params(BaseModel):
    """Welds, orients, splits junctions, patches spikes, folds and piercings, and fills holes when asked to."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    scan: ScanRef
    holes: bool = Field(default=False, description="fill every hole too: what no scanner saw is then made up")


def _counts(defects: tuple[Defect, ...]) -> dict[str, int]:
    return {d.kind: d.count for d in defects}


class MendRow(BaseModel):
    """One thing done: facets dropped and added, the largest movement (mm)."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    operation: str
    count: int
    dropped: int
    added: int
    moved: float
    note: str


class MendFacts(ScanFigures):
    """before, after: defects by kind · done: in its order."""

    of: Literal["mend"] = "mend"
    before: dict[str, int]
    after: dict[str, int]
    done: tuple[MendRow, ...]


def _run(params: Params, inputs: Inputs) -> Outcome:
    scan, mesh = scan_of(inputs)
    before = find_defects(mesh)
    work, left = mend_all(mesh, holes=params.holes)
    require_mended(mesh, work, (), holes=params.holes)
    problems = tuple(
        Problem(
            code="not-mended",
            message=f"a {kind} is left",
            where=Where(point=place.point),
            remedy="delete the facets there and fill the hole",
        )
        for kind, place in blocking_places(left, holes=params.holes)[:10]
    )
    return changed_scan(
        params.scan.id,
        scan,
        work.mesh,
        count=sum(c.count for c in work.done),
        moved=work.moved,
        problems=problems,
        told=MendFacts,
        before=_counts(before),
        after=_counts(left),
        done=tuple(MendRow(**c.as_json()) for c in work.done),
    )


KIND: StepKind[Params] = StepKind(
    id="mend",
    title="Mend what blocks",
    help="Every mend that is needed, in the right order",
    version=2,
    makes="scan",
    params=Params,
    key_value="holes",
    run=_run,
    facts=MendFacts,
)
