"""Keep a copy: a body as it is at this step, put aside; what is done to the body later does not touch it."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from contour.products.body import BodyFacts, BodyProduct
from contour.recipe.reference import BodyRef
from contour.recipe.registry import OWN, Inputs, Outcome, Start, StepKind

__all__ = ["KIND", "Params"]


class Params(BaseModel):
    """A copy for reference has no part in the fit and is not delivered."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    body: BodyRef
    role: Literal["reference", "material"] = Field(
        title="Kept as",
        default="reference",
        description="reference: to look at, to measure and to come back to; material: a second body of the part",
    )


def _run(params: Params, inputs: Inputs) -> Outcome:
    before: BodyProduct = inputs.products["body"]
    return Outcome({OWN: BodyProduct(before.brep, before.names, role=params.role)}, BodyFacts())


KIND: StepKind[Params] = StepKind(
    id="copy",
    title="Keep a copy",
    help="A body as it is now, put aside",
    version=1,
    makes="body",
    params=Params,
    key_value="role",
    run=_run,
    facts=BodyFacts,
    starts=(Start("body", "body", most=1),),
    measures={"volume": "volume", "area": "area"},
)
