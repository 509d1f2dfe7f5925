"""Where holes lie on a face: in its middle, at points, on axes, on a circle; as a step's fields and as places in space."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field

from contour.construct.bolt_circle import even_circle
from contour.construct.repeats import counted, places_left_out
from contour.geometry import rigid
from contour.geometry.vectors import square_to, unit
from contour.present.places import axis_at, plane_at, point_at
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import AxisRef, FaceRef, PlaneRef, PointRef
from contour.recipe.registry import Inputs
from contour.recipe.values import Angle, Length, Number, Value

if TYPE_CHECKING:
    from OCP.TopoDS import TopoDS_Face

    from contour.solid.drilled import Mouth

__all__ = ["HolePlaces", "mouths_at", "places_read"]

Array = NDArray[np.float64]


class HolePlaces(BaseModel):
    """The places of holes, as fields of a step."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    face: FaceRef = Field(title="From face", description="the face it is drilled from")
    by: Literal["centre", "points", "axes", "circle"] = Field(
        default="centre",
        title="Where",
        description="in the face's middle, at points, on axes, or on a circle",
        json_schema_extra={
            "titles": {"centre": "in the middle", "points": "at points", "axes": "on axes", "circle": "on a circle"}
        },
    )
    points: list[PointRef] = Field(
        default_factory=list,
        max_length=200,
        title="Places",
        description="corners, centres, points: taken square onto the face",
        json_schema_extra={"when": {"by": ["points"]}},
    )
    axes: list[AxisRef] = Field(
        default_factory=list,
        max_length=200,
        title="Axes or members",
        description="fitted holes, round faces or edges, axes; for a circle: members that are there",
        json_schema_extra={"when": {"by": ["axes", "circle"]}},
    )
    between: list[PlaneRef] = Field(
        default_factory=list,
        max_length=4,
        title="Midway between",
        description="two faces or planes; four: midway between both pairs",
        json_schema_extra={"when": {"by": ["centre"]}},
    )
    around: AxisRef | None = Field(
        default=None,
        title="Circle about",
        description="its axis; none: about the face's middle, or through the members",
        json_schema_extra={"when": {"by": ["circle"]}},
    )
    circle: Length = Field(
        default=Value(text="30 mm"),
        title="Circle diameter",
        description="unless three or more members say it",
        json_schema_extra={"when": {"by": ["circle"]}},
    )
    count: Number = Field(
        default=Value(text="6"), description="places on the circle", json_schema_extra={"when": {"by": ["circle"]}}
    )
    first: Angle = Field(
        default=Value(text="0 deg"),
        title="First at",
        description="turned on from where it would begin",
        json_schema_extra={"when": {"by": ["circle"]}},
    )
    skip: str = Field(
        default="",
        max_length=200,
        title="Left out",
        description="numbers of places without a hole, such as 2, 5",
        json_schema_extra={"when": {"by": ["circle"]}},
    )


def _places(name: str, items: list[Any]) -> list[str]:
    return [f"{name}[{i}]" for i in range(len(items))]


def places_read(params: HolePlaces) -> set[str]:
    """References of the fields that are in use."""
    used = {"face"}
    if params.by == "points":
        used |= set(_places("points", params.points))
    if params.by in ("axes", "circle"):
        used |= set(_places("axes", params.axes))
    if params.by == "circle" and params.around is not None:
        used |= {"around"}
    if params.by == "centre":
        used |= set(_places("between", params.between))
    return used


def _missing(param: str, what: str, remedy: str) -> ContourError:
    return ContourError("bad-params", what, where=Where(param=param), got="nothing", need="at least one", remedy=remedy)


def _midway(params: HolePlaces, inputs: Inputs, at: Array, way: Array) -> Array:
    """The place moved to the middle between pairs of planes, within the face."""
    places = _places("between", params.between)
    if len(places) % 2:
        raise ContourError(
            "bad-params",
            "something lies midway between two faces",
            where=Where(param="between"),
            got=f"{len(places)} chosen",
            need="two, or two pairs",
            remedy="choose another one",
        )
    for one, other in zip(places[::2], places[1::2], strict=True):
        a, b = plane_at(inputs, one), plane_at(inputs, other)
        normal = a.along if float(a.along @ b.along) > 0 else -a.along
        mean = unit(normal + b.along)
        ahead = mean - float(mean @ way) * way
        if float(np.linalg.norm(ahead)) < 0.2:
            raise ContourError(
                "wrong-kind",
                "both faces lie along the hole's own face",
                where=Where(param=one),
                got="faces across the hole",
                need="faces along it",
                remedy="choose faces at its sides",
            )
        ahead = unit(ahead)
        # Where the line through the place along `ahead` meets each of them.
        reach = [float((p.at - at) @ p.along) / float(ahead @ p.along) for p in (a, b)]
        at = at + (reach[0] + reach[1]) / 2 * ahead
    return at


def _carried(inputs: Inputs, at: Array) -> Array:
    """A place of the face itself, where a repeat takes it."""
    return at if inputs.carried is None else rigid.moved(inputs.carried, at)


def _on_circle(
    params: HolePlaces, inputs: Inputs, face: TopoDS_Face
) -> tuple[list[tuple[str, Array, Array]], dict[str, float]]:
    """(key, place, way) of each hole, and what is told of the circle."""
    from contour.solid.mouths import into, outline_middle

    count = counted(inputs.values["count"], param="count", most=400)
    skipped = places_left_out(params.skip, count, what="the circle")
    members = [axis_at(inputs, p) for p in _places("axes", params.axes)]
    middle = _carried(inputs, outline_middle(face))
    if params.around is not None:
        axis = axis_at(inputs, "around")
        centre, way = axis.at, axis.along * np.sign(float(axis.along @ into(face, middle)) or 1.0)
    else:
        centre, way = middle, into(face, middle)
    u, v = square_to(way)
    radius, start, told = inputs.values["circle"] / 2, 0.0, {}
    if members:
        flat = np.array([[(m.at - centre) @ u, (m.at - centre) @ v] for m in members])
        if len(members) >= 3 and params.around is None:
            found = even_circle(flat, count)
            if found is None:
                raise ContourError(
                    "degenerate",
                    "the members lie in a line",
                    where=Where(param="axes"),
                    got=f"{len(members)} in a line",
                    need="members on a circle",
                    remedy="choose others, or say what the circle is about",
                )
            centre, radius, start = centre + found.centre @ np.array([u, v]), found.radius, found.start
            told = {"off": found.off}
        else:
            start = float(np.arctan2(flat[0][1], flat[0][0]))
            radius = float(np.linalg.norm(flat, axis=1).mean()) if params.around is not None else radius
    if radius < 1e-4:
        raise ContourError(
            "bad-params",
            "the circle has no size",
            where=Where(param="circle"),
            got=f"{2 * radius:g} mm",
            need="some diameter",
            remedy="type a diameter",
        )
    start += np.radians(inputs.values["first"])
    out = []
    for k in range(count):
        if k not in skipped:
            a = start + 2 * np.pi * k / count
            out.append((str(k + 1), centre + radius * (np.cos(a) * u + np.sin(a) * v), way))
    if not out:
        raise _missing("skip", "every hole of the circle is left out", "leave out fewer")
    return out, told | {"circle": 2 * radius}


def mouths_at(params: HolePlaces, inputs: Inputs, face: TopoDS_Face) -> tuple[list[Mouth], dict[str, float]]:
    """Where each hole begins and which way it goes, and what is told of the circle they lie on: its diameter, and how far the worst member is off its
    place, mm. Raises ContourError with the field."""
    from contour.solid.drilled import Mouth
    from contour.solid.face_geometry import face_kind
    from contour.solid.mouths import crossing, foot, into, outline_middle

    flat = face_kind(face) == "plane"

    def along(axis_at_: Array, axis: Array, key: str, param: str) -> Mouth:
        try:
            at = crossing(face, axis_at_, axis)
            inward = into(face, at)
        except ContourError as error:
            raise error.at(param=param) from None
        lean = float(axis @ inward)
        return Mouth(at, axis * (np.sign(lean) or 1.0), key, param)

    if params.by == "centre":
        at = _carried(inputs, outline_middle(face))
        at = _midway(params, inputs, at, into(face, at)) if params.between else at
        at = at if flat else foot(face, at)
        return [Mouth(at, into(face, at), "1", "face")], {}
    if params.by == "points":
        if not params.points:
            raise _missing("points", "no place is chosen", "pick corners, centres or points")
        out = []
        for i, place in enumerate(_places("points", params.points)):
            try:
                at = foot(face, np.array(point_at(inputs, place).origin))
                out.append(Mouth(at, into(face, at), str(i + 1), place))
            except ContourError as error:
                raise error.at(param=place) from None
        return out, {}
    if params.by == "axes":
        if not params.axes:
            raise _missing("axes", "no axis is chosen", "pick fitted holes, round faces or axes")
        found = [(p, axis_at(inputs, p)) for p in _places("axes", params.axes)]
        return [along(a.at, a.along, str(i + 1), p) for i, (p, a) in enumerate(found)], {}
    placed, told = _on_circle(params, inputs, face)
    return [along(at, way, key, "circle") for key, at, way in placed], told
