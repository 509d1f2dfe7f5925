"""Trim: a part of a scan taken away: beyond a plane, outside or inside a box, or facets picked by hand."""

from __future__ import annotations

from typing import Any, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from contour.mesh.facets import compacted
from contour.mesh.reshape import split_by_plane
from contour.present.scans import changed_scan, scan_of
from contour.products.scan import ScanFacts
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import ScanRef
from contour.recipe.registry import Inputs, Outcome, StepKind
from contour.recipe.values import FacetSet, Length, Value, facets_from_bytes

__all__ = ["KIND", "Params"]

_PLANE: dict[str, Any] = {"when": {"by": ["plane"]}}
_BOX: dict[str, Any] = {"when": {"by": ["box"]}}


class Params(BaseModel):
    """Planes and boxes lie along the axes shown; facets they pass through are cut, so that the rim is straight."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    scan: ScanRef
    by: Literal["facets", "plane", "box"] = Field(title="Method", default="facets", description="what says where")
    keep: Literal["outside", "inside"] = Field(
        default="outside", description="what stays: what is not picked (beyond the plane, outside the box), or what is"
    )
    picked: FacetSet | None = Field(
        default=None, description="facets picked by hand", json_schema_extra={"when": {"by": ["facets"]}}
    )
    axis: Literal["x", "y", "z"] = Field(
        default="z", description="the plane stands across this axis", json_schema_extra=_PLANE
    )
    at: Length = Field(
        title="Position",
        default=Value(text="0 mm"),
        description="where the plane cuts the axis",
        json_schema_extra=_PLANE,
    )
    from_x: Length | None = Field(default=None, json_schema_extra=_BOX)
    to_x: Length | None = Field(default=None, json_schema_extra=_BOX)
    from_y: Length | None = Field(default=None, json_schema_extra=_BOX)
    to_y: Length | None = Field(default=None, json_schema_extra=_BOX)
    from_z: Length | None = Field(default=None, json_schema_extra=_BOX)
    to_z: Length | None = Field(default=None, json_schema_extra=_BOX)


def _run(params: Params, inputs: Inputs) -> Outcome:
    scan, mesh = scan_of(inputs)
    if params.by == "facets":
        if params.picked is None:
            raise ContourError(
                "bad-params",
                "no facets are picked",
                where=Where(param="picked"),
                got="0 facets",
                need="at least one facet",
                remedy="draw around the facets to take away",
            )
        wanted = facets_from_bytes(inputs.blob(params.picked.blob))
        inside = np.isin(mesh.source, wanted)
    elif params.by == "plane":
        normal = np.eye(3)["xyz".index(params.axis)]
        mesh, front = split_by_plane(mesh, inputs.values["at"] * normal, normal)
        inside = ~front
    else:
        sides = [
            (d, sign, inputs.values.get(f"{end}_{a}"))
            for d, a in enumerate("xyz")
            for sign, end in ((-1.0, "from"), (1.0, "to"))
        ]
        if all(v is None for *_, v in sides):
            raise ContourError(
                "bad-params",
                "the box has no sides",
                where=Where(param="from_x"),
                got="0 limits",
                need="at least one",
                remedy="type at least one limit",
            )
        for d, _, value in sides:
            if value is not None:
                mesh, _front = split_by_plane(mesh, value * np.eye(3)[d], np.eye(3)[d])
        centre = mesh.vertices[mesh.facets].mean(axis=1)
        inside = np.ones(len(centre), np.bool_)
        for d, sign, value in sides:
            if value is not None:
                inside &= sign * centre[:, d] < sign * value
    gone = inside if params.keep == "outside" else ~inside
    return changed_scan(params.scan.id, scan, compacted(mesh.without(gone)), count=int(gone.sum()))


KIND: StepKind[Params] = StepKind(
    id="trim",
    title="Trim",
    help="Facets taken away by hand, a plane or a box",
    version=1,
    makes="scan",
    params=Params,
    key_value="at",
    run=_run,
    facts=ScanFacts,
)
