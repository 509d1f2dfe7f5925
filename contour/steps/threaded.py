"""Thread on a face: cut into the round face of a shaft or a hole, or built onto it, by a standard or by its sizes; real or only noted."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from contour.geometry.vectors import triple
from contour.metrology.standards.threads import Thread, thread_named, threads
from contour.present.edges import loaded
from contour.products.body import BodyFigures, BodyProduct
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import FaceRef
from contour.recipe.registry import Handle, Inputs, Outcome, Start, StepKind
from contour.recipe.values import Length, Number, Value

if TYPE_CHECKING:
    from contour.solid.threaded import Fade, Ridge, Stretch

__all__ = ["KIND", "Params"]

_NOTHING = Value(text="0 mm", mark="intent")


def _real(**more: list[Any]) -> dict[str, Any]:
    return {"when": {"made": ["real"], **more}}


class Params(BaseModel):
    """It begins at the end of the face that lies free; at the other one where it is turned round. Both flanks lean by 30 degrees."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    face: FaceRef = Field(title="On face", description="the whole round face of a shaft or a hole")
    size: Literal["standard", "typed"] = Field(default="standard", description="by its designation, or by its sizes")
    thread: str = Field(
        default="",
        max_length=40,
        title="Designation",
        description="such as M8x1 or 1/4-20 UNC; empty: the nearest",
        json_schema_extra={"when": {"size": ["standard"]}},
    )
    major: Length = Field(
        default=Value(text="8 mm"),
        title="Major diameter",
        description="over a bolt's crests, in a nut's roots",
        json_schema_extra={"when": {"size": ["typed"]}},
    )
    pitch: Length = Field(
        default=Value(text="1.25 mm"),
        description="from crest to crest",
        json_schema_extra={"when": {"size": ["typed"]}},
    )
    made: Literal["real", "noted"] = Field(
        default="real",
        title="Made as",
        description="real flanks, or only noted on the face",
        json_schema_extra={"titles": {"real": "real flanks", "noted": "only noted"}},
    )
    how: Literal["cut", "built"] = Field(
        default="cut",
        title="It is",
        description="cut into the face, or built onto it",
        json_schema_extra={"titles": {"cut": "cut into it", "built": "built onto it"}, **_real()},
    )
    length: Length | None = Field(
        default=None, description="from where it begins; none: the whole face", json_schema_extra=_real()
    )
    flip: bool = Field(
        default=False, title="From the other end", description="it begins at the other end", json_schema_extra=_real()
    )
    hand: Literal["right", "left"] = Field(default="right", description="right: going away it turns clockwise")
    starts: Number = Field(
        default=Value(text="1", mark="intent"),
        description="threads beside each other",
        json_schema_extra={"fold": "More"},
    )
    play: Length = Field(
        default=_NOTHING,
        description="by which all its radii stay clear of the mating thread",
        json_schema_extra={"fold": "More"},
    )
    lead_in: bool = Field(
        default=True,
        title="Lead-in",
        description="a lead-in where it begins: it rises from a circle that the mating thread passes",
        json_schema_extra=_real(),
    )
    fade: Length | None = Field(
        default=None,
        title="Fades over",
        description="how long lead-in and run-out are; none: one pitch",
        json_schema_extra={"fold": "More"},
    )


class ThreadedFacts(BodyFigures):
    """designation: of a standard one · major, minor, pitch, length: mm · turns · inside: in a hole · real: it has flanks."""

    of: Literal["threaded"] = "threaded"
    designation: str | None = None
    major: float
    minor: float
    pitch: float
    length: float
    turns: float
    inside: bool
    real: bool


def _nearest(diameter: float, *, inside: bool) -> Thread:
    """The coarse metric thread whose crests come nearest to a face of this diameter, mm."""
    coarse = [t for t in threads() if t.series == "ISO coarse"]
    return min(coarse, key=lambda t: abs((t.minor if inside else t.major) - diameter))


def _ridge(params: Params, inputs: Inputs, diameter: float, *, inside: bool) -> tuple[Ridge, str | None]:
    from contour.solid.threaded import DEPTH, Ridge

    if params.size == "standard":
        known = (
            thread_named(params.thread, param="thread") if params.thread.strip() else _nearest(diameter, inside=inside)
        )
        major, pitch, name = known.major, known.pitch, known.designation
    else:
        major, pitch, name = inputs.values["major"], inputs.values["pitch"], None
    starts = inputs.values["starts"]
    for param, wrong, need in (
        ("pitch", pitch < 0.05 or DEPTH * pitch > 0.45 * major, "0.05 mm or more, and well below the diameter"),
        ("starts", abs(starts - round(starts)) > 1e-9 or not 1 <= round(starts) <= 12, "a whole number up to 12"),
    ):
        if wrong:
            raise ContourError(
                "bad-params",
                "such a thread cannot be",
                where=Where(param=param),
                got=f"{inputs.values[param] if param in inputs.values else pitch:g}",
                need=need,
                remedy="type another value",
            )
    # Out of the way of the mating thread: inwards on a bolt, outwards in a nut.
    clear = inputs.values["play"] * (1 if inside else -1)
    outer = major / 2 + clear
    return Ridge(outer, outer - DEPTH * pitch, pitch, round(starts), params.hand == "left"), name


def _reach(params: Params, inputs: Inputs, on: Stretch) -> tuple[float, float, bool]:
    """(from where to where along the axis, whether it begins at the upper end)."""
    # At the free end; of two free ones at the upper.
    upper = (on.free[1] or not on.free[0]) != params.flip
    length = inputs.values.get("length", on.high - on.low)
    if not 0 < length <= on.high - on.low + 1e-6:
        raise ContourError(
            "bad-params",
            "the thread is longer than its face",
            where=Where(param="length"),
            got=f"{length:g} mm",
            need=f"up to {on.high - on.low:.3f} mm",
            remedy="type a shorter length",
        )
    length = min(length, on.high - on.low)
    return (on.high - length, on.high, True) if upper else (on.low, on.low + length, False)


def _fades(params: Params, on: Stretch, low: float, high: float, *, upper: bool) -> tuple[Fade, Fade]:
    """How it begins and ends: out in the face, unless it reaches a free flat end; there with a lead-in or as it is cut off."""
    out: list[Fade] = []
    for reaches, free, begins in (
        (abs(low - on.low) < 1e-6, on.free[0], not upper),
        (abs(high - on.high) < 1e-6, on.free[1], upper),
    ):
        if not (reaches and free):
            out.append("out")
        else:
            out.append("in" if params.lead_in and begins else "none")
    return out[0], out[1]


def _run(params: Params, inputs: Inputs) -> Outcome:
    from contour.solid.shape import write_shape
    from contour.solid.threaded import stretch_of, threaded

    body = loaded(inputs, "face")
    on = stretch_of(body, inputs.face("face"))
    ridge, name = _ridge(params, inputs, 2 * on.radius, inside=on.inside)
    low, high, upper = _reach(params, inputs, on)
    made = body
    if params.made == "real":
        made = threaded(
            body,
            on,
            ridge,
            low=low,
            high=high,
            fades=_fades(params, on, low, high, upper=upper),
            fade_mm=inputs.values.get("fade", ridge.pitch),
            built=params.how == "built",
            prefix=inputs.step[:8],
        )
    facts = ThreadedFacts(
        designation=name,
        major=2 * ridge.outer,
        minor=2 * ridge.inner,
        pitch=ridge.pitch,
        length=high - low,
        turns=(high - low) / ridge.lead,
        inside=on.inside,
        real=params.made == "real",
    )
    begin = on.at + (high if upper else low) * on.axis
    grip = Handle("length", triple(begin), triple(-on.axis if upper else on.axis))
    handles = (grip,) if params.length is not None else ()
    return Outcome({params.face.body: BodyProduct(write_shape(made.shape), made.names)}, facts, handles=handles)


KIND: StepKind[Params] = StepKind(
    id="threaded",
    title="Thread on a face",
    help="A thread cut into the round face of a shaft or a hole, or built onto it",
    version=2,
    makes="body",
    params=Params,
    key_value="thread",
    run=_run,
    facts=ThreadedFacts,
    measures={"volume": "volume", "area": "area", "major": "length", "minor": "length", "pitch": "length"},
    starts=(Start("face", "face", ("cylinder",), most=1),),
)
