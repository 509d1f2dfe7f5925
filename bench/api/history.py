"""Checkpoints and variants: other states of a job, compared, returned to, and begun from; and what hangs on a step."""

from __future__ import annotations

import json
import uuid
from datetime import datetime
from typing import Any

from django.http import FileResponse, HttpRequest, HttpResponse
from ninja import Router, Schema
from pydantic import Field

from bench.api.jobs import JobOut, job_out
from bench.api.task_out import CompareTask, VariantsTask, task_out
from bench.jobs import duplicate, known_values, own_job, recipe_of, return_to
from bench.models import Checkpoint, Job, Task
from bench.work import delivery_path, enqueue
from contour.job.edits.relations import dependents
from contour.job.edits.variants import variant_of, with_variant
from contour.job.questions.compare import changes_as_json, recipe_changes
from contour.recipe.problem import ContourError
from contour.recipe.recipe import Recipe, load_recipe

router = Router(tags=["history"])


class CheckpointIn(Schema):
    name: str = Field(min_length=1, max_length=200)


class CheckpointOut(Schema):
    """`current` says that the job is in this very state now."""

    id: uuid.UUID
    name: str
    created: datetime
    current: bool


class CompareIn(Schema):
    """From one state to another; none is the present state."""

    before: uuid.UUID | None = None
    after: uuid.UUID | None = None
    variant: str | None = Field(default=None, description="the later state is the present one with this variant taken")


class ChangeOut(Schema):
    what: str
    field: str
    before: str | None
    after: str | None
    step: str | None


class CompareOut(Schema):
    """What was changed at once; the map of what moved follows as a task's result."""

    changes: list[ChangeOut]
    task: CompareTask


class ReturnIn(Schema):
    version: int
    checkpoint: uuid.UUID


class DuplicateIn(Schema):
    checkpoint: uuid.UUID | None = None
    name: str | None = Field(default=None, max_length=200)


class StepName(Schema):
    id: str
    name: str


def _own(job: Job, checkpoint: uuid.UUID) -> Checkpoint:
    row = Checkpoint.objects.select_related("revision").filter(id=checkpoint, job=job).first()
    if row is None:
        raise ContourError("not-found", "the job has no such checkpoint", remedy="load the page again")
    return row


def _state(job: Job, checkpoint: uuid.UUID | None) -> Recipe:
    return recipe_of(job) if checkpoint is None else load_recipe(_own(job, checkpoint).revision.recipe)


@router.get("/{job_id}/checkpoints", response=list[CheckpointOut])
def checkpoints(request: HttpRequest, job_id: uuid.UUID) -> list[dict[str, Any]]:
    job = own_job(request.user, job_id)
    assert job.head is not None
    rows = Checkpoint.objects.select_related("revision").filter(job=job)
    return [
        {"id": c.id, "name": c.name, "created": c.created, "current": c.revision.recipe == job.head.recipe}
        for c in rows
    ]


@router.post("/{job_id}/checkpoints", response=list[CheckpointOut])
def set_checkpoint(request: HttpRequest, job_id: uuid.UUID, body: CheckpointIn) -> list[dict[str, Any]]:
    """Name the present state."""
    job = own_job(request.user, job_id)
    assert job.head is not None
    Checkpoint.objects.create(job=job, revision=job.head, name=body.name.strip() or "Checkpoint")
    return checkpoints(request, job_id)


@router.delete("/{job_id}/checkpoints/{checkpoint}", response=list[CheckpointOut])
def forget_checkpoint(request: HttpRequest, job_id: uuid.UUID, checkpoint: uuid.UUID) -> list[dict[str, Any]]:
    """The name goes; the state itself stays in the job's history."""
    _own(own_job(request.user, job_id), checkpoint).delete()
    return checkpoints(request, job_id)


@router.post("/{job_id}/compare", response=CompareOut)
def compare(request: HttpRequest, job_id: uuid.UUID, body: CompareIn) -> dict[str, Any]:
    job = own_job(request.user, job_id)
    before, after = _state(job, body.before), _state(job, body.after)
    if body.variant is not None:
        after = with_variant(after, variant_of(after, body.variant), known_values(job))
    payload = {"before": before.model_dump_json(), "after": after.model_dump_json()}
    row = Task.objects.create(owner=request.user, job=job, revision=job.head, kind="compare", payload=payload)
    enqueue(row)
    return {"changes": changes_as_json(recipe_changes(before, after)), "task": task_out(CompareTask, row)}


@router.get("/{job_id}/compare/{task_id}", response=CompareTask)
def compared(request: HttpRequest, job_id: uuid.UUID, task_id: uuid.UUID) -> CompareTask:
    return task_out(CompareTask, _task(request, job_id, task_id, "compare"))


def _task(request: HttpRequest, job_id: uuid.UUID, task_id: uuid.UUID, kind: str) -> Task:
    row = Task.objects.filter(id=task_id, job=own_job(request.user, job_id), kind=kind).first()
    if row is None:
        raise ContourError("not-found", "the job has no such comparison", remedy="ask for it again")
    return row


@router.get("/{job_id}/compare/{task_id}/view")
def compared_view(request: HttpRequest, job_id: uuid.UUID, task_id: uuid.UUID) -> HttpResponse:
    """The later bodies with how far each place moved, as a view buffer."""
    row = _task(request, job_id, task_id, "compare")
    path = delivery_path(row)
    if row.status != "done" or not json.loads(row.result or "{}").get("moved") or not path.exists():
        raise ContourError("not-found", "there is no map of what moved")
    return FileResponse(path.open("rb"), content_type="application/octet-stream")


@router.post("/{job_id}/variants", response=VariantsTask)
def build_variants(request: HttpRequest, job_id: uuid.UUID) -> VariantsTask:
    """The job as it stands and each of its variants, built and measured."""
    job = own_job(request.user, job_id)
    assert job.head is not None
    if not recipe_of(job).variants:
        raise ContourError("not-found", "the job has no variants", remedy="add one, and say what it has otherwise")
    payload = {"recipe": job.head.recipe}
    row = Task.objects.create(owner=request.user, job=job, revision=job.head, kind="variants", payload=payload)
    return task_out(VariantsTask, enqueue(row))


@router.get("/{job_id}/variants/{task_id}", response=VariantsTask)
def variants_built(request: HttpRequest, job_id: uuid.UUID, task_id: uuid.UUID) -> VariantsTask:
    return task_out(VariantsTask, _task(request, job_id, task_id, "variants"))


@router.post("/{job_id}/return", response=JobOut)
def go_back(request: HttpRequest, job_id: uuid.UUID, body: ReturnIn) -> JobOut:
    job = own_job(request.user, job_id)
    checkpoint = _own(job, body.checkpoint)
    return job_out(return_to(job, body.version, checkpoint.revision, checkpoint.name))


@router.post("/{job_id}/duplicate", response=JobOut)
def copy(request: HttpRequest, job_id: uuid.UUID, body: DuplicateIn) -> JobOut:
    job = own_job(request.user, job_id)
    recipe = _state(job, body.checkpoint)
    return job_out(duplicate(request.user, recipe, (body.name or "").strip() or f"{recipe.name} (copy)"))


@router.get("/{job_id}/steps/{step}/dependents", response=list[StepName])
def hanging(request: HttpRequest, job_id: uuid.UUID, step: str) -> list[dict[str, str]]:
    """Steps that would lose something without this one."""
    recipe = recipe_of(own_job(request.user, job_id))
    return [{"id": s.id, "name": s.name} for s in dependents(recipe, recipe.step(step).id)]
