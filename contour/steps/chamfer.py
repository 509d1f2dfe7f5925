"""Chamfer: edges of a body cut off flat, by one distance, two, or a distance and an angle."""

from __future__ import annotations

import math
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from contour.present.blends import swallowed
from contour.present.edges import body_of, edges_at, loaded
from contour.present.handles import edge_handle
from contour.present.overhang import Bed, Steepest, build_way, said_of_overhangs
from contour.products.body import BodyFigures, BodyProduct
from contour.recipe.params import refs_in
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import EdgesRef, FaceRef, PartRef
from contour.recipe.registry import Inputs, Outcome, Start, StepKind
from contour.recipe.values import Angle, Length, Value

__all__ = ["KIND", "Params"]


class Params(BaseModel):
    """A chamfer runs on along edges without a bend. The first distance is measured on one of the two faces of each edge."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    edges: list[EdgesRef] = Field(
        min_length=1, max_length=500, description="edges, chains, or faces for all around them"
    )
    by: Literal["equal", "two distances", "distance and angle"] = Field(
        default="equal", title="Sizes", description="the same on both faces, or not"
    )
    distance: Length = Field(default=Value(text="1 mm"), description="along the face, from the edge")
    other: Length = Field(
        default=Value(text="1 mm"),
        title="On the other face",
        description="along the other face",
        json_schema_extra={"when": {"by": ["two distances"]}},
    )
    angle: Angle = Field(
        default=Value(text="45 deg"),
        description="between the chamfer and the face that the distance lies on",
        json_schema_extra={"when": {"by": ["distance and angle"]}},
    )
    side: FaceRef | None = Field(
        default=None,
        title="Distance lies on",
        description="the face it is measured on; none: the first of the two",
        json_schema_extra={"when": {"by": ["two distances", "distance and angle"]}},
    )
    flip: bool = Field(
        default=False,
        title="Other side",
        description="measure the distance on the other face",
        json_schema_extra={"when": {"by": ["two distances", "distance and angle"]}},
    )
    bed: Bed = None
    steepest: Steepest = Value(text="45 deg", mark="assumed")


def _reads(params: Params) -> frozenset[str]:
    used = {f"edges[{i}]" for i in range(len(params.edges))} | {"bed"}
    return frozenset(used if params.by == "equal" else used | {"side"})


def _angle(params: Params, inputs: Inputs) -> float | None:
    """Radians, where the chamfer goes by it."""
    if params.by != "distance and angle":
        return None
    angle = inputs.values["angle"]
    if not 1.0 <= angle <= 89.0:
        raise ContourError(
            "bad-params",
            "this angle leaves no chamfer",
            where=Where(param="angle"),
            got=f"{angle:g} deg",
            need="1 to 89 deg",
            remedy="type another angle",
        )
    return math.radians(angle)


class ChamferFacts(BodyFigures):
    """edges: how many were taken · blends: faces that came of them · removed: mm³, below 0 where material came to it."""

    of: Literal["chamfer"] = "chamfer"
    edges: int
    blends: int
    removed: float


def _run(params: Params, inputs: Inputs) -> Outcome:
    from contour.solid.edge_blends import Bevel, chamfer
    from contour.solid.overhang import leaning_most
    from contour.solid.shape import write_shape
    from contour.solid.topology.edges import edges_named

    places = [p for p in refs_in(params) if p.startswith("edges[")]
    id = body_of((p, r) for p, r in refs_in(params).items() if isinstance(r, PartRef) and p in places)
    body = loaded(inputs, "edges[0]")
    first, angle = inputs.values["distance"], _angle(params, inputs)
    second = inputs.values["other"] if params.by == "two distances" else None
    for at, size in (("distance", first), ("other", second)):
        if size is not None and size < 1e-3:
            raise ContourError(
                "bad-params",
                "a chamfer needs a distance",
                where=Where(param=at),
                got=f"{size:g} mm",
                need="more than 0.001 mm",
                remedy="type a distance",
            )
    found = edges_at(inputs, body, places)
    names, at_places = tuple(n for n, _ in found), tuple(p for _, p in found)
    around = next((p for p in places if inputs.parts[p].part == "face"), None)
    side = "side" if "side" in inputs.parts else around
    bevel = Bevel(names, first, second, angle, inputs.face(side) if side else "", params.flip, at_places)
    done = chamfer(body, [bevel], prefix=f"{inputs.step[:8]}.chamfer", labels=inputs.steps)
    up, limit = build_way(inputs, body), inputs.values["steepest"]
    blends = {n for n in done.made.names if n.startswith(f"{inputs.step[:8]}.chamfer")}
    leaning = leaning_most(done.made, blends, up, limit) if up is not None else []
    handle = edge_handle("distance", edges_named(body, names[:1])[0], body, kind="length")
    return Outcome(
        {id: BodyProduct(write_shape(done.made.shape), done.made.names)},
        ChamferFacts(edges=len(names), blends=done.blends, removed=-done.volume),
        problems=swallowed(done.swallowed, "chamfer") + said_of_overhangs(leaning, limit, "chamfer"),
        handles=(handle,),
    )


KIND: StepKind[Params] = StepKind(
    id="chamfer",
    title="Chamfer",
    help="Edges of a body cut off flat",
    version=1,
    makes="body",
    params=Params,
    key_value="distance",
    run=_run,
    facts=ChamferFacts,
    reads=_reads,
    measures={"removed": "volume", "volume": "volume", "area": "area"},
    starts=(Start("edge", "edges"), Start("face", "edges")),
)
