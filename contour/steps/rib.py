"""Rib: a wall from an open line to the body that it spans."""

from __future__ import annotations

from typing import Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from contour.geometry.vectors import triple
from contour.products.body import BodyFigures, BodyProduct
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import BodyRef, SketchRef
from contour.recipe.registry import Handle, Inputs, Outcome, Start, StepKind
from contour.recipe.values import Length
from contour.sketch.entities import entity_points

__all__ = ["KIND", "Params"]


class Params(BaseModel):
    """The line runs on straight from both its ends; the rib fills what lies between it and the body, across the sketch's plane."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    sketch: SketchRef = Field(description="one open line: where the rib ends")
    body: BodyRef = Field(description="what it stiffens")
    thickness: Length = Field(description="across the sketch's plane")
    lies: Literal["middle", "over", "under"] = Field(
        default="middle",
        description="where its wall lies to the sketch's plane",
        json_schema_extra={
            "titles": {"middle": "half on each side of the plane", "over": "over the plane", "under": "under the plane"}
        },
    )
    side: Literal["found", "left", "right"] = Field(
        default="found",
        title="Side of the line",
        description="where the body is, or the left or the right as the line was drawn",
        json_schema_extra={"titles": {"found": "where the body ends it"}},
    )


class RibFacts(BodyFigures):
    """added: mm³ that it adds to the body."""

    of: Literal["rib"] = "rib"
    added: float


def _run(params: Params, inputs: Inputs) -> Outcome:
    from contour.solid.ribbed import ribbed
    from contour.solid.shape import NamedShape, read_shape, write_shape

    before: BodyProduct = inputs.products["body"]
    body = NamedShape(read_shape(before.brep), before.names)
    sketch, thick = inputs.products["sketch"], inputs.values["thickness"]
    if thick < 1e-3:
        raise ContourError(
            "bad-params",
            "the rib has no thickness",
            where=Where(param="thickness"),
            got=f"{thick:g} mm",
            need="at least 0.001 mm",
            remedy="type a thickness such as 4 mm",
        )
    low = {"middle": -thick / 2, "over": 0.0, "under": -thick}[params.lies]
    made, added = ribbed(
        body,
        sketch,
        between=(low, low + thick),
        side=None if params.side == "found" else params.side,
        prefix=inputs.step[:8],
    )
    spots = np.vstack([entity_points(e) for e in sketch.entities])
    middle = sketch.frame.to_space((spots.min(axis=0) + spots.max(axis=0))[None] / 2)[0]
    per = 0.5 if params.lies == "middle" else 1.0
    way = -1.0 if params.lies == "under" else 1.0
    handle = Handle("thickness", triple(middle), triple(way * sketch.frame.normal), "length", per=per)
    put = {params.body.id: BodyProduct(write_shape(made.shape), made.names)}
    return Outcome(put, RibFacts(added=added), handles=(handle,))


KIND: StepKind[Params] = StepKind(
    id="rib",
    title="Rib",
    help="A wall between an open line and the body it spans",
    version=1,
    makes="body",
    params=Params,
    key_value="thickness",
    run=_run,
    facts=RibFacts,
    measures={"added": "volume", "volume": "volume", "area": "area"},
    carries=("sketch",),
    starts=(Start("sketch", "sketch", most=1, also={"thickness": {"text": "4 mm", "mark": "assumed"}}),),
)
