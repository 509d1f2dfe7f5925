"""Work in a child process that can be killed: progress over a pipe, time and memory limits, crashes as problems.

Children come from a fork server that has the kernel and the numeric kernels loaded, so that one starts in some
50 ms. A child ends by itself when its parent is gone: its pipe breaks.
"""

from __future__ import annotations

import contextlib
import importlib
import multiprocessing
import os
import resource
import sys
import threading
import time
from collections.abc import Callable
from multiprocessing.connection import Connection
from typing import Any

from contour.exchange.limits import may_be_lost
from contour.recipe.problem import ContourError, Problem

__all__ = ["ChildDied", "run_in_child", "warm_up"]

_PRELOAD = ["contour.job.tasks", "contour.job.warm"]
_context = multiprocessing.get_context("forkserver")
_context.set_forkserver_preload(_PRELOAD)

Event = dict[str, Any]


class ChildDied(ContourError):
    """The child ended without a word; `exitcode` is minus the signal that ended it, none when it was not seen to end."""

    def __init__(self, exitcode: int | None) -> None:
        self.exitcode = exitcode
        super().__init__(
            "crashed", "the process doing this work died", got=f"exit code {exitcode}",
            remedy="try again; if it dies again, change the last value",
        )  # fmt: skip


def _child(pipe: Connection, task: str, payload: dict[str, Any], memory_bytes: int) -> None:
    # The kernel prints; the parent's stdout may be somebody's JSON.
    with contextlib.suppress(OSError):
        quiet = os.open(os.devnull, os.O_WRONLY)
        os.dup2(quiet, 1)
    with contextlib.suppress(ValueError, OSError):
        resource.setrlimit(resource.RLIMIT_DATA, (memory_bytes, memory_bytes))
    may_be_lost()
    lock = threading.Lock()

    def send(kind: str, value: Any) -> None:
        try:
            with lock:
                pipe.send((kind, value))
        except (BrokenPipeError, OSError):
            os._exit(3)  # nobody listens any more

    def beat() -> None:
        while True:
            time.sleep(1.0)
            send("beat", None)

    threading.Thread(target=beat, daemon=True).start()
    try:
        module = importlib.import_module("contour.job.tasks")
        result = module.TASKS[task](payload, lambda event: send("event", event))
        send("done", result)
    except ContourError as error:
        send("problem", error.problem.model_dump(mode="json"))
    except MemoryError:
        send("problem", Problem(code="out-of-memory", message="this needs more memory than one task may take",
                                remedy="thin the scan out").model_dump(mode="json"))  # fmt: skip
    except Exception as error:
        # The border of the process: whatever it is must reach the person as a problem, not as silence.
        import traceback

        traceback.print_exc(file=sys.stderr)
        send("problem", Problem(code="crashed", message=f"the task ended with {type(error).__name__}: {error}"[:300],
                                remedy="undo the last change; the job is as it was").model_dump(mode="json"))  # fmt: skip


def run_in_child(
    task: str,
    payload: dict[str, Any],
    *,
    on_event: Callable[[Event], None] = lambda _: None,
    cancelled: Callable[[], bool] = lambda: False,
    time_limit_s: float = 600.0,
    stage_limit_s: float | None = None,
    memory_bytes: int = 6 * 2**30,
) -> Any:
    """Run a task of ``contour.job.tasks.TASKS`` and return its result. `stage_limit_s`: the longest time between two events.

    Raises ContourError with the task's own problem, or cancelled, time-limit; ChildDied. The child is killed for good in
    each of these cases.
    """
    ours, theirs = _context.Pipe(duplex=False)
    process = _context.Process(target=_child, args=(theirs, task, payload, memory_bytes), daemon=True)
    process.start()
    theirs.close()
    deadline = time.monotonic() + time_limit_s
    stage_began = time.monotonic()
    try:
        while True:
            if cancelled():
                raise ContourError("cancelled", "the task was cancelled")
            now = time.monotonic()
            late = now > deadline
            if late or (stage_limit_s is not None and now - stage_began > stage_limit_s):
                raise ContourError(
                    "time-limit", "the task took too long and was ended", got=f"over {time_limit_s if late else stage_limit_s:.0f} s",
                    remedy="undo the last change, or try with a thinner scan",
                )  # fmt: skip
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
            elif kind == "problem":
                raise ContourError.of(Problem.model_validate(value))
    finally:
        if process.is_alive():
            process.kill()
        process.join(5)
        ours.close()


def warm_up() -> None:
    """Start the fork server before the first person waits for it."""
    run_in_child("ping", {})
