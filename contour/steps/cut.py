"""Cut: a body parted by a surface or an outline, with one side kept or both."""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from contour.present.kept_pieces import pieces_that_stay
from contour.present.targets import target_at
from contour.products.body import BodyFigures, BodyProduct
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import BodyRef, FaceRef, PointRef, SketchRef, SurfaceRef
from contour.recipe.registry import Inputs, Outcome, Start, StepKind
from contour.recipe.values import Length, Value
from contour.sketch.entities import chains_of, ends_meet

if TYPE_CHECKING:
    from contour.geometry.surfaces import Surface, SurfaceKind
    from contour.sketch.entities import Sketch
    from contour.solid.shape import NamedShape

__all__ = ["KIND", "Params"]


class Params(BaseModel):
    """The front of a plane is the side its normal points to, of what is round the outside, of a closed sketch what lies around it, of an open one its left."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    body: BodyRef
    by: Literal["surface", "sketch"] = Field(
        default="surface",
        title="Cut by",
        description="a surface, or a sketch square through the body",
        json_schema_extra={"titles": {"surface": "a surface", "sketch": "a sketch"}},
    )
    plane: SurfaceRef | None = Field(
        default=None,
        title="Surface",
        description="a region of the scan, or a construction plane",
        json_schema_extra={"when": {"by": ["surface"]}},
    )
    face: FaceRef | None = Field(
        default=None, description="or a face of a body", json_schema_extra={"when": {"by": ["surface"]}}
    )
    offset: Length = Field(
        default=Value(text="0 mm", mark="intent"),
        description="along the plane's normal, or out of what is round",
        json_schema_extra={"when": {"by": ["surface"]}},
    )
    sketch: SketchRef | None = Field(
        default=None,
        description="closed outlines, or one open one: it runs on straight from both its ends",
        json_schema_extra={"when": {"by": ["sketch"]}},
    )
    keep: Literal["back", "front", "both"] = Field(
        default="back", description="which side stays; both makes two bodies"
    )
    pieces: list[PointRef] = Field(
        default_factory=list,
        max_length=50,
        title="Pieces that stay",
        description="points on them, where a side falls apart; none: all stay",
    )


class CutFacts(BodyFigures):
    """kept: which side, or both · pieces: into how many what stays would fall."""

    of: Literal["cut"] = "cut"
    kept: str
    pieces: int = 1


_KINDS: tuple[SurfaceKind, ...] = ("plane", "cylinder", "cone", "sphere", "torus")


def _reads(params: Params) -> frozenset[str]:
    points = {f"pieces[{i}]" for i in range(len(params.pieces))}
    return frozenset({"body", "sketch"} if params.by == "sketch" else {"body", "plane", "face"}) | points


def _missed(body: NamedShape, surface: Surface, offset: float) -> ContourError:
    from contour.solid.halves import reach_of

    got = "it lies wholly on one side"
    if surface.kind == "plane":
        low, high = reach_of(body.shape, surface.at + offset * surface.along, surface.along)
        got = f"the body reaches from {low:+.3f} to {high:+.3f} mm of it"
    return ContourError(
        "no-section",
        f"the {surface.kind} does not cut the body",
        where=Where(param="offset"),
        got=got,
        need="a surface that parts it",
        remedy="change the offset",
    )


def _tool(params: Params, inputs: Inputs, body: NamedShape) -> tuple[NamedShape, ContourError, bool]:
    """(solid on one side of the cut, what to say where it parts nothing, whether that side is the front)."""
    from contour.solid.extent import bounds
    from contour.solid.halves import beyond_surface, left_of_outline

    name = f"{inputs.step[:8]}.cut"
    if params.by == "surface":
        surface, offset = target_at(inputs, "plane", "face", _KINDS), inputs.values["offset"]
        box = bounds(body.shape)
        size = 2 * float(np.linalg.norm(box[1] - box[0])) + 10
        tool = beyond_surface(surface, offset, size, box.mean(axis=0), name)
        return tool, _missed(body, surface, offset), surface.kind == "plane"
    if params.sketch is None:
        raise ContourError(
            "bad-params",
            "no sketch is chosen",
            where=Where(param="sketch"),
            got="nothing",
            need="a sketch",
            remedy="choose a sketch above this step",
        )
    sketch = inputs.products["sketch"]
    missed = ContourError(
        "no-section",
        "the sketch does not cut the body",
        where=Where(param="sketch"),
        got="it lies wholly on one side",
        need="an outline that parts it",
        remedy="put the sketch where the body is",
    )
    return left_of_outline(sketch, body, name), missed, _open(sketch)


def _open(sketch: Sketch) -> bool:
    """Whether it has ends: its left is the front then."""
    return any(not ends_meet(c[0].start, c[-1].end) for c in chains_of(sketch.entities))


def _run(params: Params, inputs: Inputs) -> Outcome:
    from contour.solid.boolean import combine
    from contour.solid.mass import volume
    from contour.solid.shape import NamedShape, read_shape, solids, write_shape

    before: BodyProduct = inputs.products["body"]
    body = NamedShape(read_shape(before.brep), before.names)
    tool, missed, is_front = _tool(params, inputs, body)
    sides = {}
    try:
        for side in ("back", "front"):
            within = (side == "front") == is_front
            if params.keep in (side, "both"):
                sides[side] = combine(body, tool, "intersect" if within else "subtract", what="one side")
    except ContourError as error:
        if error.problem.code == "unchanged" or "no material" in error.problem.message:
            raise missed from None
        raise
    kept = sum(volume(m.shape) for m in sides.values())
    if params.keep == "both" and abs(kept / volume(body.shape) - 1) > 1e-6:
        raise ContourError(
            "body-broken",
            "the two sides do not make the whole",
            where=Where(param="plane" if params.by == "surface" else "sketch"),
            got=f"{kept:.3f} mm³ of {volume(body.shape):.3f} mm³",
            need="all of it on one side or the other",
            remedy="move the cut a little",
        )
    count = sum(len(solids(m.shape)) for m in sides.values())
    if params.pieces:
        sides = dict(zip(sides, pieces_that_stay(list(sides.values()), len(params.pieces), inputs), strict=True))
    own = {"back": params.body.id, "front": inputs.step if params.keep == "both" else params.body.id}
    bodies = {own[side]: BodyProduct(write_shape(m.shape), m.names) for side, m in sides.items()}
    return Outcome(bodies, CutFacts(kept=params.keep, pieces=count))


KIND: StepKind[Params] = StepKind(
    id="cut",
    title="Cut",
    help="A surface or an outline splits a body in two",
    version=2,
    makes="body",
    params=Params,
    key_value="offset",
    run=_run,
    facts=CutFacts,
    reads=_reads,
    starts=(
        Start(
            "face",
            "face",
            ("plane", "cylinder", "cone", "sphere", "torus"),
            most=1,
            also={"offset": {"text": "-2 mm", "mark": "assumed"}},
        ),
        Start("sketch", "sketch", most=1, also={"by": "sketch"}),
        Start("body", "body", most=1),
    ),
    measures={"volume": "volume", "area": "area", "pieces": "number"},
)
