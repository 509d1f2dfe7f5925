"""Point: a construction point, typed, picked on the scan, a middle, or where others meet."""

from __future__ import annotations

from typing import Any, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from contour.construct import points
from contour.construct.place import Place, with_spread
from contour.present.handles import point_handles
from contour.present.places import axis_at, place_at, place_facts, plane_at, spot_on
from contour.products.place import PlaceFigures
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import AxisRef, PlaceRef, PlaneRef, ScanRef, ScanSpot
from contour.recipe.registry import OWN, Inputs, Outcome, Start, StepKind
from contour.recipe.values import Length, Value

__all__ = ["KIND", "Params"]

_NOTHING = Value(text="0 mm")


def _for(*by: str) -> dict[str, Any]:
    return {"when": {"by": list(by)}}


class Params(BaseModel):
    """`by` says what settles the point; only the references it needs are looked at."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    by: Literal["typed", "scan", "centre", "planes", "axis and plane", "axes"] = Field(
        title="Method", default="typed", description="typed, on the scan, the middle of something, or where things meet"
    )
    scan: ScanRef | None = Field(default=None, description="the scan it lies on", json_schema_extra=_for("scan"))
    spot: ScanSpot | None = Field(default=None, description="the place on the scan")
    of: PlaceRef | None = Field(
        title="Centre of", default=None, description="what it is the middle of", json_schema_extra=_for("centre")
    )
    plane: PlaneRef | None = Field(
        default=None, description="a plane", json_schema_extra=_for("planes", "axis and plane")
    )
    other_plane: PlaneRef | None = Field(default=None, description="another plane", json_schema_extra=_for("planes"))
    third_plane: PlaneRef | None = Field(default=None, description="a third plane", json_schema_extra=_for("planes"))
    axis: AxisRef | None = Field(default=None, description="an axis", json_schema_extra=_for("axis and plane", "axes"))
    other_axis: AxisRef | None = Field(default=None, description="another axis", json_schema_extra=_for("axes"))
    x: Length = Field(default=_NOTHING, description="in the part's axes; elsewhere: moved along x afterwards")
    y: Length = Field(default=_NOTHING, description="likewise along y")
    z: Length = Field(default=_NOTHING, description="likewise along z")


_NEEDED = {
    "typed": (),
    "scan": ("scan",),
    "centre": ("of",),
    "planes": ("plane", "other_plane", "third_plane"),
    "axis and plane": ("axis", "plane"),
    "axes": ("axis", "other_axis"),
}


class PointFacts(PlaceFigures):
    """x, y, z are typed here: what formulas see under those names is what was typed, and at_x, at_y, at_z are where it lies (mm).
    miss: how far two axes pass each other by, mm."""

    of: Literal["point"] = "point"
    at_x: float
    at_y: float
    at_z: float
    miss: float | None = None


def _base(params: Params, inputs: Inputs) -> tuple[Place, dict[str, Any]]:
    if params.by == "typed":
        return Place("point", (0.0, 0.0, 0.0)), {}
    if params.by == "scan":
        if params.spot is None:
            raise ContourError(
                "bad-params",
                "no place is picked",
                where=Where(param="spot"),
                got="nothing",
                need="a spot on the scan",
                remedy="click it on the scan",
            )
        return spot_on(inputs.products["scan"].scan, params.spot), {}
    if params.by == "centre":
        found = place_at(inputs, "of", "point")
        return Place("point", found.origin, u=found.u), {}
    if params.by == "planes":
        return with_spread(lambda p: points.of_planes(*p), [plane_at(inputs, n) for n in _NEEDED["planes"]]), {}
    if params.by == "axis and plane":
        given = [axis_at(inputs, "axis"), plane_at(inputs, "plane")]
        return with_spread(lambda p: points.of_axis_and_plane(*p), given), {}
    given = [axis_at(inputs, "axis"), axis_at(inputs, "other_axis")]
    near = points.nearest_on_axes(*given)
    gap = float(np.linalg.norm(near[0].at - near[1].at)) if near else 0.0
    return with_spread(lambda p: points.of_axes(*p), given), {"miss": gap}


def _run(params: Params, inputs: Inputs) -> Outcome:
    base, facts = _base(params, inputs)
    p = base.at + np.array([inputs.values[k] for k in ("x", "y", "z")])
    made = Place("point", (float(p[0]), float(p[1]), float(p[2])), u=base.u)
    placed = place_facts(made)
    for k in "xyz":
        placed[f"at_{k}"] = placed.pop(k)
    return Outcome({OWN: made}, PointFacts(**facts, **placed), handles=point_handles(base.at, p))


KIND: StepKind[Params] = StepKind(
    id="point",
    title="Point",
    help="A construction point",
    version=2,
    makes="point",
    params=Params,
    key_value="x",
    run=_run,
    facts=PointFacts,
    # The centre of a round edge, the middle of a straight one.
    starts=(Start("edge", "of", ("circle", "line"), most=1, also={"by": "centre"}),),
    reads=lambda p: frozenset(_NEEDED[p.by]),
    measures={"at_x": "length", "at_y": "length", "at_z": "length", "miss": "length"},
)
