"""Place body: a body moved, turned, laid point on point, axis on axis or face on face, or scaled; itself or copies of it."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field
from scipy.spatial.transform import Rotation

from contour.geometry.rigid import placement
from contour.geometry.vectors import square_to, triple, unit
from contour.present.places import axis_at, plane_at, point_at
from contour.products.body import BodyFigures, BodyProduct
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import AxisRef, BodyRef, PlaneRef, PointRef
from contour.recipe.registry import OWN, Handle, Inputs, Outcome, Start, StepKind
from contour.recipe.values import Angle, Length, Number, Value

if TYPE_CHECKING:
    from contour.construct.place import Place

__all__ = ["KIND", "Params"]

Array = NDArray[np.float64]
_NOTHING = Value(text="0 mm", mark="intent")


def _when(*ways: str) -> dict[str, Any]:
    return {"when": {"by": list(ways)}}


class Params(BaseModel):
    """Along the world's axes, or from one place to another."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    body: BodyRef
    by: Literal["values", "turn", "points", "axes", "faces", "scale"] = Field(
        default="values",
        title="How",
        description="along x, y and z, about an axis, from a point to a point, from an axis onto an axis, from a face onto a face, or in its size",
        json_schema_extra={
            "titles": {
                "values": "moved along x, y, z",
                "turn": "turned about an axis",
                "points": "point to point",
                "axes": "axis to axis",
                "faces": "face on face",
                "scale": "scaled",
            }
        },
    )
    x: Length = Field(default=_NOTHING, title="Along x", json_schema_extra=_when("values"))
    y: Length = Field(default=_NOTHING, title="Along y", json_schema_extra=_when("values"))
    z: Length = Field(default=_NOTHING, title="Along z", json_schema_extra=_when("values"))
    axis: AxisRef | None = Field(
        default=None, title="About", description="none: the world's z", json_schema_extra=_when("turn")
    )
    own_face: PlaneRef | None = Field(
        default=None, title="From face", description="what is laid", json_schema_extra=_when("faces")
    )
    onto_face: PlaneRef | None = Field(
        default=None, title="Onto face", description="where it comes to lie", json_schema_extra=_when("faces")
    )
    start: PointRef | None = Field(
        default=None,
        title="From point",
        description="what is laid; a round edge for its centre",
        json_schema_extra=_when("points", "faces"),
    )
    end: PointRef | None = Field(
        default=None,
        title="To point",
        description="where it comes to lie, abreast of it on a face",
        json_schema_extra=_when("points", "faces"),
    )
    own_axis: AxisRef | None = Field(
        default=None, title="From axis", description="what is laid", json_schema_extra=_when("axes")
    )
    onto: AxisRef | None = Field(
        default=None, title="Onto axis", description="where it comes to lie", json_schema_extra=_when("axes")
    )
    own_way: AxisRef | None = Field(
        default=None,
        title="Edge of it",
        description="which is turned to run as another one; none: it is not turned further",
        json_schema_extra=_when("faces"),
    )
    onto_way: AxisRef | None = Field(
        default=None, title="Runs as edge", description="of the other body", json_schema_extra=_when("faces")
    )
    gap: Length = Field(default=_NOTHING, description="left between the two faces", json_schema_extra=_when("faces"))
    along: Length = Field(
        default=_NOTHING,
        title="Along the axis",
        description="and how far along it, from abreast of where it was",
        json_schema_extra=_when("axes"),
    )
    flip: bool = Field(
        default=False,
        title="Other way round",
        description="head to tail; of a face, looking the same way",
        json_schema_extra=_when("axes", "faces"),
    )
    angle: Angle = Field(
        default=Value(text="0 deg", mark="intent"),
        description="about the axis, or the face's normal, by the right hand",
        json_schema_extra=_when("turn", "axes", "faces"),
    )
    factor: Number = Field(
        default=Value(text="1", mark="intent"), description="of every length", json_schema_extra=_when("scale")
    )
    about: PointRef | None = Field(
        default=None, description="what stays where it is; none: the world's origin", json_schema_extra=_when("scale")
    )
    keep: bool = Field(
        default=False, title="As a copy", description="the body stays, and what is placed is another body"
    )


class MoveFacts(BodyFigures):
    """moved: mm that its middle went · turned: degrees · factor: of every length."""

    of: Literal["move"] = "move"
    moved: float
    turned: float
    factor: float


_USED = {
    "values": (),
    "turn": ("axis",),
    "points": ("start", "end"),
    "axes": ("own_axis", "onto"),
    "scale": ("about",),
    "faces": ("own_face", "onto_face", "start", "end", "own_way", "onto_way"),
}
_OPTIONAL = {"faces": ("start", "end", "own_way", "onto_way"), "turn": ("axis",), "scale": ("about",)}


def _reads(params: Params) -> frozenset[str]:
    return frozenset(
        {
            "body",
            *(n for n in _USED[params.by] if getattr(params, n) is not None or n not in _OPTIONAL.get(params.by, ())),
        }
    )


def _about(place: Place, rotation: Rotation) -> Array:
    r = rotation.as_matrix()
    return placement(r, place.at - r @ place.at)


def _matrix(params: Params, inputs: Inputs) -> Array:
    """The placement, (4, 4)."""
    values = inputs.values
    if params.by == "values":
        return placement(np.eye(3), np.array([values["x"], values["y"], values["z"]]))
    if params.by == "points":
        return placement(np.eye(3), point_at(inputs, "end").at - point_at(inputs, "start").at)
    turn = np.radians(values["angle"])
    if params.by == "turn":
        axis = _axis(params, inputs)
        return _about(axis, Rotation.from_rotvec(turn * unit(axis.along)))
    if params.by == "axes":
        return _onto(axis_at(inputs, "own_axis"), axis_at(inputs, "onto"), turn, values["along"], flip=params.flip)
    if params.by == "faces":
        return _face_on_face(params, inputs, turn)
    if values["factor"] < 0:
        raise ContourError(
            "bad-params",
            "a negative factor would turn the body inside out",
            where=Where(param="factor"),
            got=f"{values['factor']:g}",
            need="more than 0",
            remedy="type a factor above 0, or mirror the body with Repeat",
        )
    centre = point_at(inputs, "about").at if params.about is not None else np.zeros(3)
    return placement(values["factor"] * np.eye(3), (1 - values["factor"]) * centre)


def _axis(params: Params, inputs: Inputs) -> Place:
    from contour.construct.place import Place

    return axis_at(inputs, "axis") if params.axis is not None else Place("axis", (0.0, 0.0, 0.0))


def _onto(own: Place, onto: Place, turn: float, along: float, *, flip: bool) -> Array:
    """Own axis laid on the other by the shortest way, its origin abreast of where it was, then turned and pushed along."""
    a, b = unit(own.along), unit(onto.along) * (-1 if flip else 1)
    r = (Rotation.from_rotvec(turn * b) * _shortest(a, b)).as_matrix()
    foot = onto.at + ((own.at - onto.at) @ b + along) * b
    return placement(r, foot - r @ own.at)


def _face_on_face(params: Params, inputs: Inputs, turn: float) -> Array:
    """A face laid on another one: looking at each other (or the same way), an edge as another one runs, a place abreast of another one."""
    own, onto = plane_at(inputs, "own_face"), plane_at(inputs, "onto_face")
    _require_pairs(params)
    n = unit(onto.along)
    r = _shortest(unit(own.along), n if params.flip else -n)
    if params.own_way is not None:
        a, b = r.apply(axis_at(inputs, "own_way").along), axis_at(inputs, "onto_way").along
        a, b = a - (a @ n) * n, b - (b @ n) * n
        if min(np.linalg.norm(a), np.linalg.norm(b)) < 1e-6:
            raise ContourError(
                "wrong-kind",
                "an edge stands square to the face: it does not say how to turn",
                where=Where(param="own_way" if np.linalg.norm(a) < 1e-6 else "onto_way"),
                got="an edge along the face's normal",
                need="an edge that runs along the face",
                remedy="choose another edge",
            )
        turn += float(np.arctan2(np.cross(a, b) @ n, a @ b))
    r = Rotation.from_rotvec(turn * n) * r
    laid, there = (
        point_at(inputs, k).at if getattr(params, k) is not None else p.at for k, p in (("start", own), ("end", onto))
    )
    at = r.apply(laid)
    # Abreast along the face; square to it as the faces say.
    aside = (there - at) - ((there - at) @ n) * n
    up = float((onto.at - r.apply(own.at)) @ n) + inputs.values["gap"]
    return placement(r.as_matrix(), aside + up * n)


def _require_pairs(params: Params) -> None:
    if (params.own_way is None) != (params.onto_way is None):
        raise ContourError(
            "bad-params",
            "one edge alone does not say how to turn",
            where=Where(param="onto_way" if params.onto_way is None else "own_way"),
            got="one edge",
            need="an edge of each, or none",
            remedy="choose the other one, or take this one out",
        )


def _shortest(a: Array, b: Array) -> Rotation:
    """The shortest turn that brings a unit direction onto another one."""
    across = np.cross(a, b)
    hinge = unit(across) if np.linalg.norm(across) > 1e-9 else square_to(a)[0]
    return Rotation.from_rotvec(float(np.arctan2(np.linalg.norm(across), a @ b)) * hinge)


def _handles(params: Params, inputs: Inputs, middle: Array) -> tuple[Handle, ...]:
    if params.by == "values":
        # Each grip starts where the other two have brought the body.
        by = np.array([inputs.values[n] for n in "xyz"])
        axes = np.eye(3)
        return tuple(
            Handle(n, triple(middle + by - by[k] * axes[k]), triple(axes[k])) for k, n in enumerate(("x", "y", "z"))
        )
    if params.by != "turn":
        return ()
    axis = _axis(params, inputs)
    way = unit(axis.along)
    foot = axis.at + ((middle - axis.at) @ way) * way
    arm = middle - foot
    zero = unit(arm) if np.linalg.norm(arm) > 1e-6 else square_to(way)[0]
    return (Handle("angle", triple(foot), triple(way), "angle", 1.0, triple(zero)),)


def _run(params: Params, inputs: Inputs) -> Outcome:
    from contour.geometry.rigid import moved
    from contour.solid.extent import bounds
    from contour.solid.placed import placed
    from contour.solid.shape import NamedShape, read_shape, write_shape

    before: BodyProduct = inputs.products["body"]
    body = NamedShape(read_shape(before.brep), before.names)
    matrix = _matrix(params, inputs)
    if np.allclose(matrix, np.eye(4), atol=1e-9) and not params.keep:
        raise ContourError(
            "unchanged",
            "the body stays where it is",
            where=Where(param="by"),
            got="0 mm, 0 deg, factor 1",
            need="some way to go",
            remedy="type a value, or choose other places",
        )
    made = placed(body, matrix)
    middle = bounds(body.shape).mean(axis=0)
    scale = float(np.cbrt(np.linalg.det(matrix[:3, :3])))
    facts = MoveFacts(
        moved=float(np.linalg.norm(moved(matrix, middle) - middle)),
        turned=float(np.degrees(Rotation.from_matrix(matrix[:3, :3] / scale).magnitude())),
        factor=scale,
    )
    after = BodyProduct(write_shape(made.shape), made.names)
    return Outcome({OWN if params.keep else params.body.id: after}, facts, handles=_handles(params, inputs, middle))


KIND: StepKind[Params] = StepKind(
    id="move",
    title="Place body",
    help="A body moved, turned, laid point on point, axis on axis or face on face, or scaled; itself or a copy",
    version=1,
    makes="body",
    params=Params,
    key_value="by",
    run=_run,
    facts=MoveFacts,
    measures={"volume": "volume", "area": "area", "moved": "length"},
    reads=_reads,
    starts=(Start("body", "body", most=1),),
)
