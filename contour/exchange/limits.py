"""A limit that also holds inside the kernel, which can neither be interrupted nor asked to stop: the process ends.

Only a process that may be lost (a child that somebody watches) is ended so; everywhere else the limit is not kept.
"""

from __future__ import annotations

import contextlib
import signal
import threading
from collections.abc import Iterator
from pathlib import Path

__all__ = ["file_limit_s", "hard_limit", "may_be_lost"]

_expendable = False


def may_be_lost() -> None:
    """Said once by a child at its start: whoever started it knows what its death means."""
    global _expendable
    _expendable = True


def file_limit_s(path: Path) -> float:
    """Seconds that a file from outside may take: fifteen, and three for every MB. Sound files take a tenth of it."""
    return 15.0 + 3.0 * path.stat().st_size / 2**20


@contextlib.contextmanager
def hard_limit(seconds: float) -> Iterator[None]:
    """Ends this process by SIGALRM when what is done inside takes longer. The default action acts at once, even while the
    interpreter is held by the kernel.

    seconds: of real time.
    """
    if not _expendable or threading.current_thread() is not threading.main_thread():
        yield
        return
    before = signal.signal(signal.SIGALRM, signal.SIG_DFL)
    signal.setitimer(signal.ITIMER_REAL, seconds)
    try:
        yield
    finally:
        signal.setitimer(signal.ITIMER_REAL, 0)
        signal.signal(signal.SIGALRM, before)
