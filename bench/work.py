"""Background work: what is queued, who takes it, and what becomes of it when nobody does. Computing itself is in bench.compute."""

from __future__ import annotations

import json
import logging
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
from pydantic import ValidationError

from bench.compute import ATTEMPTS, see_through
from bench.ledger import DatabaseLedger, order_of
from bench.models import Job, Task
from bench.store import store
from contour.job.build.keys import keys_in_result, rules_key
from contour.job.build.result import BuildResult
from contour.job.work.runner import warm_up
from contour.recipe.problem import ContourError, Problem

__all__ = [
    "build_again",
    "build_anew",
    "build_missing",
    "built_result",
    "cancel_builds",
    "enqueue",
    "enqueue_build",
    "hand_over",
    "look_after",
    "next_turn",
    "pinned_keys",
    "sweep",
    "wait_for",
]

log = logging.getLogger(__name__)

STALE = timedelta(seconds=3)
MOST_WAITING = 30
_TRIM_EVERY_S = 60.0


def enqueue(row: Task) -> Task:
    """Hand a saved row to the queue once its transaction is through; a person whose other work runs waits for its end.

    Raises ContourError (flood), and the row is gone, for somebody who has asked for more than can wait.
    """
    waiting = Task.objects.filter(owner=row.owner, status="queued", cancel=False).exclude(kind="build").count()
    if row.kind != "build" and waiting > MOST_WAITING:
        row.delete()
        raise ContourError(
            "flood",
            "too much of your work waits to be done",
            got=f"{waiting - 1} tasks",
            need=f"at most {MOST_WAITING}",
            remedy="wait until some of it is done, or cancel it",
        )
    transaction.on_commit(lambda: hand_over(str(row.id)))
    return row


def is_busy(owner: Any) -> bool:
    """Whether something of theirs runs now: one child per person at a time, so that nobody's many tasks take the others' turns."""
    return Task.objects.filter(owner=owner, status="running").exclude(_not_lately("heartbeat")).exists()


def next_turn(owner: Any) -> None:
    """The person's task whose turn it is, once they are free. Each end of a task calls this: nobody asks again and again."""
    mine = Task.objects.filter(owner=owner, status="queued")
    mine.filter(cancel=True).update(status="cancelled")
    row = mine.in_turn().first()
    if row is not None:
        hand_over(str(row.id))


def wait_for(job: uuid.UUID) -> None:
    """Somebody looks at the job: of all that waits of theirs, its build is next."""
    waiting = Task.objects.filter(job=job, kind="build", status="queued")
    if waiting.exists():  # a poll that finds nothing to do writes nothing
        waiting.update(wanted=timezone.now())


def cancel_builds(job: Job) -> None:
    Task.objects.filter(job=job, kind="build", status__in=["queued", "running"]).update(cancel=True)


def build_again(owner: AbstractBaseUser, digest: str) -> None:
    """Build the owner's jobs anew that have missed a file which is there now."""
    for job in Job.objects.select_related("head").filter(owner=owner, head__recipe__contains=digest):
        missed = Task.objects.filter(revision=job.head, kind="build", status="done", result__contains='"file-missing"')
        if missed.exists():  # any other job is whole, or on its way to be
            enqueue_build(job)


def enqueue_build(job: Job) -> None:
    """Build the job's head; a build of an older head is ended. A head that was built by today's rules and is still there is left."""
    assert job.head is not None
    cancel_builds(job)
    done = Task.objects.filter(revision=job.head, kind="build", status="done").order_by("-created").first()
    if done is not None and _by_rules(done) and _whole(json.loads(done.result)) and '"file-missing"' not in done.result:
        Task.objects.filter(id=done.id).update(changed=timezone.now())
        return
    payload = {"rules": rules_key()}
    row = Task.objects.create(owner=job.owner, job=job, revision=job.head, kind="build", payload=payload)
    enqueue(row)


def _by_rules(built: Task) -> bool:
    return bool(built.payload.get("rules") == rules_key())


def built_result(built: Task) -> dict[str, Any] | None:
    """What a build has found, as it was kept; none before it has, and none where a version that told it otherwise has kept it."""
    if not built.result:
        return None
    result: dict[str, Any] = json.loads(built.result)
    if not _by_rules(built):
        try:
            BuildResult.model_validate(result)
        except ValidationError:
            return None
    return result


def build_anew(job: Job) -> None:
    """Build the head again where it was built by other rules: by an earlier version of this program."""
    last = Task.objects.filter(revision=job.head, kind="build").order_by("-created").first()
    if last is not None and last.status == "done" and not _by_rules(last):
        enqueue_build(job)


def build_missing(job: Job) -> None:
    """Build the head again because something of it is gone; a build that is on its way will do."""
    if not Task.objects.filter(
        revision=job.head, kind="build", status__in=["queued", "running"], cancel=False
    ).exists():
        enqueue_build(job)


def _whole(result: dict[str, Any]) -> bool:
    return all(store().has(key) for key in keys_in_result(result))


def pinned_keys() -> set[str]:
    """Products of every job's head: never trimmed."""
    keys: set[str] = set()
    heads = Task.objects.filter(kind="build", revision__in=Job.objects.values("head")).exclude(result="")
    for text in heads.values_list("result", flat=True):
        keys.update(keys_in_result(json.loads(text)))
    return keys


def hand_over(task_id: str, *, delay: float = 0.0) -> None:
    """To whoever computes: workers on other machines by way of Redis, or this machine's own."""
    if settings.REDIS:
        from bench.remote import offer

        row = Task.objects.select_related("job", "revision", "upload").filter(id=task_id, status="queued").first()
        if row is not None:
            offer(order_of(row), delay=delay)
    elif delay:
        perform.schedule((task_id,), delay=delay)
    else:
        perform(task_id)


@task()
def perform(task_id: str) -> None:
    """Claim one row and see it through. A row that somebody else claimed, or that is over, is left alone."""
    close_old_connections()
    claim = uuid.uuid4()
    with transaction.atomic():  # two workers may ask for two rows of one person at the same moment
        row = Task.objects.select_related("job", "revision", "upload").filter(id=task_id, status="queued").first()
        if row is None:
            return
        if row.cancel:
            Task.objects.filter(id=task_id, status="queued").update(status="cancelled")
            return
        won = not is_busy(row.owner) and Task.objects.filter(id=task_id, status="queued").update(
            status="running", claim=claim, heartbeat=timezone.now(), attempts=row.attempts + 1, progress={}
        )
    if won:  # else its turn comes when what runs has ended
        see_through(order_of(row), DatabaseLedger(task_id, claim))


def delivery_path(row: Task) -> Path:
    """Where a delivery's file lies; deliveries are kept."""
    return Path(settings.DELIVERIES) / f"{row.id}.{row.kind}"


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
            hand_over(str(row.id))
            lost += 1
    left = Task.objects.filter(_not_lately("changed"), status="queued").in_turn()
    for row in {row.owner_id: row for row in reversed(left)}.values():  # the next of each person
        if not is_busy(row.owner_id) and Task.objects.filter(id=row.id, status="queued", changed=row.changed).update(
            changed=now
        ):
            hand_over(str(row.id))
            lost += 1
    return lost


_trim_at = 0.0


def look_after() -> None:
    """What somebody must do every now and then: pick up lost work, and keep the store within its size."""
    global _trim_at
    sweep()
    if time.monotonic() > _trim_at:
        _trim_at = time.monotonic() + _TRIM_EVERY_S
        store().trim(pinned_keys(), settings.PRODUCT_CACHE_BYTES)


@on_startup()
def _start_sweeping() -> None:
    """The first worker thread that starts also keeps watch, unless a supervisor does."""
    if not _watch.acquire(blocking=False):
        return

    def watch() -> None:
        warm_up()
        while not settings.REDIS:
            close_old_connections()
            try:
                look_after()
            except Exception:  # a locked database now is a free one in two seconds
                log.exception("sweep")
            time.sleep(2.0)

    threading.Thread(target=watch, daemon=True).start()


_watch = threading.Lock()
