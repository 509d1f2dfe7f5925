"""Buffers of products for the view, each reached through its job: a key alone opens nothing."""

from __future__ import annotations

import uuid
from pathlib import Path

from django.http import FileResponse, HttpRequest, HttpResponse
from ninja import Router

from bench.jobs import own_job
from bench.models import Job, Task
from bench.store import store
from contour.recipe.problem import ContourError

router = Router(tags=["products"])


def product_folder(job: Job, key: str) -> Path:
    """Folder of a product that some build of this job made."""
    known = key.isalnum() or key.endswith("-s")
    made = known and Task.objects.filter(job=job, kind="build", result__contains=f'"{key}"').exists()
    if not made or not store().has(key):
        raise ContourError("not-found", "this job has no such product", got=key[:8], remedy="load the page again")
    return store().folder(key)


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


@router.get("/{job_id}/products/{key}/facets")
def facets(request: HttpRequest, job_id: uuid.UUID, key: str) -> HttpResponse:
    """A region's raw facet numbers, as a NumPy file of int64."""
    return _file(product_folder(own_job(request.user, job_id), key) / "facets.npy")
