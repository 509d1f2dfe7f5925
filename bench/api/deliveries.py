"""Deliveries: STEP and STL of the head's bodies, written and read back by a child, then downloaded."""

from __future__ import annotations

import uuid
from typing import Literal, get_args

from django.http import FileResponse, HttpRequest, HttpResponse
from ninja import Router, Schema
from pydantic import Field

from bench.api.task_out import DeliveryTask, task_out
from bench.jobs import head_build, own_job, recipe_of
from bench.models import Task
from bench.work import delivery_path, enqueue
from contour.job.build.file import safe_name
from contour.job.build.result import deliverable
from contour.recipe.problem import ContourError

router = Router(tags=["deliveries"])
DeliveryKind = Literal["step", "stl", "obj", "ply", "3mf", "count"]


class DeliverIn(Schema):
    """kind count: only how many facets the STL would have. Fineness matters for all but STEP."""

    kind: DeliveryKind
    unit: Literal["mm", "inch"] | None = Field(default=None, description="the job's own when none is given")
    chord_mm: float = Field(default=0.05, gt=0.0005, le=10)
    angle_deg: float = Field(default=20.0, ge=1, le=90)


@router.post("/{job_id}/deliveries", response=DeliveryTask)
def deliver(request: HttpRequest, job_id: uuid.UUID, body: DeliverIn) -> DeliveryTask:
    job = own_job(request.user, job_id)
    build = head_build(job)
    result = build["result"]
    if build["status"] in ("failed", "cancelled") and not build["current"]:
        raise ContourError(
            "no-body",
            f"the job's build {'has failed' if build['status'] == 'failed' else 'was cancelled'}, so there is nothing new to deliver",
            got=(build["problem"] or {}).get("message"),
            remedy="undo the last change or make another one: that builds it again",
        )
    if not build["current"] or result is None:
        raise ContourError("no-body", "the job is still building", remedy="wait until the build is done")
    bodies = deliverable(result)
    if not bodies:
        raise ContourError("no-body", "the job has no body yet", remedy="extrude an outline first")
    unit = body.unit or ("inch" if recipe_of(job).unit == "inch" else "mm")
    payload = {"bodies": bodies, "unit": unit, "chord_mm": body.chord_mm, "angle_deg": body.angle_deg}
    row = Task.objects.create(owner=request.user, job=job, revision=job.head, kind=body.kind, payload=payload)
    enqueue(row)
    return task_out(DeliveryTask, row)


def _own(request: HttpRequest, job_id: uuid.UUID, task_id: uuid.UUID) -> Task:
    job = own_job(request.user, job_id)
    row = Task.objects.filter(id=task_id, job=job, kind__in=get_args(DeliveryKind)).first()
    if row is None:
        raise ContourError("not-found", "there is no such delivery")
    return row


@router.get("/{job_id}/deliveries/{task_id}", response=DeliveryTask)
def look(request: HttpRequest, job_id: uuid.UUID, task_id: uuid.UUID) -> DeliveryTask:
    return task_out(DeliveryTask, _own(request, job_id, task_id))


@router.get("/{job_id}/deliveries/{task_id}/file")
def download(request: HttpRequest, job_id: uuid.UUID, task_id: uuid.UUID) -> HttpResponse:
    row = _own(request, job_id, task_id)
    path = delivery_path(row)
    if row.status != "done" or not path.exists():
        raise ContourError("not-found", "this delivery is not ready")
    assert row.job is not None
    name = f"{safe_name(recipe_of(row.job).name)}.{row.kind}"
    return FileResponse(path.open("rb"), as_attachment=True, filename=name)
