"""Extrude: a sketch's profiles become a new body, or are added to or subtracted from one."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from contour.recipe.problem import ContourError, Where
from contour.recipe.registry import Inputs, Outcome, StepKind
from contour.recipe.values import BodyRef, Length, SketchRef
from contour.sketch.entities import find_profiles
from contour.steps.products import BodyProduct

__all__ = ["KIND", "Params"]


class Params(BaseModel):
    """Distance runs along the sketch plane's normal; negative goes the other way."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    sketch: SketchRef
    profiles: list[str] | None = Field(default=None, description="first entity of each outer loop; none means all")
    distance: Length = Field(description="along the plane's normal; negative goes the other way")
    symmetric: bool = Field(default=False, description="half of the distance each way")
    operation: Literal["new", "add", "subtract"] = "new"
    body: BodyRef | None = Field(default=None, description="the body to add to or subtract from")


def _run(params: Params, inputs: Inputs) -> Outcome:
    # The kernel is imported here so that declaring this step costs the web process nothing.
    from contour.solid.boolean import combine
    from contour.solid.extrude import extrude
    from contour.solid.gate import check_solid
    from contour.solid.shape import NamedShape, read_shape, write_shape

    sketch = inputs.products["sketch"]
    profiles = find_profiles(sketch)
    if params.profiles is not None:
        known = {p.id: p for p in profiles}
        lost = [p for p in params.profiles if p not in known]
        if lost or not params.profiles:
            raise ContourError(
                "no-profile", "the sketch has no such profile", where=Where(param="profiles"), got=", ".join(lost) or "none",
                need=f"some of {', '.join(known)}", remedy="choose the profiles again",
            )  # fmt: skip
        profiles = [known[p] for p in params.profiles]
    if params.operation != "new" and params.body is None:
        raise ContourError(
            "no-body", f"there is no body to {params.operation} to", where=Where(param="body"),
            remedy="choose a body, or make a new one",
        )  # fmt: skip
    distance = inputs.lengths["distance"]
    made = extrude(profiles, sketch.frame, distance_mm=distance, symmetric=params.symmetric, prefix=inputs.step[:8])
    if params.operation != "new":
        before: BodyProduct = inputs.products["body"]
        made = combine(NamedShape(read_shape(before.brep), before.names), made, params.operation)
    facts = check_solid(made.shape)
    return Outcome(
        BodyProduct(write_shape(made.shape), made.names),
        {
            "distance": distance, "volume": facts.volume, "area": facts.area, "faces": facts.faces,
            "solids": facts.solids, "profiles": [p.id for p in profiles],
        },
    )  # fmt: skip


KIND: StepKind[Params] = StepKind(
    id="extrude", title="Extrude", help="Profiles become solid material", version=1, makes="body",
    params=Params, key_value="distance", run=_run, target="body",
)  # fmt: skip
