"""Commands that read a solid from outside answer in a child: damaged STEP files crash the kernel, or keep it for ever."""

from __future__ import annotations

import argparse
import functools
import json
import os
import resource
import signal
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any

from contour.exchange.limits import may_be_lost
from contour.recipe.problem import ContourError, Problem, Where

__all__ = ["in_child"]

Handler = Callable[[argparse.Namespace], Any]
_MEMORY_BYTES = 6 * 2**30
_HERE = "CONTOUR_CHILD"


def in_child(option: str) -> Callable[[Handler], Handler]:
    """A handler that runs in a process of its own; `option`: the argument that names the STEP file."""

    def around(handler: Handler) -> Handler:
        @functools.wraps(handler)
        def answer(args: argparse.Namespace) -> Any:
            if os.environ.get(_HERE) == "1":
                may_be_lost()
                return handler(args)
            return _asked(args.argv, Path(getattr(args, option)).name)

        return answer

    return around


def _limited() -> None:
    resource.setrlimit(resource.RLIMIT_DATA, (_MEMORY_BYTES, _MEMORY_BYTES))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))


def _asked(argv: list[str], file: str) -> Any:
    command = [sys.executable, "-m", "contour.cli", "--json", *argv]
    done = subprocess.run(
        command,
        env={**os.environ, _HERE: "1"},
        capture_output=True,
        text=True,
        errors="replace",
        preexec_fn=_limited,
        check=False,
    )
    if done.returncode == 0:
        print(done.stderr, end="", file=sys.stderr)
        return json.loads(done.stdout)
    if done.returncode == 2:
        for line in done.stderr.splitlines()[:-1]:  # warnings; the last one is the error itself
            print(line, file=sys.stderr)
        raise ContourError.of(Problem.model_validate(json.loads(done.stdout)["problem"]))
    where = Where(file=file)
    if done.returncode == -signal.SIGALRM:
        raise ContourError(
            "time-limit",
            "reading this file took too long and was ended",
            where=where,
            got="no end yet",
            need="a file that is read within its time",
            remedy="export the solid again",
        )
    name = signal.Signals(-done.returncode).name if done.returncode < 0 else f"exit code {done.returncode}"
    raise ContourError(
        "crashed",
        "the geometry kernel crashed on this file",
        where=where,
        got=name,
        need="an undamaged STEP file",
        remedy="export the solid again",
    )
