"""Primitive: a block, cylinder, cone, sphere or torus, by values, between two points, or on what is round."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field

from contour.geometry.frames import plane_frame
from contour.geometry.vectors import square_to, triple, unit
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
from contour.present.places import axis_at, plane_at, point_at
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import AxisRef, PlaneRef, PointRef
from contour.recipe.registry import Handle, Inputs, Outcome, Start, StepKind
from contour.recipe.values import Length, Value

if TYPE_CHECKING:
    from contour.construct.place import Place
    from contour.solid.shape import NamedShape

__all__ = ["KIND", "Params"]

Array = NDArray[np.float64]


def _for(*forms: str, sized: bool = False) -> dict[str, Any]:
    """Shown for these forms; sized: only where no cylinder says it."""
    return {"when": {"form": list(forms), **({"as_found": [False]} if sized else {})}}


class Params(BaseModel):
    """It stands on its place along its axis: a plane's normal, an axis, the way from one point to another, else the world's z. A sphere and a torus have their
    centre there."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    form: Literal["block", "cylinder", "cone", "sphere", "torus"] = Field(default="cylinder", description="what it is")
    axis: AxisRef | None = Field(
        default=None,
        title="Along",
        description="an axis, or something round: it stands where that is known best",
        json_schema_extra=_for("cylinder", "cone", "torus"),
    )
    as_found: bool = Field(
        default=False,
        title="Its size and reach",
        description="as wide and as long as the cylinder it stands on",
        json_schema_extra=_for("cylinder"),
    )
    plane: PlaneRef | None = Field(
        default=None,
        title="On plane",
        description="it stands square on it",
        json_schema_extra=_for("block", "cylinder", "cone", "torus", sized=True),
    )
    at: PointRef | None = Field(
        default=None,
        title="At point",
        description="where it stands; a block: a corner",
        json_schema_extra={"when": {"as_found": [False]}},
    )
    to: PointRef | None = Field(
        default=None,
        title="To point",
        description="where it ends; a block: the corner across, a sphere: a point on it",
        json_schema_extra=_for("block", "cylinder", "cone", "sphere", sized=True),
    )
    diameter: Length = Field(
        default=Value(text="10 mm"),
        description="of a torus that of its middle circle",
        json_schema_extra=_for("cylinder", "cone", "sphere", "torus", sized=True),
    )
    top: Length = Field(
        default=Value(text="0 mm"),
        title="Upper diameter",
        description="0: it ends in a point",
        json_schema_extra=_for("cone"),
    )
    tube: Length = Field(
        default=Value(text="4 mm"), title="Tube diameter", description="of the torus", json_schema_extra=_for("torus")
    )
    width: Length = Field(
        default=Value(text="20 mm"), description="along its first side", json_schema_extra=_for("block")
    )
    depth: Length = Field(
        default=Value(text="20 mm"), description="along its second side", json_schema_extra=_for("block")
    )
    height: Length = Field(
        default=Value(text="10 mm"),
        description="negative goes the other way",
        json_schema_extra=_for("block", "cylinder", "cone", sized=True),
    )
    centred: bool = Field(
        default=False,
        description="its middle is where it would stand",
        json_schema_extra=_for("block", "cylinder", "cone", sized=True),
    )
    operation: Operation = "new"
    bodies: Targets = Field(default_factory=list)


class PrimitiveFacts(MaterialFigures):
    """form: what it is · height, diameter: mm, as they came out."""

    of: Literal["primitive"] = "primitive"
    form: str
    height: float | None = None
    diameter: float | None = None


def _reads(params: Params) -> frozenset[str]:
    used = {name for name in ("axis", "plane", "at", "to") if getattr(params, name) is not None}
    shown = {
        "axis": ("cylinder", "cone", "torus"),
        "plane": ("block", "cylinder", "cone", "torus"),
        "to": ("block", "cylinder", "cone", "sphere"),
    }
    used = {n for n in used if params.form in shown.get(n, (params.form,))}
    if params.operation != "new":
        used |= target_places(params.bodies)
    return frozenset(used)


def _stands(params: Params, inputs: Inputs) -> tuple[Array, Array, float | None]:
    """(where, which way, how far it reaches where two points say it)."""
    used = _reads(params)
    at = np.zeros(3) if "at" not in used else np.array(point_at(inputs, "at").origin)
    way, reach = np.array([0.0, 0.0, 1.0]), None
    if "axis" in used:
        place = axis_at(inputs, "axis")
        way = place.along
        at = place.at if "at" not in used else place.at + ((at - place.at) @ way) * way
    elif "plane" in used:
        place = plane_at(inputs, "plane")
        way = place.along
        at = place.at if "at" not in used else at - ((at - place.at) @ way) * way
    if "to" in used and params.form in ("cylinder", "cone"):
        to = np.array(point_at(inputs, "to").origin)
        if "axis" in used or "plane" in used:
            reach = float((to - at) @ way)
        else:
            _require_apart(at, to)
            way, reach = unit(to - at), float(np.linalg.norm(to - at))
    return at, way, reach


def _found(params: Params, inputs: Inputs) -> Place:
    """The cylinder that a primitive takes its size and reach of."""
    place = axis_at(inputs, "axis") if params.axis is not None else None
    if place is None or place.span[1] - place.span[0] < 1e-6:
        raise ContourError(
            "bad-params",
            "what it stands on has no diameter and no reach",
            where=Where(param="axis"),
            got="nothing" if place is None else "an axis",
            need="a fitted cylinder, or a cylindrical face",
            remedy="choose a cylinder, or type the sizes",
        )
    return place


def _require_apart(a: Array, b: Array) -> None:
    if float(np.linalg.norm(b - a)) < 1e-6:
        raise ContourError(
            "degenerate",
            "both points are one",
            where=Where(param="to"),
            got="0 mm apart",
            need="two points apart from each other",
            remedy="choose another point",
        )


def _size(inputs: Inputs, name: str, *, least: float = 1e-4) -> float:
    value = inputs.values[name]
    if value < least:
        raise ContourError(
            "bad-params",
            f"the {name} is too small",
            where=Where(param=name),
            got=f"{value:g} mm",
            need=f"at least {least:g} mm",
            remedy="type a size",
        )
    return value


def _run(params: Params, inputs: Inputs) -> Outcome:
    from contour.solid.extent import bounds
    from contour.solid.primitives import cone, sphere, torus

    others = bodies_of(inputs, params.bodies) if params.operation != "new" else []
    require_bodies(params.operation, others)
    at, way, reach = _stands(params, inputs)
    prefix = inputs.step[:8]
    handles: tuple[Handle, ...] = ()
    height: float | None = None
    diameter = None if params.form == "block" else inputs.values["diameter"]
    if params.form == "cylinder" and params.as_found:
        place = _found(params, inputs)
        diameter, height = 2 * place.radius, place.span[1] - place.span[0]
        made = cone(place.at, place.along, place.span, (place.radius, place.radius), prefix=prefix)
    elif params.form in ("cylinder", "cone"):
        height = inputs.values["height"] if reach is None else reach
        low, high = _ends(height, params.centred)
        r = _size(inputs, "diameter") / 2
        t = r if params.form == "cylinder" else _size(inputs, "top", least=0.0) / 2
        below, above = (r, t) if height > 0 else (t, r)
        made = cone(at, way, (low, high), (below, above), prefix=prefix)
        if reach is None:
            handles = (Handle("height", triple(at), triple(way), per=0.5 if params.centred else 1.0),)
    elif params.form == "sphere":
        if params.to is not None:
            on = np.array(point_at(inputs, "to").origin)
            _require_apart(at, on)
            diameter = 2 * float(np.linalg.norm(on - at))
        else:
            diameter = _size(inputs, "diameter")
        made = sphere(at, diameter / 2, prefix=prefix)
    elif params.form == "torus":
        made = torus(at, way, _size(inputs, "diameter") / 2, _size(inputs, "tube") / 2, prefix=prefix)
    else:
        made, height = _block(params, inputs, at, way, prefix)
    if params.form in ("cylinder", "cone"):
        begins = at if params.centred or params.as_found else at + np.sign(height or 1.0) * JUST_MM * way
    elif params.form == "torus":
        begins = at + inputs.values["diameter"] / 2 * square_to(way)[0]
    else:
        begins = bounds(made.shape).mean(axis=0)
    proposes = proposed(others, begins)
    puts, gone, problems = put_on_bodies(
        made, params.operation, params.bodies, others, what="the primitive", key="height", proposes=proposes
    )
    facts = PrimitiveFacts(form=params.form, height=height, diameter=diameter, proposes=proposes)
    return Outcome(puts, facts, gone=gone, problems=problems, handles=handles)


def _ends(height: float, centred: bool) -> tuple[float, float]:
    if abs(height) < 1e-4:
        raise ContourError(
            "bad-params",
            "the height is nothing",
            where=Where(param="height"),
            got=f"{height:g} mm",
            need="at least 0.0001 mm either way",
            remedy="type a height",
        )
    return (-abs(height) / 2, abs(height) / 2) if centred else (min(0.0, height), max(0.0, height))


def _block(params: Params, inputs: Inputs, at: Array, way: Array, prefix: str) -> tuple[NamedShape, float]:
    """From a corner; between two corners its sides are the world's, or the plane's."""
    from contour.solid.primitives import block

    u = np.array([1.0, 0.0, 0.0]) if abs(way[2]) > 1 - 1e-9 else square_to(way)[0]
    frame = plane_frame(at, way, u)
    size = tuple(inputs.values[n] for n in ("width", "depth", "height"))
    between = params.to is not None
    if between:
        to = np.array(point_at(inputs, "to").origin)
        _require_apart(at, to)
        size = tuple(float((to - at) @ axis) for axis in (frame.u, frame.v, frame.normal))
    for name, mm in zip(("width", "depth"), size, strict=False):
        if abs(mm) < 1e-4 or (not between and mm < 0):
            raise ContourError(
                "bad-params",
                f"the block has no {name}",
                where=Where(param="to" if between else name),
                got=f"{mm:g} mm",
                need="at least 0.0001 mm",
                remedy="type a size, or choose a corner across all three sides",
            )
    centred = params.centred and not between
    x, y = (((-mm / 2, mm / 2) if centred else (min(0.0, mm), max(0.0, mm))) for mm in size[:2])
    return block(frame, x, y, _ends(size[2], centred), prefix=prefix), size[2]


KIND: StepKind[Params] = StepKind(
    id="primitive",
    title="Primitive",
    help="A block, cylinder, cone, sphere or torus",
    version=2,
    makes="body",
    params=Params,
    key_value="diameter",
    run=_run,
    facts=PrimitiveFacts,
    measures={"volume": "volume", "area": "area"},
    reads=_reads,
    carries=("axis", "plane", "at", "to"),
    starts=(
        Start(
            "region",
            "axis",
            ("cylinder", "hole"),
            most=1,
            also={"form": "cylinder", "as_found": True},
            title="Cylinder",
        ),
    ),
)
