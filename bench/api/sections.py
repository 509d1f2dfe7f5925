"""Sections of a scan, turned profiles and silhouettes: cut while the plane moves, outlined when it rests, ranked and compared."""

from __future__ import annotations

import uuid
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
from django.conf import settings
from django.http import HttpRequest
from ninja import Field, Router, Schema

from bench.api.queries import Vector, packed, triple, typed_length
from bench.jobs import last_result, own_job
from bench.models import Job
from bench.scans import job_scan, scan_state
from contour.construct.place import Place
from contour.construct.planes import offset, tilted, u_axis_of
from contour.fit.budget import Budget
from contour.geometry.frames import PlaneFrame, plane_frame
from contour.job.work.runner import run_in_child
from contour.mesh.grazing import grazing
from contour.mesh.prepare import PreparedScan
from contour.mesh.slice import slice_scan
from contour.outline.assumed import Gap, assumed_whole, stretches
from contour.outline.bridging import Wish
from contour.outline.joins import How
from contour.outline.lines import Lines
from contour.outline.pieces import piece_path
from contour.outline.reach import Reach, outline_reach
from contour.outline.section import (
    SectionLoop,
    clean_cuts,
    closed_over_gaps,
    loop_of,
    marked_unscanned,
    outline_tolerance,
    outlines_of,
    scanned_runs,
)
from contour.outline.where_to_cut import RankedCut
from contour.recipe.problem import ContourError
from contour.sketch.along_axis import closed_along_axis
from contour.sketch.of_sector import sectors_held
from contour.sketch.refit import refit_loops
from contour.sketch.taken import LoopRelation, TakenLoop
from contour.steps.sector import SectorFacts

router = Router(tags=["sections"])

Source = Literal["section", "radial", "silhouette"]


class PlaneIn(Schema):
    """The plane through origin, turned about its own two axes (degrees), then moved along its normal. For a radial profile: the axis
    through origin along normal, and which way out is drawn."""

    scan: str
    source: Source = "section"
    origin: Vector
    normal: Vector
    turn_u: float = Field(default=0.0, ge=-180, le=180)
    turn_v: float = Field(default=0.0, ge=-180, le=180)
    offset: str = "0"
    outward: Vector | None = None
    u_axis: Vector | None = Field(
        default=None, description="the way of its first axis, for a plane that has axes of its own"
    )


class WishIn(Schema):
    """How the gap whose middle lies at `near`, on the plane, is to be bridged."""

    near: tuple[float, float]
    how: How | Literal["open"]


class SectionIn(PlaneIn):
    """Fitted only when asked, because the raw cut is much faster. loops: structures by hand, to be fitted instead of looked for · bridge: open
    loops closed over gaps of the scan, by proposal · wishes: how single gaps are to be bridged."""

    tolerance: str | None = None
    fitted: bool = False
    loops: list[TakenLoop] | None = None
    bridge: bool = True
    wishes: list[WishIn] = Field(default_factory=list, max_length=60)


class PieceOut(Schema):
    """start, end, mid, points, ellipse in plane coordinates; path in space, for drawing. unseen, seen: what of it the scan has nothing
    under, and the rest, as paths in space; both empty where all was seen · assumed: nothing of it was seen."""

    kind: Literal["line", "arc", "ellipse", "free"]
    start: tuple[float, float]
    end: tuple[float, float]
    mid: tuple[float, float] | None
    points: list[tuple[float, float]]
    radius: float | None
    ellipse: tuple[float, float, float, float, float] | None = None
    length: float
    rms: float
    path: list[Vector]
    unseen: list[list[Vector]] = []
    seen: list[list[Vector]] = []
    assumed: bool = False


class LoopOut(Schema):
    """explained: false where the time for finding pieces was spent: the loop is there as it was cut. reach: how far the scan's walls go on
    over it, against and along the plane's normal, mm. bridged: closed over gaps of the scan. relations: what its pieces are held to from the start; they are
    e1, e2 and so on, counted through all loops."""

    closed: bool
    explained: bool = True
    bridged: bool = False
    length: float
    area: float
    pieces: list[PieceOut]
    reach: Reach | None = None
    relations: list[LoopRelation] = []


class GapOut(Schema):
    """A gap of the scan that is bridged: from end to end on the plane, how, the ways there are, and the length (mm) that is assumed."""

    start: tuple[float, float]
    end: tuple[float, float]
    middle: Vector
    how: How
    options: list[How]
    length: float


class CutOut(Schema):
    """Raw polylines in space: base64 of float32 triples."""

    points: str
    closed: bool


class AlongOut(Schema):
    """The plane runs along a face (area, mm²): there it cuts noise. below, above: offsets (mm) at which it does not any more; none where
    nothing of the part is left on that side."""

    area: float
    below: float | None
    above: float | None


class SectionOut(Schema):
    """along: told where the plane lies in a face; loops are then only those of other places."""

    offset_mm: float
    origin: Vector
    u_axis: Vector
    normal: Vector
    pose: list[list[float]]
    tolerance: float
    cuts: list[CutOut]
    loops: list[LoopOut]
    runout: float | None = None
    along: AlongOut | None = None
    gaps: list[GapOut] = []


class SeveralIn(PlaneIn):
    """Parallel planes `step` mm apart, or a fan of planes about an axis, `step` degrees apart: count of them, the plane given first."""

    kind: Literal["parallel", "fan"]
    count: int = Field(ge=1, le=60)
    step: float
    axis_origin: Vector | None = None
    axis: Vector | None = None


class OneOfSeveral(Schema):
    """A plane with its raw cuts."""

    origin: Vector
    normal: Vector
    cuts: list[CutOut]


class RankIn(Schema):
    scan: str
    origin: Vector
    normal: Vector


def _direction(v: Vector) -> np.ndarray:
    """A direction as a unit vector (3,); raises ContourError (bad-params) for one of no length."""
    size = float(np.linalg.norm(v))
    if not size > 1e-9:
        raise ContourError("bad-params", "a plane needs a direction", got=str(v), need="a normal of some length")
    return np.array(v) / size


def _plane(body: PlaneIn, offset_mm: float) -> PlaneFrame:
    n = _direction(body.normal)
    base = Place("plane", body.origin, (float(n[0]), float(n[1]), float(n[2])))
    turned = tilted(base, *np.radians([body.turn_u, body.turn_v]), u_axis_of(n))
    made = offset(turned, offset_mm)
    return plane_frame(made.at, made.along, None if body.u_axis is None else _direction(body.u_axis))


# Seconds that a question may take beyond the cut itself; what is not found by then stays free, and is said to be.
OUTLINES_S, BRIDGES_S, SEVERAL_S = 1.5, 1.5, 3.0


@dataclass(frozen=True, slots=True)
class Cut:
    """lines: all of the cut on the frame's plane · clean: those of them that pieces can be looked for in · along: see :class:`AlongOut` · scanned: what of it
    runs over what was scanned, where that is not all of it."""

    frame: PlaneFrame
    lines: Lines
    clean: Lines
    runout: float | None = None
    along: AlongOut | None = None
    scanned: list[np.ndarray] | None = None


def _section_cut(scan: PreparedScan, frame: PlaneFrame, offset_mm: float) -> Cut:
    cuts = slice_scan(scan, frame.origin, frame.normal)
    found = grazing(scan, frame.origin, frame.normal)
    clean = cuts if found is None else clean_cuts(scan, cuts, frame)
    along = None
    if found is not None:
        beside = [None if d is None else round(offset_mm + d, 6) for d in (found.below, found.above)]
        along = AlongOut(area=found.area, below=beside[0], above=beside[1])
    flat, kept = ([(frame.to_plane(c.points), c.closed) for c in some] for some in (cuts, clean))
    return Cut(frame, flat, kept, along=along, scanned=scanned_runs(scan, cuts, frame))


def has_sector(job: Job) -> bool:
    """Whether one sector has been cut out of a scan of the job."""
    result = last_result(job)
    return result is not None and any(isinstance(s.facts, SectorFacts) for s in result.steps)


def cut_of(job: Job, body: PlaneIn, scan: PreparedScan, offset_mm: float) -> Cut:
    """Profiles and shadows are worked out in a child: they take longer than a request may hold this process."""
    if body.source == "section":
        return _section_cut(scan, _plane(body, offset_mm), offset_mm)
    payload = {
        "store": str(settings.STORE),
        "scan": scan_state(job, body.scan),
        "source": body.source,
        "origin": body.origin,
        "normal": _direction(body.normal).tolist(),
        "outward": body.outward or (0.0, 0.0, 0.0),
        "offset": offset_mm,
    }
    found = run_in_child("profile", payload, time_limit_s=120)
    frame = PlaneFrame(**{k: np.array(v) for k, v in found["frame"].items()})
    lines = [(np.array(p), bool(c)) for p, c in found["lines"]]
    return Cut(frame, lines, lines, found["runout"])


def _fitted(body: SectionIn, scan: PreparedScan, cut: Cut, tolerance: float) -> tuple[list[SectionLoop], list[Gap]]:
    if body.loops is None:
        budget = Budget(OUTLINES_S)
        loops = outlines_of(scan, cut.clean, cut.frame, tolerance_mm=tolerance, budget=budget)
        if not body.bridge or budget.spent:
            return loops, []
        if body.source == "radial":
            return closed_along_axis(loops, cut.lines, cut.frame, tolerance / 3, scan.edge_mm), []
        if body.source == "silhouette":  # a shadow has no gaps
            return loops, []
        wishes = [Wish(w.near, None if w.how == "open" else w.how) for w in body.wishes]
        return closed_over_gaps(scan, loops, tolerance_mm=tolerance, wishes=wishes, budget=Budget(BRIDGES_S))
    return [
        loop_of(o, cut.frame) for o in refit_loops(body.loops, cut.lines, cut.frame, tolerance / 3, scan.edge_mm)
    ], []


@dataclass(frozen=True, slots=True)
class ExplainedSection:
    """A section by its pieces. offset, tolerance: what was typed, mm · bridged: loops that were closed over gaps of the scan · relations: what the pieces of each loop are
    held to from the start."""

    scan: PreparedScan
    offset: float
    tolerance: float
    cut: Cut
    loops: list[SectionLoop]
    gaps: list[Gap]
    bridged: list[bool]
    relations: list[tuple[LoopRelation, ...]]


def explained_section(job: Job, body: SectionIn) -> ExplainedSection:
    """Raises ContourError (bad-params), and what cutting and reading the scan raise."""
    scan = job_scan(job, body.scan)
    offset_mm = typed_length(body.offset, job) or 0.0
    tolerance = typed_length(body.tolerance, job) or outline_tolerance(scan)
    if tolerance <= 0:
        raise ContourError("bad-params", "the tolerance must be positive", got=body.tolerance)
    cut = cut_of(job, body, scan, offset_mm)
    loops, gaps = _fitted(body, scan, cut, tolerance) if body.fitted else ([], [])
    bridged = [any(p.assumed for p in loop.outline.pieces) for loop in loops]
    relations: list[tuple[LoopRelation, ...]] = [()] * len(loops)
    if cut.scanned is not None:
        loops = marked_unscanned(loops, cut.scanned, scan.edge_mm + tolerance)
        if body.loops is None and loops:
            held = sectors_held(
                loops, cut.lines, tolerance / 3, scan.edge_mm, near_mm=scan.edge_mm, meeting=has_sector(job)
            )
            loops, relations = [h.loop for h in held], [h.relations for h in held]
    return ExplainedSection(scan, offset_mm, tolerance, cut, loops, gaps, bridged, relations)


@router.post("/{job_id}/section", response=SectionOut)
def section(request: HttpRequest, job_id: uuid.UUID, body: SectionIn) -> SectionOut:
    found = explained_section(own_job(request.user, job_id), body)
    scan, cut, loops, frame = found.scan, found.cut, found.loops, found.cut.frame
    outlines = [loop.outline for loop in loops] if body.source == "section" else []
    reaches = outline_reach(scan, frame, outlines) or [None] * len(loops)
    return SectionOut(
        offset_mm=found.offset,
        origin=triple(frame.origin),
        u_axis=triple(frame.v if body.source == "radial" else frame.u),
        normal=triple(frame.normal),
        pose=np.asarray(scan.pose).tolist(),
        tolerance=found.tolerance,
        loops=[_loop(*row) for row in zip(loops, found.bridged, reaches, found.relations, strict=True)],
        cuts=[CutOut(points=packed(frame.to_space(p), "<f4"), closed=c) for p, c in cut.lines],
        runout=cut.runout,
        along=cut.along,
        gaps=[_gap(g, frame) for g in found.gaps],
    )


@router.post("/{job_id}/sections", response=list[OneOfSeveral])
def several(request: HttpRequest, job_id: uuid.UUID, body: SeveralIn) -> list[OneOfSeveral]:
    """Parallel sections or a fan, at once; raw cuts only."""
    job = own_job(request.user, job_id)
    scan = job_scan(job, body.scan)
    first = _plane(body, typed_length(body.offset, job) or 0.0)
    out: list[OneOfSeveral] = []
    budget = Budget(SEVERAL_S)
    for k in range(body.count):
        if budget.spent:
            raise ContourError(
                "time-limit",
                "so many sections of this scan take too long",
                got=f"{k} of {body.count} in {SEVERAL_S:g} s",
                need="fewer sections",
                remedy=f"ask for {k} at a time",
            )
        origin, normal = first.origin, first.normal
        if body.kind == "parallel":
            origin = origin + k * body.step * normal
        else:
            if body.axis is None or body.axis_origin is None:
                raise ContourError("bad-params", "a fan needs an axis", remedy="choose an axis or a round region")
            a = np.array(body.axis) / np.linalg.norm(body.axis)
            n = normal - (normal @ a) * a
            if np.linalg.norm(n) < 1e-3:
                n = np.cross(a, np.eye(3)[int(np.argmin(np.abs(a)))])
            n = n / np.linalg.norm(n)
            t = np.radians(k * body.step)
            origin, normal = np.array(body.axis_origin), n * np.cos(t) + np.cross(a, n) * np.sin(t)
        cuts = slice_scan(scan, origin, normal)
        out.append(
            OneOfSeveral(
                origin=triple(origin),
                normal=triple(normal),
                cuts=[CutOut(points=packed(c.points, "<f4"), closed=c.closed) for c in cuts],
            )
        )
    return out


@router.post("/{job_id}/where-to-cut", response=list[RankedCut])
def where_to_cut(request: HttpRequest, job_id: uuid.UUID, body: RankIn) -> list[dict[str, Any]]:
    """Places along a direction, best first."""
    scan = scan_state(own_job(request.user, job_id), body.scan)
    payload = {
        "store": str(settings.STORE),
        "scan": scan,
        "origin": body.origin,
        "normal": _direction(body.normal).tolist(),
    }
    found: list[dict[str, Any]] = run_in_child("where-to-cut", payload, time_limit_s=120)["cuts"]
    return found


def _gap(gap: Gap, frame: PlaneFrame) -> GapOut:
    middle = 0.5 * (np.array(gap.start) + np.array(gap.end))
    return GapOut(
        start=gap.start,
        end=gap.end,
        middle=triple(frame.to_space(middle)),
        how=gap.how,
        options=list(gap.options),
        length=gap.length,
    )


def _loop(loop: SectionLoop, bridged: bool, reach: Reach | None, relations: tuple[LoopRelation, ...]) -> LoopOut:
    pieces = []
    for p in loop.outline.pieces:
        flat = piece_path(p)
        length = float(np.linalg.norm(np.diff(flat, axis=0), axis=1).sum())
        path = [triple(q) for q in loop.frame.to_space(flat)]
        parts = stretches(p) if p.assumed else []

        def drawn(unseen: bool, parts: list[tuple[np.ndarray, bool]] = parts) -> list[list[Vector]]:
            return [[triple(q) for q in loop.frame.to_space(part)] for part, dark in parts if dark == unseen]

        pieces.append(
            PieceOut(
                kind=p.kind,
                start=p.start,
                end=p.end,
                mid=p.mid,
                points=list(p.points),
                radius=p.radius,
                ellipse=p.ellipse,
                length=length,
                rms=p.rms,
                path=path,
                unseen=drawn(True),
                seen=drawn(False),
                assumed=assumed_whole(p),
            )
        )
    return LoopOut(
        closed=loop.outline.closed,
        explained=loop.outline.explained,
        bridged=bridged,
        length=loop.length,
        area=loop.area,
        pieces=pieces,
        reach=reach,
        relations=list(relations),
    )
