"""Plane: a construction plane from what is found on the scan, from other construction, or free in space."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field

from contour.construct import planes
from contour.construct.place import Place, with_spread
from contour.geometry.rigid import inverse, moved, turned
from contour.geometry.vectors import triple, unit
from contour.present.handles import angle_handle
from contour.present.places import axis_at, place_facts, plane_at, point_at
from contour.products.place import PlaceFigures
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import AxisRef, PlaneRef, PointRef, ScanRef, SketchRef
from contour.recipe.registry import OWN, Handle, Inputs, Outcome, Start, StepKind
from contour.recipe.values import Angle, Length, Number, Value
from contour.register.symmetry import symmetry_planes
from contour.sketch.entities import entity_points

__all__ = ["KIND", "Params"]

_NEARLY_DEG = 1.0
_NOTHING, _NO_TURN = Value(text="0 mm"), Value(text="0 deg")


def _for(*by: str, **more: Any) -> dict[str, Any]:
    return {"when": {"by": list(by)}, **more}


class Params(BaseModel):
    """`by` says what settles the plane; only the references it needs are looked at."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    by: Literal[
        "parallel",
        "about axis",
        "midway",
        "points",
        "lines",
        "tangent",
        "across axis",
        "across curve",
        "symmetry",
        "part axes",
        "free",
    ] = Field(title="Method", default="parallel", description="what the plane comes from")
    plane: PlaneRef | None = Field(
        default=None,
        description="the plane it starts from",
        json_schema_extra=_for("parallel", "about axis", "midway", "tangent"),
    )
    other_plane: PlaneRef | None = Field(
        default=None, description="the plane on the other side", json_schema_extra=_for("midway")
    )
    axis: AxisRef | None = Field(
        default=None,
        description="the axis, or the cylinder it touches",
        json_schema_extra=_for("about axis", "lines", "tangent", "across axis"),
    )
    other_axis: AxisRef | None = Field(default=None, description="the other line", json_schema_extra=_for("lines"))
    point: PointRef | None = Field(default=None, description="first point", json_schema_extra=_for("points"))
    other_point: PointRef | None = Field(default=None, description="second point", json_schema_extra=_for("points"))
    third_point: PointRef | None = Field(default=None, description="third point", json_schema_extra=_for("points"))
    sketch: SketchRef | None = Field(
        default=None, description="the sketch with the curve", json_schema_extra=_for("across curve")
    )
    piece: str = Field(
        default="",
        max_length=20,
        description="which piece of the sketch, such as e3; empty: the longest",
        json_schema_extra=_for("across curve"),
    )
    along: Number = Field(
        title="Place along the curve",
        default=Value(text="0.5"),
        description="how far along the curve, 0 to 1",
        json_schema_extra=_for("across curve"),
    )
    far: bool = Field(
        default=False, title="Other side", description="touch the other side", json_schema_extra=_for("tangent")
    )
    scan: ScanRef | None = Field(
        default=None, description="the scan whose symmetry is looked for", json_schema_extra=_for("symmetry", "free")
    )
    share: Number = Field(
        default=Value(text="0.95"),
        description="how much of the scan must have its counterpart, 0 to 1",
        json_schema_extra=_for("symmetry"),
    )
    world: Literal["xy", "yz", "zx"] = Field(
        title="Of the part's axes",
        default="xy",
        description="of the part's own axes",
        json_schema_extra=_for("part axes"),
    )
    origin: tuple[float, float, float] | None = Field(default=None, description="a place on it, as it was drawn")
    normal: tuple[float, float, float] | None = Field(default=None, description="its direction, as it was drawn")
    pose: tuple[tuple[float, float, float, float], ...] | None = Field(
        default=None, min_length=4, max_length=4, description="where the raw scan lay then (4x4)"
    )
    square: bool = Field(
        default=False,
        title="Square to the part's axes",
        description="it stands exactly across the axis of the part that it nearly stands across already",
        json_schema_extra=_for("parallel"),
    )
    angle: Angle = Field(default=_NO_TURN, description="turned about the axis", json_schema_extra=_for("about axis"))
    offset: Length = Field(default=_NOTHING, description="moved along its own normal")
    turn_u: Angle = Field(
        default=_NO_TURN, description="turned about its own first axis", json_schema_extra={"fold": "Turn it"}
    )
    turn_v: Angle = Field(
        default=_NO_TURN, description="turned about its own second axis", json_schema_extra={"fold": "Turn it"}
    )
    flip: bool = Field(default=False, title="Reversed", description="its normal points the other way")


_NEEDED = {
    "parallel": ("plane",),
    "about axis": ("plane", "axis"),
    "midway": ("plane", "other_plane"),
    "points": ("point", "other_point", "third_point"),
    "lines": ("axis", "other_axis"),
    "tangent": ("plane", "axis"),
    "across axis": ("axis",),
    "across curve": ("sketch",),
    "symmetry": ("scan",),
    "part axes": (),
    "free": ("scan",),
}
_WORLD = {"xy": (0.0, 0.0, 1.0), "yz": (1.0, 0.0, 0.0), "zx": (0.0, 1.0, 0.0)}


def _symmetry(inputs: Inputs) -> tuple[Place, dict[str, Any]]:
    scan = inputs.products["scan"].scan
    found = symmetry_planes(
        scan.vertices,
        scan.facets,
        scan.across,
        noise_mm=scan.noise_mm,
        least_near=float(np.clip(inputs.values["share"], 0.3, 1.0)),
    )
    best = found[0]
    reach = 0.6 * float(np.linalg.norm(np.ptp(scan.vertices, axis=0)))
    made = Place("plane", best.point, best.normal, reach=reach)
    return made, {"agree": best.agree, "near": best.near, "planes": len(found)}


def _across_curve(params: Params, inputs: Inputs) -> Place:
    sketch = inputs.products["sketch"]
    paths = {e.id: sketch.frame.to_space(entity_points(e, step_deg=1.0)) for e in sketch.entities}
    if params.piece and params.piece not in paths:
        raise ContourError(
            "ref-lost",
            "the sketch has no such piece",
            where=Where(param="piece"),
            got=params.piece,
            need=", ".join(paths),
            remedy="name one of its pieces",
        )
    length = {k: float(np.linalg.norm(np.diff(p, axis=0), axis=1).sum()) for k, p in paths.items()}
    chosen = params.piece or max(length, key=lambda k: length[k])
    return planes.normal_to_path(paths[chosen], inputs.values["along"])


def _free(params: Params, inputs: Inputs) -> Place:
    scan = inputs.products["scan"].scan
    if params.origin is None or params.normal is None or not np.linalg.norm(params.normal) > 0:
        raise ContourError(
            "bad-params",
            "the plane has no place yet",
            where=Where(param="origin"),
            got="no place" if params.origin is None else "no direction",
            need="a place and a direction",
            remedy="draw it in the view, or choose what it comes from",
        )
    since = np.asarray(scan.pose) @ inverse(np.array(params.pose) if params.pose else np.eye(4))
    reach = 0.6 * float(np.linalg.norm(np.ptp(scan.vertices, axis=0)))
    at = moved(since, np.array(params.origin))
    return Place("plane", triple(at), triple(unit(turned(since, np.array(params.normal)))), reach=reach)


class PlaneFacts(PlaceFigures):
    """Of a plane of symmetry: the share of the scan that agrees, its mean distance there (mm), and how many planes were found."""

    of: Literal["plane"] = "plane"
    agree: float | None = None
    near: float | None = None
    planes: int | None = None


def _base(params: Params, inputs: Inputs) -> tuple[Place, dict[str, Any]]:
    by = params.by
    if by == "symmetry":
        return _symmetry(inputs)
    if by == "part axes":
        return Place("plane", (0.0, 0.0, 0.0), _WORLD[params.world], reach=40.0), {}
    if by == "free":
        return _free(params, inputs), {}
    if by == "across curve":
        return _across_curve(params, inputs), {}
    if by == "points":
        given = [point_at(inputs, p) for p in _NEEDED[by]]
        return with_spread(lambda p: planes.through_points(*p), given), {}
    if by == "across axis":
        return with_spread(lambda p: planes.across(p[0], 0.0), [axis_at(inputs, "axis")]), {}
    if by == "lines":
        given = [axis_at(inputs, "axis"), axis_at(inputs, "other_axis")]
        skew = max(0.05, 5 * (given[0].u + given[1].u))
        return with_spread(lambda p: planes.through_axes(p[0], p[1], skew_mm=2 * skew), given), {}
    plane = plane_at(inputs, "plane")
    if by == "midway":
        other = plane_at(inputs, "other_plane")
        return with_spread(lambda p: planes.midplane(*p), [plane, other]), {}
    if by == "about axis":
        turn = np.radians(inputs.values["angle"])
        return with_spread(lambda p: planes.through_axis(p[0], p[1], turn), [plane, axis_at(inputs, "axis")]), {}
    if by == "tangent":
        touched = [axis_at(inputs, "axis"), plane]
        return with_spread(lambda p: planes.tangent(p[0], p[1], far=params.far), touched), {}
    return (_squared(plane) if params.square else plane), {}


def _squared(plane: Place) -> Place:
    """The plane turned about where it is so that it stands across one of the part's axes. Raises ContourError (too-tilted) where it stands across none."""
    k = int(np.argmax(np.abs(plane.along)))
    axis = math.copysign(1.0, plane.along[k]) * np.eye(3)[k]
    off = math.degrees(math.atan2(float(np.linalg.norm(np.cross(plane.along, axis))), float(plane.along @ axis)))
    if off > _NEARLY_DEG:
        raise ContourError(
            "too-tilted",
            f"the plane does not nearly stand across an axis of the part: {off:.2f} deg off {'xyz'[k]}",
            where=Where(param="square"),
            got=f"{off:.2f} deg",
            need=f"at most {_NEARLY_DEG:g} deg",
            remedy="align the part, or leave the plane as it is",
        )
    return replace(plane, direction=triple(axis), u_tilt=0.0)


def _handles(params: Params, inputs: Inputs, base: Place, u_axis: NDArray[np.float64]) -> tuple[Handle, ...]:
    """How far it is moved and turned; about an axis also by how much it is turned from the plane it began with."""
    turns = np.radians([inputs.values["turn_u"], inputs.values["turn_v"]])
    v_axis = np.cross(base.along, u_axis)
    made = [
        Handle("offset", base.origin, triple(planes.tilted(base, turns[0], turns[1], u_axis).along)),
        angle_handle("turn_u", base.at, u_axis, v_axis),
        angle_handle("turn_v", base.at, v_axis, u_axis),
    ]
    if params.by == "about axis":
        axis = axis_at(inputs, "axis")
        unturned = planes.through_axis(plane_at(inputs, "plane"), axis, 0.0)
        made.append(angle_handle("angle", axis.at, axis.along, np.cross(unturned.along, axis.along)))
    return tuple(made)


def _run(params: Params, inputs: Inputs) -> Outcome:
    base, facts = _base(params, inputs)
    u_axis = planes.u_axis_of(base.along)
    turns = np.radians([inputs.values["turn_u"], inputs.values["turn_v"]])
    flip = -1.0 if params.flip else 1.0

    def rest(given: Any) -> Place:
        made = planes.offset(planes.tilted(given[0], turns[0], turns[1], u_axis), inputs.values["offset"])
        return Place("plane", made.origin, triple(flip * made.along), reach=made.reach)

    made = with_spread(rest, [base])
    return Outcome(
        {OWN: made}, PlaneFacts(**facts, **place_facts(made)), handles=_handles(params, inputs, base, u_axis)
    )


KIND: StepKind[Params] = StepKind(
    id="plane",
    title="Plane",
    help="A construction plane",
    version=1,
    makes="plane",
    params=Params,
    key_value="offset",
    run=_run,
    facts=PlaneFacts,
    starts=(
        Start("face", "plane", ("plane",), most=1, seldom=True),
        Start("region", "plane", ("plane",), most=1, also={"by": "parallel"}, seldom=True),
    ),
    reads=lambda p: frozenset(_NEEDED[p.by]),
    measures={"agree": "number"},
)
