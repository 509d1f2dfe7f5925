"""Traced: an outline that was traced in a picture, to scale, as a sketch on a plane of the part."""

from __future__ import annotations

import math
from typing import Annotated

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from contour.geometry.frames import plane_frame
from contour.outline.bends import sides_of
from contour.present.places import plane_at, section_frame
from contour.products.region import RegionProduct
from contour.products.sketch import SketchFacts, sketch_facts
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import PlaneRef
from contour.recipe.registry import OWN, Inputs, Outcome, StepKind
from contour.recipe.values import Angle, Length, Value
from contour.sketch.entities import Entity, LoopName, Point2, Sketch

__all__ = ["KIND", "Params"]

_NOTHING = Value(text="0 mm")


class Params(BaseModel):
    """On a plane region of the scan, a construction plane, or on the world's xy plane where there is none. It keeps the size it was traced at."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    plane: PlaneRef | None = Field(default=None, description="the plane it lies on; none: the xy plane")
    offset: Annotated[Length, Field(description="from the plane along its normal")] = _NOTHING
    shift_x: Annotated[Length, Field(description="of the outline's middle on the plane")] = _NOTHING
    shift_y: Annotated[Length, Field(description="of the outline's middle on the plane")] = _NOTHING
    turn: Annotated[Angle, Field(description="about the outline's middle")] = Value(text="0 deg")
    points: list[tuple[float, float]] = Field(
        min_length=2, max_length=500, description="corners, mm, y upwards, about the outline's middle"
    )
    bends: list[int] = Field(
        default=[], max_length=500, description="places of points that lie on an arc between the corners beside them"
    )
    closed: bool = Field(default=True, description="whether the last corner meets the first")


def _piece(id: str, start: Point2, via: Point2 | None, end: Point2) -> Entity:
    if via is None:
        return Entity(id, "line", start, end)
    across = (end[0] - start[0]) * (via[1] - start[1]) - (end[1] - start[1]) * (via[0] - start[0])
    # A bend by less than a micrometre is a line: its circle has no middle that can be told.
    flat = abs(across) <= 1e-3 * math.dist(start, end)
    return Entity(id, "line", start, end) if flat else Entity(id, "arc", start, end, mid=via)


def _run(params: Params, inputs: Inputs) -> Outcome:
    v = inputs.values
    if "plane" not in inputs.products:
        frame = plane_frame(np.array([0, 0, v["offset"]]), np.array([0, 0, 1.0]), np.array([1.0, 0, 0]))
    else:
        plane = plane_at(inputs, "plane")
        normal = plane.along
        along = np.eye(3)[int(np.argmin(np.abs(normal)))]
        # A region keeps the zero it was fitted with: an outline traced on it before must not wander.
        product = inputs.products["plane"]
        zero = np.array(product.surface.origin) if isinstance(product, RegionProduct) else plane.at
        frame = section_frame(plane, v["offset"], zero, along - (along @ normal) * normal)
    p = np.array(params.points, float)
    if not np.isfinite(p).all() or float(np.ptp(p, axis=0).max()) > 1e5:
        raise ContourError(
            "bad-params",
            "the outline has no usable size",
            where=Where(param="points"),
            got="no numbers, or more than 100 m",
            need="some size, below 100 m",
            remedy="trace it again",
        )
    a = math.radians(v["turn"])
    p = p @ np.array([[math.cos(a), math.sin(a)], [-math.sin(a), math.cos(a)]]) + [v["shift_x"], v["shift_y"]]
    spots = [(float(x), float(y)) for x, y in p]
    entities = tuple(
        _piece(f"e{k + 1}", spots[start], None if via is None else spots[via], spots[end])
        for k, (start, via, end) in enumerate(sides_of(len(p), tuple(params.bends), closed=params.closed))
    )
    sketch = Sketch(frame, entities, (LoopName("p1", tuple(e.id for e in entities)),))
    facts, problems = sketch_facts(sketch)
    # Who says that it is open need not be told so.
    return Outcome({OWN: sketch}, SketchFacts(**facts), problems if params.closed else ())


KIND: StepKind[Params] = StepKind(
    id="traced",
    title="Traced outline",
    help="An outline traced in a picture, as a sketch",
    version=4,
    makes="sketch",
    params=Params,
    key_value="offset",
    run=_run,
    facts=SketchFacts,
)
