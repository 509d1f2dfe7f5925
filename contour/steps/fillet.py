"""Fillet: edges of a body rounded, with one radius or several."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import TYPE_CHECKING, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field
from pydantic.config import JsonDict

from contour.present.blends import swallowed
from contour.present.edges import body_of, edges_at, loaded
from contour.present.handles import edge_handle
from contour.present.overhang import PRINTING, Bed, Steepest, build_way, said_of_overhangs
from contour.products.body import BodyFigures, BodyProduct
from contour.recipe.params import refs_in
from contour.recipe.problem import ContourError, Offer, Where
from contour.recipe.reference import EdgesRef, PartRef
from contour.recipe.registry import Inputs, Outcome, Start, StepKind
from contour.recipe.values import Length, Value

if TYPE_CHECKING:
    from contour.solid.edge_blends import Blended, Rounding
    from contour.solid.shape import NamedShape

__all__ = ["KIND", "Params"]


_OFFER = Offer(text="Chamfer what overhangs", choices={"overhanging": "chamfered"})
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
    bed: Bed = None
    steepest: Steepest = Value(text="45 deg", mark="assumed")
    overhanging: Literal["rounded", "chamfered"] = Field(
        default="rounded",
        title="Edges that overhang",
        description="are rounded all the same, or get a chamfer that does not overhang",
        json_schema_extra=PRINTING,
    )


class FilletFacts(BodyFigures):
    """edges: how many were taken · blends: faces that came of them · removed: mm³, below 0 where material came to it."""

    of: Literal["fillet"] = "fillet"
    edges: int
    blends: int
    removed: float


def _run(params: Params, inputs: Inputs) -> Outcome:
    from contour.solid.edge_blends import Rounding, fillet
    from contour.solid.overhang import leaning_most
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
    prefix = f"{inputs.step[:8]}.fillet"
    up, limit = build_way(inputs, body), inputs.values["steepest"]
    done = fillet(body, roundings, prefix=prefix, labels=inputs.steps)
    leaning = leaning_most(done.made, _blends(done.made.names, prefix), up, limit) if up is not None else []
    if leaning and up is not None and params.overhanging == "chamfered":
        done = _chamfered(body, roundings, [lean.name for lean in leaning], up, limit, inputs)
        leaning = leaning_most(done.made, _blends(done.made.names, inputs.step[:8]), up, limit)
    offer = _OFFER if params.overhanging == "rounded" else None
    handles = [
        edge_handle(at, edges_named(body, r.names[:1])[0], body, kind="radius")
        for (at, _), r in zip(lists, roundings, strict=True)
        if r.names
    ]
    return Outcome(
        {id: BodyProduct(write_shape(done.made.shape), done.made.names)},
        FilletFacts(edges=len(taken), blends=done.blends, removed=-done.volume),
        problems=swallowed(done.swallowed, "fillet") + said_of_overhangs(leaning, limit, "fillet", offer),
        handles=tuple(handles),
    )


def _blends(names: Sequence[str], prefix: str) -> set[str]:
    return {n for n in names if n.startswith(prefix)}


def _chamfered(
    body: NamedShape,
    roundings: Sequence[Rounding],
    leaning: Sequence[str],
    up: NDArray[np.float64],
    limit: float,
    inputs: Inputs,
) -> Blended:
    """Edges whose rounds lean out get a chamfer as large that does not; the others are rounded."""
    from contour.solid.edge_blends import Bevel, Blended, chamfer, fillet
    from contour.solid.mass import volume
    from contour.solid.overhang import owners, standing_bevel
    from contour.solid.topology.edges import edges_named

    at = inputs.step[:8]
    bevels, left, cut_off = [], [], set[str]()
    for r in roundings:
        over = tuple(n for n in r.names if any(f"[{n}]" in lean for lean in leaning))
        for name, edge in zip(over, edges_named(body, over), strict=True):
            found = standing_bevel(body, edge, up, limit, r.largest)
            if found is not None:
                side = owners(body, edge)[found.side]
                bevels.append(Bevel((name,), found.first, found.second, side=side, places=r.places[:1]))
                cut_off.add(name)
        # Where both faces lean out by themselves no chamfer helps: the round stays, and is told.
        kept = [(n, p) for n, p in zip(r.names, r.places, strict=True) if n not in cut_off]
        if kept:
            left.append(replace(r, names=tuple(n for n, _ in kept), places=tuple(p for _, p in kept)))
    cut = chamfer(body, bevels, prefix=f"{at}.chamfer", labels=inputs.steps) if bevels else None
    if not left:
        return cut or fillet(body, roundings, prefix=f"{at}.fillet", labels=inputs.steps)
    done = fillet(cut.made if cut else body, left, prefix=f"{at}.fillet", labels=inputs.steps)
    gone, more = (cut.swallowed, cut.blends) if cut else ((), 0)
    return Blended(done.made, gone + done.swallowed, more + done.blends, volume(done.made.shape) - volume(body.shape))


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
