"""Fillet: edges of a body rounded, with one radius or several."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field
from pydantic.config import JsonDict

from contour.present.blends import swallowed
from contour.present.edges import body_of, edges_at, loaded
from contour.present.handles import edge_handle
from contour.products.body import BodyFigures, BodyProduct
from contour.recipe.params import refs_in
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import EdgesRef, PartRef
from contour.recipe.registry import Inputs, Outcome, Start, StepKind
from contour.recipe.values import Length, Value

__all__ = ["KIND", "Params"]


_CHANGING: JsonDict = {"fold": "Changing radius"}


class Row(BaseModel):
    """Edges with a radius of their own."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    edges: list[EdgesRef] = Field(
        min_length=1, max_length=500, description="edges, chains, or faces for all around them"
    )
    radius: Length = Field(description="of these edges")
    end_radius: Length | None = Field(
        default=None,
        title="Radius at the other end",
        description="the radius changes evenly along the edges to this one",
    )
    turned: bool = Field(default=False, title="Turned round", description="the two radii swap ends")


class Params(BaseModel):
    """A fillet runs on along edges without a bend. An edge that is in two lists gets the radius of the later one."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    edges: list[EdgesRef] = Field(
        min_length=1, max_length=500, description="edges, chains, or faces for all around them"
    )
    radius: Length = Field(default=Value(text="1 mm"), description="of the fillet")
    end_radius: Length | None = Field(
        default=None,
        title="Radius at the other end",
        description="the radius changes evenly along the edges to this one",
        json_schema_extra=_CHANGING,
    )
    turned: bool = Field(
        default=False, title="Turned round", description="the two radii swap ends", json_schema_extra=_CHANGING
    )
    more: list[Row] = Field(
        default_factory=list,
        max_length=50,
        title="Other radii",
        description="more edges, each list with its own radius",
    )


class FilletFacts(BodyFigures):
    """edges: how many were taken · blends: faces that came of them · removed: mm³, below 0 where material came to it."""

    of: Literal["fillet"] = "fillet"
    edges: int
    blends: int
    removed: float


def _run(params: Params, inputs: Inputs) -> Outcome:
    from contour.solid.edge_blends import Rounding, fillet
    from contour.solid.shape import write_shape
    from contour.solid.topology.edges import edges_named

    refs = {place: ref for place, ref in refs_in(params).items() if isinstance(ref, PartRef)}
    id = body_of(refs.items())
    body = loaded(inputs, "edges[0]")
    lists = [("radius", [p for p in refs if p.startswith("edges[")])]
    lists += [(f"more[{i}].radius", [p for p in refs if p.startswith(f"more[{i}].")]) for i in range(len(params.more))]
    taken: dict[str, tuple[str, str]] = {}  # edge -> place of its radius, place of its reference
    for at, places in lists:
        taken |= {name: (at, place) for name, place in edges_at(inputs, body, places)}
    roundings = []
    rows: list[Params | Row] = [params, *params.more]
    for (at, _), row in zip(lists, rows, strict=True):
        far = at.removesuffix("radius") + "end_radius"
        for place in (at, far):
            if inputs.values.get(place, 1.0) < 1e-3:
                raise ContourError(
                    "bad-params",
                    "a fillet needs a radius",
                    where=Where(param=place),
                    got=f"{inputs.values[place]:g} mm",
                    need="more than 0.001 mm",
                    remedy="type a radius",
                )
        own = [(name, place) for name, (of, place) in taken.items() if of == at]
        names, stand = tuple(n for n, _ in own), tuple(p for _, p in own)
        roundings.append(Rounding(names, inputs.values[at], stand, inputs.values.get(far), row.turned))
    done = fillet(body, roundings, prefix=f"{inputs.step[:8]}.fillet", labels=inputs.steps)
    handles = [
        edge_handle(at, edges_named(body, r.names[:1])[0], body, kind="radius")
        for (at, _), r in zip(lists, roundings, strict=True)
        if r.names
    ]
    return Outcome(
        {id: BodyProduct(write_shape(done.made.shape), done.made.names)},
        FilletFacts(edges=len(taken), blends=done.blends, removed=-done.volume),
        problems=swallowed(done.swallowed, "fillet"),
        handles=tuple(handles),
    )


KIND: StepKind[Params] = StepKind(
    id="fillet",
    title="Fillet",
    help="Edges of a body rounded",
    version=1,
    makes="body",
    params=Params,
    key_value="radius",
    run=_run,
    facts=FilletFacts,
    measures={"removed": "volume", "volume": "volume", "area": "area"},
    starts=(Start("edge", "edges"), Start("face", "edges")),
)
