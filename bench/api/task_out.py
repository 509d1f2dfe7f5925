"""Background work as it is answered: how far it is, and what came of it, typed by what was asked."""

from __future__ import annotations

import json
import uuid
from typing import Literal, TypeVar

from ninja import Schema
from pydantic import Field

from bench.models import Task
from contour.job.questions.variants import Column
from contour.recipe.problem import Problem

__all__ = [
    "CompareTask",
    "Compared",
    "Delivered",
    "DeliveryTask",
    "Found",
    "FoundRegion",
    "FoundTask",
    "MovedTask",
    "PracticeTask",
    "Progress",
    "Proposed",
    "SeatsTask",
    "TaskOut",
    "VariantsTask",
    "task_out",
]

Vector = tuple[float, float, float]
T = TypeVar("T", bound="TaskOut")


class TaskOut(Schema):
    """status: queued, running, done, failed or cancelled. Each kind of work adds its result, once it is done."""

    id: uuid.UUID
    kind: str
    status: Literal["queued", "running", "done", "failed", "cancelled"]
    problem: Problem | None


class Delivered(Schema):
    """facets: of a mesh · solids, faces: of a STEP file · volume: mm³."""

    bytes: int
    facets: int | None = None
    solids: int | None = None
    faces: int | None = None
    volume: float | None = None


class DeliveryTask(TaskOut):
    result: Delivered | None


class MovedFaces(Schema):
    """How far the surface moved (mm, + where material was added), where most, and which share of it did."""

    largest: float
    largest_at: Vector
    moved_share: float


class Compared(Schema):
    """moved: none where a state has no body · volumes: of all bodies before and after, mm³."""

    moved: MovedFaces | None
    volumes: tuple[float, float]


class CompareTask(TaskOut):
    result: Compared | None


class SideBySide(Schema):
    columns: list[Column]


class VariantsTask(TaskOut):
    result: SideBySide | None


class MovedScan(MovedFaces):
    """outward: the normal at the place of the largest movement · facets: before and after."""

    outward: Vector
    new_facets: int
    facets: tuple[int, int]


class MovedTask(TaskOut):
    result: MovedScan | None


class SeatProposal(Schema):
    """A face and what lies opposite it: a region step, or the region that grows from a raw facet; how they lie, mm and degrees."""

    face: str
    seed: int
    region: str | None
    facets: int
    offset: float
    tilt: float
    shift: float
    before: float
    after: float


class SeatsResult(Schema):
    pairs: list[SeatProposal]


class SeatsTask(TaskOut):
    result: SeatsResult | None


class PracticeResult(Schema):
    """upload: what the scan was brought in as · labels: kept file with the true face of each facet, int32 · faces_seen: faces of the
    solid that have a facet."""

    facets: int
    faces_seen: int
    faces: int
    upload: uuid.UUID
    labels: str


class PracticeTask(TaskOut):
    result: PracticeResult | None


class FoundParams(Schema):
    """Numbers of a surface, as far as it has them: mm, degrees."""

    point: Vector | None = None
    normal: Vector | None = None
    axis: Vector | None = None
    radius: float | None = None
    half_angle: float | None = None
    minor_radius: float | None = None
    major: float | None = None
    minor: float | None = None
    pitch: float | None = None
    hand: Literal["right", "left"] | None = None
    starts: int | None = None
    length: float | None = None


class FoundU(Schema):
    """Standard uncertainties of them: mm, degrees."""

    position: float | None = None
    direction: float | None = None
    radius: float | None = None
    minor_radius: float | None = None
    half_angle: float | None = None
    major: float | None = None
    minor: float | None = None
    pitch: float | None = None


class ThreadCandidate(Schema):
    """A standard thread and how far off it is, in standard uncertainties."""

    designation: str
    difference_u: float


class FoundRegion(Schema):
    """A region that a search has found. outward: +1, or -1 for a hole · ball: radius of the ball that rolled it, mm · same_surface: number of
    the surface it shares with others · worn_area: mm², without a say in the figures · noise: of the scan there, mm · outwards: the normal at `at`."""

    id: int
    kind: str
    facets: int
    area: float
    rms: float
    params: FoundParams
    u: FoundU
    outward: int
    is_fillet: bool
    is_chamfer: bool
    blend: tuple[int, int] | None
    ball: float | None
    weak: bool
    same_surface: int
    worn_area: float
    at: Vector
    outwards: Vector
    noise: float | None = None
    candidates: list[ThreadCandidate] = []


class Demand(Schema):
    """What agreeing would hold the regions to, by their numbers."""

    kind: str
    members: list[int]


class Proposed(Schema):
    """A proposal of intent. away: in standard uncertainties · stated: how its value is written, "Ø", "R" or "" · measured, proposed, u: in
    `unit` · share: of the area that agrees, for a mirror."""

    kind: str
    regions: list[int]
    text: str
    away: float
    measured: float | None
    proposed: float | None
    u: float | None
    unit: str
    missing: list[Vector]
    stated: str = ""
    share: float | None = None
    demand: Demand | None = None


class Repeating(Schema):
    """So many are alike around the axis of a region (its number), by a share of what is not round."""

    count: int
    agree: float
    region: int
    point: Vector
    axis: Vector


class Found(Schema):
    """What a search for regions has found. mesh: whether it was scanned or modelled · noise, edge: mm · unassigned: share of the area · rejected: places of proposals that were
    turned down."""

    scan: str
    mesh: Literal["scanned", "modelled", "mixed"] = "scanned"
    noise: float
    edge: float
    unassigned: float
    system: str
    regions: list[FoundRegion]
    proposals: list[Proposed]
    alike: list[Repeating] = []
    rejected: list[int] = Field(default=[])


class Progress(Schema):
    """What is being done now, and how far it is: a place in a list, or so much of 100."""

    event: str = ""
    name: str | None = None
    index: int | None = None
    count: int | None = None
    done: int | None = None


class FoundTask(TaskOut):
    progress: Progress | None
    result: Found | None


def task_out(kind: type[T], row: Task) -> T:
    """One task as it is answered."""
    result = json.loads(row.result) if row.result else None
    return kind.model_validate(
        {
            "id": row.id,
            "kind": row.kind,
            "status": row.status,
            "progress": row.progress or None,
            "result": result,
            "problem": row.problem,
        }
    )
