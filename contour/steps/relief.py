"""Raise or sink: profiles of a sketch raised from faces of a body, or sunk into them, at an even height over their form."""

from __future__ import annotations

from typing import Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from contour.geometry.vectors import triple
from contour.present.edges import body_of, loaded
from contour.present.operation import ChosenProfiles
from contour.products.body import BodyFigures, BodyProduct
from contour.recipe.params import refs_in
from contour.recipe.problem import Problem, Where
from contour.recipe.reference import OneFace, PartRef, SketchRef
from contour.recipe.registry import Handle, Inputs, Outcome, Start, StepKind
from contour.recipe.values import Length
from contour.sketch.chosen import chosen_profiles

__all__ = ["KIND", "Params"]


class Params(BaseModel):
    """Its walls run along the sketch's normal; its end follows the faces."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    sketch: SketchRef
    profiles: ChosenProfiles = None
    faces: list[OneFace] = Field(min_length=1, max_length=200, description="that it is raised from or sunk into")
    height: Length = Field(description="square to the faces; negative sinks it")


class ReliefFacts(BodyFigures):
    """changed: mm³ that it adds, negative what it takes."""

    of: Literal["relief"] = "relief"
    changed: float


def _run(params: Params, inputs: Inputs) -> Outcome:
    from contour.solid.mass import volume
    from contour.solid.mouths import into, place_on
    from contour.solid.relief import relief
    from contour.solid.shape import faces, write_shape

    id = body_of((place, ref) for place, ref in refs_in(params).items() if isinstance(ref, PartRef))
    body, sketch = loaded(inputs, "faces[0]"), inputs.products["sketch"]
    chosen = list(dict.fromkeys(inputs.face(f"faces[{i}]") for i in range(len(params.faces))))
    profiles = chosen_profiles(sketch, params.profiles)
    height = inputs.values["height"]
    made = relief(body, profiles, sketch.frame, chosen, height, prefix=inputs.step[:8], labels=inputs.steps)
    problems = (_beyond(),) if made.clipped else ()
    face = faces(body.shape)[body.names.index(chosen[0])]
    at = place_on(face)
    handle = Handle("height", triple(at), triple(-into(face, at)))
    facts = ReliefFacts(changed=float(np.subtract(volume(made.body.shape), volume(body.shape))))
    return Outcome(
        {id: BodyProduct(write_shape(made.body.shape), made.body.names)}, facts, problems=problems, handles=(handle,)
    )


def _beyond() -> Problem:
    return Problem(
        code="not-found",
        message="the profile runs beyond the faces",
        where=Where(param="faces"),
        got="parts of it with no face over or under them: they are left out",
        need="faces under all of it",
        remedy="choose the neighbouring faces too, or draw it smaller",
    )


KIND: StepKind[Params] = StepKind(
    id="relief",
    title="Raise or sink",
    help="Profiles raised from faces, or sunk into them, following their form",
    version=1,
    makes="body",
    params=Params,
    key_value="height",
    run=_run,
    facts=ReliefFacts,
    measures={"changed": "volume", "volume": "volume", "area": "area"},
    carries=("sketch",),
    starts=(Start("sketch", "sketch", most=1, also={"height": {"text": "1 mm", "mark": "assumed"}}),),
)
