"""Cut: a body parted by a plane, with one side kept or both."""

from __future__ import annotations

from typing import Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from contour.present.targets import target_at
from contour.products.body import BodyFigures, BodyProduct
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import BodyRef, FaceRef, SurfaceRef
from contour.recipe.registry import Inputs, Outcome, Start, StepKind
from contour.recipe.values import Length, Value

__all__ = ["KIND", "Params"]


class Params(BaseModel):
    """The plane is a region's or a face's, moved along its normal. Its front is the side the normal points to."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    body: BodyRef
    plane: SurfaceRef | None = Field(default=None, description="a plane region of the scan, or a construction plane")
    face: FaceRef | None = Field(default=None, description="or a flat face of a body")
    offset: Length = Field(default=Value(text="0 mm", mark="intent"), description="along the plane's normal")
    keep: Literal["back", "front", "both"] = Field(
        default="back", description="which side stays; both makes two bodies"
    )


class CutFacts(BodyFigures):
    """kept: which side, or both."""

    of: Literal["cut"] = "cut"
    kept: str


def _run(params: Params, inputs: Inputs) -> Outcome:
    from contour.solid.boolean import combine
    from contour.solid.halves import beyond_plane, reach_of
    from contour.solid.shape import NamedShape, bounds, read_shape, write_shape

    target = target_at(inputs, "plane", "face")
    if target.kind != "plane":
        raise ContourError(
            "wrong-kind",
            "a body is cut by a plane",
            where=Where(param="plane"),
            got=target.kind,
            need="plane",
            remedy="choose a plane region or a flat face",
        )
    before: BodyProduct = inputs.products["body"]
    body = NamedShape(read_shape(before.brep), before.names)
    origin = target.at + inputs.values["offset"] * target.along
    low, high = reach_of(body, origin, target.along)
    box = bounds(body.shape)
    tool = beyond_plane(
        origin,
        target.along,
        2 * float(np.linalg.norm(box[1] - box[0])) + 10,
        box.mean(axis=0),
        f"{inputs.step[:8]}.cut",
    )
    if low >= 0 or high <= 0:
        raise ContourError(
            "no-section",
            "the plane does not cut the body",
            where=Where(param="offset"),
            got=f"the body reaches from {low:+.3f} to {high:+.3f} mm of it",
            need="a plane between these",
            remedy="change the offset",
        )
    made = {}
    if params.keep in ("back", "both"):
        made[params.body.id] = combine(body, tool, "subtract", what="the front side")
    if params.keep in ("front", "both"):
        made[params.body.id if params.keep == "front" else inputs.step] = combine(
            body, tool, "intersect", what="the front side"
        )
    bodies = {id: BodyProduct(write_shape(m.shape), m.names) for id, m in made.items()}
    return Outcome(bodies, CutFacts(kept=params.keep))


KIND: StepKind[Params] = StepKind(
    id="cut",
    title="Cut",
    help="A plane splits a body in two",
    version=1,
    makes="body",
    params=Params,
    key_value="offset",
    run=_run,
    facts=CutFacts,
    starts=(
        Start("face", "face", ("plane",), most=1, also={"offset": {"text": "-2 mm", "mark": "assumed"}}),
        Start("body", "body", most=1),
    ),
    measures={"volume": "volume", "area": "area"},
)
