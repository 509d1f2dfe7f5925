"""A drawing under the hand: acts done on it, where it settles, and a point that is dragged. Nothing is kept here: the step is changed by an edit."""

from __future__ import annotations

import hashlib
import threading
import uuid
from collections import OrderedDict

import numpy as np
from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from bench.jobs import last_result, own_job, recipe_of, scope_of
from bench.models import Job
from contour.geometry.frames import PlaneFrame, plane_frame
from contour.recipe.problem import ContourError
from contour.sketch.drawn.acts.done import AnyAct, Worked, worked
from contour.sketch.drawn.kept import KeptDrawing, drawing_of
from contour.sketch.drawn.linked import with_numbers
from contour.sketch.drawn.profiles import Piece
from contour.sketch.drawn.solution import Drag, moved_since
from contour.sketch.drawn.text import Constraint, Drawing
from contour.sketch.drawn.traces import Trace, trace_of, traces_shown
from contour.sketch.drawn.unknowns import Unknowns
from contour.steps.sketch import DrawnFacts

router = Router(tags=["drawings"])

Spot2 = tuple[float, float]
_DRAGS = 32  # drawings that are kept ready to be dragged


class OnSheet(Schema):
    """A question about a sketch's plane. step: the sketch's · origin, u_axis, normal: of its plane, mm."""

    step: uuid.UUID
    origin: tuple[float, float, float]
    u_axis: tuple[float, float, float]
    normal: tuple[float, float, float]

    def frame(self) -> PlaneFrame:
        return plane_frame(np.array(self.origin), np.array(self.normal), np.array(self.u_axis))


class DrawingIn(Schema):
    """A drawing as its step keeps it, and what is to be done on it. step: what is linked in it stands where its newest build has it."""

    step: uuid.UUID | None = None
    drawing: KeptDrawing = KeptDrawing()
    acts: list[AnyAct] = Field(default_factory=list, max_length=200)


class DrawingRegion(Schema):
    """A closed region: its lasting name, its rings (mm in the plane; the first around it, the others cut out), the pieces around it."""

    name: str
    area: float
    rings: list[list[Spot2]]
    pieces: list[str]


class DrawingGap(Schema):
    """Two entities that nearly meet: where, how far apart (mm), and the relation that would close it."""

    between: tuple[str, str]
    at: Spot2
    width: float
    mend: Constraint


class DrawingOut(Schema):
    """drawing: as the step is to keep it · conflicts: minimal sets of "c:0" and "d:0" that cannot hold together · free: motions left by entity ·
    sizes: what each reads, mm or degrees · paths: lines and curves as they are shown · chosen: what the last act made or changed."""

    drawing: KeptDrawing
    solved: bool
    dof: int
    residual: float
    conflicts: list[list[str]]
    redundant: list[str]
    free: dict[str, int]
    sizes: list[float]
    paths: dict[str, list[Spot2]]
    regions: list[DrawingRegion]
    gaps: list[DrawingGap]
    loose: list[str]
    chosen: list[str]


class DragIn(Schema):
    """key: of a drag that is under way; drawing: where it begins, or where the key is not known any more."""

    point: str = Field(max_length=60)
    to: Spot2
    key: str | None = Field(default=None, max_length=64)
    drawing: KeptDrawing | None = None


class DragOut(Schema):
    """points, paths: where those that have moved are now, by id; none where nothing near holds."""

    key: str
    points: dict[str, Spot2]
    paths: dict[str, list[Spot2]]


@router.post("/{job_id}/drawing", response=DrawingOut, by_alias=True)
def drawing(request: HttpRequest, job_id: uuid.UUID, body: DrawingIn) -> DrawingOut:
    job = own_job(request.user, job_id)
    found = worked(
        as_built(job, body.step, body.drawing), body.acts, lookup=scope_of(job).lookup, unit=recipe_of(job).unit
    )
    return _shown(found)


def as_built(job: Job, step: uuid.UUID | None, kept: KeptDrawing) -> KeptDrawing:
    """A drawing whose linked pieces stand where the step's newest build has them."""
    result = last_result(job) if step is not None and kept.links else None
    state = next((s for s in result.steps if s.id == str(step)), None) if result else None
    if state is None or not isinstance(state.facts, DrawnFacts):
        return kept
    now = dict(kept.entities)
    for name, numbers in state.facts.linked.items():
        if name in now and now[name].linked:
            now[name] = with_numbers(now[name], numbers)
    return kept.model_copy(update={"entities": now})


def _shown(found: Worked) -> DrawingOut:
    s, profiles = found.solution, found.profiles
    traces = {t.entity: t for t in traces_shown(s.drawing)}
    return DrawingOut(
        drawing=found.kept,
        solved=s.solved,
        dof=s.dof,
        residual=s.residual,
        conflicts=[list(c) for c in s.conflicts],
        redundant=list(s.redundant),
        free=s.free,
        sizes=list(s.sizes),
        paths={name: _path(t, t.shown) for name, t in traces.items()},
        regions=[
            DrawingRegion(
                name=named.name,
                area=r.area,
                rings=[_ring(traces, ring) for ring in (r.outer, *r.islands)],
                pieces=[p.entity for p in r.outer],
            )
            for named, r in zip(found.kept.named, profiles.regions, strict=True)
        ],
        gaps=[DrawingGap(between=g.between, at=g.at, width=g.width, mend=g.mend) for g in profiles.gaps],
        loose=[p.entity for p in profiles.loose],
        chosen=list(found.chosen),
    )


def _path(trace: Trace, at: np.ndarray) -> list[Spot2]:
    path: list[Spot2] = np.round(trace.place(at), 5).tolist()
    return path


def _ring(traces: dict[str, Trace], ring: tuple[Piece, ...]) -> list[Spot2]:
    out: list[Spot2] = []
    for p in ring:
        t = traces[p.entity]
        count = max(2, int(np.ceil((len(t.shown) - 1) * abs(p.last - p.first))) + 1)
        at = np.linspace(p.first, p.last, count)[:-1]
        out += _path(t, at % 1.0 if t.closed else at)
    return out


_drags: OrderedDict[str, Drag] = OrderedDict()
_lock = threading.Lock()


@router.post("/{job_id}/drag", response=DragOut)
def drag(request: HttpRequest, job_id: uuid.UUID, body: DragIn) -> DragOut:
    """What a drawing works out once for a drag is kept for its next steps; whoever comes without it gives the drawing again."""
    job = own_job(request.user, job_id)
    with _lock:
        under_way = _drags.get(body.key or "")
    key = body.key or ""
    if under_way is None or not key.startswith(str(job_id)):
        if body.drawing is None:
            raise ContourError(
                "not-found",
                "this drag is not known any more",
                got=body.key or "no key",
                need="the drawing that is dragged",
                remedy="take hold of the point again",
            )
        text = body.drawing.model_dump_json() + body.point
        key = f"{job_id}:{hashlib.sha256(text.encode()).hexdigest()[:24]}"
        under_way = Drag(drawing_of(body.drawing), body.point, scope_of(job).lookup)
        with _lock:
            _drags[key] = under_way
            while len(_drags) > _DRAGS:
                _drags.popitem(last=False)
    moved: Drawing | None = under_way.to(body.to)
    if moved is None:
        return DragOut(key=key, points={}, paths={})
    changed, unknowns = moved_since(under_way.drawing, moved), Unknowns(moved)
    points = {n: e.at for n in changed if (e := moved.entities[n]).kind == "point"}
    traces = [trace_of(unknowns, n) for n in changed if n not in points]
    return DragOut(key=key, points=points, paths={t.entity: _path(t, t.shown) for t in traces if t is not None})
