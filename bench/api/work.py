"""Long work of a person in one list: what it is doing, how far it is, and a way to stop it."""

from __future__ import annotations

import uuid
from typing import Literal

from django.http import HttpRequest
from django.utils import timezone
from ninja import Router, Schema
from pydantic import Field

from bench.models import Task
from contour.recipe.problem import ContourError

router = Router(tags=["work"])

# What kinds of work are called where they stand together.
TITLES = {
    "build": "building the job",
    "inspect": "reading a file",
    "step": "writing STEP",
    "stl": "writing STL",
    "obj": "writing OBJ",
    "ply": "writing PLY",
    "3mf": "writing 3MF",
    "count": "counting facets",
    "compare": "comparing two states",
    "variants": "building the variants",
    "propose": "looking for regions opposite faces",
    "scan-moved": "measuring what mends changed",
    "virtual-scan": "scanning virtually",
    "segment": "finding regions",
}
_TELLING_S = 2.0  # after so long the pace so far says something of what is left


class WorkOut(Schema):
    """title: what it is · doing: the stage it is in · share: of it that is done · left_s: time left by the pace so far; both none where it
    cannot be told."""

    id: uuid.UUID
    kind: str
    title: str
    job: uuid.UUID | None
    job_name: str = ""
    status: Literal["queued", "running"]
    doing: str = ""
    since_s: float = Field(ge=0)
    share: float | None = None
    left_s: float | None = None


def _share(row: Task) -> float | None:
    """A build tells which of how many steps it is at, a search how much of it is done."""
    told = row.progress
    done, total = told.get("done", told.get("index")), told.get("total", told.get("count"))
    return min(max(done / total, 0.0), 1.0) if isinstance(done, int | float) and total else None


def _out(row: Task) -> WorkOut:
    since = max((timezone.now() - row.created).total_seconds(), 0.0)
    share = _share(row) if row.status == "running" else None
    telling = share is not None and share > 0 and since > _TELLING_S
    return WorkOut(
        id=row.id,
        kind=row.kind,
        title=TITLES.get(row.kind, row.kind),
        job=row.job_id,
        job_name=row.job.card.get("name", "") if row.job else "",
        status="running" if row.status == "running" else "queued",
        doing=str(row.progress.get("name", "")),
        since_s=since,
        share=share,
        left_s=since * (1 - share) / share if telling and share else None,
    )


@router.get("", response=list[WorkOut])
def under_way(request: HttpRequest) -> list[WorkOut]:
    """Queued and running work, the longest under way first."""
    rows = Task.objects.filter(owner=request.user, status__in=["queued", "running"], cancel=False)
    return [_out(row) for row in rows.select_related("job").order_by("created")[:50]]


@router.delete("/{task_id}", response=list[WorkOut])
def stop(request: HttpRequest, task_id: uuid.UUID) -> list[WorkOut]:
    """Asks it to stop; what it was for stays as it is. Gives what is still under way."""
    mine = Task.objects.filter(id=task_id, owner=request.user)
    if not mine.exists():
        raise ContourError(
            "not-found",
            "there is no such work",
            got=str(task_id),
            need="work of yours",
            remedy="look at the list again",
        )
    mine.filter(status__in=["queued", "running"]).update(cancel=True)
    return under_way(request)
