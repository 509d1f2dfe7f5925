"""Inner volume: what a body holds, as a solid of its own, with its openings capped; a leak is shown with its place."""

from __future__ import annotations

from typing import Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from contour.present.places import point_at
from contour.products.body import BodyFigures, BodyProduct
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import BodyRef, OneFace, PointRef
from contour.recipe.registry import OWN, Inputs, Outcome, Start, StepKind
from contour.recipe.values import Length, Value

__all__ = ["KIND", "Params"]


class Params(BaseModel):
    """The inside ends in the planes of the faces that are capped, and at the bodies that close it. Everything stays as it is beside it."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    body: BodyRef = Field(description="the hollow body")
    openings: list[OneFace] = Field(
        default_factory=list,
        max_length=60,
        title="Capped at",
        description="flat faces around openings; all holes in them are capped",
    )
    closers: list[BodyRef] = Field(
        default_factory=list, max_length=30, title="Closed by", description="bodies that stand in other openings"
    )
    gap: Length = Field(
        default=Value(text="0 mm", mark="assumed"),
        title="Gaps closed up to",
        description="where it leaks, narrow air between faces that face each other is filled up to so wide",
    )
    inside: PointRef | None = Field(
        default=None, title="Around point", description="which inside is meant; none: the largest"
    )


class CavityFacts(BodyFigures):
    """caps: how many faces close it · walls: faces of the body that it lies within · gaps: faces where a filled gap bounds it."""

    of: Literal["cavity"] = "cavity"
    caps: int
    walls: int
    gaps: int = 0


def _run(params: Params, inputs: Inputs) -> Outcome:
    from contour.solid.cavity import inner_volume
    from contour.solid.shape import NamedShape, read_shape, write_shape

    def shape(place: str) -> NamedShape:
        product: BodyProduct = inputs.products[place]
        return NamedShape(read_shape(product.brep), product.names)

    for i, face in enumerate(params.openings):
        if face.body != params.body.id:
            raise ContourError(
                "bad-params",
                "an opening belongs to another body",
                where=Where(param=f"openings[{i}]"),
                got="a face of another body",
                need="faces of the hollow body",
                remedy="take it out of the list",
            )
    names = list(dict.fromkeys(inputs.face(f"openings[{i}]") for i in range(len(params.openings))))
    near = np.array(point_at(inputs, "inside").origin) if params.inside is not None else None
    prefix = inputs.step[:8]
    closers = [shape(f"closers[{i}]") for i in range(len(params.closers))]
    made = inner_volume(shape("body"), names, closers, prefix=prefix, near=near, gap_mm=inputs.values["gap"])
    gaps = sum(n.startswith((f"{prefix}.gap", f"{prefix}.bore")) for n in made.names)
    caps = sum(n.startswith(f"{prefix}.cap[") for n in made.names)
    facts = CavityFacts(caps=caps, walls=len(made.names) - caps - gaps, gaps=gaps)
    return Outcome({OWN: BodyProduct(write_shape(made.shape), made.names)}, facts)


KIND: StepKind[Params] = StepKind(
    id="cavity",
    title="Inner volume",
    help="What a body holds, as a solid, with its openings capped",
    version=2,
    makes="body",
    params=Params,
    key_value="openings",
    run=_run,
    facts=CavityFacts,
    measures={"volume": "volume", "area": "area"},
    starts=(Start("body", "body", most=1),),
)
