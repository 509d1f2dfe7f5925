"""Region: connected facets that one surface explains, grown from picked facets, or just the facets picked by hand."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field, model_validator

from contour.fit.covariance import fit_covariance
from contour.fit.region import default_tolerance, inner_vertices, region_of_facets
from contour.fit.wear import fit_without, worn_zone
from contour.geometry.surfaces import Surface
from contour.geometry.vectors import triple
from contour.intent.refit import refit_together
from contour.intent.relation import Relation
from contour.mesh.prepare import PreparedScan
from contour.present.places import place_at, point_at
from contour.present.regions import region_of
from contour.products.region import RegionFacts, RegionProduct, WornFacts, surface_facts
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import PlaceRef, PointRef, ScanRef
from contour.recipe.registry import OWN, Inputs, Outcome, StepKind
from contour.recipe.values import FacetSet, Length, facets_from_bytes

__all__ = ["KIND", "Params", "SurfaceChoice"]

SurfaceChoice = Literal["auto", "plane", "cylinder", "cone", "sphere", "torus"]


_HELD: dict[str, Any] = {"fold": "Hold the fit"}


class Params(BaseModel):
    """Seeds are raw facet numbers: the first decides the surface, more add pieces that lie on it."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    scan: ScanRef
    seeds: list[int] = Field(
        default_factory=list, max_length=200, description="picked facets, by their number in the file"
    )
    picked: FacetSet | None = Field(default=None, description="facets picked by hand; nothing grows then")
    removed: list[int] = Field(default_factory=list, max_length=200_000, description="facets kept out by hand")
    surface: SurfaceChoice = Field(default="auto", description="kind of surface")
    leave_worn: bool = Field(default=False, description="a worn zone has no say in the fit")
    worn: FacetSet | None = Field(default=None, description="worn facets painted by hand; they have no say in the fit")
    tolerance: Length | None = Field(default=None, description="how far a facet may lie off the surface")
    radius: Length | None = Field(
        default=None, description="the radius is held at this, such as a reading's: bore_d / 2", json_schema_extra=_HELD
    )
    direction: PlaceRef | None = Field(
        title="Parallel to",
        default=None,
        description="normal or axis is held parallel to this one's",
        json_schema_extra=_HELD,
    )
    through: PointRef | None = Field(
        title="Goes through",
        default=None,
        description="plane or axis is held to go through this point",
        json_schema_extra=_HELD,
    )

    @model_validator(mode="after")
    def _from_something(self) -> Params:
        if not self.seeds and self.picked is None:
            raise ValueError("a region needs seed facets or facets picked by hand")
        return self


def _held(
    params: Params, inputs: Inputs, scan: PreparedScan, facets: NDArray[np.int64], s: Surface, rms: float
) -> tuple[Surface, float]:
    """The surface fitted again with what is typed or chosen held, and its rms."""
    surfaces, relations = [s], []
    if params.radius is not None:
        relations.append(("radius", Relation("size", (0,), inputs.values["radius"])))
    if params.direction is not None:
        p = place_at(inputs, "direction")
        if p.shape == "point":
            raise ContourError(
                "wrong-kind",
                "a point has no direction",
                where=Where(param="direction"),
                got="point",
                need="an axis or a plane",
                remedy="choose another one",
            )
        relations.append(("direction", Relation("parallel", (0, len(surfaces)))))
        surfaces.append(Surface("plane", p.origin, p.direction, 0.0, 1))
    if params.through is not None:
        relations.append(("through", Relation("through", (0, len(surfaces)))))
        surfaces.append(Surface("sphere", point_at(inputs, "through").origin, (0.0, 0.0, 1.0), 1.0, 1))
    if not relations:
        return s, rms
    points = scan.vertices[inner_vertices(scan, facets)]
    anchors = [np.array([a.origin]) for a in surfaces[1:]]
    try:
        found = refit_together(
            surfaces, [points, *anchors], [r for _, r in relations], held=frozenset(range(1, len(surfaces)))
        )
    except ContourError as error:
        place = error.problem.where.param or ""
        k = int(place[place.find("[") + 1 : -1]) if place.startswith("relations[") else 0
        error.problem = error.problem.model_copy(update={"where": Where(param=relations[k][0])})
        raise
    return found[0].surface, found[0].rms


def _first(scan: PreparedScan, seeds: Sequence[int]) -> int | None:
    """The facet that a region was begun from; none where it was picked by hand."""
    found = scan.facets_of_source(np.array(seeds[:1], np.int64))
    return int(found[0]) if len(found) else None


def _run(params: Params, inputs: Inputs) -> Outcome:
    scan = inputs.products["scan"].scan
    tolerance = inputs.values.get("tolerance")
    if params.picked is not None:
        own = scan.facets_of_source(facets_from_bytes(inputs.blob(params.picked.blob)))
        region = region_of_facets(scan, own, kind=None if params.surface == "auto" else params.surface)
    else:
        region = region_of(scan, params.seeds, params.removed, params.surface, tolerance)
    s, facets = region.surface, region.facets
    rest = facets
    zone = worn_zone(scan, facets, s)
    if params.worn is not None:
        painted = scan.facets_of_source(facets_from_bytes(inputs.blob(params.worn.blob)))
        out = np.isin(facets, painted)
        if out.all():
            raise ContourError(
                "too-few-facets",
                "all of the region is painted as worn",
                where=Where(param="worn"),
                got=f"{len(facets)} of {len(facets)} facets",
                need="some that are not",
                remedy="leave some of it to fit",
            )
        s, rest = fit_without(scan, facets, out, s), facets[~out]
    elif params.leave_worn and zone is not None:
        s, rest = zone.surface, np.setdiff1d(facets, zone.facets)
    s, rms = _held(params, inputs, scan, rest, s, region.rms)
    spread = fit_covariance(s, scan.vertices[inner_vertices(scan, rest)], edge_mm=scan.edge_mm)
    u = spread.position if s.kind == "plane" else spread.radius
    facts = RegionFacts(
        **surface_facts(s),
        facets=len(region.facets),
        rms=rms,
        largest=region.largest,
        largest_at=region.largest_at,
        area=region.area,
        middle=triple(scan.centroids[region.facets].mean(axis=0)),
        tolerance=tolerance or default_tolerance(scan, _first(scan, params.seeds)),
        uncertain=spread.as_json(),
        u=u if u is not None and np.isfinite(u) else None,
        left_out=len(facets) - len(rest),
        worn=None
        if zone is None
        else WornFacts(depth=zone.depth_mm, area=zone.area, share=zone.share, facets=len(zone.facets)),
    )
    own = scan.source_facet[region.facets]
    middle = scan.centroids[facets].mean(axis=0)
    reach = float(np.linalg.norm(scan.centroids[facets] - middle, axis=1).max())
    out = scan.source_facet[np.setdiff1d(facets, rest)]
    left = np.unique(out[out >= 0])
    worn = scan.source_facet[zone.facets] if zone is not None else np.zeros(0, np.int64)
    product = RegionProduct(
        np.unique(own[own >= 0]),
        s,
        rms,
        (float(middle[0]), float(middle[1]), float(middle[2])),
        reach,
        spread.as_json(),
        left,
        np.unique(worn[worn >= 0]),
        zone.depth_mm if zone is not None else None,
        _span(scan, facets, s, middle),
    )
    return Outcome({OWN: product}, facts)


def _span(
    scan: PreparedScan, facets: NDArray[np.integer[Any]], surface: Surface, middle: NDArray[np.float64]
) -> tuple[float, float]:
    """Of a cylinder: how far its facets go along the axis, from abreast of their middle, mm."""
    if surface.kind != "cylinder":
        return 0.0, 0.0
    along = (scan.vertices[np.unique(scan.facets[facets])] - middle) @ surface.along
    return float(along.min()), float(along.max())


KIND: StepKind[Params] = StepKind(
    id="region",
    title="Region",
    help="Facets that one surface explains",
    version=11,
    makes="region",
    params=Params,
    key_value="tolerance",
    run=_run,
    facts=RegionFacts,
    measures={
        "diameter": "length",
        "radius": "length",
        "minor": "length",
        "half_angle": "angle",
        "area": "area",
        "rms": "length",
    },
)
