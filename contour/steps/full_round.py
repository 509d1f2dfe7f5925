"""Full round: a face between two others made one round that is tangent to all three."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from contour.present.edges import body_of, loaded
from contour.products.body import BodyFigures, BodyProduct
from contour.recipe.params import refs_in
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import FaceRef, OneFace, PartRef
from contour.recipe.registry import Inputs, Outcome, Start, StepKind

__all__ = ["KIND", "Params"]


class Params(BaseModel):
    """Its radius is what the three faces leave room for: there is no value to type."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    face: FaceRef = Field(
        description="the face in the middle, which goes: a rib's top, a disc's rim, the floor of a slot"
    )
    sides: list[OneFace] = Field(
        default_factory=list,
        max_length=2,
        description="the two faces beside it; none: those with the longest edges to it",
    )


class FullRoundFacts(BodyFigures):
    """radius: mm, as it came out."""

    of: Literal["full_round"] = "full_round"
    radius: float


def _run(params: Params, inputs: Inputs) -> Outcome:
    from contour.solid.full_round import full_round
    from contour.solid.shape import write_shape

    if len(params.sides) == 1:
        raise ContourError(
            "bad-params",
            "one side alone says too little",
            where=Where(param="sides"),
            got="1 face",
            need="two faces, or none to have both found",
            remedy="choose the other side too, or take this one out",
        )
    id = body_of((place, ref) for place, ref in refs_in(params).items() if isinstance(ref, PartRef))
    body = loaded(inputs, "face")
    sides = (inputs.face("sides[0]"), inputs.face("sides[1]")) if params.sides else None
    made = full_round(body, inputs.face("face"), sides, prefix=inputs.step[:8], labels=inputs.steps)
    return Outcome({id: BodyProduct(write_shape(made.body.shape), made.body.names)}, FullRoundFacts(radius=made.radius))


KIND: StepKind[Params] = StepKind(
    id="full_round",
    title="Full round",
    help="A face between two others becomes a round that is tangent to all three",
    version=1,
    makes="body",
    params=Params,
    key_value="face",
    run=_run,
    facts=FullRoundFacts,
    measures={"radius": "length", "volume": "volume", "area": "area"},
    starts=(Start("face", "face", shapes=("plane", "cylinder", "cone"), most=1, seldom=True),),
)
