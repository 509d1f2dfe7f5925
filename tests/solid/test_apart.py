"""Questions that end the process they are asked in."""

from __future__ import annotations

import os
import signal
import time
from pathlib import Path

import pytest

from contour.solid.apart import holds_apart


def _crashes() -> bool:
    os.kill(os.getpid(), signal.SIGSEGV)
    return True


def _raises() -> bool:
    raise RuntimeError("the kernel throws whatever it likes")


@pytest.mark.parametrize(("ask", "said"), [(lambda: True, True), (lambda: False, False), (_crashes, False)])
def test_the_answer_is_what_is_said_or_no(ask, said):
    assert holds_apart(ask, limit_s=60) is said


def test_what_is_raised_stays_in_the_other_process(capfd):
    assert holds_apart(_raises, limit_s=60) is False


def test_what_takes_too_long_is_ended_and_answered_by_no():
    begun = time.monotonic()
    assert holds_apart(lambda: time.sleep(600) is None, limit_s=0.2) is False
    assert time.monotonic() - begun < 300


def test_what_is_changed_there_is_not_changed_here():
    listed: list[int] = []
    assert holds_apart(lambda: listed.append(1) is None, limit_s=60)
    assert listed == []


def test_it_ends_by_itself_when_whoever_asked_was_killed(tmp_path):
    told = tmp_path / "pid"

    def ask():
        told.write_text(str(os.getpid()))
        time.sleep(600)
        return True

    asking = os.fork()
    if asking == 0:
        holds_apart(ask, limit_s=2.0)
        os._exit(0)
    while not (told.exists() and told.read_text()):
        time.sleep(0.01)
    os.kill(asking, signal.SIGKILL)
    os.waitpid(asking, 0)
    status = Path(f"/proc/{told.read_text()}/stat")
    while status.exists() and status.read_text().rsplit(")", 1)[1].split()[0] != "Z":
        time.sleep(0.01)
