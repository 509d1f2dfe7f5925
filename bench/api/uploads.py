"""Bringing a scan in: streamed to disk, hashed, read by a child; the unit is asked for afterwards."""

from __future__ import annotations

import hashlib
import os
import uuid
from datetime import timedelta
from typing import Any, Literal

from django.conf import settings
from django.db import transaction
from django.db.models import Sum
from django.http import HttpRequest
from django.utils import timezone
from ninja import File, Router, Schema
from ninja.files import UploadedFile

from bench.api.task_out import Progress
from bench.blobs import claim
from bench.models import Task, Upload
from bench.store import store
from bench.work import build_again, enqueue
from contour.exchange.scanfile import MAX_BYTES
from contour.recipe.formula import LengthUnit
from contour.recipe.problem import ContourError, Problem, Where

router = Router(tags=["uploads"])


class MeshFileFacts(Schema):
    """A scan file, in its own unit as if that were mm. unit_said: the format has a unit, which unit_guess then is · made: by a scanner or a modeller ·
    noise: of one that was modelled how exactly its vertices are given."""

    facets: int
    vertices: int
    size: tuple[float, float, float]
    area: float
    volume: float | None
    closed: bool
    open_edges: int
    noise: float
    made: Literal["scanned", "modelled", "mixed"] = "scanned"
    unit_guess: LengthUnit
    unit_said: bool = False
    warnings: list[str]


class FileBody(Schema):
    """A body of a file. closed: a solid, not an open body."""

    name: str
    colour: str | None
    closed: bool
    faces: int


class SolidFileFacts(Schema):
    """A file of solids. unit_mm: of one unit of it, as it says · size: of everything together, mm, if that is believed · sewn: from
    loose faces · doubt: the unit that is likelier."""

    bodies: list[FileBody]
    faces: int
    unit_mm: float
    size: tuple[float, float, float]
    sewn: bool
    doubt: LengthUnit | None


FileFacts = MeshFileFacts | SolidFileFacts


class UploadOut(Schema):
    """facts: once status is done."""

    id: uuid.UUID
    name: str
    size: int
    status: str
    progress: Progress | None
    facts: FileFacts | None
    problem: Problem | None


def _out(upload: Upload) -> UploadOut:
    row = Task.objects.filter(upload=upload).order_by("-created").first()
    return UploadOut(
        id=upload.id,
        name=upload.name,
        size=upload.size,
        status=row.status if row else "done",
        progress=Progress.model_validate(row.progress) if row and row.progress else None,
        facts=upload.facts,
        problem=row.problem if row else None,
    )


def _within_limits(owner: Any) -> None:
    """What one account may bring in: nobody fills the disk for all. Raises ContourError (flood)."""
    now, mine = timezone.now(), Upload.objects.filter(owner=owner)
    lately = mine.filter(created__gt=now - timedelta(hours=1)).count()
    brought = mine.filter(created__gt=now - timedelta(days=1)).aggregate(total=Sum("size"))["total"] or 0
    if lately >= settings.UPLOADS_PER_HOUR or brought >= settings.UPLOAD_BYTES_PER_DAY:
        raise ContourError(
            "flood",
            "this account has brought in as much as it may for now",
            got=f"{lately} files in an hour, {brought / 2**30:.1f} GB in a day",
            need=f"less than {settings.UPLOADS_PER_HOUR} an hour and {settings.UPLOAD_BYTES_PER_DAY / 2**30:.0f} GB a day",
            remedy="wait an hour",
        )


@router.post("", response=UploadOut)
def bring_in(request: HttpRequest, file: File[UploadedFile]) -> UploadOut:
    name = os.path.basename(file.name or "scan")[:200]
    if not file.size:
        raise ContourError(
            "file-empty", "the file has no bytes", where=Where(file=name), remedy="export the scan again"
        )
    if file.size > MAX_BYTES:
        raise ContourError(
            "file-too-large",
            "the file is too large",
            where=Where(file=name),
            got=f"{file.size / 2**20:.0f} MB",
            need=f"at most {MAX_BYTES // 2**20} MB",
            remedy="thin the scan out first",
        )
    _within_limits(request.user)
    digest = hashlib.sha256()
    draft = store().blobs / f".upload-{uuid.uuid4()}"
    with draft.open("wb") as out:
        for chunk in file.chunks():
            digest.update(chunk)
            out.write(chunk)
    store().adopt_blob(draft, digest.hexdigest())
    with transaction.atomic():
        upload = Upload.objects.create(owner=request.user, name=name, blob=digest.hexdigest(), size=file.size)
        claim(request.user, upload.blob)
        build_again(request.user, upload.blob)
        enqueue(Task.objects.create(owner=request.user, upload=upload, kind="inspect"))
    return _out(upload)


@router.get("/{upload_id}", response=UploadOut)
def look(request: HttpRequest, upload_id: uuid.UUID) -> UploadOut:
    upload = Upload.objects.filter(id=upload_id, owner=request.user).first()
    if upload is None:
        raise ContourError("not-found", "there is no such upload")
    return _out(upload)


def facts_of(owner: Any, blob: str) -> dict[str, Any] | None:
    """Facts of a scan by its bytes, in file units."""
    upload = Upload.objects.filter(owner=owner, blob=blob).exclude(facts=None).first()
    return upload.facts if upload else None
