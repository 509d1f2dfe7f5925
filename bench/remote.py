"""Workers on several machines. They meet in Redis and in a shared folder; only the web machine opens the database.

A worker takes an order from the queue, holds its lease (and its owner's: one child per person at a time) in Redis while it
computes, and reports claim, heartbeat, progress and result on a list. The supervisor beside the web process writes what is
reported into the rows, in the order it was reported, each exactly once: a report leaves the list only after its row was written.
"""

from __future__ import annotations

import json
import logging
import threading
import time
import uuid
from functools import cache
from typing import Any

import redis
from django.conf import settings
from django.db import close_old_connections
from django.utils import timezone
from huey.contrib.djhuey import task

from bench.compute import Order, see_through
from contour.recipe.problem import Problem

__all__ = ["RedisLedger", "compute", "offer", "supervise"]

log = logging.getLogger(__name__)

_REPORTS, _TAKING = "contour:reports", "contour:reports:taking"
_LEASE_S, _CANCEL_S = 5, 3600


@cache
def _redis() -> redis.Redis:
    return redis.Redis.from_url(settings.REDIS, decode_responses=True, socket_keepalive=True, health_check_interval=15)


def _lease(task_id: str) -> str:
    return f"contour:lease:{task_id}"


def _turn(owner: str) -> str:
    return f"contour:turn:{owner}"


def _cancel(name: str) -> str:
    return f"contour:cancel:{name}"


class RedisLedger:
    """A claimed row on another machine (see :class:`bench.compute.Ledger`): leases are renewed here, all else is reported."""

    def __init__(self, order: Order, claim: str) -> None:
        self.order, self.claim = order, claim

    def report(self, what: str, **more: Any) -> None:
        _redis().rpush(_REPORTS, json.dumps({"task": self.order.task, "claim": self.claim, "what": what, **more}))

    def take(self) -> bool:
        """The lease of the task, if nobody has it and it is this owner's turn."""
        r = _redis()
        if not r.set(_lease(self.order.task), self.claim, nx=True, ex=_LEASE_S):
            return False
        self.report("claimed")
        return True

    def turn(self) -> bool:
        return bool(_redis().set(_turn(self.order.owner), self.claim, nx=True, ex=_LEASE_S))

    def release(self) -> None:
        r = _redis()
        for key in (_turn(self.order.owner), _lease(self.order.task)):
            if r.get(key) == self.claim:
                r.delete(key)

    def beat(self) -> None:
        r = _redis()
        for key in (_turn(self.order.owner), _lease(self.order.task)):
            if r.get(key) == self.claim:
                r.expire(key, _LEASE_S)
        self.report("beat")

    def cancelled(self) -> bool:
        return bool(_redis().exists(_cancel(self.order.task), _cancel(self.claim)))

    def event(self, event: dict[str, Any]) -> None:
        self.report("event", event=event)

    def done(self, result: dict[str, Any]) -> None:
        self.report("done", result=result)

    def ended(self) -> None:
        self.report("ended")

    def again(self) -> None:
        self.report("again")

    def failed(self, problem: Problem) -> None:
        self.report("failed", problem=problem.model_dump(mode="json"))


@task()
def compute(order: dict[str, Any]) -> None:
    """On a worker: claim one order and see it through."""
    ledger = RedisLedger(Order(**order), str(uuid.uuid4()))
    if not ledger.turn():
        return  # something of theirs runs: the supervisor offers this again when that has ended
    try:
        if ledger.take():
            see_through(ledger.order, ledger)
    finally:
        ledger.release()


def offer(order: Order, *, delay: float = 0.0) -> None:
    """Put an order into the queue that all workers take from."""
    _redis().delete(_cancel(order.task))
    if delay:
        compute.schedule((order.as_json(),), delay=delay)
    else:
        compute(order.as_json())


def _apply(report: dict[str, Any]) -> None:
    """Write one report into its row. What is not the row's present claim changes nothing, and its worker is told to stop."""
    from bench.ledger import DatabaseLedger
    from bench.models import Task

    ledger, what = DatabaseLedger(report["task"], report["claim"]), report["what"]
    if what == "claimed":
        row = Task.objects.filter(id=report["task"], status="queued")
        first = row.values_list("attempts", "cancel").first()
        won = first is not None and row.update(
            status="cancelled" if first[1] else "running",
            claim=report["claim"],
            heartbeat=timezone.now(),
            attempts=first[0] + 1,
            progress={},
        )
        if not won or first[1]:
            _redis().set(_cancel(report["claim"]), "1", ex=_CANCEL_S)
    elif what == "beat":
        ledger.beat()
    elif what == "event":
        ledger.event(report["event"])
    elif what == "done":
        ledger.done(report["result"])
    elif what == "ended":
        ledger.ended()
    elif what == "again":
        ledger.again()
    elif what == "failed":
        ledger.failed(Problem.model_validate(report["problem"]))


def _pass_on_cancels() -> None:
    from bench.models import Task

    for task_id in Task.objects.filter(cancel=True, status__in=["queued", "running"]).values_list("id", flat=True):
        if _redis().set(_cancel(str(task_id)), "1", ex=_CANCEL_S, nx=True):
            Task.objects.filter(id=task_id, status="queued").update(status="cancelled")


def supervise(stop: threading.Event | None = None) -> None:
    """On the web machine, for good: reports into rows, cancels out, and again whatever has lost its worker."""
    from bench.work import look_after

    stop = stop or threading.Event()
    r = _redis()
    while r.lmove(_TAKING, _REPORTS, "RIGHT", "LEFT"):  # what a supervisor before this one had begun
        pass
    looked = passed = 0.0
    while not stop.is_set():
        try:
            text = r.blmove(_REPORTS, _TAKING, 0.2, "LEFT", "RIGHT")
            close_old_connections()
            if text:
                _apply(json.loads(text))
                r.lrem(_TAKING, 1, text)
            now = time.monotonic()
            if now - passed > 0.2:
                passed = now
                _pass_on_cancels()
            # Only with nothing left to read: a row must not be taken for dead while its heartbeat waits in the list.
            if not text and now - looked > 2.0:
                looked = now
                look_after()
        except Exception:  # Redis or the database out of reach: both come back, and nothing was taken off the list
            log.exception("supervisor")
            time.sleep(0.5)
            while r.lmove(_TAKING, _REPORTS, "RIGHT", "LEFT") if _reachable() else False:
                pass


def _reachable() -> bool:
    try:
        return bool(_redis().ping())
    except redis.RedisError:
        return False
