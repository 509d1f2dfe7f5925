"""Back to a copy: a body is again what a copy of it, or any other body, is."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict, Field

from contour.products.body import BodyFacts, BodyProduct
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import BodyRef
from contour.recipe.registry import Inputs, Outcome, StepKind

__all__ = ["KIND", "Params"]


class Params(BaseModel):
    """The copy stays where it is; the body keeps its name, its colour and its place in the list."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    body: BodyRef = Field(description="the body that is put back")
    copy_of_it: BodyRef = Field(title="Copy", description="the copy it is to be again")


def _run(params: Params, inputs: Inputs) -> Outcome:
    if params.body.id == params.copy_of_it.id:
        raise ContourError(
            "bad-params",
            "a body cannot be put back to itself",
            where=Where(param="copy_of_it"),
            got="the same body twice",
            need="a copy that was kept of it",
            remedy="choose the copy",
        )
    copy: BodyProduct = inputs.products["copy_of_it"]
    return Outcome({params.body.id: BodyProduct(copy.brep, copy.names)}, BodyFacts())


KIND: StepKind[Params] = StepKind(
    id="restore",
    title="Back to a copy",
    help="A body becomes again what a copy of it is",
    version=1,
    makes="body",
    params=Params,
    key_value="copy_of_it",
    run=_run,
    facts=BodyFacts,
    measures={"volume": "volume", "area": "area"},
)
