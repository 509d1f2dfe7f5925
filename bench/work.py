"""Background work: the queue's threads supervise, children compute, and the task table survives all of them."""

from __future__ import annotations

import json
import logging
import signal
import threading
import time
import uuid
from datetime import timedelta
from pathlib import Path
from typing import Any

from django.conf import settings
from django.contrib.auth.models import AbstractBaseUser
from django.db import close_old_connections, transaction
from django.db.models import Q
from django.utils import timezone
from huey.contrib.djhuey import on_startup, task

from bench.blobs import claim
from bench.faults import reported
from bench.models import Job, Task, Upload
from bench.store import store
from contour.job.building import build_in_children
from contour.job.keys import keys_in_result
from contour.job.runner import ChildDied, run_in_child, warm_up
from contour.recipe.problem import ContourError, Problem

__all__ = ["build_again", "cancel_builds", "enqueue", "enqueue_build", "pinned_keys", "sweep"]

log = logging.getLogger(__name__)

STALE = timedelta(seconds=3)
ATTEMPTS = 5
_BEAT_S = 0.6
_TRIM_EVERY_S = 60.0


def enqueue(row: Task) -> Task:
    """Hand a saved row to the queue once its transaction is through."""
    transaction.on_commit(lambda: perform(str(row.id)))
    return row


def cancel_builds(job: Job) -> None:
    Task.objects.filter(job=job, kind="build", status__in=["queued", "running"]).update(cancel=True)


def build_again(owner: AbstractBaseUser, digest: str) -> None:
    """Build the owner's jobs anew that have missed a file which is there now."""
    for job in Job.objects.select_related("head").filter(owner=owner, head__recipe__contains=digest):
        enqueue_build(job)


def enqueue_build(job: Job) -> None:
    """Build the job's head; a build of an older head is ended. A head that was built and is still there is left."""
    assert job.head is not None
    cancel_builds(job)
    done = Task.objects.filter(revision=job.head, kind="build", status="done").order_by("-created").first()
    if done is not None and _whole(json.loads(done.result)) and '"file-missing"' not in done.result:
        Task.objects.filter(id=done.id).update(changed=timezone.now())
        return
    row = Task.objects.create(owner=job.owner, job=job, revision=job.head, kind="build")
    enqueue(row)


def _whole(result: dict[str, Any]) -> bool:
    return all(store().has(key) for key in keys_in_result(result))


def pinned_keys() -> set[str]:
    """Products of every job's head: never trimmed."""
    keys: set[str] = set()
    heads = Task.objects.filter(kind="build", revision__in=Job.objects.values("head")).exclude(result="")
    for text in heads.values_list("result", flat=True):
        keys.update(keys_in_result(json.loads(text)))
    return keys


@task()
def perform(task_id: str) -> None:
    """Claim one row and see it through. A row that somebody else claimed, or that is over, is left alone."""
    close_old_connections()
    claim = uuid.uuid4()
    row = Task.objects.select_related("job", "revision", "upload").filter(id=task_id, status="queued").first()
    if row is None:
        return
    if row.cancel:
        Task.objects.filter(id=task_id, status="queued").update(status="cancelled")
        return
    busy = Task.objects.filter(owner=row.owner, status="running").exclude(_not_lately("heartbeat"))
    if busy.exists():  # one child per person at a time
        perform.schedule((task_id,), delay=0.1)
        return
    won = Task.objects.filter(id=task_id, status="queued").update(
        status="running", claim=claim, heartbeat=timezone.now(), attempts=row.attempts + 1, progress={}
    )
    if won:
        _see_through(row, claim)


def _see_through(row: Task, claim: uuid.UUID) -> None:
    mine = Task.objects.filter(id=row.id, claim=claim)
    over = threading.Event()

    def beat() -> None:
        while not over.wait(_BEAT_S):
            close_old_connections()
            mine.filter(status="running").update(heartbeat=timezone.now())

    threading.Thread(target=beat, daemon=True).start()
    checked = [0.0, False]

    def cancelled() -> bool:
        if time.monotonic() - float(checked[0]) > 0.15:
            checked[0] = time.monotonic()
            now = mine.values_list("cancel", flat=True).first()
            checked[1] = now is None or now  # no row of mine: somebody else took it over
        return bool(checked[1])

    def on_event(event: dict[str, Any]) -> None:
        fields: dict[str, Any] = {"heartbeat": timezone.now()}
        kind = event["event"]
        if kind == "geometry":
            fields["result"] = json.dumps(event["result"])
        elif kind in ("fit-sample", "fit-whole"):
            current = json.loads(mine.values_list("result", flat=True).first() or "{}")
            fields["result"] = json.dumps({**current, "fit": event["fit"]})
        elif kind != "step-done":
            fields["progress"] = event
        mine.update(**fields)

    try:
        if row.kind == "build":
            result = build_in_children(_payload(row), on_event=on_event, cancelled=cancelled)
        else:
            result = run_in_child(_CHILD[row.kind], _payload(row), on_event=on_event, cancelled=cancelled)
        _keep(row, mine, result)
    except ContourError as error:
        code = error.problem.code
        if code == "cancelled":
            mine.update(status="cancelled")
        elif isinstance(error, ChildDied) and error.exitcode == -signal.SIGKILL and row.attempts + 1 < ATTEMPTS:
            # The child was killed from outside: what it had finished is in the store, so trying again is cheap.
            mine.update(status="queued")
            perform.schedule((str(row.id),), delay=0.05)
        else:
            mine.update(status="failed", problem=error.problem.model_dump(mode="json"))
    except Exception as error:  # the border of the worker: a row must never be left running
        problem = reported(error, f"task {row.id} ({row.kind})")
        mine.update(status="failed", problem=problem.model_dump(mode="json"))
    finally:
        over.set()


_CHILD = {
    "inspect": "inspect", "step": "export-step", "stl": "export-mesh", "obj": "export-mesh", "ply": "export-mesh", "3mf": "export-mesh", "count": "count-stl",
    "compare": "compare", "propose": "propose", "scan-moved": "scan-moved", "virtual-scan": "virtual-scan", "segment": "segment",
}  # fmt: skip


def _payload(row: Task) -> dict[str, Any]:
    if row.kind == "inspect":
        assert row.upload is not None
        return {"path": str(store().blob(row.upload.blob)), "name": row.upload.name, "unit": "mm"}
    base = {"store": str(settings.STORE), **row.payload}
    if row.kind == "build":
        assert row.revision is not None
        assert row.job is not None
        settings.THUMBNAILS.mkdir(exist_ok=True)
        return {**base, "recipe": row.revision.recipe, "thumbnail": str(settings.THUMBNAILS / f"{row.job.id}.png")}
    if row.kind in ("step", "stl", "obj", "ply", "3mf", "compare", "scan-moved", "virtual-scan", "segment"):
        base["out"] = str(delivery_path(row))
    return base


def delivery_path(row: Task) -> Path:
    """Where a delivery's file lies; deliveries are kept."""
    settings.DELIVERIES.mkdir(exist_ok=True)
    return Path(settings.DELIVERIES) / f"{row.id}.{row.kind}"


def _keep(row: Task, mine: Any, result: dict[str, Any]) -> None:
    if row.kind == "inspect":
        assert row.upload is not None
        Upload.objects.filter(id=row.upload.id).update(facts=result["facts"], format=result["format"])
    if row.kind == "virtual-scan":
        result = {**result, "upload": str(_practice_upload(row, result))}
    mine.update(status="done", result=json.dumps(result), progress={})


def _practice_upload(row: Task, result: dict[str, Any]) -> uuid.UUID:
    """A virtual scan is an upload like any other; what it is of is known, and nothing more."""
    path = delivery_path(row)
    for digest in (result["blob"], result["labels"]):
        claim(row.owner, digest)
    upload = Upload.objects.create(
        owner=row.owner,
        name=result["name"],
        blob=result["blob"],
        size=path.stat().st_size,
        format="ply",
        facts=result["facts"],
    )
    return upload.id


def _not_lately(field: str) -> Q:
    """Rows without a sign of life: an old one, or one from a future that a clock set back has taken away."""
    now = timezone.now()
    return Q(**{f"{field}__lt": now - STALE}) | Q(**{f"{field}__gt": now + STALE})


def sweep() -> int:
    """Queue again what a dead worker left running or the queue lost; give up after a few attempts."""
    now = timezone.now()
    lost = 0
    for row in Task.objects.filter(_not_lately("heartbeat"), status="running"):
        same = Task.objects.filter(id=row.id, status="running", claim=row.claim, heartbeat=row.heartbeat)
        if row.attempts >= ATTEMPTS * 4:
            problem = Problem(
                code="crashed", message="this work was ended again and again", remedy="undo the last change"
            )
            same.update(status="failed", problem=problem.model_dump(mode="json"))
        elif same.update(status="queued", claim=None):
            perform(str(row.id))
            lost += 1
    for row in Task.objects.filter(_not_lately("changed"), status="queued"):
        if Task.objects.filter(id=row.id, status="queued", changed=row.changed).update(changed=now):
            perform(str(row.id))
            lost += 1
    return lost


@on_startup()
def _start_sweeping() -> None:
    """The first worker thread that starts also keeps watch."""
    if not _watch.acquire(blocking=False):
        return

    def watch() -> None:
        warm_up()
        trim_at = 0.0
        while True:
            close_old_connections()
            try:
                sweep()
                if time.monotonic() > trim_at:
                    trim_at = time.monotonic() + _TRIM_EVERY_S
                    store().trim(pinned_keys(), settings.PRODUCT_CACHE_BYTES)
            except Exception:  # a locked database now is a free one in two seconds
                log.exception("sweep")
            time.sleep(2.0)

    threading.Thread(target=watch, daemon=True).start()


_watch = threading.Lock()
