"""Counterpart: what a scan has not seen, taken over from where the part is alike."""

from __future__ import annotations

from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field

from contour.geometry.rigid import reflection, rotation
from contour.mesh.counterpart import borrowed
from contour.mesh.prepare import PreparedScan
from contour.present.alike import SPACING, count_around, fits_memory
from contour.present.places import axis_at, plane_at
from contour.present.scans import changed_scan, positive, scan_of
from contour.products.scan import ScanFigures
from contour.recipe.problem import ContourError, Problem, Where
from contour.recipe.reference import AxisRef, PlaneRef, ScanRef
from contour.recipe.registry import Inputs, Outcome, Start, StepKind
from contour.recipe.values import Length, Number
from contour.register.symmetry import symmetry_planes

__all__ = ["KIND", "Params"]

_MIRROR: dict[str, Any] = {"when": {"by": ["mirror"]}}
_TURN: dict[str, Any] = {"when": {"by": ["turn"]}}
_NEAR = 0.5  # share of a scan with holes that must lie near its mirror image: less is another part


class Params(BaseModel):
    """What is taken over is no evidence: it has no number in the file, regions leave it out and no deviation is told of it."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    scan: ScanRef
    by: Literal["mirror", "turn"] = Field(
        default="mirror",
        title="Alike",
        description="across a plane, or around an axis",
        json_schema_extra={"titles": {"mirror": "mirrored", "turn": "turned"}},
    )
    plane: PlaneRef | None = Field(
        default=None, title="Across plane", description="none: the scan's own symmetry", json_schema_extra=_MIRROR
    )
    axis: AxisRef | None = Field(
        default=None, title="Around axis", description="a round region, or an axis", json_schema_extra=_TURN
    )
    count: Number | None = Field(
        default=None,
        title="How many",
        description="around the axis; none: as many as are found",
        json_schema_extra=_TURN,
    )
    spacing: Length | None = SPACING


class CounterpartFacts(ScanFigures):
    """borrowed: area taken over, mm² · refused: pieces that the part has on one side only · alike: around the axis · agree: share of the scan that
    agrees with its like."""

    of: Literal["counterpart"] = "counterpart"
    borrowed: float
    refused: int
    alike: int
    agree: float | None = None


def _laid(params: Params, inputs: Inputs, scan: PreparedScan) -> tuple[list[NDArray[np.float64]], dict[str, Any]]:
    """The motions that lay the scan on itself, and what is told of them; none where nothing is open to be filled."""
    if (scan.across >= 0).all():
        return [], {"alike": 0}
    if params.by == "mirror":
        if params.plane is not None:
            plane = plane_at(inputs, "plane")
            return [reflection(plane.at, plane.along)], {"alike": 2}
        best = symmetry_planes(scan.vertices, scan.facets, scan.across, noise_mm=scan.noise_mm, least_near=_NEAR)[0]
        return [reflection(np.array(best.point), np.array(best.normal))], {"alike": 2, "agree": best.agree}
    if params.axis is None:
        raise ContourError(
            "bad-params",
            "say around which axis it is alike",
            where=Where(param="axis"),
            got="nothing",
            need="an axis",
            remedy="choose a round region or an axis",
        )
    axis = axis_at(inputs, "axis")
    count, told = count_around(inputs, scan, axis)
    # Those beside it first: errors of the axis grow with the turn.
    turns = sorted(range(1, count), key=lambda k: min(k, count - k))
    return [rotation(axis.at, axis.along, 2 * np.pi * k / count) for k in turns], told


def _run(params: Params, inputs: Inputs) -> Outcome:
    scan, mesh = scan_of(inputs)
    spacing = positive(inputs.values.get("spacing", scan.edge_mm / 1.2), "spacing", "the spacing")
    laid, told = _laid(params, inputs, scan)
    with fits_memory():
        found = borrowed(mesh, laid, side_mm=scan.edge_mm, step_mm=spacing)
    problems = tuple(
        Problem(
            code="not-mended",
            message="the part has this on one side only: it is not taken over",
            remedy="look whether that is so",
            where=Where(point=place),
        )
        for place in found.refused[:10]
    )
    return changed_scan(
        params.scan.id,
        scan,
        found.mesh,
        count=found.pieces,
        moved=found.moved,
        problems=problems,
        told=CounterpartFacts,
        borrowed=found.area,
        refused=len(found.refused),
        **told,
    )


def _reads(params: Params) -> frozenset[str]:
    used = {"scan", "plane" if params.by == "mirror" else "axis"}
    return frozenset(n for n in used if getattr(params, n) is not None)


KIND: StepKind[Params] = StepKind(
    id="counterpart",
    title="Counterpart",
    help="What was not seen, taken over from where the part is alike",
    version=1,
    makes="scan",
    params=Params,
    key_value="spacing",
    run=_run,
    facts=CounterpartFacts,
    measures={"borrowed": "area"},
    reads=_reads,
    starts=(
        Start(
            "region",
            "axis",
            ("cylinder", "hole", "cone"),
            most=1,
            also={"by": "turn"},
            title="Fill from those alike",
            seldom=True,
        ),
    ),
)
