"""Outline: a section's lines, arcs and free pieces taken as a sketch with permanent ids.

Taking fixes the structure. Rebuilding cuts the scan again, gives every piece its points by nearness to where the
piece was, and fits values only; when the scan no longer supports the structure, that is a located problem.
"""

from __future__ import annotations

import math
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field, field_validator

from contour.geometry.frames import PlaneFrame
from contour.geometry.rigid import inverse, moved, turned
from contour.mesh.prepare import PreparedScan
from contour.mesh.slice import slice_scan
from contour.outline.radial import radial_frame, radial_profile, runout_of
from contour.outline.reach import Reach, outline_reach, shared_reach
from contour.outline.section import outline_tolerance
from contour.outline.silhouette import silhouette
from contour.present.places import axis_at, plane_at, section_frame
from contour.products.scan import ScanProduct
from contour.products.sketch import SketchFigures, sketch_facts
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import AxisRef, PlaneRef, ScanRef
from contour.recipe.registry import OWN, Inputs, Outcome, StepKind
from contour.recipe.values import Length, Value
from contour.sketch.entities import Entity, LoopName, Sketch, loop_names
from contour.sketch.refit import refit_loops
from contour.sketch.taken import TakenLoop, sketched

__all__ = ["KIND", "Params"]

Array = NDArray[np.float64]
Point3 = tuple[float, float, float]


class Params(BaseModel):
    """The plane is a region's or a construction plane, moved along its normal; origin and u_axis keep the sketch's own axes in place (for a
    radial profile u_axis is the way out from the axis)."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    scan: ScanRef
    source: Literal["section", "radial", "silhouette"] = Field(
        title="Taken from",
        default="section",
        description="a plane's section, the mean half-section about an axis, or the shadow along a plane's normal",
    )
    plane: PlaneRef | None = Field(
        default=None, description="the plane", json_schema_extra={"when": {"source": ["section", "silhouette"]}}
    )
    axis: AxisRef | None = Field(
        default=None, description="the axis it is turned about", json_schema_extra={"when": {"source": ["radial"]}}
    )
    offset: Length = Field(
        default=Value(text="0 mm", mark="intent"),
        json_schema_extra={"when": {"source": ["section", "silhouette"]}},
        description="from the plane along its normal; negative goes into the material",
    )
    tolerance: Length | None = Field(default=None, description="how far the scan may stray from a piece")
    origin: Point3
    u_axis: Point3
    pose: tuple[tuple[float, float, float, float], ...] | None = Field(
        default=None, min_length=4, max_length=4, description="where the raw scan lay when the section was taken (4x4)"
    )
    loops: list[TakenLoop] = Field(min_length=1, max_length=500)

    @field_validator("loops")
    @classmethod
    def _each_has_a_name(cls, loops: list[TakenLoop]) -> list[TakenLoop]:
        names = loop_names([(loop.name, [p.id for p in sketched(loop)]) for loop in loops])
        return [loop.model_copy(update={"name": name}) for loop, name in zip(loops, names, strict=True)]


def _reads(params: Params) -> frozenset[str]:
    return frozenset({"scan", "axis" if params.source == "radial" else "plane"})


class OutlineFacts(SketchFigures):
    """rms: the worst piece's, mm · tolerance: mm · runout: the largest over the half-sections, mm, full span · seen: the smallest share
    of them that has a piece · reach: how far the part goes on over it, mm · assumed: mm of it under which the scan has nothing."""

    of: Literal["outline"] = "outline"
    rms: float
    tolerance: float
    runout: float | None = None
    seen: float | None = None
    reach: Reach | None = None
    assumed: float | None = None


def _cut(
    params: Params, inputs: Inputs, scan: PreparedScan
) -> tuple[PlaneFrame, list[tuple[Array, bool]], dict[str, Any]]:
    """The sketch's axes, the polylines on them, and what was measured on the way."""
    since = np.asarray(scan.pose) @ inverse(np.array(params.pose) if params.pose else np.eye(4))
    along = turned(since, np.array(params.u_axis))
    if params.source == "radial":
        axis = axis_at(inputs, "axis")
        # The zero along the axis stays where it was when the profile was taken.
        origin = moved(since, np.array(params.origin))
        zero = axis.at + float((origin - axis.at) @ axis.along) * axis.along
        frame = radial_frame(zero, axis.along, along)
        found = radial_profile(scan, frame)
        facts = {"runout": runout_of(found), "seen": min(line.seen for line in found)}
        return frame, [(line.points, line.closed) for line in found], facts
    frame = section_frame(
        plane_at(inputs, "plane"), inputs.values["offset"], moved(since, np.array(params.origin)), along
    )
    if params.source == "silhouette":
        return frame, silhouette(scan, frame), {}
    lines = [(frame.to_plane(c.points), c.closed) for c in slice_scan(scan, frame.origin, frame.normal)]
    if not lines:
        raise ContourError(
            "no-section",
            "the plane does not cut the scan",
            where=Where(param="offset"),
            got=f"{inputs.values['offset']:.3f} mm",
            need="an offset inside the part",
            remedy="choose an offset that lies inside the part",
        )
    return frame, lines, {}


def _run(params: Params, inputs: Inputs) -> Outcome:
    product: ScanProduct = inputs.products["scan"]
    scan = product.scan
    frame, lines, facts = _cut(params, inputs, scan)
    tolerance = inputs.values.get("tolerance") or outline_tolerance(scan)
    entities: list[Entity] = []
    worst = 0.0
    outlines = refit_loops(params.loops, lines, frame, tolerance / 3, scan.edge_mm)
    for loop, outline in zip(params.loops, outlines, strict=True):
        for fitted, piece in zip(outline.pieces, loop.pieces, strict=True):
            if piece.taken:
                entities.append(
                    Entity(piece.id, fitted.kind, fitted.start, fitted.end, fitted.mid, fitted.points, fitted.ellipse)
                )
                worst = max(worst, fitted.rms)
    named = tuple(LoopName(loop.name, tuple(p.id for p in sketched(loop))) for loop in params.loops)
    sketch = Sketch(frame, tuple(entities), named)
    told, problems = sketch_facts(sketch)
    if any(loop.bridged for loop in params.loops):
        facts["assumed"] = sum(math.dist(*span) for o in outlines for p in o.pieces for span in p.assumed)
    if params.source == "section":
        facts["reach"] = shared_reach(outline_reach(scan, frame, outlines))
    return Outcome({OWN: sketch}, OutlineFacts(**facts, **told, rms=worst, tolerance=tolerance), problems)


KIND: StepKind[Params] = StepKind(
    id="outline",
    title="Outline",
    help="A section's lines and arcs as a sketch",
    version=7,
    makes="sketch",
    params=Params,
    key_value="offset",
    run=_run,
    facts=OutlineFacts,
    reads=_reads,
    measures={"runout": "length", "area": "area"},
)
