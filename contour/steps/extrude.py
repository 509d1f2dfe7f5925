"""Extrude: a sketch's profiles become a new body, or are added to, subtracted from or intersected with bodies."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Any, Literal

import numpy as np
from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from contour.geometry.vectors import triple
from contour.present.targets import target_at
from contour.products.body import BodyFigures, BodyProduct
from contour.recipe.problem import ContourError, Problem, Where
from contour.recipe.reference import BodyRef, FaceRef, SketchRef, SurfaceRef
from contour.recipe.reference.aliases import present_profile
from contour.recipe.registry import OWN, Handle, Inputs, Outcome, Start, StepKind
from contour.recipe.values import Length
from contour.sketch.chosen import chosen_profiles
from contour.sketch.entities import entity_points

if TYPE_CHECKING:
    from contour.solid.shape import NamedShape

__all__ = ["KIND", "Params"]


class Params(BaseModel):
    """Distance runs along the sketch plane's normal; negative goes the other way."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    sketch: SketchRef
    profiles: list[Annotated[str, AfterValidator(present_profile)]] | None = Field(
        default=None, description="names of the profiles; none means all"
    )
    extent: Literal["distance", "through", "until"] = Field(
        title="Reaches",
        default="distance",
        description="how far: a distance, through the bodies, or until a region or face",
        json_schema_extra={"titles": {"until": "ends at"}},
    )
    distance: Length = Field(description="along the plane's normal; negative goes the other way")
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
    until_offset: Length | None = Field(
        title="Offset from there",
        default=None,
        description="how far beyond the region or face; negative stays short",
        json_schema_extra={"when": {"extent": ["until"]}},
    )
    operation: Literal["new", "add", "subtract", "intersect"] = "new"
    bodies: list[BodyRef] = Field(
        default_factory=list,
        max_length=50,
        description="the bodies it works on",
        json_schema_extra={"when": {"operation": ["add", "subtract", "intersect"]}},
    )


def _reads(params: Params) -> frozenset[str]:
    """References in use: a new body leaves the others alone, and only "until" looks at what it ends at."""
    used = {"sketch"}
    if params.operation != "new" or params.extent == "through":
        used |= {f"bodies[{i}]" for i in range(len(params.bodies))}
    if params.extent == "until":
        used |= {"until_region", "until_face"}
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
    reaches = [reach_of(o, frame.origin, frame.normal) for o in others]
    low, high = min(r[0] for r in reaches) - 1.0, max(r[1] for r in reaches) + 1.0
    if params.symmetric:
        return low, high
    return -way * back, high if way > 0 else low


def _handles(params: Params, profiles: list[Any], frame: Any) -> tuple[Handle, ...]:
    """In the middle of what is extruded, along the way it goes."""
    if params.extent != "distance":
        return ()
    spots = np.vstack([entity_points(e) for p in profiles for e in p.outer.entities])
    middle = frame.to_space((spots.min(axis=0) + spots.max(axis=0)) / 2)
    return (Handle("distance", triple(middle), triple(frame.normal), "length", per=0.5 if params.symmetric else 1.0),)


class ExtrudeFacts(BodyFigures):
    """profiles: by their names."""

    of: Literal["extrude"] = "extrude"
    profiles: tuple[str, ...]


def _run(params: Params, inputs: Inputs) -> Outcome:
    # The kernel is imported here so that declaring this step costs the web process nothing.
    from contour.solid.boolean import combine
    from contour.solid.extrude import extrude
    from contour.solid.extrude_to import extrude_to
    from contour.solid.shape import NamedShape, read_shape, write_shape

    sketch = inputs.products["sketch"]
    profiles = chosen_profiles(sketch, params.profiles)
    prefix = inputs.step[:8]
    places = [f"bodies[{i}]" for i in range(len(params.bodies))]
    loaded: list[BodyProduct] = [inputs.products[p] for p in places if p in inputs.products]
    others = [NamedShape(read_shape(b.brep), b.names) for b in loaded]
    if params.operation != "new" and not others:
        raise ContourError(
            "no-body",
            f"there is no body to {params.operation} to",
            where=Where(param="bodies"),
            got="0 bodies",
            need="at least one body",
            remedy="choose a body, or make a new one",
        )
    if params.extent == "until":
        way = -1.0 if inputs.values["distance"] < 0 else 1.0
        made = extrude_to(
            profiles,
            sketch.frame,
            target_at(inputs, "until_region", "until_face"),
            way=way,
            start_mm=-way * inputs.values.get("back", 0.0),
            offset_mm=inputs.values.get("until_offset", 0.0),
            prefix=prefix,
        )
    else:
        start, end = _span(params, inputs, sketch.frame, others)
        made = extrude(profiles, sketch.frame, start_mm=start, end_mm=end, prefix=prefix)

    def product(shape: NamedShape) -> BodyProduct:
        return BodyProduct(write_shape(shape.shape), shape.names)

    ids = [b.id for b in params.bodies]
    facts = ExtrudeFacts(profiles=tuple(p.id for p in profiles))
    handles = _handles(params, profiles, sketch.frame)
    if params.operation == "new":
        return Outcome({OWN: product(made)}, facts, handles=handles)
    if params.operation == "add":
        for other in others:
            made = combine(other, made, "add")
        return Outcome({ids[0]: product(made)}, facts, gone=tuple(ids[1:]), handles=handles)
    changed, problems = {}, []
    for id, other in zip(ids, others, strict=True):
        try:
            changed[id] = product(combine(other, made, params.operation))
        except ContourError as error:
            if error.problem.code != "unchanged" or len(ids) == 1:
                raise
            problems.append(error.problem)
    if not changed:
        raise ContourError(
            "unchanged",
            "the extrusion touches none of the bodies",
            where=Where(param="distance"),
            got="0 of them",
            need="at least one body",
            remedy="turn the direction round, or choose other bodies",
        )
    return Outcome(changed, facts, problems=tuple(Problem.model_validate(p) for p in problems), handles=handles)


KIND: StepKind[Params] = StepKind(
    id="extrude",
    title="Extrude",
    help="Profiles become solid material",
    version=4,
    makes="body",
    params=Params,
    key_value="distance",
    run=_run,
    facts=ExtrudeFacts,
    measures={"volume": "volume", "area": "area"},
    reads=_reads,
    starts=(Start("sketch", "sketch", most=1),),
)
