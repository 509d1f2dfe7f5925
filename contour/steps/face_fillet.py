"""Fillet between faces: two faces joined by a round over the small faces between them."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from contour.present.blends import swallowed
from contour.present.edges import body_of, loaded
from contour.products.body import BodyFigures, BodyProduct
from contour.recipe.params import refs_in
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import FaceRef, OneFace, PartRef
from contour.recipe.registry import Inputs, Outcome, Start, StepKind
from contour.recipe.values import Length, Value

__all__ = ["KIND", "Params"]


class Params(BaseModel):
    """Both faces run on until they meet; what lies between them, a step or a worn edge, goes."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    first: FaceRef = Field(title="From face")
    second: FaceRef = Field(title="Onto face")
    radius: Length = Field(default=Value(text="3 mm"))
    between: list[OneFace] = Field(
        default_factory=list, max_length=50, title="Faces that go", description="what lies between both; none: found"
    )


class FaceFilletFacts(BodyFigures):
    """blends: faces that came of it · removed: mm³, below 0 where material came to it."""

    of: Literal["face_fillet"] = "face_fillet"
    blends: int
    removed: float


def _run(params: Params, inputs: Inputs) -> Outcome:
    from contour.solid.face_fillet import face_fillet
    from contour.solid.shape import write_shape

    id = body_of((place, ref) for place, ref in refs_in(params).items() if isinstance(ref, PartRef))
    body, radius = loaded(inputs, "first"), inputs.values["radius"]
    if radius < 1e-3:
        raise ContourError(
            "bad-params",
            "a fillet needs a radius",
            where=Where(param="radius"),
            got=f"{radius:g} mm",
            need="more than 0.001 mm",
            remedy="type a radius",
        )
    done = face_fillet(
        body,
        inputs.face("first"),
        inputs.face("second"),
        radius,
        between=[inputs.face(f"between[{i}]") for i in range(len(params.between))],
        prefix=f"{inputs.step[:8]}.fillet",
        labels=inputs.steps,
    )
    return Outcome(
        {id: BodyProduct(write_shape(done.made.shape), done.made.names)},
        FaceFilletFacts(blends=done.blends, removed=-done.volume),
        problems=swallowed(done.swallowed, "fillet"),
    )


KIND: StepKind[Params] = StepKind(
    id="face_fillet",
    title="Fillet between faces",
    help="Two faces joined by a round, over the small faces between them",
    version=1,
    makes="body",
    params=Params,
    key_value="radius",
    run=_run,
    facts=FaceFilletFacts,
    measures={"removed": "volume", "volume": "volume", "area": "area"},
    starts=(Start("face", "first", least=2, most=2, second="second"), Start("face", "first", most=1, seldom=True)),
)
