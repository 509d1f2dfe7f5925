"""Axis: a construction axis of a round region, where planes meet, or through points."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from contour.construct import axes
from contour.construct.place import with_spread
from contour.present.places import axis_at, place_facts, plane_at, point_at
from contour.products.place import PlaceFacts
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import AxisRef, PlaneRef, PointRef
from contour.recipe.registry import OWN, Inputs, Outcome, Start, StepKind

__all__ = ["KIND", "Params"]


def _for(*by: str) -> dict[str, Any]:
    return {"when": {"by": list(by)}}


class Params(BaseModel):
    """`by` says what settles the axis; only the references it needs are looked at."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    by: Literal["round", "planes", "points", "direction"] = Field(
        title="Method",
        default="round",
        description="of a cylinder, cone or torus, where two planes meet, two points, or a point and a direction",
        json_schema_extra={
            "titles": {
                "round": "of a cylinder",
                "planes": "of two planes",
                "points": "through two points",
                "direction": "along a direction",
            }
        },
    )
    axis: AxisRef | None = Field(
        default=None,
        description="the cylinder, cone or torus, or the axis to follow",
        json_schema_extra=_for("round", "direction"),
    )
    plane: PlaneRef | None = Field(
        default=None,
        description="one plane; with a point: the plane it stands on",
        json_schema_extra=_for("planes", "direction"),
    )
    other_plane: PlaneRef | None = Field(default=None, description="the other plane", json_schema_extra=_for("planes"))
    point: PointRef | None = Field(
        default=None, description="a point it goes through", json_schema_extra=_for("points", "direction")
    )
    other_point: PointRef | None = Field(default=None, description="another point", json_schema_extra=_for("points"))
    flip: bool = Field(default=False, title="Reversed", description="it points the other way")


def _reads(params: Params) -> frozenset[str]:
    return frozenset(
        {
            "round": ("axis",),
            "planes": ("plane", "other_plane"),
            "points": ("point", "other_point"),
            "direction": ("point", "axis") if params.axis is not None else ("point", "plane"),
        }[params.by]
    )


def _run(params: Params, inputs: Inputs) -> Outcome:
    if params.by == "round":
        made = axis_at(inputs, "axis")
    elif params.by == "planes":
        made = with_spread(lambda p: axes.of_planes(*p), [plane_at(inputs, "plane"), plane_at(inputs, "other_plane")])
    elif params.by == "points":
        made = with_spread(
            lambda p: axes.through_points(*p), [point_at(inputs, "point"), point_at(inputs, "other_point")]
        )
    else:
        if params.axis is None and params.plane is None:
            raise ContourError(
                "bad-params",
                "no direction is chosen",
                where=Where(param="axis"),
                got="neither",
                need="an axis or a plane",
                remedy="choose an axis to follow, or a plane to stand on",
            )
        way = axis_at(inputs, "axis") if params.axis is not None else plane_at(inputs, "plane")
        made = with_spread(lambda p: axes.through(*p), [point_at(inputs, "point"), way])
    if params.flip:
        x, y, z = made.direction
        made = type(made)(
            "axis", made.origin, (-x, -y, -z), made.u, made.u_tilt, made.radius, made.u_radius, made.reach
        )
    return Outcome({OWN: made}, PlaceFacts(**place_facts(made)))


KIND: StepKind[Params] = StepKind(
    id="axis",
    title="Axis",
    help="A construction axis",
    version=1,
    makes="axis",
    params=Params,
    key_value="by",
    run=_run,
    facts=PlaceFacts,
    starts=(
        Start("edge", "axis", ("line", "circle"), most=1),
        Start("face", "axis", ("cylinder", "cone", "torus"), most=1),
        Start("region", "axis", ("cylinder", "hole", "cone", "torus"), most=1, also={"by": "round"}),
    ),
    reads=_reads,
)
