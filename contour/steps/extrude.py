"""Extrude: a sketch's profiles become a new body, or are added to, subtracted from or intersected with bodies."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field
from pydantic.config import JsonDict

from contour.geometry.vectors import triple
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
from contour.present.places import point_at, spot_at
from contour.present.targets import target_at
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import FaceRef, PointRef, ScanRef, ScanSpot, SketchRef, SurfaceRef
from contour.recipe.registry import Handle, Inputs, Outcome, Start, StepKind
from contour.recipe.values import Angle, Length
from contour.sketch.alongside import WallSide, thin_chains, thin_profiles
from contour.sketch.chosen import chosen_profiles, spot_within
from contour.sketch.entities import entity_points

if TYPE_CHECKING:
    from contour.sketch.entities import Profile, Sketch
    from contour.solid.shape import NamedShape

__all__ = ["KIND", "Params"]

_WALLS: JsonDict = {"fold": "Walls"}


class Params(BaseModel):
    """Distance runs along the sketch plane's normal; negative goes the other way. What ends at something goes the way that leads there."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    sketch: SketchRef
    profiles: ChosenProfiles = None
    extent: Literal["distance", "through", "until"] = Field(
        title="Reaches",
        default="distance",
        description="how far: a distance, through the bodies, or until a region, face or point",
        json_schema_extra={"titles": {"until": "ends at"}},
    )
    distance: Length = Field(
        description="along the plane's normal; negative goes the other way",
        json_schema_extra={"when": {"extent": ["distance", "through"]}},
    )
    symmetric: bool = Field(
        default=False,
        description="half of the distance each way; with through, both ways",
        json_schema_extra={"when": {"extent": ["distance", "through"]}},
    )
    back: Length | None = Field(
        title="Also backwards",
        default=None,
        description="how far it also goes the other way",
        json_schema_extra={"when": {"symmetric": [False]}},
    )
    until_region: SurfaceRef | None = Field(
        title="Ends at surface",
        default=None,
        description="the region or construction plane it ends at",
        json_schema_extra={"when": {"extent": ["until"]}},
    )
    until_face: FaceRef | None = Field(
        title="Ends at face",
        default=None,
        description="or the face it ends at",
        json_schema_extra={"when": {"extent": ["until"]}},
    )
    until_point: PointRef | None = Field(
        title="Ends at point",
        default=None,
        description="or a point: a corner, the centre of a round edge, a construction point",
        json_schema_extra={"when": {"extent": ["until"]}},
    )
    until_point_spot: ScanSpot | None = Field(default=None, title="Ends at spot", description="or a spot on the scan")
    scan: ScanRef | None = Field(default=None, description="the scan that the spot lies on")
    until_offset: Length | None = Field(
        title="Offset from there",
        default=None,
        description="how far beyond the region, face or point; negative stays short",
        json_schema_extra={"when": {"extent": ["until"]}},
    )
    wall: Length | None = Field(
        title="Thin wall",
        default=None,
        description="only a wall of this thickness along the outlines; open lines will do",
        json_schema_extra=_WALLS,
    )
    wall_side: WallSide = Field(
        title="Wall lies",
        default="inside",
        description="on which side of the outline; of an open line inside is its left",
        json_schema_extra=_WALLS,
    )
    draft: Angle | None = Field(
        default=None,
        description="how walls lean, from the sketch's plane on; positive widens as it goes",
        json_schema_extra=_WALLS,
    )
    operation: Operation = "new"
    bodies: Targets = Field(default_factory=list)


def _reads(params: Params) -> frozenset[str]:
    """References in use: a new body leaves the others alone, and only "until" looks at what it ends at."""
    used = {"sketch"}
    if params.operation != "new" or params.extent == "through":
        used |= target_places(params.bodies)
    if params.extent == "until":
        used |= {"until_region", "until_face", "until_point"}
        if params.until_point_spot is not None:
            used |= {"scan"}
    return frozenset(used)


def _span(params: Params, inputs: Inputs, frame: Any, others: list[NamedShape]) -> tuple[float, float]:
    """Heights of both ends over the sketch plane."""
    from contour.solid.halves import reach_of

    distance = inputs.values["distance"]
    way = -1.0 if distance < 0 else 1.0
    back = inputs.values.get("back", 0.0)
    if params.extent == "distance":
        if params.symmetric:
            return -distance / 2, distance / 2
        return -way * back, distance
    if not others:
        raise ContourError(
            "no-body",
            "there is no body to go through",
            where=Where(param="bodies"),
            got="0 bodies",
            need="at least one body",
            remedy="choose a body, or type a distance",
        )
    reaches = [reach_of(o.shape, frame.origin, frame.normal) for o in others]
    low, high = min(r[0] for r in reaches) - 1.0, max(r[1] for r in reaches) + 1.0
    if params.symmetric:
        return low, high
    return -way * back, high if way > 0 else low


def _to_point(params: Params, inputs: Inputs, frame: Any) -> tuple[float, float]:
    """Heights of both ends where it ends abreast of a point, whichever way that lies. Raises ContourError (unchanged) for one in the plane."""
    spot = params.until_point_spot
    end = point_at(inputs, "until_point") if spot is None else spot_at(inputs, spot)
    height = float((end.at - frame.origin) @ frame.normal)
    if abs(height) < 1e-6:
        raise ContourError(
            "unchanged",
            "the point it should end at lies in the sketch's plane",
            where=Where(param="until_point"),
            got="0 mm off the plane",
            need="a point over or under it",
            remedy="choose another point",
        )
    way = 1.0 if height > 0 else -1.0
    return -way * inputs.values.get("back", 0.0), height + way * inputs.values.get("until_offset", 0.0)


def _profiles(params: Params, inputs: Inputs, sketch: Sketch) -> list[Profile]:
    """What is extruded: the chosen profiles, walls along them, or walls along open lines."""
    if params.wall is None:
        return chosen_profiles(sketch, params.profiles)
    wall = inputs.values["wall"]
    if wall < 1e-4:
        raise ContourError(
            "bad-params",
            "the wall has no thickness",
            where=Where(param="wall"),
            got=f"{wall:g} mm",
            need="at least 0.0001 mm",
            remedy="type a thickness, or take it out for a full solid",
        )
    if sketch.refused is not None:
        raise ContourError.of(sketch.refused)
    try:
        if params.profiles is None and (walls := thin_chains(sketch, wall, params.wall_side)):
            return walls
        return thin_profiles(chosen_profiles(sketch, params.profiles), wall, params.wall_side)
    except ContourError as error:
        raise error.at(param="wall") from None


def _handles(params: Params, profiles: list[Any], frame: Any) -> tuple[Handle, ...]:
    """In the middle of what is extruded, along the way it goes."""
    if params.extent != "distance":
        return ()
    spots = np.vstack([entity_points(e) for p in profiles for e in p.outer.entities])
    middle = frame.to_space((spots.min(axis=0) + spots.max(axis=0)) / 2)
    return (Handle("distance", triple(middle), triple(frame.normal), "length", per=0.5 if params.symmetric else 1.0),)


class ExtrudeFacts(MaterialFigures):
    """profiles: by their names."""

    of: Literal["extrude"] = "extrude"
    profiles: tuple[str, ...]


def _run(params: Params, inputs: Inputs) -> Outcome:
    # The kernel is imported here so that declaring this step costs the web process nothing.
    from contour.solid.extrude import extrude
    from contour.solid.extrude_to import extrude_to, way_to

    sketch = inputs.products["sketch"]
    profiles = _profiles(params, inputs, sketch)
    prefix, draft = inputs.step[:8], inputs.values.get("draft", 0.0)
    others = bodies_of(inputs, params.bodies)
    require_bodies(params.operation, others)
    way = -1.0 if inputs.values["distance"] < 0 else 1.0
    if params.extent == "until" and (params.until_point is not None or params.until_point_spot is not None):
        start, end = _to_point(params, inputs, sketch.frame)
        way = 1.0 if end > start else -1.0
        made = extrude(profiles, sketch.frame, start_mm=start, end_mm=end, draft_deg=draft, prefix=prefix)
    elif params.extent == "until":
        target = target_at(inputs, "until_region", "until_face", or_point=True)
        way = way_to(profiles, sketch.frame, target, way)
        made = extrude_to(
            profiles,
            sketch.frame,
            target,
            way=way,
            start_mm=-way * inputs.values.get("back", 0.0),
            offset_mm=inputs.values.get("until_offset", 0.0),
            draft_deg=draft,
            prefix=prefix,
        )
    else:
        start, end = _span(params, inputs, sketch.frame, others)
        made = extrude(profiles, sketch.frame, start_mm=start, end_mm=end, draft_deg=draft, prefix=prefix)
    begins = sketch.frame.to_space(spot_within(profiles[0])[None])[0] + way * JUST_MM * sketch.frame.normal
    proposes = proposed(others, begins)
    puts, gone, problems = put_on_bodies(
        made, params.operation, params.bodies, others, what="the extrusion", key="distance", proposes=proposes
    )
    facts = ExtrudeFacts(profiles=tuple(p.id for p in profiles), proposes=proposes)
    return Outcome(puts, facts, gone=gone, problems=problems, handles=_handles(params, profiles, sketch.frame))


KIND: StepKind[Params] = StepKind(
    id="extrude",
    title="Extrude",
    help="Profiles become solid material",
    version=6,
    makes="body",
    params=Params,
    key_value="distance",
    run=_run,
    facts=ExtrudeFacts,
    measures={"volume": "volume", "area": "area"},
    reads=_reads,
    carries=("sketch",),
    starts=(Start("sketch", "sketch", most=1),),
)
