"""Sections of a scan, turned profiles and silhouettes: cut while the plane moves, outlined when it rests, ranked and compared."""

from __future__ import annotations

import uuid
from typing import Any, Literal

import numpy as np
from django.conf import settings
from django.http import HttpRequest
from ninja import Field, Router, Schema

from bench.api.queries import Vector, packed, triple, typed_length
from bench.jobs import own_job
from bench.scans import job_scan
from contour.construct.place import Place
from contour.construct.planes import offset, tilted, u_axis_of
from contour.fit.outline_offers import nearly_held
from contour.fit.outline_pieces import Outline
from contour.fit.section import SectionLoop, loop_of, outline_tolerance, outlines_of, piece_points
from contour.fit.where_to_cut import RankedCut
from contour.job.runner import run_in_child
from contour.mesh.prepare import PreparedScan
from contour.mesh.slice import PlaneFrame, plane_frame, slice_scan
from contour.recipe.problem import ContourError
from contour.steps.outline import LoopRelation, TakenLoop, refit_loops

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


class SectionIn(PlaneIn):
    """Fitted only when asked, because the raw cut is much faster. loops: structures by hand, to be fitted instead of looked for."""

    tolerance: str | None = None
    fitted: bool = False
    loops: list[TakenLoop] | None = None


class PieceOut(Schema):
    """start, end, mid, points, ellipse in plane coordinates; path in space, for drawing."""

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


class LoopOut(Schema):
    closed: bool
    length: float
    area: float
    pieces: list[PieceOut]


class CutOut(Schema):
    """Raw polylines in space: base64 of float32 triples."""

    points: str
    closed: bool


class SectionOut(Schema):
    offset_mm: float
    origin: Vector
    u_axis: Vector
    normal: Vector
    pose: list[list[float]]
    tolerance: float
    cuts: list[CutOut]
    loops: list[LoopOut]
    runout: float | None = None


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


class TradeOff(Schema):
    """What an outline comes to at one tolerance: mm."""

    tolerance: float
    pieces: int
    free: int
    rms: float


class OfferOut(Schema):
    """A relation that nearly holds between two pieces: how far off it is (mm, or degrees for lines), and the rms (mm) of the loops it speaks
    of before and with it put right; none where it cannot be held. loop: the first piece's."""

    loop: int
    kind: Literal["parallel", "square", "equal radius", "concentric", "symmetric"]
    first: str
    second: str
    off: float
    rms: float
    rms_held: float | None


class OffersIn(PlaneIn):
    """loops: the structure as it stands, with what is held already."""

    tolerance: str | None = None
    loops: list[TakenLoop] = Field(max_length=200)


class RankIn(Schema):
    scan: str
    origin: Vector
    normal: Vector


def _plane(body: PlaneIn, offset_mm: float) -> PlaneFrame:
    size = float(np.linalg.norm(body.normal))
    if not size > 1e-9:
        raise ContourError("bad-params", "a plane needs a direction", got=str(body.normal))
    n = np.array(body.normal) / size
    base = Place("plane", body.origin, (float(n[0]), float(n[1]), float(n[2])))
    turned = tilted(base, *np.radians([body.turn_u, body.turn_v]), u_axis_of(n))
    made = offset(turned, offset_mm)
    return plane_frame(made.at, made.along)


Lines = list[tuple[np.ndarray, bool]]


def _lines(body: PlaneIn, scan: PreparedScan, offset_mm: float) -> tuple[PlaneFrame, Lines, float | None]:
    """Profiles and shadows are worked out in a child: they take longer than a request may hold this process."""
    if body.source == "section":
        frame = _plane(body, offset_mm)
        return frame, [(frame.to_plane(c.points), c.closed) for c in slice_scan(scan, frame.origin, frame.normal)], None
    payload = {
        "store": str(settings.STORE), "scan": body.scan, "source": body.source, "origin": body.origin, "normal": body.normal,
        "outward": body.outward or (0.0, 0.0, 0.0), "offset": offset_mm,
    }  # fmt: skip
    found = run_in_child("profile", payload, time_limit_s=120)
    frame = PlaneFrame(**{k: np.array(v) for k, v in found["frame"].items()})
    return frame, [(np.array(p), bool(c)) for p, c in found["lines"]], found["runout"]


def _fitted(
    body: SectionIn, scan: PreparedScan, frame: PlaneFrame, lines: Lines, tolerance: float
) -> list[SectionLoop]:
    if body.loops is None:
        return outlines_of(scan, lines, frame, tolerance_mm=tolerance)
    return [loop_of(o, frame) for o in refit_loops(body.loops, lines, frame, tolerance / 3, scan.edge_mm)]


@router.post("/{job_id}/section", response=SectionOut)
def section(request: HttpRequest, job_id: uuid.UUID, body: SectionIn) -> SectionOut:
    job = own_job(request.user, job_id)
    scan = job_scan(job, body.scan)
    offset_mm = typed_length(body.offset, job) or 0.0
    tolerance = typed_length(body.tolerance, job) or outline_tolerance(scan)
    if tolerance <= 0:
        raise ContourError("bad-params", "the tolerance must be positive", got=body.tolerance)
    frame, lines, runout = _lines(body, scan, offset_mm)
    loops = _fitted(body, scan, frame, lines, tolerance) if body.fitted else []
    return SectionOut(
        offset_mm=offset_mm, origin=triple(frame.origin), u_axis=triple(frame.v if body.source == "radial" else frame.u),
        normal=triple(frame.normal), pose=np.asarray(scan.pose).tolist(), tolerance=tolerance, loops=[_loop(loop) for loop in loops],
        cuts=[CutOut(points=packed(frame.to_space(p), "<f4"), closed=c) for p, c in lines], runout=runout,
    )  # fmt: skip


@router.post("/{job_id}/sections", response=list[OneOfSeveral])
def several(request: HttpRequest, job_id: uuid.UUID, body: SeveralIn) -> list[OneOfSeveral]:
    """Parallel sections or a fan, at once; raw cuts only."""
    job = own_job(request.user, job_id)
    scan = job_scan(job, body.scan)
    first = _plane(body, typed_length(body.offset, job) or 0.0)
    out = []
    for k in range(body.count):
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
                origin=triple(origin), normal=triple(normal), cuts=[CutOut(points=packed(c.points, "<f4"), closed=c.closed) for c in cuts]
            )
        )  # fmt: skip
    return out


def _rms(outlines: list[Outline]) -> float:
    return float(np.sqrt(np.mean([p.rms**2 for outline in outlines for p in outline.pieces])))


@router.post("/{job_id}/outline-relations", response=list[OfferOut])
def offers(request: HttpRequest, job_id: uuid.UUID, body: OffersIn) -> list[OfferOut]:
    """What may be put right between the pieces, and what each costs."""
    job = own_job(request.user, job_id)
    scan = job_scan(job, body.scan)
    frame, lines, _ = _lines(body, scan, typed_length(body.offset, job) or 0.0)
    tolerance = typed_length(body.tolerance, job) or outline_tolerance(scan)

    def fit(loops: list[TakenLoop]) -> list[Outline]:
        return refit_loops(loops, lines, frame, tolerance / 3, scan.edge_mm)

    outlines = fit(body.loops)
    owner = [(i, p.id) for i, loop in enumerate(body.loops) for p in loop.pieces]
    out = []
    for held, off in nearly_held(outlines, near_mm=max(3 * tolerance, 0.15)):
        (i, first), (j, second) = owner[held.first], owner[held.second]
        more = LoopRelation(kind=held.kind, first=first, second=second)
        loops = list(body.loops)
        loops[i] = loops[i].model_copy(update={"relations": [*loops[i].relations, more]})
        concerned = sorted({i, j} | _tied_to(loops, {i, j}))
        try:
            cost: float | None = _rms(fit([loops[n] for n in concerned]))
        except ContourError:
            cost = None
        rms = _rms([outlines[n] for n in concerned])
        out.append(OfferOut(loop=i, kind=held.kind, first=first, second=second, off=off, rms=rms, rms_held=cost))
    return out


def _tied_to(loops: list[TakenLoop], among: set[int]) -> set[int]:
    """Loops that relations tie to some others, directly or through more."""
    owner = {p.id: i for i, loop in enumerate(loops) for p in loop.pieces}
    ties = [
        {owner[r.first], owner[r.second]} for lo in loops for r in lo.relations if {r.first, r.second} <= owner.keys()
    ]
    while any(tie & among and not tie <= among for tie in ties):
        among = among.union(*(tie for tie in ties if tie & among))
    return among


_STEPS = (0.5, 0.7, 1.0, 1.4, 2.0, 2.8, 4.0, 6.0)


@router.post("/{job_id}/outline-tradeoff", response=list[TradeOff])
def tradeoff(request: HttpRequest, job_id: uuid.UUID, body: PlaneIn) -> list[TradeOff]:
    """How many pieces explain the section at which tolerance, and how closely they follow it then."""
    job = own_job(request.user, job_id)
    scan = job_scan(job, body.scan)
    frame, lines, _ = _lines(body, scan, typed_length(body.offset, job) or 0.0)
    base = outline_tolerance(scan)
    rows = []
    for factor in _STEPS:
        loops = outlines_of(scan, lines, frame, tolerance_mm=factor * base)
        pieces = [p for loop in loops for p in loop.outline.pieces]
        rms = float(np.sqrt(np.mean([p.rms**2 for p in pieces]))) if pieces else 0.0
        rows.append(
            TradeOff(tolerance=factor * base, pieces=len(pieces), free=sum(p.kind == "free" for p in pieces), rms=rms)
        )
    return rows


@router.post("/{job_id}/where-to-cut", response=list[RankedCut])
def where_to_cut(request: HttpRequest, job_id: uuid.UUID, body: RankIn) -> list[dict[str, Any]]:
    """Places along a direction, best first."""
    job_scan(own_job(request.user, job_id), body.scan)
    payload = {"store": str(settings.STORE), "scan": body.scan, "origin": body.origin, "normal": body.normal}
    found: list[dict[str, Any]] = run_in_child("where-to-cut", payload, time_limit_s=120)["cuts"]
    return found


def _loop(loop: SectionLoop) -> LoopOut:
    pieces = []
    for p in loop.outline.pieces:
        flat = piece_points(p)
        length = float(np.linalg.norm(np.diff(flat, axis=0), axis=1).sum())
        path = [triple(q) for q in loop.frame.to_space(flat)]
        pieces.append(
            PieceOut(kind=p.kind, start=p.start, end=p.end, mid=p.mid, points=list(p.points), radius=p.radius, ellipse=p.ellipse,
                     length=length, rms=p.rms, path=path)
        )  # fmt: skip
    return LoopOut(closed=loop.outline.closed, length=loop.length, area=loop.area, pieces=pieces)
