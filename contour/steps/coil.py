"""Along a helix: a sketch's profiles turned and pushed along an axis in their plane, as a new body, or added to, subtracted from or intersected with bodies."""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal

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
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import AxisRef, SketchRef
from contour.recipe.registry import Handle, Inputs, Outcome, Start, StepKind
from contour.recipe.values import Angle, Length, Number, Value
from contour.sketch.chosen import chosen_profiles, spot_within
from contour.sketch.entities import entity_points

if TYPE_CHECKING:
    from contour.geometry.frames import PlaneFrame
    from contour.sketch.entities import Profile
    from contour.solid.revolve import LaidAxis

__all__ = ["KIND", "Params"]


class Params(BaseModel):
    """It goes along the axis as that points; a negative pitch goes the other way."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    sketch: SketchRef
    profiles: ChosenProfiles = None
    axis: AxisRef = Field(
        description="a line of the sketch, an edge, a construction axis, or the axis of something round"
    )
    pitch: Length = Field(default=Value(text="2 mm"), description="along the axis in each turn; negative goes back")
    reach: Literal["turns", "height", "angle"] = Field(
        default="turns", title="How far", description="turns (fractions too), a height, or an angle"
    )
    turns: Number = Field(
        default=Value(text="3"), description="once round each", json_schema_extra={"when": {"reach": ["turns"]}}
    )
    height: Length = Field(
        default=Value(text="6 mm"),
        description="along the axis, from section to section",
        json_schema_extra={"when": {"reach": ["height"]}},
    )
    angle: Angle = Field(
        default=Value(text="720 deg"), description="about the axis", json_schema_extra={"when": {"reach": ["angle"]}}
    )
    hand: Literal["right", "left"] = Field(default="right", description="right: going away it turns clockwise")
    taper: Angle = Field(
        default=Value(text="0 deg", mark="intent"),
        title="Draft",
        description="between the axis and the way it goes; positive widens",
    )
    operation: Operation = "new"
    bodies: Targets = Field(default_factory=list)


class CoilFacts(MaterialFigures):
    """profiles: by their names · turns, and rise in mm, as they came out."""

    of: Literal["coil"] = "coil"
    profiles: tuple[str, ...]
    turns: float
    rise: float


def _reads(params: Params) -> frozenset[str]:
    targets = target_places(params.bodies) if params.operation != "new" else frozenset()
    return frozenset({"sketch", "axis"}) | targets


def _turns(params: Params, inputs: Inputs) -> float:
    values = inputs.values
    if params.reach == "turns":
        return values["turns"]
    if params.reach == "angle":
        return values["angle"] / 360
    if abs(values["pitch"]) < 1e-6:
        raise ContourError(
            "bad-params",
            "a height is not reached without a pitch",
            where=Where(param="pitch"),
            got="0 mm",
            need="some pitch",
            remedy="type a pitch, or say how many turns",
        )
    return abs(values["height"] / values["pitch"])


def _handles(params: Params, profiles: list[Profile], frame: PlaneFrame, axis: LaidAxis) -> tuple[Handle, ...]:
    """A grip on the height, beside the axis where the outline is."""
    if params.reach != "height":
        return ()
    spots = np.vstack([frame.to_space(entity_points(e)) for p in profiles for e in p.outer.entities])
    return (Handle("height", triple((spots.min(axis=0) + spots.max(axis=0)) / 2), triple(axis.direction)),)


def _run(params: Params, inputs: Inputs) -> Outcome:
    from contour.solid.helix import Coiling, coil, coil_onto
    from contour.solid.revolve import axis_in_plane

    sketch = inputs.products["sketch"]
    profiles = chosen_profiles(sketch, params.profiles)
    others = bodies_of(inputs, params.bodies) if params.operation != "new" else []
    require_bodies(params.operation, others)
    place = axis_at(inputs, "axis")
    axis = axis_in_plane(sketch.frame, place.at, place.along)
    turns, pitch = _turns(params, inputs), inputs.values["pitch"]
    way = Coiling(turns, pitch, left=params.hand == "left", taper_deg=inputs.values["taper"])
    prefix = inputs.step[:8]
    if params.operation in ("add", "subtract"):
        made = coil_onto(profiles, sketch.frame, axis, way, others, adds=params.operation == "add", prefix=prefix)
    else:
        made = [coil(profiles, sketch.frame, axis, way, prefix=prefix)]
    begins = sketch.frame.to_space(spot_within(profiles[0])[None])[0]
    ahead = np.cross(axis.direction, begins - axis.origin) * (-1.0 if params.hand == "left" else 1.0)
    proposes = proposed(others, begins + JUST_MM * unit(ahead))
    puts, gone, problems = put_on_bodies(
        made, params.operation, params.bodies, others, what="what goes along the helix", key="pitch", proposes=proposes
    )
    facts = CoilFacts(profiles=tuple(p.id for p in profiles), turns=turns, rise=turns * pitch, proposes=proposes)
    return Outcome(puts, facts, gone=gone, problems=problems, handles=_handles(params, profiles, sketch.frame, axis))


KIND: StepKind[Params] = StepKind(
    id="coil",
    title="Along a helix",
    help="Profiles turned and pushed along an axis become solid material: springs, worms, threads of any profile",
    version=2,
    makes="body",
    params=Params,
    key_value="pitch",
    run=_run,
    facts=CoilFacts,
    measures={"volume": "volume", "area": "area", "rise": "length"},
    reads=_reads,
    carries=("sketch", "axis"),
    starts=(Start("sketch", "sketch", most=1),),
)
