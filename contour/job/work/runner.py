"""Work in a child process that can be killed: progress over a pipe, time and memory limits, crashes as problems.

Children come from a fork server that has the kernel and the numeric kernels loaded, so that one starts in some
50 ms. A child ends by itself when its parent is gone: its pipe breaks.
"""

from __future__ import annotations

import contextlib
import importlib
import logging
import multiprocessing
import os
import resource
import threading
import time
from collections.abc import Callable, Iterator
from multiprocessing import forkserver
from multiprocessing.connection import Connection
from typing import Any

from contour.exchange.limits import may_be_lost
from contour.recipe.problem import ContourError, Problem

__all__ = [
    "MEMORY_BYTES",
    "ChildDied",
    "Event",
    "Send",
    "answer",
    "begun",
    "context",
    "heard",
    "in_use",
    "rest_when_idle",
    "run_in_child",
    "settle",
    "took_too_long",
    "warm_up",
    "warm_up_soon",
    "was_cancelled",
]

log = logging.getLogger(__name__)

_PRELOAD = ["contour.job.work.tasks", "contour.job.work.warm"]
context = multiprocessing.get_context("forkserver")
context.set_forkserver_preload(_PRELOAD)

# Whoever waits for an answer in the parent comes first: a heavy task takes what is left of the cores, not half of them.
_NICE = 15

Event = dict[str, Any]
Send = Callable[[str, Any], None]
MEMORY_BYTES = 6 * 2**30


class ChildDied(ContourError):
    """The child ended without a word; `exitcode` is minus the signal that ended it, none when it was not seen to end."""

    def __init__(self, exitcode: int | None) -> None:
        self.exitcode = exitcode
        super().__init__(
            "crashed",
            "the process doing this work died",
            got=f"exit code {exitcode}",
            remedy="try again; if it dies again, change the last value",
        )


class _ToParent(logging.Handler):
    """What a child logs, tracebacks included, is kept where its parent's is."""

    def __init__(self, send: Callable[[str, Any], None]) -> None:
        super().__init__(logging.WARNING)
        self.sent = send

    def emit(self, record: logging.LogRecord) -> None:
        self.sent("log", (record.name, record.levelno, self.format(record)))


def _child(pipe: Connection, task: str, payload: dict[str, Any], memory_bytes: int) -> None:
    send = settle(pipe, memory_bytes, waited_for=False)

    def beat() -> None:
        while True:
            time.sleep(1.0)
            send("beat", None)

    threading.Thread(target=beat, daemon=True).start()
    answer(send, task, payload, lambda event: send("event", event))


def settle(pipe: Connection, memory_bytes: int, *, waited_for: bool) -> Send:
    """At the beginning of a child: what it may take, and how it tells its parent. waited_for: somebody looks at it as they type, so that it gets
    its full share of the cores."""
    # The kernel prints; the parent's stdout may be somebody's JSON.
    with contextlib.suppress(OSError):
        quiet = os.open(os.devnull, os.O_WRONLY)
        os.dup2(quiet, 1)
    with contextlib.suppress(ValueError, OSError):
        resource.setrlimit(resource.RLIMIT_DATA, (memory_bytes, memory_bytes))
    may_be_lost()
    if not waited_for:
        os.nice(_NICE)
    lock = threading.Lock()

    def send(kind: str, value: Any) -> None:
        try:
            with lock:
                pipe.send((kind, value))
        except (BrokenPipeError, OSError):
            os._exit(3)  # nobody listens any more

    logging.getLogger().addHandler(_ToParent(send))
    return send


def answer(send: Send, task: str, payload: dict[str, Any], report: Callable[[Event], None]) -> None:
    """Do one task and tell what came of it: done or a problem."""
    try:
        module = importlib.import_module("contour.job.work.tasks")
        result = module.TASKS[task](payload, report)
        send("done", result)
    except ContourError as error:
        send("problem", error.problem.model_dump(mode="json"))
    except MemoryError:
        send(
            "problem",
            Problem(
                code="out-of-memory",
                message="this needs more memory than one task may take",
                remedy="thin the scan out",
            ).model_dump(mode="json"),
        )
    except Exception as error:
        # The border of the process: whatever it is must reach the person as a problem, not as silence.
        log.error("task %s", task, exc_info=error)
        send(
            "problem",
            Problem(
                code="crashed",
                message=f"the task ended with {type(error).__name__}: {error}"[:300],
                remedy="undo the last change; the job is as it was",
            ).model_dump(mode="json"),
        )


def run_in_child(
    task: str,
    payload: dict[str, Any],
    *,
    on_event: Callable[[Event], None] = lambda _: None,
    cancelled: Callable[[], bool] = lambda: False,
    time_limit_s: float = 600.0,
    stage_limit_s: float | None = None,
    memory_bytes: int = MEMORY_BYTES,
) -> Any:
    """Run a task of ``contour.job.work.tasks.TASKS`` and return its result. `stage_limit_s`: the longest time between two events.

    Raises ContourError with the task's own problem, or cancelled, time-limit; ChildDied. The child is killed for good in
    each of these cases.
    """
    with in_use():
        return _run(task, payload, on_event, cancelled, time_limit_s, stage_limit_s, memory_bytes)


def _run(
    task: str,
    payload: dict[str, Any],
    on_event: Callable[[Event], None],
    cancelled: Callable[[], bool],
    time_limit_s: float,
    stage_limit_s: float | None,
    memory_bytes: int,
) -> Any:
    ours, theirs = context.Pipe(duplex=False)
    process = begun(_child, (theirs, task, payload, memory_bytes), (ours, theirs))
    theirs.close()
    deadline = time.monotonic() + time_limit_s
    stage_began = time.monotonic()
    try:
        while True:
            if cancelled():
                raise was_cancelled()
            now = time.monotonic()
            late = now > deadline
            if late or (stage_limit_s is not None and now - stage_began > stage_limit_s):
                raise took_too_long(float(time_limit_s if late or stage_limit_s is None else stage_limit_s))
            if not ours.poll(0.05):
                continue
            try:
                kind, value = ours.recv()
            except (EOFError, ConnectionError):
                process.join(2)
                raise ChildDied(process.exitcode) from None
            if kind == "event":
                stage_began = time.monotonic()
                on_event(value)
            elif kind == "done":
                return value
            else:
                heard(kind, value)
    finally:
        if process.is_alive():
            process.kill()
        process.join(5)
        ours.close()


def begun(target: Callable[..., None], args: tuple[Any, ...], pipes: tuple[Connection, ...]) -> Any:
    """A child from the fork server. Raises ChildDied, with the pipes closed, where that has just been killed: the next start begins another."""
    process = context.Process(target=target, args=args, daemon=True)
    try:
        process.start()
    except (EOFError, OSError):
        for pipe in pipes:
            pipe.close()
        raise ChildDied(None) from None
    return process


def heard(kind: str, value: Any) -> None:
    """What a child says beside its result: its log is kept; a problem is raised as ContourError."""
    if kind == "log":
        name, level, text = value
        logging.getLogger(name).log(level, "%s", text)
    elif kind == "problem":
        raise ContourError.of(Problem.model_validate(value))


def was_cancelled() -> ContourError:
    """The error of work that nobody wants any more."""
    return ContourError("cancelled", "the task was cancelled", got="a request to stop", remedy="start it again")


def took_too_long(limit_s: float) -> ContourError:
    """The error of work that was ended because it took longer than it may."""
    return ContourError(
        "time-limit",
        "the task took too long and was ended",
        got=f"over {limit_s:.0f} s",
        need="an end within its time",
        remedy="undo the last change, or try with a thinner scan",
    )


def warm_up() -> None:
    """Start the fork server before the first person waits for it."""
    run_in_child("ping", {})


class _Use:
    """How many children run, and when the last one ended: what is needed to let an idle fork server go."""

    def __init__(self) -> None:
        self.lock = threading.Lock()
        self.running = 0
        self.last = time.monotonic()
        self.warming = False


_use = _Use()


@contextlib.contextmanager
def in_use() -> Iterator[None]:
    """While a child runs: the fork server stays."""
    with _use.lock:
        _use.running += 1
    try:
        yield
    finally:
        with _use.lock:
            _use.running -= 1
            _use.last = time.monotonic()


def warm_up_soon() -> None:
    """The same in the background, unless it runs already or is on its way."""
    with _use.lock:
        if _use.warming or getattr(forkserver._forkserver, "_forkserver_pid", None) is not None:
            _use.last = time.monotonic()
            return
        _use.warming = True

    def work() -> None:
        try:
            warm_up()
        finally:
            _use.warming = False

    threading.Thread(target=work, daemon=True).start()


def rest_when_idle(after_s: float) -> None:
    """Ends the fork server once no child has run for so long: it holds the kernel in memory. The next child starts it again."""

    def watch() -> None:
        while True:
            time.sleep(min(after_s / 4, 15.0))
            with _use.lock:
                if _use.running == 0 and not _use.warming and time.monotonic() - _use.last > after_s:
                    forkserver._forkserver._stop()  # type: ignore[attr-defined]  # the library's own way, for its tests

    threading.Thread(target=watch, daemon=True).start()
