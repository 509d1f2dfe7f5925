"""Pictures under a drawing: how they lie, what stands in them, and laying them. Nothing is kept here: the step is changed by an edit."""

from __future__ import annotations

import uuid
from dataclasses import dataclass
from typing import Literal

import numpy as np
from django.http import HttpRequest
from ninja import Router, Schema

from bench.api.drawings import Spot2, as_built
from bench.api.pictures import facts_of
from bench.jobs import own_job, recipe_of, scope_of
from bench.models import Job
from bench.pictures import grey_photo
from contour.job.questions.laid import as_kept, figures_in, laid_picture, picture_called, require_scale
from contour.job.questions.photo import flat_picture
from contour.metrology.photo.flat import Flat, FlatPixels
from contour.metrology.photo.laid import Laid, by_two_places
from contour.metrology.photo.scale import Scale
from contour.recipe.evidence.picture import Picture
from contour.recipe.formula import names_in
from contour.recipe.problem import ContourError, Problem
from contour.sketch.drawn.figures import BesideSize, Figure, beside_sizes
from contour.sketch.drawn.kept import KeptDrawing, drawing_of
from contour.sketch.drawn.seen_edges import laid_onto
from contour.sketch.drawn.solution import solved
from contour.sketch.drawn.under import UnderPicture

router = Router(tags=["drawings"])


@dataclass(frozen=True, slots=True)
class LaidPhoto:
    """A picture under a drawing, ready to look for edges in."""

    picture: Picture
    flat: Flat
    scale: Scale
    laid: Laid

    @property
    def pixels(self) -> FlatPixels:
        return FlatPixels(grey_photo(self.picture), self.flat)

    @property
    def lines(self) -> bool:
        return self.picture.role == "drawing"


def laid_photo(job: Job, under: UnderPicture) -> LaidPhoto:
    """Raises ContourError (not-found), (bad-params) where it has no scale."""
    picture = picture_called(recipe_of(job), under.picture)
    # Its marks are not asked for: each would be worked out.
    facts = facts_of(job, picture.model_copy(update={"marks": ()}))
    if facts.scale is None and facts.problems:
        raise ContourError.of(facts.problems[0])
    scale, flat = require_scale(picture, facts.scale), flat_picture(picture)
    return LaidPhoto(picture, flat, scale, laid_picture(under, flat, scale))


class LaidIn(Schema):
    step: uuid.UUID | None = None
    drawing: KeptDrawing


Told = Literal["caliper", "photo", "drawing"]


class PlacedFigure(Schema):
    """A reading that is pinned on the picture: mm or degrees; at: mm in the plane."""

    reading: str
    source: Told
    value: float
    angle: bool
    tolerance: float | None
    at: Spot2


class LaidOut(Schema):
    """picture: its id · size: of the flat picture, pixels · matrix: a, b, c, d, e, f of x = a·px + c·py + e, y = b·px + d·py + f, mm; none where it cannot
    be laid, and problem says why."""

    picture: str
    name: str
    size: tuple[int, int]
    matrix: tuple[float, float, float, float, float, float] | None
    mm_per_px: float | None
    figures: list[PlacedFigure]
    problem: Problem | None


class SizeFigure(Schema):
    """A figure beside a size, by its name. text: the formula that makes the size what it states · value: in the size's own terms, mm or degrees · off: what
    the size reads, less that · allowed: by the drawing's tolerance."""

    size: str
    reading: str
    source: Told
    text: str
    value: float
    tolerance: float | None
    off: float
    allowed: bool | None


class UnderDrawing(Schema):
    pictures: list[LaidOut]
    beside: list[SizeFigure]


class LayIn(Schema):
    """under: how the picture lies now · seen, meant: two places of the plane at which something is seen, and where it is to come to (mm); none of them: it is
    laid by its edges onto what is drawn."""

    step: uuid.UUID | None = None
    drawing: KeptDrawing
    under: UnderPicture
    seen: tuple[Spot2, Spot2] | None = None
    meant: tuple[Spot2, Spot2] | None = None


class LayOut(Schema):
    """larger: how many times as large as in the picture the drawing (or what is between the places) is · doubted: more than the picture's scale allows for ·
    rms: of the edges, mm, and edges: how many; none where it was laid by two places."""

    under: UnderPicture
    larger: float
    doubted: bool
    rms: float | None
    edges: int | None


@router.post("/{job_id}/drawing/under", response=UnderDrawing)
def under_drawing(request: HttpRequest, job_id: uuid.UUID, body: LaidIn) -> UnderDrawing:
    """Each picture by itself: one that cannot be laid says so, the others lie."""
    job = own_job(request.user, job_id)
    pictures: list[LaidOut] = []
    figures: dict[str, Figure] = {}
    for under in body.drawing.pictures:
        out, found = _looked_at(job, under)
        pictures.append(out)
        figures |= {f.name: f for f in found}
    beside: list[SizeFigure] = []
    kept = as_built(job, body.step, body.drawing)
    rows, sources = list(figures.values()), _sources(job)
    if rows and kept.sizes:
        settled = solved(drawing_of(kept), scope_of(job).lookup)
        if settled.solved:
            beside = [
                SizeFigure(
                    size=kept.sizes[b.size].name,
                    reading=rows[b.figure].name,
                    source=sources[rows[b.figure].name],
                    text=b.text,
                    value=b.value,
                    tolerance=rows[b.figure].tolerance,
                    off=b.off,
                    allowed=b.allowed,
                )
                for b in beside_sizes(settled.drawing, rows)
                if _open_to(kept, b)
            ]
    return UnderDrawing(pictures=pictures, beside=beside)


def _open_to(kept: KeptDrawing, b: BesideSize) -> bool:
    """A size that a formula holds is not offered another figure; the one that it names is shown beside it."""
    size = kept.sizes[b.size]
    value = (kept.angles if size.kind == "angle" else kept.lengths).get(size.name)
    return value is None or value.text == b.text or not names_in(value.text)


def _looked_at(job: Job, under: UnderPicture) -> tuple[LaidOut, list[Figure]]:
    picture = next((p for p in recipe_of(job).pictures if p.id == under.picture), None)
    name = picture.name if picture else "a picture that is gone"
    try:
        photo = laid_photo(job, under)
        m = photo.laid.matrix
        e, f = photo.laid.to_plane(np.zeros((1, 2)))[0]
        matrix = (float(m[0, 0]), float(m[1, 0]), float(m[0, 1]), float(m[1, 1]), float(e), float(f))
    except ContourError as error:
        problem = error.problem
        return LaidOut(
            picture=under.picture, name=name, size=(1, 1), matrix=None, mm_per_px=None, figures=[], problem=problem
        ), []
    figures = figures_in(recipe_of(job), photo.picture, photo.laid)
    sources = _sources(job)
    rows = [
        PlacedFigure(
            reading=f.name, source=sources[f.name], value=f.value, angle=f.angle, tolerance=f.tolerance, at=f.at
        )
        for f in figures
    ]
    return LaidOut(
        picture=under.picture,
        name=name,
        size=photo.flat.size,
        matrix=matrix,
        mm_per_px=photo.scale.mm_per_px,
        figures=rows,
        problem=None,
    ), figures


def _sources(job: Job) -> dict[str, Told]:
    return {r.name: r.source for r in recipe_of(job).readings}


_DOUBT = 3.0  # standard uncertainties of the scale: what the drawing is off by beyond them is said


@router.post("/{job_id}/drawing/lay", response=LayOut)
def lay(request: HttpRequest, job_id: uuid.UUID, body: LayIn) -> LayOut:
    job = own_job(request.user, job_id)
    photo = laid_photo(job, body.under)
    scale = photo.scale
    if body.seen is not None and body.meant is not None:
        seen, meant = np.array(body.seen), np.array(body.meant)
        if min(np.linalg.norm(seen[1] - seen[0]), np.linalg.norm(meant[1] - meant[0])) < 4 * scale.mm_per_px:
            raise ContourError(
                "bad-params",
                "the two places are one",
                got=f"{np.linalg.norm(seen[1] - seen[0]):.3g} mm apart",
                need="places far from each other",
                remedy="point at two corners or hole centres at opposite ends",
            )
        laid, larger = by_two_places(photo.laid, seen, meant)
        # A hand points to some pixels: two of them at each end.
        u = np.hypot(scale.relative_u + scale.uneven, 2 * scale.mm_per_px / np.linalg.norm(seen[1] - seen[0]))
        doubted = bool(abs(larger - 1) > _DOUBT * u)
        return LayOut(under=as_kept(laid, body.under), larger=larger, doubted=doubted, rms=None, edges=None)
    kept = as_built(job, body.step, body.drawing)
    drawing = solved(drawing_of(kept), scope_of(job).lookup).drawing
    found = laid_onto(drawing, photo.pixels, photo.laid, lines=photo.lines)
    u = float(np.sqrt(found.u_larger**2 + scale.relative_u**2 + scale.uneven**2))
    return LayOut(
        under=as_kept(found.laid, body.under),
        larger=found.larger,
        doubted=abs(found.larger - 1) > _DOUBT * u,
        rms=found.rms,
        edges=found.used,
    )
