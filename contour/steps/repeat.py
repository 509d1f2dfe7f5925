"""Repeat: a body, or steps that add to one or take from it, in rows, about an axis, along a path or mirrored; members can be left out."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field

from contour.construct.repeats import around, counted, in_rows, places_left_out
from contour.geometry.rigid import reflection
from contour.geometry.vectors import triple
from contour.present.carried import done_again
from contour.present.operation import Operation, bodies_of, target_places
from contour.present.places import axis_at, plane_at
from contour.products.body import BodyFigures, BodyProduct
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import AxisRef, BodyRef, FeatureRef, PlaneRef, SketchRef
from contour.recipe.registry import OWN, Handle, Inputs, Outcome, Start, StepKind
from contour.recipe.values import Angle, Length, Number, Value

if TYPE_CHECKING:
    from contour.solid.shape import NamedShape

__all__ = ["KIND", "Params"]

Array = NDArray[np.float64]
_MOST = 500


def _when(*by: str, **more: list[Any]) -> dict[str, Any]:
    return {"when": {"by": list(by), **more}}


_BESIDE = {**_when("rows"), "fold": "Rows beside each other"}


class Params(BaseModel):
    """The first member is the thing itself. Steps are done again at each place, with what they end at and go through as it is there."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    what: Literal["body", "steps"] = Field(
        default="body",
        title="Repeats",
        description="a body, or steps",
        json_schema_extra={"titles": {"body": "a body"}},
    )
    body: BodyRef | None = Field(
        default=None, description="what is repeated", json_schema_extra={"when": {"what": ["body"]}}
    )
    steps: list[FeatureRef] = Field(
        default_factory=list,
        max_length=50,
        title="Steps",
        description="that add to a body or take from it, in their order",
        json_schema_extra={"when": {"what": ["steps"]}},
    )
    by: Literal["rows", "circle", "path", "mirror"] = Field(
        default="rows",
        title="How",
        description="in rows, about an axis, along a path, or mirrored",
        json_schema_extra={
            "titles": {"rows": "in rows", "circle": "about an axis", "path": "along a path", "mirror": "mirrored"}
        },
    )
    along: AxisRef | None = Field(
        default=None, title="Along", description="an edge, a line or an axis", json_schema_extra=_when("rows")
    )
    pitch: Length = Field(
        default=Value(text="20 mm"),
        description="from one to the next; negative goes the other way",
        json_schema_extra=_when("rows"),
    )
    count: Number = Field(
        default=Value(text="3"),
        description="members, with the first",
        json_schema_extra=_when("rows", "circle", "path"),
    )
    across: AxisRef | None = Field(
        default=None, title="Also along", description="for rows beside each other", json_schema_extra=_BESIDE
    )
    pitch_across: Length = Field(default=Value(text="20 mm"), title="Pitch there", json_schema_extra=_BESIDE)
    count_across: Number = Field(
        default=Value(text="1", mark="intent"), title="Rows", description="beside each other", json_schema_extra=_BESIDE
    )
    axis: AxisRef | None = Field(
        default=None, title="About", description="an axis, or something round", json_schema_extra=_when("circle")
    )
    spread: Literal["even", "angle"] = Field(
        default="even",
        title="Spread",
        description="evenly all round, or so many degrees apart",
        json_schema_extra={"titles": {"even": "all round", "angle": "by an angle"}, **_when("circle")},
    )
    angle: Angle = Field(
        default=Value(text="30 deg"),
        title="Angle between",
        description="by the right hand about the axis",
        json_schema_extra=_when("circle", spread=["angle"]),
    )
    path: SketchRef | None = Field(
        default=None, title="Along sketch", description="its pieces, end to end", json_schema_extra=_when("path")
    )
    gap: Length | None = Field(
        default=None,
        title="Pitch along it",
        description="none: evenly from end to end",
        json_schema_extra=_when("path"),
    )
    turning: bool = Field(default=True, description="members turn as the path turns", json_schema_extra=_when("path"))
    plane: PlaneRef | None = Field(
        default=None, title="Mirror plane", description="a plane or flat face", json_schema_extra=_when("mirror")
    )
    skip: str = Field(
        default="",
        max_length=400,
        title="Left out",
        description="numbers of members that are not wanted, such as 2, 5",
        json_schema_extra=_when("rows", "circle", "path"),
    )
    operation: Operation = Field(default="new", json_schema_extra={"when": {"what": ["body"]}})
    bodies: list[BodyRef] = Field(
        default_factory=list, max_length=50, title="Bodies", description="that it is added to, taken from, or done to"
    )
    keep: bool = Field(
        default=False,
        title="Keep it",
        description="the repeated body stays, where it goes into others",
        json_schema_extra={"when": {"what": ["body"], "operation": ["add", "subtract", "intersect"]}},
    )


class RepeatFacts(BodyFigures):
    """members: that there are, with the first · left_out: of them · pitch: from one to the next, mm · angle: the same about an axis, degrees."""

    of: Literal["repeat"] = "repeat"
    members: int
    left_out: int
    pitch: float | None = None
    angle: float | None = None


_USED = {"rows": ("along", "across"), "circle": ("axis",), "path": ("path",), "mirror": ("plane",)}


def _reads(params: Params) -> frozenset[str]:
    used = {n for n in _USED[params.by] if n != "across" or params.across is not None}
    if params.what == "steps":
        used |= {f"steps[{i}]" for i in range(len(params.steps))} | target_places(params.bodies)
    else:
        used |= {"body"} | (target_places(params.bodies) if params.operation != "new" else set())
    return frozenset(used)


def _placements(params: Params, inputs: Inputs, near: Array) -> tuple[list[Array], dict[str, float]]:
    """(of every member, (4, 4); how far apart, as facts tell it)."""
    values = inputs.values
    if params.by == "rows":
        along = axis_at(inputs, "along").along
        across = axis_at(inputs, "across").along if params.across is not None else None
        rows = counted(values["count_across"], param="count_across", most=_MOST) if across is not None else 1
        count = counted(values["count"], param="count", most=_MOST)
        for name, n in (("pitch", count), ("pitch_across", rows)):
            if n > 1 and abs(values[name]) < 1e-6:
                raise _stays(name)
        made = in_rows(along, values["pitch"], count, across, values["pitch_across"], rows)
        return made, {"pitch": abs(values["pitch"])}
    if params.by == "circle":
        axis, count = axis_at(inputs, "axis"), counted(values["count"], param="count", most=_MOST)
        step = 360 / count if params.spread == "even" else values["angle"]
        if count > 1 and abs(step) < 1e-6:
            raise _stays("angle")
        return around(axis.at, axis.along, step, count), {"angle": abs(step)}
    if params.by == "mirror":
        plane = plane_at(inputs, "plane")
        return [np.eye(4), reflection(plane.at, plane.along)], {}
    from contour.solid.path import path_from, pieces_of
    from contour.solid.repeated import along_path

    sketch = inputs.products["path"]
    if sketch.refused is not None:
        raise ContourError.of(sketch.refused).at(param="path")
    path = path_from(pieces_of(sketch.entities, sketch.frame), near, param="path")
    gap = values.get("gap")
    return along_path(
        path, counted(values["count"], param="count", most=_MOST), gap, turning=params.turning
    ), {} if gap is None else {"pitch": gap}


def _stays(param: str) -> ContourError:
    return ContourError(
        "bad-params",
        "all members would be in one place",
        where=Where(param=param),
        got="0",
        need="some way from one to the next",
        remedy="type a pitch",
    )


def _places(params: Params, inputs: Inputs, near: Array) -> tuple[list[tuple[int, Array]], int, dict[str, float]]:
    """(numbers and placements of the copies, how many are left out, how far apart)."""
    placements, told = _placements(params, inputs, near)
    skip = "" if params.by == "mirror" else params.skip
    skipped = places_left_out(skip, len(placements), what="the pattern", first=2)
    copies = [(k, m) for k, m in enumerate(placements) if k and k not in skipped]
    if not copies:
        raise ContourError(
            "unchanged",
            "nothing is repeated",
            where=Where(param="skip" if skipped else "count"),
            got="only the first member",
            need="two members or more",
            remedy="type a larger count",
        )
    return copies, len(skipped), told


def _handles(params: Params, inputs: Inputs, middle: Array) -> tuple[Handle, ...]:
    if params.by == "rows":
        return (Handle("pitch", triple(middle), triple(axis_at(inputs, "along").along)),)
    return ()


def _loaded(product: BodyProduct) -> NamedShape:
    from contour.solid.shape import NamedShape, read_shape

    return NamedShape(read_shape(product.brep), product.names)


def _kept(shape: NamedShape) -> BodyProduct:
    from contour.solid.shape import write_shape

    return BodyProduct(write_shape(shape.shape), shape.names)


def _of_steps(params: Params, inputs: Inputs, prefix: str) -> Outcome:
    from contour.solid.extent import bounds

    bodies = {b.id: inputs.products[f"bodies[{i}]"] for i, b in enumerate(params.bodies)}
    for name, given in (("steps", params.steps), ("bodies", params.bodies)):
        if not given:
            raise ContourError(
                "bad-params",
                f"no {name} are chosen",
                where=Where(param=name),
                got="nothing",
                need="at least one",
                remedy="choose what is repeated, and the bodies it is done to",
            )
    near = bounds(_loaded(next(iter(bodies.values()))).shape).mean(axis=0)
    copies, left_out, told = _places(params, inputs, near)
    changed: dict[str, BodyProduct] = {}
    for number, matrix in copies:
        for i in range(len(params.steps)):
            try:
                feature = inputs.products[f"steps[{i}]"]
                made = done_again(feature, matrix, bodies | changed, names=f"{prefix}.copy{number + 1}")
            except ContourError as error:
                problem = error.problem
                where = problem.where.model_copy(update={"param": f"steps[{i}]"})
                message = f"member {number + 1}: {problem.message}"
                raise ContourError.of(problem.model_copy(update={"where": where, "message": message})) from None
            if left := set(made) - set(bodies):
                raise ContourError(
                    "bad-params",
                    "a step works on a body that is not chosen",
                    where=Where(param="bodies"),
                    got=f"{len(left)} more",
                    need="all bodies that the steps work on",
                    remedy="choose it as well",
                )
            changed |= made
    facts = RepeatFacts(members=len(copies) + 1, left_out=left_out, **told)
    return Outcome(changed, facts, handles=_handles(params, inputs, near))


def _copies(params: Params, inputs: Inputs, body: NamedShape, prefix: str) -> tuple[list[NamedShape], RepeatFacts]:
    from contour.solid.extent import bounds
    from contour.solid.repeated import copied

    copies, left_out, told = _places(params, inputs, bounds(body.shape).mean(axis=0))
    made = [copied(body, m, name=f"{prefix}.copy{k + 1}") for k, m in copies]
    return made, RepeatFacts(members=len(made) + 1, left_out=left_out, **told)


def _of_body(params: Params, inputs: Inputs, prefix: str) -> Outcome:
    from contour.solid.extent import bounds
    from contour.solid.repeated import apart, joined, put_on

    assert params.body is not None
    own = params.body.id
    body = _loaded(inputs.products["body"])
    copies, facts = _copies(params, inputs, body, prefix)
    handles = _handles(params, inputs, bounds(body.shape).mean(axis=0))
    if params.operation == "new":
        return Outcome({OWN: _kept(joined(copies))}, facts, handles=handles)
    others = bodies_of(inputs, params.bodies)
    ids = [b.id for b in params.bodies]
    if not others:
        raise ContourError(
            "no-body",
            f"there is no body to {params.operation} to",
            where=Where(param="bodies"),
            got="0 bodies",
            need="at least one body",
            remedy="choose a body, or make a new one",
        )
    # The first member counts where it is not itself what the others go into.
    tools: Sequence[NamedShape] = copies if own in ids else [body, *copies]
    puts: dict[str, BodyProduct] = {}
    gone: list[str] = [] if params.keep or own in ids else [own]
    if params.operation == "add":
        first, *rest = others
        for more in rest:
            first = put_on(first, [more], "add")
        try:
            puts[ids[0]] = _kept(put_on(first, tools, "add"))
        except ContourError as error:
            # Copies that stand apart from each other are no one body with it.
            raise (
                error.offering("Make a new body of them", operation="new") if apart([first, *tools]) else error
            ) from None
        gone += ids[1:]
    else:
        for id, other in zip(ids, others, strict=True):
            puts[id] = _kept(put_on(other, tools, params.operation))
    return Outcome(puts, facts, gone=tuple(dict.fromkeys(gone)), handles=handles)


def _run(params: Params, inputs: Inputs) -> Outcome:
    prefix = inputs.step[:8]
    if params.what == "steps":
        return _of_steps(params, inputs, prefix)
    if params.body is None:
        raise ContourError(
            "bad-params",
            "no body is chosen",
            where=Where(param="body"),
            got="nothing",
            need="a body",
            remedy="choose the body that is repeated",
        )
    return _of_body(params, inputs, prefix)


KIND: StepKind[Params] = StepKind(
    id="repeat",
    title="Repeat",
    help="A body, or steps, again: in rows, about an axis, along a path, or mirrored",
    version=1,
    makes="body",
    params=Params,
    key_value="count",
    run=_run,
    facts=RepeatFacts,
    measures={"volume": "volume", "area": "area"},
    reads=_reads,
    starts=(Start("body", "body", most=1), Start("feature", "steps", also={"what": "steps"})),
)
