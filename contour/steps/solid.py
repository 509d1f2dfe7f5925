"""Solid: bodies of a STEP or IGES file brought into the job, as material or for reference."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from contour.products.body import BodyFigures, BodyProduct
from contour.products.solid import SolidProduct
from contour.recipe.problem import ContourError, Problem, Where
from contour.recipe.reference import SolidRef
from contour.recipe.registry import OWN, Inputs, Outcome, StepKind

__all__ = ["KIND", "Params"]


class Params(BaseModel):
    """Bodies keep their places, names and colours of the file. One that does not close stays open: it is shown, not delivered."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    file: SolidRef = Field(description="the file they come from")
    bodies: list[int] | None = Field(
        default=None, max_length=500, description="which of the file's bodies, counted from 0; none means all"
    )
    role: Literal["material", "reference"] = Field(
        default="material", title="Used as", description="material of the part, or only to look at and measure against"
    )


class SolidFacts(BodyFigures):
    """file_bodies: in the file · open_bodies: of the chosen ones · unit_mm: of the file · sewn: from loose faces."""

    of: Literal["solid"] = "solid"
    file_bodies: int
    open_bodies: int
    unit_mm: float
    sewn: bool


def _run(params: Params, inputs: Inputs) -> Outcome:
    file: SolidProduct = inputs.products["file"]
    chosen = range(len(file.bodies)) if params.bodies is None else params.bodies
    lost = [k for k in chosen if not 0 <= k < len(file.bodies)]
    if lost or not len(chosen):
        raise ContourError(
            "ref-lost",
            "the file has no such body",
            where=Where(param="bodies"),
            got=", ".join(map(str, lost)) or "none",
            need=f"0 to {len(file.bodies) - 1}",
            remedy="choose the bodies again",
        )
    prefix = inputs.step[:8]
    puts: dict[str, BodyProduct] = {}
    problems = []
    for n, k in enumerate(dict.fromkeys(chosen)):
        body = file.bodies[k]
        names = tuple(f"{prefix}.imported[{number}]" for number in body.numbers)
        slot = OWN if n == 0 else f"{inputs.step}.{k}"
        puts[slot] = BodyProduct(body.brep, names, title=body.name, colour=body.colour, role=params.role)
        if not body.closed:
            problems.append(
                Problem(
                    code="open-end",
                    message=f"'{body.name}' is open: its faces do not close a solid",
                    where=Where(param="file"),
                    remedy="use it for reference, or export it again as a solid",
                )
            )
    facts = SolidFacts(
        file_bodies=len(file.bodies),
        open_bodies=sum(not file.bodies[k].closed for k in chosen),
        unit_mm=file.unit_mm,
        sewn=file.sewn,
    )
    return Outcome(puts, facts, problems=tuple(problems))


KIND: StepKind[Params] = StepKind(
    id="solid",
    title="Solid from a file",
    help="Bodies of a STEP or IGES file",
    version=1,
    makes="body",
    params=Params,
    key_value="role",
    run=_run,
    facts=SolidFacts,
    measures={"volume": "volume", "area": "area"},
)
