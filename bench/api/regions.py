"""The regions of a whole scan: found in the background, coloured by their labels, kept as steps."""

from __future__ import annotations

import json
import uuid
from typing import Any

import numpy as np
from django.http import FileResponse, HttpRequest, HttpResponse
from ninja import Field, Router, Schema

from bench.api.jobs import JobOut, job_out
from bench.jobs import edit_job, last_result, own_job
from bench.models import Job, Task
from bench.scans import job_scan
from bench.store import store
from bench.work import delivery_path, enqueue
from contour.job.edits import AddStep, AddSteps
from contour.recipe.problem import ContourError
from contour.recipe.values import facets_to_bytes

router = Router(tags=["regions"])


class FindIn(Schema):
    """scan: key of the scan as shown · coarseness: 1 takes three times the noise · least_area: mm² · protect: region steps whose
    facets stay theirs."""

    scan: str
    coarseness: float = Field(default=1.0, ge=0.4, le=4)
    least_area: float = Field(default=3.0, ge=0.0, le=1e6)
    protect: list[str] = []


class FoundOut(Schema):
    """progress: what is being done, and how much of 100; result: see contour.job.segmented."""

    id: uuid.UUID
    status: str
    progress: dict[str, Any]
    result: dict[str, Any] | None
    problem: dict[str, Any] | None


class KeepIn(Schema):
    """Regions by their number, and what each is to be called."""

    version: int
    evidence: str
    regions: list[int] = Field(min_length=1, max_length=500)
    names: list[str] = []


def _out(row: Task) -> FoundOut:
    result = json.loads(row.result) if row.result else None
    return FoundOut(id=row.id, status=row.status, progress=row.progress or {}, result=result, problem=row.problem)


def _row(request: HttpRequest, job_id: uuid.UUID, task_id: uuid.UUID) -> Task:
    row = Task.objects.filter(id=task_id, job=own_job(request.user, job_id), kind="segment").first()
    if row is None:
        raise ContourError("not-found", "there is no such search for regions", remedy="look for the regions again")
    return row


@router.post("/{job_id}/regions", response=FoundOut)
def find(request: HttpRequest, job_id: uuid.UUID, body: FindIn) -> FoundOut:
    job = own_job(request.user, job_id)
    job_scan(job, body.scan)  # only what belongs to the job
    result = last_result(job)
    keys = {s.id: s.key for s in result.steps if s.kind == "region" and s.status == "ok"} if result else {}
    protected = [key for p in body.protect if (key := keys.get(p)) is not None]
    payload = {"scan": body.scan, "coarseness": body.coarseness, "least_area": body.least_area, "protected": protected}
    row = Task.objects.create(owner=request.user, job=job, revision=job.head, kind="segment", payload=payload)
    enqueue(row)
    return _out(row)


@router.get("/{job_id}/regions/{task_id}", response=FoundOut)
def look(request: HttpRequest, job_id: uuid.UUID, task_id: uuid.UUID) -> FoundOut:
    return _out(_row(request, job_id, task_id))


@router.delete("/{job_id}/regions/{task_id}", response=FoundOut)
def stop(request: HttpRequest, job_id: uuid.UUID, task_id: uuid.UUID) -> FoundOut:
    row = _row(request, job_id, task_id)
    Task.objects.filter(id=row.id, status__in=["queued", "running"]).update(cancel=True)
    row.refresh_from_db()
    return _out(row)


def _labels(row: Task) -> np.ndarray:
    path = delivery_path(row)
    if row.status != "done" or not path.exists():
        raise ContourError("not-found", "the regions are not ready yet", remedy="wait a moment")
    return np.fromfile(path, "<i4")


@router.get("/{job_id}/regions/{task_id}/labels")
def labels(request: HttpRequest, job_id: uuid.UUID, task_id: uuid.UUID) -> HttpResponse:
    """int32 per facet in the view's numbering, -1 where nothing was found."""
    row = _row(request, job_id, task_id)
    _labels(row)
    return FileResponse(delivery_path(row).open("rb"), content_type="application/octet-stream")


@router.post("/{job_id}/regions/{task_id}/keep", response=JobOut)
def keep(request: HttpRequest, job_id: uuid.UUID, task_id: uuid.UUID, body: KeepIn) -> JobOut:
    """Chosen regions become steps, all in one edit."""
    row = _row(request, job_id, task_id)
    assert row.job is not None
    job: Job = row.job
    scan = job_scan(job, row.payload["scan"])
    found, rows = _labels(row), json.loads(row.result)["regions"]
    steps = []
    for n, k in enumerate(body.regions):
        if not 0 <= k < len(rows):
            raise ContourError("not-found", "there is no such region", got=k)
        if rows[k]["kind"] == "freeform":
            raise ContourError(
                "wrong-kind", "a freeform region has no surface to keep", got=f"region {k + 1}", need="a plane, cylinder, cone, sphere or torus",
                remedy="leave it out",
            )  # fmt: skip
        own = scan.source_facet[np.flatnonzero(found == k)]
        data = facets_to_bytes(own[own >= 0])
        picked = {"blob": store().put_blob(data), "count": len(data) // 4}
        params = {"scan": {"id": body.evidence}, "picked": picked, "surface": rows[k]["kind"]}
        steps.append(
            AddStep(op="add-step", kind="region", params=params, name=body.names[n] if n < len(body.names) else None)
        )
    return job_out(edit_job(job, body.version, AddSteps(op="add-steps", steps=steps)))
