"""A build in children that can die: what kills a child is the problem of the step it was at, and the rest runs on in a new one."""

from __future__ import annotations

import signal
from collections.abc import Callable
from pathlib import Path
from typing import Any

from contour.exchange.limits import file_limit_s
from contour.job.work.runner import ChildDied, run_in_child
from contour.recipe.problem import ContourError, Problem, Where

__all__ = ["STAGE_LIMIT_S", "build_in_children", "solid_file_facts"]

STAGE_LIMIT_S = 300.0  # of one step, one scan, the fit: the whole build may take as many as it has
# Killed, or gone together with the fork server, which alone could have told how (255 stands for that).
_FROM_OUTSIDE = (-signal.SIGKILL, 255, None)
_KILLS = 3  # a child killed from outside begins again where it was; the third time at one stage that stage is blamed

Event = dict[str, Any]


def _blamed(error: ContourError) -> Problem:
    problem = error.problem
    if isinstance(error, ChildDied) and error.exitcode == -signal.SIGALRM:
        return Problem(
            code="time-limit",
            message="reading the file took too long and was ended",
            need="a file that can be read in time",
            remedy="export the file again, or without what is not needed",
        )
    if problem.code == "time-limit":
        return problem.model_copy(
            update={"message": "this took too long and was ended", "remedy": "change its values, or switch it off"}
        )
    name = (
        signal.Signals(-error.exitcode).name
        if isinstance(error, ChildDied) and error.exitcode and error.exitcode < 0
        else None
    )
    return problem.model_copy(
        update={
            "message": "the geometry kernel crashed here",
            "got": name or problem.got,
            "remedy": "change its values or its file, or switch it off",
        }
    )


def build_in_children(
    payload: dict[str, Any],
    *,
    on_event: Callable[[Event], None] = lambda _: None,
    cancelled: Callable[[], bool] = lambda: False,
    stage_limit_s: float = STAGE_LIMIT_S,
) -> Any:
    """Result of the task ``build`` with `payload` (see :mod:`contour.job.work.tasks`).

    A crash or a time-out ends only the stage that was under way (a step, an evidence file, the fit): it is told to the next
    child as ended, with its problem, and what was finished before comes from the store.

    Raises ContourError (cancelled, and what the task itself raises: a broken store, a recipe that cannot be read).
    """
    ended: dict[str, Any] = {}
    kills: dict[str, int] = {}
    while True:
        stage = ""

        def hear(event: Event) -> None:
            nonlocal stage
            if event["event"] in ("step", "scan", "health", "fit", "picture"):
                stage = str(event.get("id") or event["event"])
            on_event(event)

        try:
            return run_in_child(
                "build",
                {**payload, "ended": ended},
                on_event=hear,
                cancelled=cancelled,
                stage_limit_s=stage_limit_s,
                time_limit_s=24 * 3600.0,
            )
        except ContourError as error:
            if stage in ended or not (isinstance(error, ChildDied) or error.problem.code == "time-limit"):
                raise
            if isinstance(error, ChildDied) and error.exitcode in _FROM_OUTSIDE:
                kills[stage] = kills.get(stage, 0) + 1
                if kills[stage] < _KILLS:
                    continue
            if not stage:
                raise
            ended[stage] = _blamed(error).model_dump(mode="json")


def solid_file_facts(path: Path, name: str) -> dict[str, Any]:
    """What a STEP file from outside holds, read in a child: solids, faces, closed, volume (mm³, none when open).

    Raises ContourError (file-not-understood, time-limit) with the file's name.
    """
    try:
        facts: dict[str, Any] = run_in_child("read-solid", {"path": str(path)}, time_limit_s=4 * file_limit_s(path))
        return facts
    except ChildDied as died:
        late = died.exitcode == -signal.SIGALRM
        raise ContourError(
            "time-limit" if late else "file-not-understood",
            "reading this file took too long and was ended" if late else "the geometry kernel crashes on this file",
            where=Where(file=name),
            need="an undamaged STEP file",
            got="no end" if late else "a crash",
            remedy="export the solid again",
        ) from None
    except ContourError as error:
        raise ContourError.of(error.problem.model_copy(update={"where": Where(file=name)})) from None
