"""A question to the kernel in a process of its own: what it cannot answer without crashing or without end is answered by no."""

from __future__ import annotations

import faulthandler
import math
import os
import select
import signal
from collections.abc import Callable

__all__ = ["holds_apart"]


def holds_apart(ask: Callable[[], bool], *, limit_s: float) -> bool:
    """Whether `ask` says yes within `limit_s`; no when it raises, crashes or takes longer.

    The process is a copy of this one, so that `ask` may use any shape at hand; what it changes is lost with it.
    """
    pid = os.fork()
    if pid == 0:
        code = 1
        faulthandler.disable()  # a crash is an answer here, not news
        # Also when nobody waits any more because the parent was killed.
        signal.signal(signal.SIGALRM, signal.SIG_DFL)
        signal.alarm(math.ceil(max(limit_s, 0.0)) + 1)
        try:
            code = 0 if ask() else 1
        finally:
            os._exit(code)  # nothing of the parent is tidied up twice, whatever was raised
    handle = os.pidfd_open(pid)
    try:
        if not select.select([handle], [], [], max(limit_s, 0.0))[0]:
            os.kill(pid, signal.SIGKILL)
        return os.waitpid(pid, 0)[1] == 0
    finally:
        os.close(handle)
