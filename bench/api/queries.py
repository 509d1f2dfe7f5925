"""Interactive questions about a scan: grow a region, cut a section, read a deviation. Answered in this process."""

from __future__ import annotations

import base64
import uuid
from collections.abc import Iterable
from typing import Any, Literal

import numpy as np
from django.http import HttpRequest
from ninja import Router, Schema
from numpy.typing import NDArray
from pydantic import Field

from bench.api.products import product_folder
from bench.blobs import keep
from bench.jobs import last_result, own_job, recipe_of, scope_of
from bench.models import Job
from bench.scans import in_turn, job_scan
from bench.store import store
from contour.check.deviation import at_facet
from contour.fit.budget import Budget
from contour.fit.form import form_of
from contour.fit.region import Region, default_tolerance, grow_region, inner_vertices, patch_around, region_of_facets
from contour.fit.wear import averaged_residuals
from contour.geometry.surfaces import Surface, SurfaceKind
from contour.mesh.prepare import PreparedScan
from contour.products import load_product
from contour.recipe.formula import evaluate, names_in
from contour.recipe.problem import ContourError
from contour.recipe.recipe import SetFacets
from contour.recipe.values import facets_from_bytes, facets_to_bytes
from contour.sketch.entities import Entity, entity_points
from contour.steps.region import SurfaceChoice

router = Router(tags=["queries"])
_GROW_S = 1.0  # then no further kind of surface is tried

Vector = tuple[float, float, float]


class GrowIn(Schema):
    """Facets of the view's own numbering; raw numbers go into the step."""

    scan: str
    seeds: list[int] = Field(min_length=1)
    removed: list[int] = []
    kinds: list[SurfaceKind] | None = Field(default=None, description="what auto may find")
    surface: SurfaceChoice = "auto"
    tolerance: str | None = None


class SurfaceOut(Schema):
    kind: SurfaceKind
    origin: Vector
    axis: Vector
    radius: float
    outward: int
    half_angle: float = 0.0
    minor: float = 0.0


class GrowOut(Schema):
    """facets: base64 of uint32, the view's numbering. Lengths in mm. untried: kinds that there was no time for."""

    facets: str
    count: int
    surface: SurfaceOut
    rms: float
    largest: float
    largest_at: Vector
    area: float
    tolerance: float
    source_seeds: list[int]
    source_removed: list[int]
    untried: list[SurfaceKind] = []


class BrushIn(Schema):
    scan: str
    facet: int
    radius_mm: float = Field(gt=0, le=100)


class ProbeIn(Schema):
    fit: str
    facet: int
    point: Vector


class ProbeOut(Schema):
    """Deviation at a place on the scan, mm, + outside the body."""

    deviation: float
    source_facet: int


class SpotIn(Schema):
    """A place on a facet of the view's numbering."""

    scan: str
    facet: int
    point: Vector


class SpotOut(Schema):
    """The spot as steps keep it: the facet's number in the file and the weights of its corners."""

    facet: int
    weights: Vector


class PickedIn(Schema):
    """Facets chosen by hand, base64 of uint32 in the view's numbering."""

    scan: str
    facets: str = Field(max_length=14_000_000)
    surface: SurfaceChoice = "auto"


class KeptFacets(Schema):
    """What a region step's `picked` takes."""

    blob: str
    count: int


def packed(array: NDArray[Any], dtype: str) -> str:
    return base64.b64encode(np.ascontiguousarray(array, dtype=dtype).tobytes()).decode("ascii")


def triple(p: NDArray[np.float64]) -> Vector:
    return float(p[0]), float(p[1]), float(p[2])


def _surface(s: Surface) -> SurfaceOut:
    degrees = float(np.degrees(s.half_angle))
    return SurfaceOut(
        kind=s.kind, origin=s.origin, axis=s.axis, radius=s.radius, outward=s.outward, half_angle=degrees, minor=s.minor
    )


def _facet_ids(scan: PreparedScan, ids: list[int]) -> NDArray[np.int64]:
    # Before they become an array: a number may be larger than any that an array holds.
    wrong = next((i for i in ids if not 0 <= i < len(scan.facets)), None)
    if wrong is not None:
        raise ContourError("not-found", "the scan has no such facet", got=str(wrong)[:20], remedy="load the page again")
    return np.array(ids, dtype=np.int64)


def typed_length(text: str | None, job: Job) -> float | None:
    """A typed length, formulas included; none when nothing is typed."""
    if text is None or not text.strip():
        return None
    lookup = scope_of(job).lookup if names_in(text) else None
    return evaluate(text, dimension="length", unit=recipe_of(job).unit, lookup=lookup).value


@router.post("/{job_id}/grow", response=GrowOut)
def grow(request: HttpRequest, job_id: uuid.UUID, body: GrowIn) -> GrowOut:
    job = own_job(request.user, job_id)
    scan = job_scan(job, body.scan)
    seeds, removed = _facet_ids(scan, body.seeds), _facet_ids(scan, body.removed)
    tolerance = typed_length(body.tolerance, job)
    with in_turn(scan):
        region = grow_region(
            scan,
            seeds,
            kind=None if body.surface == "auto" else body.surface,
            tolerance_mm=tolerance,
            removed=removed,
            kinds=None if body.kinds is None else tuple(body.kinds),
            budget=Budget(_GROW_S),
        )
        return _grown(scan, region, tolerance or default_tolerance(scan, int(seeds[0])), seeds, removed)


def _grown(
    scan: PreparedScan, region: Region, tolerance: float, seeds: NDArray[np.int64], removed: NDArray[np.int64]
) -> GrowOut:
    s = region.surface
    return GrowOut(
        facets=packed(region.facets, "<u4"),
        count=len(region.facets),
        rms=region.rms,
        largest=region.largest,
        surface=_surface(s),
        largest_at=region.largest_at,
        area=region.area,
        tolerance=tolerance,
        source_seeds=scan.source_facet[seeds].tolist(),
        source_removed=scan.source_facet[removed].tolist(),
        untried=list(region.untried),
    )


def unpacked(text: str, scan: PreparedScan) -> NDArray[np.int64]:
    try:
        ids = np.frombuffer(base64.b64decode(text, validate=True), "<u4").astype(np.int64)
    except ValueError:
        raise ContourError("bad-params", "the picked facets cannot be read", remedy="pick them again") from None
    if len(ids) == 0:
        raise ContourError("too-few-facets", "nothing is picked", remedy="draw around some facets")
    if ids.max() >= len(scan.facets):
        raise ContourError("not-found", "the scan has no such facet", got=int(ids.max()), remedy="load the page again")
    return ids


@router.post("/{job_id}/picked", response=GrowOut)
def picked(request: HttpRequest, job_id: uuid.UUID, body: PickedIn) -> GrowOut:
    """The surface through facets chosen by hand; none are added."""
    scan = job_scan(own_job(request.user, job_id), body.scan)
    kind, none = None if body.surface == "auto" else body.surface, np.array([], np.int64)
    with in_turn(scan):
        region = region_of_facets(scan, unpacked(body.facets, scan), kind=kind)
        return _grown(scan, region, default_tolerance(scan), none, none)


@router.post("/{job_id}/keep-picked", response=KeptFacets)
def keep_picked(request: HttpRequest, job_id: uuid.UUID, body: PickedIn) -> KeptFacets:
    """Keep the choice under its hash, for a region step."""
    scan = job_scan(own_job(request.user, job_id), body.scan)
    with in_turn(scan):
        own = scan.source_facet[unpacked(body.facets, scan)]
        data = facets_to_bytes(own[own >= 0])
    if not data:
        raise ContourError(
            "too-few-facets", "only facets that a mend has made are picked", remedy="pick facets of the scan itself"
        )
    return KeptFacets(blob=keep(request.user, data), count=len(data) // 4)


@router.get("/{job_id}/sets/{set_id}/facets", response=str)
def facets_of_set(request: HttpRequest, job_id: uuid.UUID, set_id: str, scan: str) -> str:
    """Facets of a named set on a state of the scan, in the view's numbering: base64 of uint32. Those that a mend has taken away are missing."""
    job = own_job(request.user, job_id)
    parts = [p for s in recipe_of(job).sets if s.id == set_id for p in s.parts if isinstance(p, SetFacets)]
    prepared = job_scan(job, scan)
    with in_turn(prepared):
        own = [prepared.facets_of_source(facets_from_bytes(store().read_blob(p.picked.blob))) for p in parts]
        return packed(np.unique(np.concatenate([np.array([], np.int64), *own])), "<u4")


@router.post("/{job_id}/brush", response=list[int])
def brush(request: HttpRequest, job_id: uuid.UUID, body: BrushIn) -> list[int]:
    """Facets one touch of the brush covers."""
    scan = job_scan(own_job(request.user, job_id), body.scan)
    _facet_ids(scan, [body.facet])
    return [int(f) for f in patch_around(scan.across, scan.centroids, body.facet, body.radius_mm)]


@router.post("/{job_id}/spot", response=SpotOut)
def spot(request: HttpRequest, job_id: uuid.UUID, body: SpotIn) -> SpotOut:
    """A picked place in terms that outlast mends and placements of the scan."""
    scan = job_scan(own_job(request.user, job_id), body.scan)
    facet = int(_facet_ids(scan, [body.facet])[0])
    raw = int(scan.source_facet[facet])
    if raw < 0:
        raise ContourError(
            "too-few-facets",
            "a mend has made this facet: the scan itself says nothing here",
            remedy="pick a place beside it",
        )
    corners = scan.vertices[scan.facets[facet]]
    rows = np.vstack([corners.T, np.ones(3)])
    w = np.clip(np.linalg.lstsq(rows, np.append(np.array(body.point), 1.0), rcond=None)[0], 0.0, 1.0)
    w = w / w.sum()
    return SpotOut(facet=raw, weights=triple(w))


class EntityOut(Schema):
    """path: points in space, mm."""

    id: str
    kind: Literal["line", "arc", "ellipse", "free"]
    path: list[Vector]


class SketchOut(Schema):
    """A sketch step's entities as paths in space; helpers: its construction lines."""

    entities: list[EntityOut]
    helpers: list[EntityOut]
    normal: Vector
    centre: Vector


@router.get("/{job_id}/products/{key}/sketch", response=SketchOut)
def sketch(request: HttpRequest, job_id: uuid.UUID, key: str) -> SketchOut:
    made = load_product(product_folder(own_job(request.user, job_id), key, of="sketch"))
    points = [made.frame.to_space(entity_points(e, step_deg=3.0)) for e in made.entities]

    def shown(entities: Iterable[Entity]) -> list[EntityOut]:
        paths = [(e, made.frame.to_space(entity_points(e, step_deg=3.0))) for e in entities]
        return [EntityOut(id=e.id, kind=e.kind, path=[triple(p) for p in path]) for e, path in paths]

    everything = np.vstack(points or [made.frame.origin[None]])
    centre = (everything.min(axis=0) + everything.max(axis=0)) / 2
    return SketchOut(
        entities=shown(made.entities),
        helpers=shown(made.helpers),
        normal=triple(made.frame.normal),
        centre=triple(centre),
    )


@router.get("/{job_id}/products/{key}/region", response=GrowOut)
def region(request: HttpRequest, job_id: uuid.UUID, key: str, scan: str) -> GrowOut:
    """A region step's members in the view's numbering."""
    job = own_job(request.user, job_id)
    product = load_product(product_folder(job, key, of="region"))
    prepared = job_scan(job, scan)
    s = product.surface
    with in_turn(prepared):
        ids = np.sort(prepared.facets_of_source(product.source_facets))
        return GrowOut(
            facets=packed(ids, "<u4"),
            count=len(ids),
            rms=product.rms,
            largest=0.0,
            largest_at=s.origin,
            surface=_surface(s),
            area=float(prepared.areas[ids].sum()),
            tolerance=0.0,
            source_seeds=[],
            source_removed=[],
        )


class FormOut(Schema):
    """Form of a region (mm), see contour.fit.form; residuals: base64 of float32 per facet of `facets` (base64 of uint32, the view's
    numbering), averaged a little; worn: facets of the zone that stands out as worn."""

    flatness: float | None
    roundness: float | None
    cylindricity: float | None
    straightness: float | None
    widest: Vector | None
    profile: list[tuple[float, float]]
    u: float
    radius: float
    facets: str
    residuals: str
    worn: str
    depth: float | None


@router.get("/{job_id}/products/{key}/form", response=FormOut)
def form(request: HttpRequest, job_id: uuid.UUID, key: str, scan: str) -> FormOut:
    """How true a region step's surface is, and where it is worn."""
    job = own_job(request.user, job_id)
    product = load_product(product_folder(job, key, of="region"))
    prepared = job_scan(job, scan)
    with in_turn(prepared):
        ids = np.sort(prepared.facets_of_source(product.source_facets))
        s: Surface = product.surface
        found = form_of(s, prepared.vertices[inner_vertices(prepared, ids)], edge_mm=prepared.edge_mm)
        return FormOut(
            flatness=found.flatness,
            roundness=found.roundness,
            cylindricity=found.cylindricity,
            straightness=found.straightness,
            widest=found.widest,
            profile=list(found.profile),
            u=found.u,
            radius=s.minor if s.kind == "torus" else s.radius,
            facets=packed(ids, "<u4"),
            residuals=packed(averaged_residuals(prepared, ids, s), "<f4"),
            worn=packed(prepared.facets_of_source(product.worn), "<u4"),
            depth=product.worn_mm,
        )


@router.get("/{job_id}/regions-at", response=list[str])
def regions_at(request: HttpRequest, job_id: uuid.UUID, scan: str, facet: int) -> list[str]:
    """Region steps that hold a facet (the view's numbering)."""
    job = own_job(request.user, job_id)
    prepared = job_scan(job, scan)
    raw = int(prepared.source_facet[_facet_ids(prepared, [facet])[0]])
    result = last_result(job)
    found = []
    for state in result.steps if result else ():
        if state.kind == "region" and state.key is not None and store().has(state.key):
            facets = load_product(store().folder(state.key)).source_facets
            at = int(np.searchsorted(facets, raw))
            if at < len(facets) and facets[at] == raw:
                found.append(state.id)
    return found


@router.post("/{job_id}/probe", response=ProbeOut)
def probe(request: HttpRequest, job_id: uuid.UUID, body: ProbeIn) -> ProbeOut:
    """The deviation at a point of a facet, between its corners' values."""
    job = own_job(request.user, job_id)
    result = last_result(job)
    if result is None or result.fit is None:
        raise ContourError("not-found", "there is no fit yet", remedy="wait a moment")
    scan = job_scan(job, result.fit.scan)
    values = np.load(product_folder(job, body.fit) / "deviation.npy", mmap_mode="r")
    if len(values) != len(scan.vertices):
        raise ContourError("not-found", "the full fit is not ready yet", remedy="wait a moment")
    facet = int(_facet_ids(scan, [body.facet])[0])
    deviation = at_facet(scan, values, facet, np.array(body.point))
    if not np.isfinite(deviation):
        raise ContourError("not-found", "this place lies outside the zone of the fit", remedy="pick a place inside it")
    return ProbeOut(deviation=deviation, source_facet=int(scan.source_facet[facet]))
