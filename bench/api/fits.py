"""A drawing against the section of a scan in its plane: how far it is off, and adjusted to it. Nothing is kept here."""

from __future__ import annotations

import uuid
from typing import Literal

import numpy as np
from django.http import HttpRequest
from ninja import Router, Schema

from bench.api.drawings import OnSheet, as_built
from bench.jobs import own_job, recipe_of, scope_of
from bench.scans import in_turn, job_scan
from contour.mesh.slice import slice_scan
from contour.recipe.problem import ContourError
from contour.sketch.drawn.alike import Alike
from contour.sketch.drawn.fitted import Strayed, fitted, strayed
from contour.sketch.drawn.kept import KeptDrawing, drawing_of
from contour.sketch.drawn.solution import solved

router = Router(tags=["drawings"])

Spot2 = tuple[float, float]
_WHISKERS = 800


class FitIn(OnSheet):
    """scan: by its evidence or a key · adjust: sizes to the section."""

    drawing: KeptDrawing
    scan: str
    adjust: bool = False


class FitSize(Schema):
    """before, value, u: mm or degrees · held: why it keeps its value, "" where it is adjusted · round: what it could be, as one would type it."""

    name: str
    before: float
    value: float
    u: float | None
    held: str
    round: str | None


class Whisker(Schema):
    """at: on what is drawn · to: the measured place · off: mm, + outside or to the left."""

    at: Spot2
    to: Spot2
    off: float


class AlikeOut(Schema):
    """What the places do not tell apart: entities of one radius or length, or two rings and the line between them. off, u: mm, by how much they differ
    and what is known of it · twice: demands ("d:2") that would say it twice."""

    kind: Literal["equal", "symmetric"]
    of: list[str]
    off: float
    u: float
    twice: list[str]


class FitOut(Schema):
    """drawing: with its sizes adjusted, none where this was not asked · inside: share of places within the job's acceptance · worst: the whisker
    that is longest · alone: entities that no place lies near · left_out: places that the adjustment took for wear, rims or something else."""

    drawing: KeptDrawing | None
    sizes: list[FitSize]
    rms: float
    inside: float
    within: float
    places: int
    left_out: int
    alike: list[AlikeOut] = []
    worst: Whisker | None
    whiskers: list[Whisker]
    alone: list[str]


@router.post("/{job_id}/drawing/fit", response=FitOut, by_alias=True)
def fit(request: HttpRequest, job_id: uuid.UUID, body: FitIn) -> FitOut:
    job = own_job(request.user, job_id)
    recipe, lookup = recipe_of(job), scope_of(job).lookup
    scan = job_scan(job, body.scan)
    frame = body.frame()
    with in_turn(scan):
        chains = [frame.to_plane(c.points) for c in slice_scan(scan, frame.origin, frame.normal)]
    if not chains:
        raise ContourError(
            "no-section",
            "the sketch's plane does not cut the scan",
            got="no places",
            need="a plane that cuts the scan",
            remedy="choose another height",
        )
    kept = as_built(job, body.step, body.drawing)
    made = fitted(kept, chains, lookup=lookup, unit=recipe.unit) if body.adjust else None
    drawing = solved(drawing_of(kept if made is None else made.kept), lookup).drawing
    found = strayed(drawing, chains)
    within = recipe.acceptance_mm
    return FitOut(
        drawing=None if made is None else made.kept,
        sizes=[]
        if made is None
        else [
            FitSize(name=r.name, before=r.before, value=r.value, u=r.u, held=r.held, round=r.round) for r in made.rows
        ],
        rms=_rms(found.off) if made is None else made.found.rms,
        inside=float(np.mean(np.abs(found.off) <= within)) if len(found.off) else 0.0,
        within=within,
        places=len(found.off),
        left_out=0 if made is None else made.found.left_out,
        alike=[] if made is None else [_alike(a, made.kept) for a in made.alike],
        worst=_whisker(found, int(np.abs(found.off).argmax())) if len(found.off) else None,
        whiskers=[_whisker(found, int(k)) for k in _some(len(found.off))],
        alone=list(found.alone),
    )


def _alike(a: Alike, kept: KeptDrawing) -> AlikeOut:
    """Of entities that become equal the first keeps its size; those of the others only read from then on."""
    others = set(a.of[1:]) if a.kind == "equal" else set()
    own = ("radius", "diameter", "length")
    twice = [f"d:{k}" for k, s in enumerate(kept.sizes) if s.kind in own and s.of[0] in others and not s.reference]
    return AlikeOut(kind=a.kind, of=list(a.of), off=a.off, u=a.u, twice=twice)


def _rms(off: np.ndarray) -> float:
    return float(np.sqrt(np.mean(off**2))) if len(off) else 0.0


def _some(count: int) -> np.ndarray:
    return np.unique(np.linspace(0, count - 1, min(count, _WHISKERS)).astype(int)) if count else np.zeros(0, int)


def _whisker(found: Strayed, k: int) -> Whisker:
    at, to = np.round(found.feet[k], 5).tolist(), np.round(found.places[k], 5).tolist()
    return Whisker(at=at, to=to, off=round(float(found.off[k]), 6))
