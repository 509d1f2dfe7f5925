"""Sector: one of what repeats around an axis, teeth or spokes, cut out of the scan to be worked on by itself."""

from __future__ import annotations

from typing import Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from contour.mesh.sector import between_two, one_sector
from contour.present.alike import count_around, fits_memory
from contour.present.places import axis_at
from contour.present.scans import changed_scan, positive, scan_of
from contour.products.scan import ScanFigures
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import AxisRef, ScanRef
from contour.recipe.registry import Inputs, Outcome, Start, StepKind
from contour.recipe.values import Angle, Length, Number

__all__ = ["KIND", "Params"]


class Params(BaseModel):
    """Modelled once, the body is repeated around the axis as often as it was found. Switch the step off to see the whole scan again."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    scan: ScanRef
    axis: AxisRef = Field(title="Around axis", description="a round region, or an axis")
    count: Number | None = Field(
        default=None, title="How many", description="alike around the axis; none: as many as are found"
    )
    averaged: bool = Field(
        default=True, title="Mean of all", description="the mean of all, laid on one; otherwise one as it was scanned"
    )
    first: Angle | None = Field(
        default=None, title="From", description="turned on from where a sector begins by itself: between two of them"
    )
    spacing: Length | None = Field(
        default=None,
        title="Facet side",
        description="of the mean; as the scan's when empty",
        json_schema_extra={"when": {"averaged": [True]}},
    )


class SectorFacts(ScanFigures):
    """alike: how many are alike around the axis · angle: of one, degrees · agree: share of what is not round that lies on the scan again after a turn by one ·
    middle: how far along the axis from where that starts the sector has its middle, mm."""

    of: Literal["sector"] = "sector"
    alike: int
    angle: float
    agree: float | None = None
    middle: float = 0.0


def _run(params: Params, inputs: Inputs) -> Outcome:
    scan, mesh = scan_of(inputs)
    spacing = positive(inputs.values.get("spacing", scan.edge_mm / 1.2), "spacing", "the spacing")
    axis = axis_at(inputs, "axis")
    count, told = count_around(inputs, scan, axis)
    if count < 2:
        raise ContourError(
            "bad-params",
            "one sector of one is all of it",
            where=Where(param="count"),
            got=str(count),
            need="2 or more",
            remedy="type another count",
        )
    first = between_two(mesh, axis.at, axis.along, count) + np.radians(inputs.values.get("first", 0.0))
    with fits_memory():
        made = one_sector(mesh, axis.at, axis.along, count, first=first, averaged=params.averaged, step_mm=spacing)
    if len(made.facets) == 0:
        raise ContourError(
            "nothing-found",
            "nothing of the scan lies in this sector",
            where=Where(param="first"),
            got="0 facets",
            need="facets",
            remedy="begin it elsewhere, or take the mean of all",
        )
    reach = (made.vertices - axis.at) @ np.asarray(axis.along)
    told |= {"angle": 360 / count, "middle": float(reach.min() + reach.max()) / 2}
    return changed_scan(params.scan.id, scan, made, count=len(mesh.facets), told=SectorFacts, **told)


KIND: StepKind[Params] = StepKind(
    id="sector",
    title="Sector",
    help="One of what repeats around an axis, to be worked on by itself",
    version=2,
    makes="scan",
    params=Params,
    key_value="count",
    run=_run,
    facts=SectorFacts,
    measures={"alike": "number", "angle": "angle"},
    starts=(
        Start("region", "axis", ("cylinder", "hole", "cone"), most=1, title="One sector of those alike", seldom=True),
    ),
)
