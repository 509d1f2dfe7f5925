"""Level: faces of a body brought into one plane, or to one radius, with a lead face."""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal

from pydantic import BaseModel, ConfigDict, Field

from contour.present.edges import body_of, loaded
from contour.products.body import BodyFigures, BodyProduct
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import FaceRef, OneFace
from contour.recipe.registry import Inputs, Outcome, Start, StepKind
from contour.recipe.values import Angle, Length, Value
from contour.solid.topology.parts import faces_with_neighbours

if TYPE_CHECKING:
    from contour.solid.shape import NamedShape

__all__ = ["KIND", "Params"]


class Params(BaseModel):
    """The lead face stays. Flat faces come to lie in its plane, cylindrical ones get its diameter about their own axes."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    lead: FaceRef = Field(title="Lead face", description="a flat or cylindrical face; it stays as it is")
    faces: list[OneFace] = Field(
        default=[], max_length=200, title="Faces", description="of the same body and kind, that are brought to it"
    )
    tilt: Angle = Field(default=Value(text="0.5 deg"), description="how far a flat face may be tilted to the lead face")
    reach: Length = Field(default=Value(text="1 mm"), description="how far from level a face may be to be offered")


class LevelFacts(BodyFigures):
    """moved: of each face, mm, + out of the material · most: the largest of them, either way."""

    of: Literal["level"] = "level"
    moved: tuple[float, ...]
    most: float


def _unpicked(body: NamedShape, id: str, lead: int, inputs: Inputs) -> ContourError:
    """That nothing is chosen yet, with what looks as if it were meant to be level."""
    from contour.solid.facts import face_facts
    from contour.solid.leveled import nearly_level

    reach = inputs.values["reach"]
    found = nearly_level(body, lead, reach_mm=reach, tilt_deg=inputs.values["tilt"])
    error = ContourError(
        "bad-params",
        "no face is chosen that is to be brought to the lead face",
        where=Where(param="faces"),
        got="nothing",
        need="at least one face",
        remedy="point at the faces that are to be level with it" + ("" if found else f": none is within {reach:g} mm"),
    )
    if not found:
        return error
    rows = faces_with_neighbours(face_facts(body))
    chosen = [{"body": id, **{k: rows[f][k] for k in ("name", "kind", "beside")}} for f in found]
    what = "face" if len(found) == 1 else f"{len(found)} faces"
    return error.offering(f"Take the {what} within {reach:g} mm of it", faces=chosen)


def _run(params: Params, inputs: Inputs) -> Outcome:
    from contour.solid.face_geometry import face_surface
    from contour.solid.leveled import tilt_between
    from contour.solid.shape import faces, write_shape
    from contour.solid.shifted import face_middle, shifted

    places = [f"faces[{i}]" for i in range(len(params.faces))]
    id = body_of([("lead", params.lead), *zip(places, params.faces, strict=True)])
    body = loaded(inputs, "lead")
    shapes = faces(body.shape)
    first = body.names.index(inputs.face("lead"))
    lead = face_surface(shapes[first])
    if lead is None or lead.kind not in ("plane", "cylinder"):
        raise ContourError(
            "wrong-kind",
            "a lead face is flat or cylindrical",
            where=Where(param="lead"),
            got="another face" if lead is None else lead.kind,
            need="a plane or a cylinder",
            remedy="choose another face",
        )
    if not places:
        raise _unpicked(body, id, first, inputs)
    moves: dict[int, float] = {}
    for place in places:
        k = body.names.index(inputs.face(place))
        own = face_surface(shapes[k])
        if k == first or own is None or own.kind != lead.kind:
            raise ContourError(
                "wrong-kind",
                "this face cannot be brought to the lead face",
                where=Where(param=place),
                got="the lead face itself" if k == first else "another face" if own is None else own.kind,
                need=f"another {lead.kind}",
                remedy="take this face out of the list",
            )
        if own.kind == "cylinder":
            moves[k] = (lead.radius - own.radius) * own.outward
            continue
        tilt = tilt_between(lead, own)
        if tilt > inputs.values["tilt"]:
            raise ContourError(
                "too-tilted",
                "this face is tilted too much to the lead face",
                where=Where(param=place),
                got=f"{tilt:.2f} deg",
                need=f"at most {inputs.values['tilt']:g} deg",
                remedy="take this face out of the list, or raise the limit",
            )
        moves[k] = float((lead.at - face_middle(shapes[k])) @ lead.along) / float(own.along @ lead.along)
    if max(abs(d) for d in moves.values()) < 1e-6:
        raise ContourError(
            "unchanged",
            "the faces are level already",
            where=Where(param="faces"),
            got="0 mm",
            need="some way to go",
            remedy="take the step out",
        )
    made = shifted(body, {k: d for k, d in moves.items() if abs(d) > 1e-9}, prefix=inputs.step[:8])
    facts = LevelFacts(moved=tuple(moves.values()), most=max((abs(d) for d in moves.values()), default=0.0))
    return Outcome({id: BodyProduct(write_shape(made.shape), made.names)}, facts)


KIND: StepKind[Params] = StepKind(
    id="level",
    title="Level faces",
    help="Faces brought into one plane, or to one radius, with a lead face",
    version=1,
    makes="body",
    params=Params,
    key_value="tilt",
    run=_run,
    facts=LevelFacts,
    measures={"volume": "volume", "area": "area", "most": "length"},
    starts=(Start("face", "lead", ("plane", "cylinder"), most=1, seldom=True),),
)
