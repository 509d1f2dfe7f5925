"""A drawing against the section of a scan in its plane, or the edges of a picture under it: how far it is off, and adjusted to it. Nothing is kept here."""

from __future__ import annotations

import uuid
from typing import Literal

import numpy as np
from django.http import HttpRequest
from ninja import Router, Schema

from bench.api.drawings import OnSheet, as_built
from bench.api.laid import laid_photo
from bench.jobs import own_job, recipe_of, scope_of
from bench.models import Job
from bench.scans import in_turn, job_scan
from contour.mesh.slice import slice_scan
from contour.recipe.problem import ContourError
from contour.sketch.drawn.alike import Alike
from contour.sketch.drawn.fitted import FittedDrawing, Strayed, fitted, strayed
from contour.sketch.drawn.kept import KeptDrawing, drawing_of
from contour.sketch.drawn.picture_fit import fitted_to_picture, picture_source
from contour.sketch.drawn.seen_edges import edges_near
from contour.sketch.drawn.solution import solved
from contour.sketch.drawn.under import UnderPicture

router = Router(tags=["drawings"])

Spot2 = tuple[float, float]
_WHISKERS = 800


class FitIn(OnSheet):
    """scan: whose section it is held against, by its evidence or a key · picture: one that lies under the drawing, whose edges it is held against instead ·
    adjust: sizes to what was measured."""

    drawing: KeptDrawing
    scan: str = ""
    picture: str | None = None
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
    kept = as_built(job, body.step, body.drawing)
    made: FittedDrawing | None = None
    if body.picture is None:
        chains = _section(job, body)
        if body.adjust:
            made = fitted(kept, chains, lookup=lookup, unit=recipe.unit)
    else:
        photo = laid_photo(job, _under(kept, body.picture))
        if body.adjust:
            source = picture_source(photo.scale, photo.picture.name)
            made, seen = fitted_to_picture(
                kept, photo.pixels, photo.laid, source, lines=photo.lines, lookup=lookup, unit=recipe.unit
            )
        else:
            now = solved(drawing_of(kept), lookup).drawing
            seen = edges_near(now, photo.pixels, photo.laid, lines=photo.lines)
        chains = seen.chains
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


def _section(job: Job, body: FitIn) -> list[np.ndarray]:
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
    return chains


def _under(kept: KeptDrawing, picture: str) -> UnderPicture:
    found = next((p for p in kept.pictures if p.picture == picture), None)
    if found is None:
        raise ContourError(
            "not-found",
            "this picture does not lie under the drawing",
            got=picture[:8],
            need="one that does",
            remedy="lay it under the drawing first",
        )
    return found


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
