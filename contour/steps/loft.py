"""Loft: a solid through sections (sketches, flat faces of bodies), as a new body, or added to, subtracted from or intersected with bodies."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, Literal

from pydantic import BaseModel, ConfigDict, Field
from pydantic.config import JsonDict

from contour.geometry.vectors import unit
from contour.present.edges import loaded
from contour.present.operation import (
    JUST_MM,
    MaterialFigures,
    Operation,
    Targets,
    bodies_of,
    proposed,
    put_on_bodies,
    require_bodies,
    target_places,
)
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import FaceRef, SketchRef
from contour.recipe.registry import Inputs, Outcome, Start, StepKind
from contour.recipe.values import Number, Value

if TYPE_CHECKING:
    from contour.solid.path import Path
    from contour.solid.sections import Section

__all__ = ["KIND", "Params"]

Leaves = Literal["free", "square", "tangent"]
_LEAVES: JsonDict = {
    "titles": {"free": "as it comes", "square": "square to the section", "tangent": "on from the faces behind it"},
    "when": {"course": ["smooth"]},
}


def _weight(title: str, name: str) -> Any:
    return Field(
        default=Value(text="1", mark="intent"),
        title=title,
        description="how far in it keeps that direction; 1 is even",
        json_schema_extra={"when": {name: ["square", "tangent"]}},
    )


class Params(BaseModel):
    """From a face (where one is given) through the sketches in their order to a face (where one is given)."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    from_face: FaceRef | None = Field(default=None, title="Begins at face", description="a flat face of a body")
    sections: list[SketchRef] = Field(
        default_factory=list, max_length=60, title="Sketches", description="with one outline each, in their order"
    )
    to_face: FaceRef | None = Field(default=None, title="Ends at face", description="a flat face of a body")
    course: Literal["smooth", "straight"] = Field(
        default="smooth", title="Between them", description="smooth, or straight from one to the next"
    )
    leaves: Leaves = Field(
        default="free",
        title="Leaves the first",
        description="how walls leave the first section",
        json_schema_extra=_LEAVES,
    )
    leaves_weight: Number = _weight("Weight there", "leaves")
    arrives: Leaves = Field(
        default="free",
        title="Comes to the last",
        description="how walls come to the last section",
        json_schema_extra=_LEAVES,
    )
    arrives_weight: Number = _weight("Weight here", "arrives")
    guides: list[SketchRef] = Field(
        default_factory=list,
        max_length=24,
        title="Guides",
        description="sketches with one open line each, that meets every section",
        json_schema_extra={"when": {"course": ["smooth"]}},
    )
    operation: Operation = "new"
    bodies: Targets = Field(default_factory=list)


class LoftFacts(MaterialFigures):
    """sections: how many it runs through · walls: faces between them."""

    of: Literal["loft"] = "loft"
    sections: int
    walls: int


def _reads(params: Params) -> frozenset[str]:
    used = {f"sections[{i}]" for i in range(len(params.sections))}
    used |= {n for n in ("from_face", "to_face") if getattr(params, n) is not None}
    if params.course == "smooth":
        used |= {f"guides[{i}]" for i in range(len(params.guides))}
    if params.operation != "new":
        used |= target_places(params.bodies)
    return frozenset(used)


def _sections(params: Params, inputs: Inputs) -> list[Section]:
    from contour.sketch.chosen import chosen_profiles
    from contour.solid.sections import section_of_face, section_of_profile

    def of_face(place: str) -> list[Section]:
        if getattr(params, place) is None:
            return []
        try:
            return [section_of_face(loaded(inputs, place), inputs.face(place))]
        except ContourError as error:
            raise error.at(param=place) from None

    def of_sketch(place: str) -> Section:
        sketch = inputs.products[place]
        try:
            profiles = chosen_profiles(sketch)
        except ContourError as error:
            raise error.at(param=place) from None
        if len(profiles) > 1:
            raise ContourError(
                "bad-params",
                "a section is one profile",
                where=Where(param=place),
                got=f"{len(profiles)} profiles",
                need="one",
                remedy="take a sketch with a single closed outline",
            )
        return section_of_profile(profiles[0], sketch.frame)

    sketches = [of_sketch(f"sections[{i}]") for i in range(len(params.sections))]
    return [*of_face("from_face"), *sketches, *of_face("to_face")]


def _guides(params: Params, inputs: Inputs, sections: list[Section]) -> list[Path]:
    from contour.solid.path import path_from, pieces_of

    out = []
    for i in range(len(params.guides) if params.course == "smooth" else 0):
        place = f"guides[{i}]"
        sketch = inputs.products[place]
        if sketch.refused is not None:
            raise ContourError.of(sketch.refused).at(param=place)
        if not sketch.entities:
            raise ContourError(
                "bad-params",
                "the guide is empty",
                where=Where(param=place),
                got="nothing drawn",
                need="an open line",
                remedy="draw it through a point of each section",
            )
        out.append(path_from(pieces_of(sketch.entities, sketch.frame), sections[0].outlines[0].middle(), param=place))
    return out


def _run(params: Params, inputs: Inputs) -> Outcome:
    from contour.solid.loft import End, loft

    others = bodies_of(inputs, params.bodies) if params.operation != "new" else []
    require_bodies(params.operation, others)
    sections = _sections(params, inputs)
    ends = []
    for leaving, weight, face in (("leaves", "leaves_weight", "from_face"), ("arrives", "arrives_weight", "to_face")):
        way: Leaves = getattr(params, leaving)
        if way == "tangent" and params.course == "smooth" and getattr(params, face) is None:
            raise ContourError(
                "bad-params",
                "there are no faces behind a sketch",
                where=Where(param=leaving),
                got="a sketch",
                need="a face of a body there",
                remedy="choose a face for this end, or leave the section square",
            )
        ends.append(End(way, inputs.values[weight]))
    made = loft(
        sections,
        straight=params.course == "straight",
        first=ends[0],
        last=ends[1],
        guides=_guides(params, inputs, sections),
        prefix=inputs.step[:8],
    )
    first, last = sections[0].outlines[0].middle(), sections[-1].outlines[0].middle()
    proposes = proposed(others, first + JUST_MM * unit(last - first))
    puts, gone, problems = put_on_bodies(
        made, params.operation, params.bodies, others, what="the loft", key="sections", proposes=proposes
    )
    facts = LoftFacts(sections=len(sections), walls=len(made.names) - 2, proposes=proposes)
    return Outcome(puts, facts, gone=gone, problems=problems)


KIND: StepKind[Params] = StepKind(
    id="loft",
    title="Loft",
    help="Sections become solid material that runs through them",
    version=1,
    makes="body",
    params=Params,
    key_value="course",
    run=_run,
    facts=LoftFacts,
    measures={"volume": "volume", "area": "area"},
    reads=_reads,
    carries=("sections", "guides", "from_face", "to_face"),
    starts=(
        Start("sketch", "sections", most=60),
        Start("face", "from_face", ("plane",), least=2, most=2, second="to_face"),
    ),
)
