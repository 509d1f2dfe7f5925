"""Hole: drilled into a body from a face, one or many at once, with the mouth of a screw's head where that is wanted."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, Literal

import numpy as np
from pydantic import Field

from contour.geometry.vectors import triple
from contour.metrology.standards.heads import head_seat
from contour.metrology.standards.threads import Thread, thread_named
from contour.present.edges import loaded
from contour.present.hole_places import HolePlaces, mouths_at, places_read
from contour.present.targets import target_at
from contour.products.body import BodyFigures, BodyProduct
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import FaceRef, SurfaceRef
from contour.recipe.registry import Handle, Inputs, Outcome, Start, StepKind
from contour.recipe.values import Angle, Length, Value

if TYPE_CHECKING:
    from contour.solid.drilled import Bore, Mouth

__all__ = ["KIND", "Params"]

_HEADS: dict[str, Any] = {"when": {"form": ["counterbored", "countersunk"]}}


class Params(HolePlaces):
    """It runs square into the face, or along the axis that it lies on. Depths count from the face."""

    size: Literal["typed", "clearance", "tapped"] = Field(
        default="typed",
        title="Width",
        description="typed, wide enough for a screw, or to be tapped",
        json_schema_extra={"titles": {"clearance": "for a screw", "tapped": "to be tapped"}},
    )
    diameter: Length = Field(
        default=Value(text="6 mm"), description="of the hole", json_schema_extra={"when": {"size": ["typed"]}}
    )
    screw: str = Field(
        default="M6",
        max_length=40,
        title="Thread",
        description="such as M6, M8x1 or 1/4-20 UNC",
        json_schema_extra={"when": {"size": ["clearance", "tapped"]}},
    )
    room: Literal["close", "medium", "wide"] = Field(
        default="medium",
        title="Room for it",
        description="clearance by ISO 273, inch sizes by their own table",
        json_schema_extra={"when": {"size": ["clearance"]}},
    )
    form: Literal["plain", "counterbored", "countersunk"] = Field(
        default="plain", title="Mouth", description="how it begins"
    )
    head_diameter: Length | None = Field(
        default=None, title="Mouth diameter", description="none: for the screw's head", json_schema_extra=_HEADS
    )
    head_depth: Length | None = Field(
        default=None,
        title="Counterbore depth",
        description="none: for the screw's head",
        json_schema_extra={"when": {"form": ["counterbored"]}},
    )
    head_angle: Angle | None = Field(
        default=None,
        title="Countersink angle",
        description="none: the screw's, or 90 deg",
        json_schema_extra={"when": {"form": ["countersunk"]}},
    )
    extent: Literal["through", "blind", "until"] = Field(
        default="through",
        title="Reaches",
        description="through the body, a depth, or until a surface",
        json_schema_extra={"titles": {"blind": "a depth", "until": "ends at"}},
    )
    depth: Length = Field(
        default=Value(text="10 mm"),
        description="of its full diameter, from the face",
        json_schema_extra={"when": {"extent": ["blind"]}},
    )
    until_region: SurfaceRef | None = Field(
        default=None,
        title="Ends at surface",
        description="its full diameter ends where its axis meets it",
        json_schema_extra={"when": {"extent": ["until"]}},
    )
    until_face: FaceRef | None = Field(
        default=None, title="Ends at face", description="or a face", json_schema_extra={"when": {"extent": ["until"]}}
    )
    bottom: Literal["point", "flat"] = Field(
        default="point",
        description="a drill's point, or flat",
        json_schema_extra={"when": {"extent": ["blind", "until"]}},
    )
    tip: Angle = Field(
        default=Value(text="118 deg", mark="intent"),
        title="Point angle",
        description="of the drill",
        json_schema_extra={"when": {"bottom": ["point"], "extent": ["blind", "until"]}},
    )


class HoleFacts(BodyFigures):
    """count: of the holes · diameter, depth (of the first; none: through), mouth: mm · thread: what it is tapped or wide enough for · drill: the one to take ·
    circle: diameter, mm · off: how far the worst member of a circle is off its place, mm."""

    of: Literal["hole"] = "hole"
    count: int
    diameter: float
    depth: float | None = None
    mouth: float
    thread: str | None = None
    drill: str | None = None
    circle: float | None = None
    off: float | None = None


def _reads(params: Params) -> frozenset[str]:
    used = places_read(params)
    if params.extent == "until":
        used |= {n for n in ("until_region", "until_face") if getattr(params, n) is not None}
    return frozenset(used)


def _thread(params: Params) -> Thread | None:
    return None if params.size == "typed" else thread_named(params.screw, param="screw")


def _diameter(params: Params, inputs: Inputs, thread: Thread | None) -> tuple[float, str | None]:
    """(mm, the drill's name where it is a stocked one)."""
    if thread is None:
        return inputs.values["diameter"], None
    if params.size == "tapped":
        drill = thread.tap_drill
        return drill.diameter, drill.name
    if not thread.clearance:
        raise ContourError(
            "bad-params",
            "no clearance hole of this screw is in the tables",
            where=Where(param="screw"),
            got=thread.designation,
            need="a common size",
            remedy="type the diameter",
        )
    k = ("close", "medium", "wide").index(params.room)
    return thread.clearance[min(k, len(thread.clearance) - 1)], None


def _bore(params: Params, inputs: Inputs, thread: Thread | None, diameter: float, depth: float | None) -> Bore:
    from contour.solid.drilled import Bore

    seat = head_seat(thread) if thread is not None else None
    values = inputs.values

    def of_head(param: str, known: float | None) -> float:
        if param in values:
            return values[param]
        if known is None:
            raise ContourError(
                "bad-params",
                "the mouth needs its size",
                where=Where(param=param),
                got="nothing" if thread is None else f"{thread.designation}, of which no head is in the tables",
                need="a size",
                remedy="type it, or choose a screw",
            )
        return known

    widened = sunk = None
    if params.form == "counterbored":
        widened = (
            of_head("head_diameter", seat.counterbore if seat else None),
            of_head("head_depth", seat.depth if seat else None),
        )
    elif params.form == "countersunk":
        angle = values.get("head_angle", seat.angle if seat else 90.0)
        _require_angle("head_angle", angle)
        sunk = (of_head("head_diameter", seat.countersink if seat else None), angle)
    tip = None
    if depth is not None and params.bottom == "point":
        tip = values["tip"]
        _require_angle("tip", tip)
    return Bore(diameter, depth, tip, widened, sunk)


def _require_angle(param: str, degrees: float) -> None:
    if not 1 <= degrees < 179.9:
        raise ContourError(
            "bad-params",
            "this angle makes no cone",
            where=Where(param=param),
            got=f"{degrees:g} deg",
            need="1 to 179 deg",
            remedy="type another angle",
        )


def _depth(params: Params, inputs: Inputs, mouth: Mouth) -> float | None:
    """Of the full diameter, mm; none: through."""
    if params.extent == "through":
        return None
    if params.extent == "blind":
        return inputs.values["depth"]
    target = target_at(inputs, "until_region", "until_face")
    depths: list[float] = []
    if target.kind == "plane":
        facing = float(mouth.way @ target.along)
        if abs(facing) > 0.02:
            depths = [float((target.at - mouth.at) @ target.along) / facing]
    else:
        way = mouth.way - float(mouth.way @ target.along) * target.along
        to = mouth.at - target.at
        to = to - float(to @ target.along) * target.along
        depths = [
            float(x.real) for x in np.roots([way @ way, 2 * to @ way, to @ to - target.radius**2]) if abs(x.imag) < 1e-9
        ]
    ahead = [d for d in depths if d > 1e-4]
    if ahead:
        return min(ahead)
    raise ContourError(
        "wrong-ending",
        "the hole never meets what it should end at",
        where=Where(param="until_region" if params.until_region is not None else "until_face", point=triple(mouth.at)),
        got="a surface beside or behind it",
        need="one across its way",
        remedy="choose another one, or type a depth",
    )


def _run(params: Params, inputs: Inputs) -> Outcome:
    from contour.solid.drilled import drilled
    from contour.solid.shape import faces, write_shape

    body = loaded(inputs, "face")
    face = faces(body.shape)[body.names.index(inputs.face("face"))]
    mouths, told = mouths_at(params, inputs, face)
    thread = _thread(params)
    diameter, drill = _diameter(params, inputs, thread)
    depths = [_depth(params, inputs, m) for m in mouths]
    first = _bore(params, inputs, thread, diameter, depths[0])
    prefix = inputs.step[:8]
    alike = all(d is None or abs(d - (depths[0] or 0.0)) < 1e-9 for d in depths)
    groups = (
        [(first, mouths)]
        if alike
        else [(_bore(params, inputs, thread, diameter, d), [m]) for m, d in zip(mouths, depths, strict=True)]
    )
    for bore, those in groups:
        body = drilled(body, bore, those, prefix=prefix)
    handles = []
    if params.extent == "blind":
        handles.append(Handle("depth", triple(mouths[0].at), triple(mouths[0].way)))
    facts = HoleFacts(
        count=len(mouths),
        diameter=diameter,
        depth=depths[0],
        mouth=first.mouth,
        thread=thread.designation if thread else None,
        drill=drill,
        **told,
    )
    return Outcome({params.face.body: BodyProduct(write_shape(body.shape), body.names)}, facts, handles=tuple(handles))


KIND: StepKind[Params] = StepKind(
    id="hole",
    title="Hole",
    help="Holes drilled into a body from one of its faces",
    version=1,
    makes="body",
    params=Params,
    key_value="diameter",
    run=_run,
    facts=HoleFacts,
    measures={"volume": "volume", "area": "area", "diameter": "length", "depth": "length", "circle": "length"},
    reads=_reads,
    carries=("points", "axes", "between", "around"),
    starts=(Start("face", "face", most=1), Start("region", "axes", ("hole",), also={"by": "axes"})),
)
