"""Hole on an axis: a hole of a body bored again about another axis, with its, a typed or a standard diameter."""

from __future__ import annotations

from typing import Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from contour.present.edges import loaded
from contour.present.places import axis_at
from contour.products.body import BodyFigures, BodyProduct
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import AxisRef, FaceRef
from contour.recipe.registry import Inputs, Outcome, Start, StepKind
from contour.recipe.values import Length, Value

__all__ = ["KIND", "Params"]


class Params(BaseModel):
    """As deep as it was, or through where it was through."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    face: FaceRef = Field(title="Hole", description="the round wall of a hole")
    onto: AxisRef = Field(title="Onto axis", description="a fitted cylinder, an axis, or something round")
    size: Literal["as it was", "fitted", "standard", "typed"] = Field(
        default="fitted",
        title="Diameter",
        description="the hole's own, the fitted cylinder's, the drill nearest to that, or typed",
    )
    diameter: Length = Field(
        default=Value(text="10 mm"), title="Typed diameter", json_schema_extra={"when": {"size": ["typed"]}}
    )


class CoaxialFacts(BodyFigures):
    """moved: mm between the axes at the hole's middle · tilt: degrees between them · was, now: diameters, mm · drill: the standard one, by its name."""

    of: Literal["coaxial"] = "coaxial"
    moved: float
    tilt: float
    was: float
    now: float
    drill: str | None = None


def _diameter(params: Params, inputs: Inputs, was: float, fitted: float) -> tuple[float, str | None]:
    from contour.metrology.standards.drills import nearest_drills

    if params.size == "as it was":
        return was, None
    if params.size == "typed":
        value = inputs.values["diameter"]
        if value < 1e-3:
            raise ContourError(
                "bad-params",
                "the diameter is too small",
                where=Where(param="diameter"),
                got=f"{value:g} mm",
                need="at least 0.001 mm",
                remedy="type a diameter",
            )
        return value, None
    if fitted <= 0:
        raise ContourError(
            "bad-params",
            "what it is put on has no diameter",
            where=Where(param="onto"),
            got="an axis",
            need="a fitted cylinder, a round face or a round edge",
            remedy="choose a cylinder, or type the diameter",
        )
    if params.size == "fitted":
        return fitted, None
    (drill,) = nearest_drills(fitted, count=1)
    return drill.diameter, drill.name


def _run(params: Params, inputs: Inputs) -> Outcome:
    from contour.solid.face_geometry import face_surface
    from contour.solid.rebored import rebored
    from contour.solid.shape import faces, write_shape
    from contour.solid.shifted import face_middle

    body = loaded(inputs, "face")
    name = inputs.face("face")
    wall = faces(body.shape)[body.names.index(name)]
    own = face_surface(wall)
    place = axis_at(inputs, "onto")
    was = 2 * own.radius if own is not None and own.kind == "cylinder" else 0.0
    now, drill = _diameter(params, inputs, was, 2 * place.radius)
    made = rebored(body, name, place.at, place.along, now / 2, prefix=inputs.step[:8])
    assert own is not None
    middle = face_middle(wall)
    off = middle - place.at
    facts = CoaxialFacts(
        moved=float(np.linalg.norm(off - (off @ place.along) * place.along)),
        tilt=float(np.degrees(np.arccos(min(abs(float(own.along @ place.along)), 1.0)))),
        was=was,
        now=now,
        drill=drill,
    )
    return Outcome({params.face.body: BodyProduct(write_shape(made.shape), made.names)}, facts)


KIND: StepKind[Params] = StepKind(
    id="coaxial",
    title="Hole on an axis",
    help="A hole of a body put on a fitted cylinder's axis, with its, a standard or a typed diameter",
    version=1,
    makes="body",
    params=Params,
    key_value="size",
    run=_run,
    facts=CoaxialFacts,
    measures={"volume": "volume", "area": "area", "moved": "length", "now": "length"},
    starts=(Start("face", "face", ("cylinder",), most=1),),
)
