"""Combine: bodies united, one taken from another, or what they share; of what falls apart, the pieces that are wanted."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from contour.present.kept_pieces import pieces_that_stay
from contour.products.body import BodyFigures, BodyProduct
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import BodyRef, PointRef
from contour.recipe.registry import Inputs, Outcome, Start, StepKind

__all__ = ["KIND", "Params"]


class Params(BaseModel):
    """The first body keeps its name and its colour; the others go into it unless they are kept."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    body: BodyRef = Field(description="what it is done to")
    operation: Literal["add", "subtract", "intersect"] = Field(
        default="add", description="united, taken away, or what they share"
    )
    tools: list[BodyRef] = Field(min_length=1, max_length=50, title="With", description="the other bodies")
    keep: bool = Field(default=False, title="Keep the others", description="they stay as bodies of their own")
    pieces: list[PointRef] = Field(
        default_factory=list,
        max_length=50,
        title="Pieces that stay",
        description="points on them, where it falls apart; none: all stay",
    )


class CombineFacts(BodyFigures):
    """pieces: it would fall into · kept: how many of them stay."""

    of: Literal["combine"] = "combine"
    pieces: int
    kept: int


def _run(params: Params, inputs: Inputs) -> Outcome:
    from contour.solid.boolean import combine
    from contour.solid.shape import NamedShape, read_shape, solids, write_shape

    ids = [t.id for t in params.tools]
    twice = params.body.id in ids or len(set(ids)) < len(ids)
    if twice:
        raise ContourError(
            "bad-params",
            "a body is combined with others, each once",
            where=Where(param="tools"),
            got="the same body twice",
            need="different bodies",
            remedy="take it out of the list",
        )

    def shape(place: str) -> NamedShape:
        product: BodyProduct = inputs.products[place]
        return NamedShape(read_shape(product.brep), product.names)

    made = shape("body")
    for i in range(len(ids)):
        try:
            made = combine(made, shape(f"tools[{i}]"), params.operation, what="the other body")
        except ContourError as error:
            raise error.at(param=f"tools[{i}]") from None
    count = len(solids(made.shape))
    if params.pieces:
        made = pieces_that_stay([made], len(params.pieces), inputs)[0]
    facts = CombineFacts(pieces=count, kept=len(solids(made.shape)))
    after = BodyProduct(write_shape(made.shape), made.names)
    return Outcome({params.body.id: after}, facts, gone=() if params.keep else tuple(ids))


KIND: StepKind[Params] = StepKind(
    id="combine",
    title="Combine",
    help="Bodies united, one taken from another, or what they share",
    version=1,
    makes="body",
    params=Params,
    key_value="operation",
    run=_run,
    facts=CombineFacts,
    measures={"volume": "volume", "area": "area", "pieces": "number"},
    starts=(Start("body", "body", most=1),),
)
