"""How the outlines of a section may be otherwise: relations put right, other tolerances, and what each costs."""

from __future__ import annotations

import uuid

import numpy as np
from django.http import HttpRequest
from ninja import Field, Router, Schema

from bench.api.queries import typed_length
from bench.api.sections import PlaneIn, cut_of, has_sector
from bench.jobs import own_job
from bench.scans import job_scan
from contour.fit.budget import Budget
from contour.outline.offers import nearly_held
from contour.outline.pieces import Outline
from contour.outline.section import outline_tolerance, outline_unscanned, outlines_of
from contour.outline.shape import Held, Relation
from contour.recipe.problem import ContourError
from contour.sketch.of_sector import sector_ends
from contour.sketch.refit import refit_loops
from contour.sketch.taken import LoopRelation, TakenLoop

router = Router(tags=["sections"])

# Seconds that a question may take beyond the cut itself.
TRADEOFF_S, OFFERS_S = 4.0, 4.0


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
    kind: Relation
    first: str
    second: str
    off: float
    rms: float
    rms_held: float | None


class OffersIn(PlaneIn):
    """loops: the structure as it stands, with what is held already."""

    tolerance: str | None = None
    loops: list[TakenLoop] = Field(max_length=200)


def _rms(outlines: list[Outline]) -> float:
    return float(np.sqrt(np.mean([p.rms**2 for outline in outlines for p in outline.pieces])))


@router.post("/{job_id}/outline-relations", response=list[OfferOut])
def offers(request: HttpRequest, job_id: uuid.UUID, body: OffersIn) -> list[OfferOut]:
    """What may be put right between the pieces, and what each costs."""
    job = own_job(request.user, job_id)
    scan = job_scan(job, body.scan)
    cut = cut_of(job, body, scan, typed_length(body.offset, job) or 0.0)
    frame, lines = cut.frame, cut.lines
    tolerance = typed_length(body.tolerance, job) or outline_tolerance(scan)
    budget = Budget(OFFERS_S)

    def fit(loops: list[TakenLoop]) -> list[Outline]:
        return refit_loops(loops, lines, frame, tolerance / 3, scan.edge_mm)

    outlines = fit(body.loops)
    owner = [(i, p.id) for i, loop in enumerate(body.loops) for p in loop.pieces]
    near = nearly_held(outlines, near_mm=max(3 * tolerance, 0.15))
    if cut.scanned is not None:
        outlines = [outline_unscanned(o, cut.scanned, scan.edge_mm + tolerance) for o in outlines]
        near = [*_sector_ends(body.loops, outlines, has_sector(job)), *near]
    out = []
    for held, off in near:
        (i, first), (j, second) = owner[held.first], owner[held.second]
        more = LoopRelation(kind=held.kind, first=first, second=second)
        loops = list(body.loops)
        loops[i] = loops[i].model_copy(update={"relations": [*loops[i].relations, more]})
        concerned = sorted({i, j} | _tied_to(loops, {i, j}))
        try:
            if budget.spent:
                raise ContourError("time-limit", "its cost is not known")
            cost: float | None = _rms(fit([loops[n] for n in concerned]))
        except ContourError:
            cost = None
        rms = _rms([outlines[n] for n in concerned])
        out.append(OfferOut(loop=i, kind=held.kind, first=first, second=second, off=off, rms=rms, rms_held=cost))
    return out


def _sector_ends(loops: list[TakenLoop], outlines: list[Outline], meeting: bool) -> list[tuple[Held, float]]:
    """The ends of one sector that are not held to each other, and how far off they are, mm. Pieces are counted through all loops."""
    out: list[tuple[Held, float]] = []
    begin = 0
    for loop, outline in zip(loops, outlines, strict=True):
        found = sector_ends(outline, meeting=meeting)
        if found is not None and not any(r.kind == "turned" for r in loop.relations):
            out.append((Held("turned", begin + found.first, begin + found.second), found.off))
        begin += len(outline.pieces)
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
    cut = cut_of(job, body, scan, typed_length(body.offset, job) or 0.0)
    base = outline_tolerance(scan)
    rows: list[TradeOff] = []
    budget = Budget(TRADEOFF_S)
    for factor in _STEPS:
        loops = outlines_of(scan, cut.clean, cut.frame, tolerance_mm=factor * base, budget=budget)
        if budget.spent:
            break  # the rows so far are an answer
        pieces = [p for loop in loops for p in loop.outline.pieces]
        rms = float(np.sqrt(np.mean([p.rms**2 for p in pieces]))) if pieces else 0.0
        rows.append(
            TradeOff(tolerance=factor * base, pieces=len(pieces), free=sum(p.kind == "free" for p in pieces), rms=rms)
        )
    return rows
