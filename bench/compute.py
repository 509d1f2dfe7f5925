"""Seeing one task through: a child computes, and whoever keeps the row is told. It knows no database, so that it runs on any machine."""

from __future__ import annotations

import logging
import signal
import threading
import time
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any, Protocol

from django.conf import settings

from bench.faults import reported
from contour.job.work.children import build_in_children
from contour.job.work.runner import ChildDied, run_in_child
from contour.recipe.problem import ContourError, Problem

__all__ = ["ATTEMPTS", "CHILD", "SHARED", "Ledger", "Order", "see_through"]

log = logging.getLogger(__name__)

ATTEMPTS = 5
_BEAT_S, _ASK_S = 0.6, 0.15
SHARED = "shared:"  # begins a path in a payload that lies in the folder all machines have

# What a row's kind is in contour.job.work.tasks.
CHILD = {
    "inspect": "inspect",
    "step": "export-step",
    "stl": "export-mesh",
    "obj": "export-mesh",
    "ply": "export-mesh",
    "3mf": "export-mesh",
    "count": "count-stl",
    "compare": "compare",
    "variants": "variants",
    "propose": "propose",
    "scan-moved": "scan-moved",
    "virtual-scan": "virtual-scan",
    "segment": "segment",
}


@dataclass(frozen=True, slots=True)
class Order:
    """A task as it is handed to whoever computes it: plain data, paths relative to the shared folder."""

    task: str
    owner: str
    kind: str
    payload: dict[str, Any]
    attempts: int

    def as_json(self) -> dict[str, Any]:
        return asdict(self)


class Ledger(Protocol):
    """Where a task's row is kept, as the one who has claimed it sees it."""

    def beat(self) -> None: ...
    def cancelled(self) -> bool: ...
    def event(self, event: dict[str, Any]) -> None: ...
    def done(self, result: dict[str, Any]) -> None: ...
    def ended(self) -> None:
        """It was cancelled, and has stopped."""

    def again(self) -> None:
        """It was killed from outside: what it had finished is in the store, so trying again is cheap."""

    def failed(self, problem: Problem) -> None: ...


def _located(value: Any) -> Any:
    if isinstance(value, str) and value.startswith(SHARED):
        return str(Path(settings.SHARED) / value.removeprefix(SHARED))
    return value


def see_through(order: Order, ledger: Ledger) -> None:
    """Compute one claimed task and tell the ledger how it goes, whatever happens."""
    over = threading.Event()

    def beat() -> None:
        while not over.wait(_BEAT_S):
            try:
                ledger.beat()
            except Exception:  # a ledger out of reach for a moment: the next beat may arrive
                log.warning("no heartbeat for task %s", order.task, exc_info=True)

    threading.Thread(target=beat, daemon=True).start()
    asked, answer = 0.0, False

    def cancelled() -> bool:
        nonlocal asked, answer
        if time.monotonic() - asked > _ASK_S:
            asked, answer = time.monotonic(), ledger.cancelled()
        return answer

    payload = {k: _located(v) for k, v in order.payload.items()}
    try:
        if order.kind == "build":
            result = build_in_children(payload, on_event=ledger.event, cancelled=cancelled)
        else:
            result = run_in_child(CHILD[order.kind], payload, on_event=ledger.event, cancelled=cancelled)
        ledger.done(result)
    except ContourError as error:
        if error.problem.code == "cancelled":
            ledger.ended()
        elif isinstance(error, ChildDied) and error.exitcode == -signal.SIGKILL and order.attempts + 1 < ATTEMPTS:
            ledger.again()
        else:
            ledger.failed(error.problem)
    except Exception as error:  # the border of the worker: a row must never be left running
        problem = reported(error, f"task {order.task} ({order.kind})")
        if problem.code == "busy" and order.attempts + 1 < ATTEMPTS:
            ledger.again()  # what was computed is in the store: a database held for a while does not make it a failure
        else:
            ledger.failed(problem)
    finally:
        over.set()
