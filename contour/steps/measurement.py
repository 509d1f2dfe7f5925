"""Measurement: a lasting one, on scan, regions, bodies and sketches; its figures can be used in formulas."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel, ConfigDict, Field

from contour.present.measures import measured
from contour.products.measurement import Measured, MeasurementFacts, MeasurementProduct
from contour.recipe.reference import (
    AxisRef,
    BodyRef,
    FaceRef,
    OneEdge,
    PlaceRef,
    RegionRef,
    ScanRef,
    ScanSpot,
    SketchRef,
)
from contour.recipe.registry import OWN, Inputs, Outcome, Start, StepKind

__all__ = ["KIND", "Params"]


def _for(*what: str) -> dict[str, Any]:
    return {"when": {"what": list(what)}}


class Params(BaseModel):
    """`what` says what is measured; only the references it needs are looked at. A spot on the scan stands in for a place."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    what: Measured = Field(
        title="What is measured",
        default="between",
        description="distance and angle between two places, diameter, wall thickness and so on",
        json_schema_extra={"titles": {"between": "between two places", "size": "diameter"}},
    )
    first: PlaceRef | None = Field(
        title="First place", default=None, description="one place", json_schema_extra=_for("between", "size")
    )
    second: PlaceRef | None = Field(
        title="Second place", default=None, description="the other place", json_schema_extra=_for("between")
    )
    first_spot: ScanSpot | None = Field(default=None, description="a spot on the scan in place of the first place")
    second_spot: ScanSpot | None = Field(default=None, description="a spot on the scan in place of the other place")
    scan: ScanRef | None = Field(
        default=None,
        description="the scan of the spots, or the one that is measured",
        json_schema_extra=_for("between", "thickness", "area", "volume", "pitch"),
    )
    face: FaceRef | None = Field(
        default=None,
        description="a face of a body: the wall behind it, its area, or one side of an edge",
        json_schema_extra=_for("thickness", "area", "length"),
    )
    edge: OneEdge | None = Field(default=None, description="an edge of a body", json_schema_extra=_for("length"))
    other_face: FaceRef | None = Field(
        default=None, description="the face on the other side of the edge", json_schema_extra=_for("length")
    )
    region: RegionRef | None = Field(
        default=None, description="the region whose facets are measured", json_schema_extra=_for("area", "pitch")
    )
    sketch: SketchRef | None = Field(
        default=None,
        description="a sketch whose pieces or profiles are measured",
        json_schema_extra=_for("length", "area", "pitch", "size"),
    )
    piece: str = Field(
        default="",
        max_length=20,
        description="one piece of the sketch, such as e3; empty: all",
        json_schema_extra=_for("length", "size"),
    )
    axis: AxisRef | None = Field(default=None, description="the axis it winds about", json_schema_extra=_for("pitch"))
    body: BodyRef | None = Field(
        default=None, description="the body that is measured", json_schema_extra=_for("volume", "area")
    )


def _reads(p: Params) -> frozenset[str]:
    own = {
        "between": {"first", "second"} | ({"scan"} if p.first_spot or p.second_spot else set()),
        "size": {"first", "sketch"},
        "thickness": {"scan", "face"},
        "length": {"edge", "face", "other_face", "sketch"},
        "area": {"region", "face", "sketch", "body", "scan"},
        "volume": {"body", "scan"},
        "pitch": {"region", "sketch", "axis", "scan"},
    }[p.what]
    return frozenset(n for n in own if getattr(p, n) is not None)


def _run(params: Params, inputs: Inputs) -> Outcome:
    facts = measured(params, inputs)
    return Outcome({OWN: MeasurementProduct(facts)}, facts)


KIND: StepKind[Params] = StepKind(
    id="measurement",
    title="Measurement",
    help="A lasting measurement",
    version=2,
    makes="measurement",
    params=Params,
    key_value="what",
    run=_run,
    facts=MeasurementFacts,
    reads=_reads,
    starts=(
        Start("edge", "edge", most=1, also={"what": "length"}),
        Start("edge", "first", least=2, most=2, second="second", also={"what": "between"}),
        Start("face", "first", least=2, most=2, second="second", also={"what": "between"}),
        Start("body", "body", most=1, also={"what": "volume"}),
        Start("region", "first", ("cylinder", "hole", "cone", "sphere", "torus"), most=1, also={"what": "size"}),
    ),
    measures={
        "distance": "length",
        "angle": "angle",
        "dx": "length",
        "dy": "length",
        "dz": "length",
        "radius": "length",
        "diameter": "length",
        "thickness": "length",
        "length": "length",
        "area": "area",
        "volume": "volume",
        "pitch": "length",
        "turns": "number",
    },
)
