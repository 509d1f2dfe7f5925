"""What a build found out: the status of every step, the bodies, the values and the fit. Its JSON is what browser and command line show."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict
from typing_extensions import TypedDict

from contour.job.build.fit import FitState
from contour.recipe.problem import Problem
from contour.recipe.registry import Handle

__all__ = ["BodyState", "BuildResult", "Status", "StepState", "ValueState", "deliverable"]

Status = Literal["ok", "failed", "blocked", "off"]


class _Plain(BaseModel):
    model_config = ConfigDict(frozen=True)


class ValueState(_Plain):
    """What a formula comes to: mm, degrees or a number, and the mark of its weakest leaf."""

    value: float
    length: int
    angle: int
    mark: str | None


class StepState(_Plain):
    """How one step came out. `key` names its product in the store, `after` and `scans` the bodies and scans as they are then."""

    id: str
    kind: str
    name: str
    status: Status
    key: str | None = None
    facts: dict[str, Any] = {}
    problems: tuple[Problem, ...] = ()
    handles: tuple[Handle, ...] = ()  # where its values can be dragged
    values: dict[str, ValueState] = {}
    settled: dict[str, dict[str, ValueState]] = {}  # values of regions that this step has settled, by their id
    after: dict[str, str] = {}
    scans: dict[str, str] = {}  # the scans as they are after this step
    cached: bool = False
    seconds: float = 0.0


class FaceName(TypedDict):
    """A face by its lasting name, and the kind of its surface."""

    name: str
    kind: str


class BodyState(_Plain):
    """A body at the end of the list; `id` is the step that began it."""

    id: str
    name: str
    colour: str | None = None
    key: str
    volume: float = 0.0
    area: float = 0.0
    faces: tuple[FaceName, ...] = ()
    role: Literal["material", "reference"] = "material"
    open: int = 0  # borders that belong to one face alone: the body closes no volume


class BuildResult(_Plain):
    """Everything a build found out; its JSON is what the browser and the command line show."""

    steps: tuple[StepState, ...] = ()
    raw: dict[str, str] = {}  # evidence id -> key of the scan as it came
    solids: dict[str, str] = {}  # evidence id -> key of a file of solids
    scans: dict[str, str] = {}  # evidence id -> key of the scan as the last step leaves it
    poses: dict[str, list[list[float]]] = {}  # evidence id -> T_here_raw
    health: dict[str, str] = {}  # evidence id -> key of its scan's defects
    merged: dict[str, str] = {}  # evidence id of a scan that went into another -> that other
    bodies: tuple[BodyState, ...] = ()
    values: dict[str, ValueState] = {}  # named values, by id
    fit: FitState | None = None
    problems: tuple[Problem, ...] = ()


def deliverable(result: Mapping[str, Any]) -> list[dict[str, Any]]:
    """Bodies of a build's result that leave the job: name, key and colour of closed ones that are not there for reference."""
    return [
        {k: b.get(k) for k in ("name", "key", "colour")}
        for b in result["bodies"]
        if b.get("role") != "reference" and not b.get("open")
    ]
