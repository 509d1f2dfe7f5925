"""Jobs: the shelf, one job's whole state, edits, undo and redo."""

from __future__ import annotations

import secrets
import uuid
from datetime import datetime
from typing import Any, Literal

from django.conf import settings
from django.http import FileResponse, HttpRequest, HttpResponse
from ninja import Router, Schema
from pydantic import Field

from bench.api.task_out import Progress
from bench.api.uploads import FileFacts, facts_of
from bench.jobs import begin_job, edit_job, head_build, import_recipe, move_head, own_job, recipe_of, undo_labels
from bench.models import Job, Task, Upload
from bench.work import build_anew, wait_for
from contour.job.build.result import BuildResult
from contour.job.edits.apply import Edit
from contour.job.work.runner import warm_up_soon
from contour.metrology.reading import ReadingFacts, all_readings
from contour.recipe.problem import ContourError, Problem
from contour.recipe.recipe import Recipe

router = Router(tags=["jobs"])
_STARTED = secrets.token_hex(4)


class Card(Schema):
    """A job on the shelf."""

    id: uuid.UUID
    name: str
    changed: datetime
    scans: int
    steps: int
    bodies: int
    closed: int | None = None  # none on cards that an earlier version has written
    failing: int = 0
    inside_share: float | None
    acceptance_mm: float
    unit: str
    picture: str | None


class EvidenceFacts(Schema):
    """Facts of a file that evidence came in."""

    id: str
    facts: FileFacts | None


class BuildOut(Schema):
    """How far the head's build is; result: what it found, or, while it runs, what the one before it did."""

    task: str | None
    status: Literal["queued", "running", "done", "failed", "cancelled"]
    current: bool
    progress: Progress | None
    problem: Problem | None
    result: BuildResult | None


class JobOut(Schema):
    """Everything the bench shows of a job. version goes back with every edit; readings: means and uncertainties by id."""

    id: uuid.UUID
    version: int
    revision: int
    recipe: Recipe
    evidence_facts: list[EvidenceFacts]
    readings: dict[str, ReadingFacts]
    build: BuildOut
    undo: str | None
    redo: str | None


class NewJob(Schema):
    """upload: none for a job that rests on readings alone."""

    upload: uuid.UUID | None = None
    name: str = Field(max_length=200)
    unit: Literal["mm", "cm", "m", "inch"]


class EditIn(Schema):
    version: int
    edit: Edit


class MoveIn(Schema):
    version: int
    direction: Literal["undo", "redo"]


def job_out(job: Job) -> JobOut:
    recipe = recipe_of(job)
    labels = undo_labels(job)
    assert job.head is not None
    return JobOut(
        id=job.id,
        readings=all_readings(recipe),
        version=job.version,
        revision=job.head.id,
        recipe=recipe,
        build=BuildOut.model_validate(head_build(job)),
        **labels,
        evidence_facts=[
            EvidenceFacts(id=e.id, facts=facts_of(job.owner, e.blob)) for e in (*recipe.scans, *recipe.solids)
        ],
    )


def _card(job: Job) -> Card:
    try:
        drawn = int((settings.THUMBNAILS / f"{job.id}.png").stat().st_mtime * 1000)
    except FileNotFoundError:
        drawn = None
    picture = f"/api/jobs/{job.id}/picture?{drawn}" if drawn is not None else None
    return Card(id=job.id, changed=job.changed, picture=picture, **job.card)


@router.get("", response=list[Card])
def shelf(request: HttpRequest) -> list[Card]:
    return [_card(job) for job in Job.objects.filter(owner=request.user, head__isnull=False)]


@router.post("", response=JobOut)
def begin(request: HttpRequest, body: NewJob) -> JobOut:
    if body.upload is None:
        unit = "inch" if body.unit == "inch" else "mm"
        return job_out(import_recipe(request.user, Recipe(name=body.name.strip() or "New job", unit=unit)))
    upload = Upload.objects.filter(id=body.upload, owner=request.user).first()
    if upload is None:
        raise ContourError("not-found", "there is no such upload", remedy="drop the file again")
    return job_out(begin_job(request.user, upload, name=body.name, unit=body.unit))


@router.get("/{job_id}", response=JobOut)
def look(request: HttpRequest, response: HttpResponse, job_id: uuid.UUID) -> JobOut | HttpResponse:
    """Whoever asks again while nothing has changed (every browser says what it has) is told just that."""
    tag = _tag(request.user, job_id)
    if tag:
        wait_for(job_id)
    if request.headers.get("If-None-Match") == tag:
        answer = HttpResponse(status=304)
        answer["ETag"] = tag
        return answer
    job = own_job(request.user, job_id)
    build_anew(job)
    warm_up_soon()  # whoever looks at a job will want previews of its values
    response["ETag"] = tag
    response["Cache-Control"] = "private, no-cache"
    return job_out(job)


def _tag(user: Any, job_id: uuid.UUID) -> str:
    """Changes with everything that :func:`job_out` tells: the head, and whatever becomes of the job's builds. Empty for a job that
    is not the user's. What an earlier version has answered may have had another shape: a server that is started anew knows no states."""
    version = Job.objects.filter(id=job_id, owner=user).order_by().values_list("version", flat=True).first()
    if version is None:
        return ""
    builds = Task.objects.filter(job=job_id, kind="build").order_by("-changed").values_list("id", "changed")
    id_, changed = builds.first() or ("", None)
    return f'"{_STARTED}-{version}-{id_}-{changed.timestamp() if changed else 0:.6f}"'


@router.get("/{job_id}/picture")
def picture(request: HttpRequest, job_id: uuid.UUID) -> HttpResponse:
    job = own_job(request.user, job_id)
    path = settings.THUMBNAILS / f"{job.id}.png"
    if not path.exists():
        raise ContourError("not-found", "there is no picture yet")
    return FileResponse(path.open("rb"), content_type="image/png")


@router.post("/{job_id}/edits", response=JobOut)
def edit(request: HttpRequest, job_id: uuid.UUID, body: EditIn) -> JobOut:
    return job_out(edit_job(own_job(request.user, job_id), body.version, body.edit))


@router.post("/{job_id}/head", response=JobOut)
def move(request: HttpRequest, job_id: uuid.UUID, body: MoveIn) -> JobOut:
    return job_out(move_head(own_job(request.user, job_id), body.version, body.direction))


@router.post("/{job_id}/cancel", response=JobOut)
def cancel(request: HttpRequest, job_id: uuid.UUID) -> JobOut:
    """End whatever runs for this job; what is done is kept."""
    job = own_job(request.user, job_id)
    Task.objects.filter(job=job, status__in=["queued", "running"]).update(cancel=True)
    return job_out(job)
