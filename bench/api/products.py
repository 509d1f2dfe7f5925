"""Buffers of products for the view, each reached through its job: a key alone opens nothing."""

from __future__ import annotations

import uuid
from pathlib import Path
from typing import Any

from django.http import FileResponse, HttpRequest, HttpResponse
from ninja import Router, Schema

from bench.jobs import own_job, recipe_of
from bench.models import Job, JobProduct
from bench.store import store
from bench.work import build_missing
from contour.job.build.keep import faces_of
from contour.products import PRODUCTS
from contour.recipe.problem import ContourError
from contour.recipe.recipe import short_names
from contour.solid.topology.labels import corner_label, edge_label, face_label
from contour.solid.topology.parts import read_topology
from contour.solid.topology.resolve import edge_faces_named

router = Router(tags=["products"])


def product_folder(job: Job, key: str, *, of: str | None = None) -> Path:
    """Folder of a product that some build of this job made. of: the kind of product that it has to be."""
    folder = store().folder(key)  # what is no key at all is refused here
    made = JobProduct.objects.filter(job=job, key=key).exists()
    if made and not store().has(key):
        build_missing(job)
        raise ContourError(
            "not-found", "this was not there any more and is built again", got=key[:8], remedy="wait a moment"
        )
    if not made:
        raise ContourError("not-found", "this job has no such product", got=key[:8], remedy="load the page again")
    if of is not None and not (folder / PRODUCTS[of].file).exists():
        raise ContourError("not-found", f"this product is no {of}", got=key[:8], remedy="load the page again")
    return folder


def _file(path: Path) -> HttpResponse:
    if not path.exists():
        raise ContourError("not-found", "this product has no such buffer")
    answer = FileResponse(path.open("rb"), content_type="application/octet-stream")
    # A key names its content, so a browser may keep it; only its owner's, though.
    answer["Cache-Control"] = "private, max-age=31536000, immutable"
    return answer


@router.get("/{job_id}/products/{key}/view")
def view(request: HttpRequest, job_id: uuid.UUID, key: str) -> HttpResponse:
    return _file(product_folder(own_job(request.user, job_id), key) / "view.bin")


@router.get("/{job_id}/products/{key}/deviation")
def deviation(request: HttpRequest, job_id: uuid.UUID, key: str) -> HttpResponse:
    """float32 per scan vertex, as a NumPy file."""
    return _file(product_folder(own_job(request.user, job_id), key) / "deviation.npy")


class FaceFacts(Schema):
    """One face of a body: its lasting name, what it is, its neighbours' names; axis is the outward normal of planes."""

    name: str
    label: str
    kind: str
    beside: list[str]
    area: float
    centre: tuple[float, float, float]
    axis: tuple[float, float, float] | None = None
    origin: tuple[float, float, float] | None = None
    diameter: float | None = None
    inside: bool | None = None


@router.get("/{job_id}/products/{key}/faces", response=list[FaceFacts])
def faces(request: HttpRequest, job_id: uuid.UUID, key: str) -> list[dict[str, Any]]:
    """Faces of a body in the order of the view's face numbers."""
    job = own_job(request.user, job_id)
    product_folder(job, key, of="body")
    return faces_told(job, key)


def faces_told(job: Job, key: str) -> list[dict[str, Any]]:
    """Faces of a body that the job has made, as :class:`FaceFacts` takes them."""
    steps = short_names(recipe_of(job))
    return [{**f, "label": face_label(f["name"], steps)} for f in faces_of(store(), key)]


class EdgeFacts(Schema):
    """One edge of a body: its lasting name, its curve, places of the faces beside it, names of those at its ends, mm; next: places of
    the edges that run on from it without a bend; smooth: its faces run into one another there; border: an open body ends there."""

    name: str
    label: str
    kind: str
    faces: list[int]
    ends: list[str]
    length: float
    smooth: bool
    border: bool = False
    next: list[int]
    centre: tuple[float, float, float] | None = None
    axis: tuple[float, float, float] | None = None
    origin: tuple[float, float, float] | None = None
    radius: float | None = None


class CornerFacts(Schema):
    """One corner of a body: its lasting name (none where a round closes upon itself) and its place, mm."""

    name: str
    label: str
    centre: tuple[float, float, float]


class BordersOut(Schema):
    edges: list[EdgeFacts]
    corners: list[CornerFacts]


@router.get("/{job_id}/products/{key}/borders", response=BordersOut)
def borders(request: HttpRequest, job_id: uuid.UUID, key: str) -> dict[str, Any]:
    """Edges of a body in the order of the view's edge numbers, and its corners."""
    job = own_job(request.user, job_id)
    body = read_topology(product_folder(job, key, of="body"))
    steps = short_names(recipe_of(job))
    edges = [
        {**e, "ends": edge_faces_named(e, body["faces"]), "label": edge_label(e["name"], steps) if e["name"] else ""}
        for e in body["edges"]
    ]
    corners = [{**v, "label": corner_label(v["name"], steps) if v["name"] else ""} for v in body["vertices"]]
    return {"edges": edges, "corners": corners}


@router.get("/{job_id}/products/{key}/facets")
def facets(request: HttpRequest, job_id: uuid.UUID, key: str) -> HttpResponse:
    """A region's raw facet numbers, as a NumPy file of int64."""
    return _file(product_folder(own_job(request.user, job_id), key) / "facets.npy")
