"""Revolve: a sketch's profiles turned about an axis in their plane, as a new body, or added to, subtracted from or intersected with bodies."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from contour.geometry.vectors import triple, unit
from contour.present.operation import (
    JUST_MM,
    ChosenProfiles,
    MaterialFigures,
    Operation,
    Targets,
    bodies_of,
    proposed,
    put_on_bodies,
    require_bodies,
    target_places,
)
from contour.present.places import axis_at
from contour.present.targets import target_at
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import AxisRef, FaceRef, SketchRef, SurfaceRef
from contour.recipe.registry import Handle, Inputs, Outcome, Start, StepKind
from contour.recipe.values import Angle, Value
from contour.sketch.chosen import chosen_profiles, spot_within
from contour.sketch.entities import entity_points

if TYPE_CHECKING:
    from contour.geometry.surfaces import Surface
    from contour.solid.revolve import LaidAxis

__all__ = ["KIND", "Params"]


class Params(BaseModel):
    """The angle is counted about the axis by the right hand, from the sketch; negative goes the other way."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    sketch: SketchRef
    profiles: ChosenProfiles = None
    axis: AxisRef = Field(
        description="a line of the sketch, an edge, a construction axis, or the axis of something round"
    )
    extent: Literal["angle", "until"] = Field(
        title="Reaches",
        default="angle",
        description="how far: an angle, or until a plane through the axis",
        json_schema_extra={"titles": {"angle": "by an angle", "until": "ends at"}},
    )
    angle: Angle = Field(default=Value(text="360 deg"), description="about the axis; negative goes the other way")
    symmetric: bool = Field(
        default=False, description="half of the angle each way", json_schema_extra={"when": {"extent": ["angle"]}}
    )
    back: Angle | None = Field(
        title="Also backwards",
        default=None,
        description="how far it also turns the other way",
        json_schema_extra={"when": {"symmetric": [False]}},
    )
    until_region: SurfaceRef | None = Field(
        title="Ends at plane",
        default=None,
        description="a plane region or construction plane that the axis lies in",
        json_schema_extra={"when": {"extent": ["until"]}},
    )
    until_face: FaceRef | None = Field(
        title="Ends at face",
        default=None,
        description="or a flat face that the axis lies in",
        json_schema_extra={"when": {"extent": ["until"]}},
    )
    operation: Operation = "new"
    bodies: Targets = Field(default_factory=list)


class RevolveFacts(MaterialFigures):
    """profiles: by their names · tilt, off: degrees and mm that the axis was moved by to lie in the sketch's plane."""

    of: Literal["revolve"] = "revolve"
    profiles: tuple[str, ...]
    tilt: float
    off: float


def _reads(params: Params) -> frozenset[str]:
    used = {"sketch", "axis"}
    if params.operation != "new":
        used |= target_places(params.bodies)
    if params.extent == "until":
        used |= {"until_region", "until_face"}
    return frozenset(used)


def _span(params: Params, inputs: Inputs, axis: LaidAxis, side: np.ndarray) -> tuple[float, float]:
    """Angles of both ends from the sketch, degrees."""
    angle = inputs.values["angle"]
    back = inputs.values.get("back", 0.0)
    way = -1.0 if angle < 0 else 1.0
    if params.extent == "until":
        return -way * back, way * _until(target_at(inputs, "until_region", "until_face"), axis, side, way)
    if params.symmetric:
        return -angle / 2, angle / 2
    return -way * back, angle


def _until(target: Surface, axis: LaidAxis, side: np.ndarray, way: float) -> float:
    """Degrees from the sketch to the half of a plane through the axis that comes first."""
    off = abs(float((axis.origin - target.at) @ target.along))
    tilt = float(np.degrees(np.arcsin(min(abs(float(axis.direction @ target.along)), 1.0))))
    if target.kind != "plane" or tilt > 0.01 or off > 1e-3:
        raise ContourError(
            "wrong-ending",
            "a turn ends at a plane that its axis lies in",
            where=Where(param="until_region"),
            got=target.kind if target.kind != "plane" else f"the axis {off:.3f} mm and {tilt:.2f} deg off the plane",
            need="a plane through the axis",
            remedy="type an angle, or make a construction plane through the axis",
        )
    half = unit(np.cross(axis.direction, target.along))
    across = np.cross(axis.direction, side)
    degrees = way * float(np.degrees(np.arctan2(half @ across, half @ side))) % 180.0
    if degrees < 1e-6:
        degrees = 180.0
    return degrees


def _handles(params: Params, profiles: list[Any], frame: Any, axis: LaidAxis) -> tuple[Handle, ...]:
    """Where the middle of what is turned would be with no angle."""
    if params.extent != "angle":
        return ()
    spots = np.vstack([frame.to_space(entity_points(e)) for p in profiles for e in p.outer.entities])
    middle = (spots.min(axis=0) + spots.max(axis=0)) / 2
    foot = axis.origin + ((middle - axis.origin) @ axis.direction) * axis.direction
    per = 0.5 if params.symmetric else 1.0
    return (Handle("angle", triple(foot), triple(axis.direction), "angle", per, triple(unit(middle - foot))),)


def _run(params: Params, inputs: Inputs) -> Outcome:
    from contour.solid.revolve import axis_in_plane, on_axis, revolve, side_of

    sketch = inputs.products["sketch"]
    profiles = chosen_profiles(sketch, params.profiles)
    others = bodies_of(inputs, params.bodies) if params.operation != "new" else []
    require_bodies(params.operation, others)
    place = axis_at(inputs, "axis")
    axis = axis_in_plane(sketch.frame, place.at, place.along)
    profiles = on_axis(profiles, sketch.frame, axis)
    start, end = _span(params, inputs, axis, side_of(profiles, sketch.frame, axis))
    made = revolve(profiles, sketch.frame, axis, start_deg=start, end_deg=end, prefix=inputs.step[:8])
    begins = sketch.frame.to_space(spot_within(profiles[0])[None])[0]
    ahead = np.sign(start + end or 1.0) * unit(np.cross(axis.direction, begins - axis.origin))
    proposes = proposed(others, begins + JUST_MM * ahead)
    puts, gone, problems = put_on_bodies(
        made, params.operation, params.bodies, others, what="the turned solid", key="angle", proposes=proposes
    )
    facts = RevolveFacts(profiles=tuple(p.id for p in profiles), tilt=axis.tilt_deg, off=axis.off_mm, proposes=proposes)
    return Outcome(puts, facts, gone=gone, problems=problems, handles=_handles(params, profiles, sketch.frame, axis))


KIND: StepKind[Params] = StepKind(
    id="revolve",
    title="Revolve",
    help="Profiles turned about an axis become solid material",
    version=1,
    makes="body",
    params=Params,
    key_value="angle",
    run=_run,
    facts=RevolveFacts,
    measures={"volume": "volume", "area": "area"},
    reads=_reads,
    carries=("sketch", "axis"),
    starts=(Start("sketch", "sketch", most=1),),
)
