"""Thicken: faces of a body given a thickness, as a body of its own or put on bodies."""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from contour.geometry.vectors import triple
from contour.present.edges import body_of, loaded
from contour.present.operation import (
    MaterialFigures,
    Operation,
    Targets,
    bodies_of,
    put_on_bodies,
    require_bodies,
    target_places,
)
from contour.recipe.params import refs_in
from contour.recipe.reference import OneFace, PartRef
from contour.recipe.registry import Handle, Inputs, Outcome, Start, StepKind
from contour.recipe.values import Length, Value

if TYPE_CHECKING:
    from contour.solid.shape import NamedShape

__all__ = ["KIND", "Params"]


class Params(BaseModel):
    """As long and wide as the faces, its rim square to them."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    faces: list[OneFace] = Field(min_length=1, max_length=200, description="that hang together")
    thickness: Length = Field(default=Value(text="2 mm"), description="square to the faces")
    lies: Literal["out", "in", "middle"] = Field(
        default="out",
        description="outside the material that the faces bound, within it, or half on each side",
        json_schema_extra={
            "titles": {"out": "outside the faces", "in": "within the faces", "middle": "half on each side"}
        },
    )
    operation: Operation = "new"
    bodies: Targets = Field(default_factory=list)


class ThickenFacts(MaterialFigures):
    """of_faces: how many have been thickened."""

    of: Literal["thicken"] = "thicken"
    of_faces: int


def _reads(params: Params) -> frozenset[str]:
    targets = target_places(params.bodies) if params.operation != "new" else frozenset()
    return frozenset(f"faces[{i}]" for i in range(len(params.faces))) | targets


def _handle(body: NamedShape, name: str, lies: str) -> tuple[Handle, ...]:
    """On the first face, out of the material or into it."""
    from contour.solid.mouths import into, place_on
    from contour.solid.shape import faces

    face = faces(body.shape)[body.names.index(name)]
    at = place_on(face)
    way = into(face, at) * (1.0 if lies == "in" else -1.0)
    return (Handle("thickness", triple(at), triple(way), "length", per=0.5 if lies == "middle" else 1.0),)


def _run(params: Params, inputs: Inputs) -> Outcome:
    from contour.solid.thickened import thickened

    body_of((place, ref) for place, ref in refs_in(params).items() if isinstance(ref, PartRef))
    body = loaded(inputs, "faces[0]")
    chosen = list(dict.fromkeys(inputs.face(f"faces[{i}]") for i in range(len(params.faces))))
    others = bodies_of(inputs, params.bodies) if params.operation != "new" else []
    require_bodies(params.operation, others)
    mm = inputs.values["thickness"]
    share = {"out": (1.0, 0.0), "in": (0.0, 1.0), "middle": (0.5, 0.5)}[params.lies]
    made = thickened(
        body, chosen, *(float(x) for x in np.multiply(share, mm)), prefix=inputs.step[:8], labels=inputs.steps
    )
    puts, gone, problems = put_on_bodies(
        made, params.operation, params.bodies, others, what="the thickness", key="thickness"
    )
    return Outcome(
        puts,
        ThickenFacts(of_faces=len(chosen)),
        gone=gone,
        problems=problems,
        handles=_handle(body, chosen[0], params.lies),
    )


KIND: StepKind[Params] = StepKind(
    id="thicken",
    title="Thicken",
    help="Faces given a thickness: a plate or a skin on them",
    version=1,
    makes="body",
    params=Params,
    key_value="thickness",
    run=_run,
    facts=ThickenFacts,
    measures={"volume": "volume", "area": "area"},
    reads=_reads,
    starts=(Start("face", "faces", seldom=True),),
)
