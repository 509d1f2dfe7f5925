"""Shell: a body hollowed out to walls, open where faces are removed; some walls with a thickness of their own."""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal

from pydantic import BaseModel, ConfigDict, Field

from contour.geometry.vectors import triple
from contour.present.edges import body_of, loaded
from contour.products.body import BodyFigures, BodyProduct
from contour.recipe.params import refs_in
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import OneFace, PartRef
from contour.recipe.registry import Handle, Inputs, Outcome, Start, StepKind
from contour.recipe.values import Length, Value

if TYPE_CHECKING:
    from contour.solid.shape import NamedShape

__all__ = ["KIND", "Params"]


class Row(BaseModel):
    """Faces with a wall of their own."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    faces: list[OneFace] = Field(min_length=1, max_length=200, description="whose wall is another one")
    thickness: Length = Field(description="of their wall")


class Params(BaseModel):
    """Inwards the outside stays as it is; outwards the body becomes the hollow."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    faces: list[OneFace] = Field(min_length=1, max_length=200, title="Open at", description="faces that are removed")
    thickness: Length = Field(default=Value(text="2 mm"), description="of the walls")
    way: Literal["inward", "outward"] = Field(
        default="inward", title="Walls lie", description="within the body, or around it"
    )
    more: list[Row] = Field(
        default_factory=list, max_length=50, title="Other walls", description="faces with their own thickness"
    )


class ShellFacts(BodyFigures):
    """hollow: mm³ that it holds up to its openings · walls: faces of the hollow."""

    of: Literal["shell"] = "shell"
    hollow: float
    walls: int


def _names(inputs: Inputs, places: list[str]) -> list[str]:
    return [inputs.face(p) for p in places]


def _own(params: Params, inputs: Inputs, removed: list[str]) -> dict[str, float]:
    """Thickness of faces that have their own, by name."""
    out: dict[str, float] = {}
    for i, row in enumerate(params.more):
        for name in _names(inputs, [f"more[{i}].faces[{k}]" for k in range(len(row.faces))]):
            if name in removed:
                raise ContourError(
                    "bad-params",
                    "a face that is removed has no wall",
                    where=Where(param=f"more[{i}]"),
                    got="a face in both lists",
                    need="a face that stays",
                    remedy="take it out of one list",
                )
            out[name] = inputs.values[f"more[{i}].thickness"]
    return out


def _handles(body: NamedShape, removed: list[str], way: str) -> tuple[Handle, ...]:
    """At an edge of the first opening, across the wall."""
    from contour.solid.edge_blends import edges_of_face
    from contour.solid.edge_frame import edge_frame
    from contour.solid.shape import faces
    from contour.solid.topology.edges import edges_named

    names = edges_of_face(body, removed[0])
    if not names:
        return ()
    frame = edge_frame(body.shape, edges_named(body, names[:1])[0])
    opening = faces(body.shape)[body.names.index(removed[0])]
    from contour.solid.mouths import into

    square = into(opening, frame.middle)
    # Of the two ways into the faces at the edge the one that lies within the opening.
    across = min(frame.into, key=lambda v: abs(float(v @ square)))
    return (Handle("thickness", triple(frame.middle), triple(across if way == "inward" else -across)),)


def _run(params: Params, inputs: Inputs) -> Outcome:
    from contour.solid.mass import volume
    from contour.solid.shape import write_shape
    from contour.solid.shelled import shelled

    refs = {place: ref for place, ref in refs_in(params).items() if isinstance(ref, PartRef)}
    id = body_of(refs.items())
    body = loaded(inputs, "faces[0]")
    removed = _names(inputs, [f"faces[{i}]" for i in range(len(params.faces))])
    prefix = inputs.step[:8]
    made = shelled(
        body,
        removed,
        inputs.values["thickness"],
        _own(params, inputs, removed),
        outward=params.way == "outward",
        prefix=prefix,
        labels=inputs.steps,
    )
    whole = volume(body.shape)
    facts = ShellFacts(
        hollow=whole if params.way == "outward" else whole - volume(made.shape),
        walls=sum(n.startswith(f"{prefix}.wall[") for n in made.names),
    )
    product = BodyProduct(write_shape(made.shape), made.names)
    return Outcome({id: product}, facts, handles=_handles(body, removed, params.way))


KIND: StepKind[Params] = StepKind(
    id="shell",
    title="Shell",
    help="A body hollowed out to walls, open where faces are removed",
    version=1,
    makes="body",
    params=Params,
    key_value="thickness",
    run=_run,
    facts=ShellFacts,
    measures={"volume": "volume", "area": "area", "hollow": "volume"},
    starts=(Start("face", "faces"),),
)
