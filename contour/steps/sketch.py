"""Sketch: a drawing on a plane, with constraints and sizes; its closed regions are what features are made of."""

from __future__ import annotations

import math
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import ConfigDict, Field

from contour.geometry.frames import PlaneFrame, plane_frame
from contour.geometry.rigid import inverse, moved, turned
from contour.geometry.vectors import triple
from contour.outline.lines import LineSource
from contour.outline.radial import radial_frame
from contour.outline.reach import Reach
from contour.present.links import link_places, linked_pieces
from contour.present.places import axis_at, plane_at, section_frame
from contour.products.region import RegionProduct
from contour.products.sketch import SketchFigures, sketch_facts
from contour.recipe.problem import ContourError, Problem, Where
from contour.recipe.reference import AxisRef, PlaneRef, ScanRef
from contour.recipe.registry import OWN, Inputs, Outcome, StepKind
from contour.recipe.values import Angle, Length, Value
from contour.sketch.drawn.kept import KeptDrawing, drawing_of
from contour.sketch.drawn.linked import own_numbers, refreshed
from contour.sketch.drawn.profiles import Profiles, profiles_of
from contour.sketch.drawn.solution import Solution, solved
from contour.sketch.drawn.text import Drawing
from contour.sketch.entities import LoopName
from contour.sketch.regions import sketch_of
from contour.sketch.taken_now import TakenNow, taken_now

__all__ = ["KIND", "Params"]

Point3 = tuple[float, float, float]


_ON_PLANE: dict[str, Any] = {"when": {"source": ["section", "silhouette"]}}


class Params(KeptDrawing):
    """On a plane region, construction plane or planar face, or on the world's xy plane where there is none; of a turned profile beside its axis."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    source: LineSource = Field(
        title="Taken from",
        default="section",
        description="what is taken over of the scan: a plane's section, the mean half-section about an axis, or the shadow along the plane's normal",
    )
    plane: PlaneRef | None = Field(
        default=None, description="the plane it lies on; none: the xy plane", json_schema_extra=_ON_PLANE
    )
    axis: AxisRef | None = Field(
        default=None, description="the axis it is turned about", json_schema_extra={"when": {"source": ["radial"]}}
    )
    offset: Annotated[Length, Field(description="from the plane along its normal", json_schema_extra=_ON_PLANE)] = (
        Value(text="0 mm")
    )
    turn: Annotated[Angle, Field(description="of its axes about the plane's normal", json_schema_extra=_ON_PLANE)] = (
        Value(text="0 deg")
    )
    scan: ScanRef | None = Field(default=None, description="what was taken over of it follows it")
    tolerance: Length | None = Field(
        default=None, description="how far the scan may stray from a piece that was taken over"
    )
    pose: tuple[tuple[float, float, float, float], ...] | None = Field(
        default=None, min_length=4, max_length=4, description="where the raw scan lay when it was begun (4x4)"
    )
    origin: Point3 | None = Field(
        default=None, description="where its axes cross, dropped onto the plane; none: the plane's own zero"
    )
    u_axis: Point3 | None = Field(
        default=None,
        description="the way its first axis goes, of a turned profile the way out; none: along the world's",
    )


class DrawnFacts(SketchFigures):
    """solved: everything that is asked holds · dof: motions left, of the whole too · unsettled: entities that can still move · gaps, loose: places
    that nearly close, pieces that bound nothing · origin, u_axis, normal: of its plane, mm · before_turn: its first axis
    before it is turned · linked: own numbers of what was brought in,
    as it is now: a point's place, a radius, a half axis, mm. Of what was taken over, where anything was · rms: the worst piece's, mm · tolerance: mm ·
    runout: the largest over the half-sections, mm, full span · seen: the smallest share of them that has a piece · reach: how far the
    part goes on over it, mm · assumed: mm of it under which the scan has nothing."""

    of: Literal["drawn"] = "drawn"
    solved: bool
    dof: int
    unsettled: int
    gaps: int
    loose: int
    origin: Point3
    u_axis: Point3
    normal: Point3
    before_turn: Point3
    linked: dict[str, tuple[float, ...]] = {}
    rms: float | None = None
    tolerance: float | None = None
    runout: float | None = None
    seen: float | None = None
    reach: Reach | None = None
    assumed: float | None = None


def _reads(params: Params) -> frozenset[str]:
    follows = params.pose is not None or any(p.taken for loop in params.taken for p in loop.pieces)
    own = "axis" if params.source == "radial" else "plane"
    return frozenset({own, "scan"} if follows else {own}) | link_places(params.links)


def _level_frame(params: Params, inputs: Inputs) -> PlaneFrame:
    v = inputs.values
    since = np.eye(4)
    if params.pose and "scan" in inputs.products:
        since = np.asarray(inputs.products["scan"].scan.pose) @ inverse(np.array(params.pose))
    if params.source == "radial":
        axis = axis_at(inputs, "axis")
        # The zero along the axis stays where it was when the profile was taken.
        origin = moved(since, np.array(params.origin)) if params.origin else axis.at
        zero = axis.at + float((origin - axis.at) @ axis.along) * axis.along
        return radial_frame(zero, axis.along, turned(since, np.array(params.u_axis or (0.0, 0.0, 0.0))))
    if "plane" not in inputs.products:
        return plane_frame(np.array([0, 0, v["offset"]]), np.array([0, 0, 1.0]), np.array([1.0, 0, 0]))
    plane = plane_at(inputs, "plane")
    normal = plane.along
    along = turned(since, np.array(params.u_axis)) if params.u_axis else np.eye(3)[int(np.argmin(np.abs(normal)))]
    product = inputs.products["plane"]
    # A region keeps the zero it was fitted with: what is drawn on it must not wander when it is fitted anew.
    own = np.array(product.surface.origin) if isinstance(product, RegionProduct) else plane.at
    zero = moved(since, np.array(params.origin)) if params.origin else own
    return section_frame(plane, v["offset"], zero, along - (along @ normal) * normal)


def _turned(frame: PlaneFrame, degrees: float) -> PlaneFrame:
    a = math.radians(degrees)
    return plane_frame(frame.origin, frame.normal, math.cos(a) * frame.u + math.sin(a) * frame.v)


def _run(params: Params, inputs: Inputs) -> Outcome:
    level = _level_frame(params, inputs)
    frame = level if params.source == "radial" else _turned(level, inputs.values["turn"])
    places = {s.name: f"{'angles' if s.kind == 'angle' else 'lengths'}[{s.name}]" for s in params.sizes}
    values = {name: inputs.values[place] for name, place in places.items() if place in inputs.values}
    pieces = linked_pieces(params.links, inputs, frame)
    drawing, lost = refreshed(drawing_of(params, values), list(zip(params.links, pieces, strict=True)), frame)
    try:
        taken = _taken(params, inputs, frame, drawing)
        found = solved(taken.drawing if taken else drawing)
        profiles = profiles_of(found.drawing)
    except ContourError as error:
        raise _said(error, params) from None
    given = tuple(LoopName(n.name, n.of) for n in params.named)
    refused = None if found.solved else _refusal(params, found)
    sketch = sketch_of(found.drawing, profiles, frame, given=given, refused=refused)
    told, problems = sketch_facts(sketch)
    facts = DrawnFacts(
        **told,
        solved=found.solved,
        dof=found.dof,
        unsettled=sum(count > 0 for count in found.free.values()),
        gaps=len(profiles.gaps),
        loose=len(profiles.loose),
        origin=triple(frame.origin),
        u_axis=triple(frame.u),
        normal=triple(frame.normal),
        before_turn=triple(level.u),
        linked={name: own_numbers(e) for name, e in found.drawing.entities.items() if e.linked},
        **{name: getattr(taken, name) for name in _OF_TAKEN if taken},
    )
    told_of = tuple(q for p in problems if (q := _placed(p, profiles, frame)) is not None)
    return Outcome({OWN: sketch}, facts, (*lost, *told_of))


_OF_TAKEN = ("rms", "tolerance", "runout", "seen", "reach", "assumed")


def _taken(params: Params, inputs: Inputs, frame: PlaneFrame, drawing: Drawing) -> TakenNow | None:
    """Raises ContourError (outline-changed, no-section)."""
    if "scan" not in inputs.products:
        return None
    scan, tolerance = inputs.products["scan"].scan, inputs.values.get("tolerance")
    return taken_now(drawing, params.taken, scan, frame, source=params.source, tolerance_mm=tolerance)


def _called(name: str, params: Params) -> str:
    """A demand by what people call it: a size by its name, a constraint by its kind and entities."""
    kind, _, number = name.partition(":")
    if kind == "d":
        return params.sizes[int(number)].name
    c = params.constraints[int(number)]
    return f"{c.kind} ({', '.join(c.of)})"


def _said(error: ContourError, params: Params) -> ContourError:
    where = error.problem.where.entity or ""
    if where[:2] in ("d:", "c:"):
        return error.at(entity=_called(where, params))
    return error


def _refusal(params: Params, found: Solution) -> Problem:
    first = [_called(n, params) for n in found.conflicts[0]] if found.conflicts else []
    return Problem(
        code="no-solution",
        message="what is asked of the drawing does not hold together" if first else "the drawing could not be solved",
        where=Where(entity=first[-1] if first else None),
        got=" against ".join(first)[:300] if first else f"an error of {found.residual:.3g} mm left",
        need="constraints and sizes that hold at once",
        remedy="make one of them a reference size, or take it away" if first else "draw it nearer to what is asked",
    )


def _placed(problem: Problem, profiles: Profiles, frame: PlaneFrame) -> Problem | None:
    """Where nothing closes, the smallest gap says why; without one it is not meant to, or not yet."""
    if problem.code != "no-profile":
        return problem
    if not profiles.gaps:
        return None
    gap = profiles.gaps[0]
    at = triple(frame.to_space(np.array([gap.at]))[0])
    return problem.model_copy(
        update={
            "code": "open-end",
            "message": f"nothing in the drawing closes: {gap.between[0]} and {gap.between[1]} nearly meet",
            "where": Where(entity=gap.between[0], point=at),
            "got": f"a gap of {gap.width:.3f} mm",
            "need": "ends that meet",
            "remedy": "close the gap: its sheet offers the constraint",
        }
    )


KIND: StepKind[Params] = StepKind(
    id="sketch",
    title="Sketch",
    help="Drawn on a plane, with constraints and sizes",
    version=4,
    makes="sketch",
    params=Params,
    key_value="offset",
    run=_run,
    facts=DrawnFacts,
    reads=_reads,
    measures={"runout": "length", "area": "area"},
)
