"""A child per job that stays for the next question: for previews, which are asked for with every key that is pressed; another for how they would fit the scan.

It has everything loaded and its memory at hand. A question that a newer one has overtaken is given up between two steps; a child that does not
come to that soon is killed, and the next question begins another.
"""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from multiprocessing.connection import Connection
from typing import Any

from contour.job.work.runner import (
    MEMORY_BYTES,
    ChildDied,
    Event,
    answer,
    begun,
    context,
    heard,
    in_use,
    settle,
    took_too_long,
    was_cancelled,
)

__all__ = ["ask_standby"]

_MOST = 4  # children that stand by: of two jobs, for pictures and for fits
_IDLE_S = 180.0
_QUESTIONS = 300  # then another child takes over: the kernel does not give back all that it takes
_GRACE_S = 1.0  # for giving up by itself


def _stand_by(orders: Connection, pipe: Connection) -> None:
    """The child: one question after the other until nobody asks any more. Nothing (None) stands for giving one up."""
    send = settle(pipe, MEMORY_BYTES, waited_for=True)

    def unless_overtaken(_: Event) -> None:
        if orders.poll():
            raise was_cancelled()

    for _ in range(_QUESTIONS):
        try:
            if not orders.poll(_IDLE_S):
                return
            order = orders.recv()
        except (EOFError, OSError):
            return  # the parent is gone
        if order is not None:
            answer(send, order[0], order[1], unless_overtaken)


@dataclass(slots=True)
class _Standby:
    """One child with its pipes; whoever holds the lock may ask."""

    lock: threading.Lock = field(default_factory=threading.Lock)
    process: Any = None
    orders: Connection | None = None
    answers: Connection | None = None
    used: float = 0.0

    def begin(self) -> tuple[Connection, Connection]:
        """Its pipes, of a new child where there is none."""
        if self.process is not None and self.process.is_alive() and self.orders and self.answers:
            return self.orders, self.answers
        self.end()
        theirs, self.orders = context.Pipe(duplex=False)
        self.answers, mine = context.Pipe(duplex=False)
        self.process = begun(_stand_by, (theirs, mine), (theirs, self.orders, self.answers, mine))
        theirs.close()
        mine.close()
        return self.orders, self.answers

    def end(self) -> None:
        if self.process is not None:
            self.process.kill()
            self.process.join(5)
        for pipe in (self.orders, self.answers):
            if pipe is not None:
                pipe.close()
        self.process = self.orders = self.answers = None


_standing: dict[str, _Standby] = {}
_guard = threading.Lock()


def _of(job: str) -> _Standby:
    """The job's child; that of the job which was longest not asked for goes where there are too many."""
    with _guard:
        own = _standing.setdefault(job, _Standby())
        own.used = time.monotonic()
        others = sorted((s.used, name) for name, s in _standing.items() if name != job)
        for _, name in others[: len(_standing) - _MOST]:
            if _standing[name].lock.acquire(blocking=False):
                gone = _standing.pop(name)
                gone.end()
                gone.lock.release()
        return own


def ask_standby(
    job: str, task: str, payload: dict[str, Any], *, cancelled: Callable[[], bool], time_limit_s: float
) -> Any:
    """Result of a task of ``contour.job.work.tasks.TASKS`` from the child that stands by for `job`.

    Raises ContourError with the task's own problem, or cancelled, time-limit; ChildDied.
    """
    standby = _of(job)
    while not standby.lock.acquire(timeout=0.01):
        if cancelled():
            raise was_cancelled()
    try:
        with in_use():
            return _asked(standby, task, payload, cancelled, time_limit_s)
    finally:
        standby.lock.release()


def _asked(
    standby: _Standby, task: str, payload: dict[str, Any], cancelled: Callable[[], bool], time_limit_s: float
) -> Any:
    answers = _ordered(standby, (task, payload))
    deadline = time.monotonic() + time_limit_s
    while True:
        late = time.monotonic() > deadline
        if late or cancelled():
            if late or not _gives_up(standby):
                standby.end()
            raise took_too_long(time_limit_s) if late else was_cancelled()
        try:
            if not answers.poll(0.01):
                continue
            kind, value = answers.recv()
        except (EOFError, OSError):
            standby.process.join(_GRACE_S)
            code = standby.process.exitcode
            standby.end()
            if code == 0:  # it went to rest just when it was asked
                return _asked(standby, task, payload, cancelled, time_limit_s)
            raise ChildDied(code) from None
        if kind == "done":
            return value
        heard(kind, value)


def _ordered(standby: _Standby, order: tuple[str, dict[str, Any]]) -> Connection:
    """Where the answer to an order will come."""
    for _ in range(2):
        orders, answers = standby.begin()
        try:
            orders.send(order)
            return answers
        except OSError:  # it has just gone to rest
            standby.end()
    raise ChildDied(None)


def _gives_up(standby: _Standby) -> bool:
    """Whether the child has left the question it was at, or answered it, soon enough to be asked again."""
    assert standby.orders is not None and standby.answers is not None
    try:
        standby.orders.send(None)
        until = time.monotonic() + _GRACE_S
        while standby.answers.poll(max(until - time.monotonic(), 0.0)):
            if standby.answers.recv()[0] in ("done", "problem"):
                return True
    except (EOFError, OSError):
        pass
    return False
