"""Draft faces: walls of a body lean, about where they meet a plane that stays."""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field

from contour.present.edges import body_of, loaded
from contour.present.handles import angle_handle
from contour.present.places import plane_at
from contour.products.body import BodyFigures, BodyProduct
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import OneFace, PlaneRef
from contour.recipe.registry import Handle, Inputs, Outcome, Start, StepKind
from contour.recipe.values import Angle, Value

if TYPE_CHECKING:
    from OCP.TopoDS import TopoDS_Face

__all__ = ["KIND", "Params"]

Array = NDArray[np.float64]


class Params(BaseModel):
    """Along the plane's normal there is less material the further one goes; a negative angle is the other way round."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    faces: list[OneFace] = Field(min_length=1, max_length=300, title="Walls", description="faces that are to lean")
    stays: PlaneRef = Field(title="About", description="a plane or flat face: where walls meet it they stay")
    angle: Angle = Field(default=Value(text="2 deg"), description="from the plane's normal")
    flip: bool = Field(default=False, title="Other way", description="pulled off against the plane's normal")


class DraftFacts(BodyFigures):
    """faces_drafted: how many lean · removed: mm³, below 0 where material came to it."""

    of: Literal["draft"] = "draft"
    faces_drafted: int
    removed: float


def _run(params: Params, inputs: Inputs) -> Outcome:
    from contour.solid.drafted import drafted
    from contour.solid.mass import volume
    from contour.solid.shape import faces, write_shape

    places = [f"faces[{i}]" for i in range(len(params.faces))]
    id = body_of(zip(places, params.faces, strict=True))
    angle = inputs.values["angle"]
    if not 1e-4 <= abs(angle) < 80:
        raise ContourError(
            "bad-params",
            "walls do not lean by this angle",
            where=Where(param="angle"),
            got=f"{angle:g} deg",
            need="0.0001 to 80 deg, either way",
            remedy="type another angle",
        )
    body = loaded(inputs, "faces[0]")
    names = list(dict.fromkeys(inputs.face(p) for p in places))
    plane = plane_at(inputs, "stays")
    pull = -plane.along if params.flip else plane.along
    made = drafted(body, names, plane.at, pull, angle, labels=inputs.steps)
    wall = faces(body.shape)[body.names.index(names[0])]
    facts = DraftFacts(faces_drafted=len(names), removed=volume(body.shape) - volume(made.shape))
    product = BodyProduct(write_shape(made.shape), made.names)
    return Outcome({id: product}, facts, handles=_handles(wall, plane.at, pull))


def _handles(wall: TopoDS_Face, at: Array, pull: Array) -> tuple[Handle, ...]:
    """At the foot of the first wall, about the line that stays; none at a round one, which has no such line."""
    from contour.solid.face_geometry import face_kind
    from contour.solid.mouths import into
    from contour.solid.shifted import face_middle

    if face_kind(wall) != "plane":
        return ()
    middle = face_middle(wall)
    axis = np.cross(pull, into(wall, middle))
    return (angle_handle("angle", middle - float((middle - at) @ pull) * pull, axis, pull),)


KIND: StepKind[Params] = StepKind(
    id="draft",
    title="Draft faces",
    help="Walls of a body lean, about where they meet a plane that stays",
    version=1,
    makes="body",
    params=Params,
    key_value="angle",
    run=_run,
    facts=DraftFacts,
    measures={"volume": "volume", "area": "area", "removed": "volume"},
    starts=(Start("face", "faces", ("plane", "cylinder", "cone"), seldom=True),),
)
