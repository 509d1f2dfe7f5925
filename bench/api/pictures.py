"""Photos and drawings: brought in, shown flat, edges found, marks made and turned into readings."""

from __future__ import annotations

import io
import os
import uuid
from dataclasses import asdict
from typing import Any, Literal, TypeVar

import numpy as np
from django.http import FileResponse, HttpRequest, HttpResponse
from ninja import Field, File, Router, Schema
from ninja.files import UploadedFile
from PIL import Image
from pydantic import BaseModel, ValidationError

from bench.api.jobs import JobOut, job_out
from bench.blobs import keep
from bench.jobs import edit_job, own_job, recipe_of, scope_of
from bench.models import Job, Upload
from bench.pictures import drawing_of, flat_file, grey_photo, unpacked_picture
from bench.scans import scan_state
from bench.store import store
from contour.exchange.picture import MAX_PICTURE_BYTES
from contour.job.edits.apply import SetReading
from contour.job.edits.picture import AddPicture, SetMark, SetPicture
from contour.job.edits.reading import PutReadings
from contour.job.questions.laid import picture_called
from contour.job.questions.photo import PictureFacts, flat_picture, picture_facts
from contour.job.questions.uncertain import formula_uncertainty
from contour.metrology.photo.edges import snap_circle
from contour.metrology.photo.flat import FlatPixels
from contour.metrology.photo.squared import squared_up
from contour.metrology.photo.trace import ends_on_edges, traced
from contour.outline.bends import sides_of
from contour.recipe.evidence.picture import MarkKind, Picture, PictureLength, PictureMark
from contour.recipe.evidence.reading import Pin, Reading
from contour.recipe.formula import evaluate
from contour.recipe.problem import ContourError, Problem, Where
from contour.recipe.values import Value

router = Router(tags=["pictures"])

Point = tuple[float, float]
SHEET = (1500, 1000)


class MarkOut(Schema):
    """points and found: flat pixels; value and u: mm, degrees, or a plain number."""

    id: str
    points: list[Point]
    found: list[Point]
    value: float | None
    u: float | None
    dimension: str
    drift: float | None
    u_drift: float | None
    alike: float | None
    doubled: bool
    problem: Problem | None


class PinOut(Schema):
    """A reading pinned on the picture: flat pixels."""

    reading: str
    at: Point


class PictureOut(Schema):
    """size: of the flat picture, pixels; lines in flat pixels; check_error: relative, by the second known length."""

    size: tuple[int, int]
    mm_per_px: float | None
    relative_u: float | None
    scale_line: list[Point]
    check_line: list[Point]
    check_error: float | None
    check_away: float | None
    marks: list[MarkOut]
    problems: list[Problem]
    pins: list[PinOut]


class SnapIn(Schema):
    """corners: photo pixels; the others flat pixels: the ends of a distance, a circle by its middle and a point of the rim, an
    outline by its corners and, for round sides, a point on each (bends: their places)."""

    kind: Literal["corners", "ends", "circle", "trace"]
    points: list[Point] = Field(min_length=1, max_length=500)
    closed: bool = False
    bends: list[int] = []


class SnapOut(Schema):
    """The points on the edges that were found; rms: what is left, pixels; bend: the lens's term (corners only)."""

    points: list[Point]
    rms: float
    bend: float


class MarkIn(Schema):
    """A mark by flat pixels."""

    version: int
    id: str
    kind: MarkKind
    name: str = Field(default="", max_length=60)
    points: list[Point] = Field(min_length=1, max_length=500)
    count: int = 0
    closed: bool = False
    bends: list[int] = []
    snapped: bool = False
    step: Value | None = None


class LineIn(Schema):
    """The known length (or the second one) by flat pixels; text: what it is long, a formula."""

    version: int
    which: Literal["scale", "check"]
    a: Point
    b: Point
    length: Value


class ReadingIn(Schema):
    version: int
    name: str


class SilhouetteIn(Schema):
    """along: the axis it is seen along, from its positive end."""

    version: int
    scan: str
    along: Literal["x", "y", "z"] = "z"


class PinIn(Schema):
    """at: flat pixels."""

    version: int
    reading: str
    at: Point


class DimensionIn(Schema):
    """A figure read off a drawing: where it stands (flat pixels), its value and the tolerance the drawing gives it."""

    version: int
    name: str
    at: Point
    value: float
    unit: Literal["mm", "inch", "deg"] = "mm"
    tolerance_mm: float | None = None


def _picture(job: Job, picture_id: str) -> Picture:
    return picture_called(recipe_of(job), picture_id)


def facts_of(job: Job, picture: Picture) -> PictureFacts:
    """What a picture of the job says, its known lengths by the job's values."""
    recipe = recipe_of(job)
    scope = scope_of(job)

    def known(text: str) -> tuple[float, float]:
        mm = evaluate(text, dimension="length", unit=recipe.unit, lookup=scope.lookup).value
        return mm, formula_uncertainty(recipe, text, {}) or 0.0

    return picture_facts(picture, lambda: grey_photo(picture), known)


def _kept(request: HttpRequest, data: bytes, name: str, format: str) -> str:
    blob = keep(request.user, data)
    Upload.objects.get_or_create(
        owner=request.user, blob=blob, defaults={"name": name, "size": len(data), "format": format}
    )
    return blob


@router.post("/{job_id}/pictures", response=JobOut)
def bring_in(
    request: HttpRequest,
    job_id: uuid.UUID,
    version: int,
    file: File[UploadedFile],
    role: Literal["photo", "drawing"] = "photo",
    page: int = 1,
) -> JobOut:
    job = own_job(request.user, job_id)
    name = os.path.basename(file.name or "picture")[:200]
    if (file.size or 0) > MAX_PICTURE_BYTES:
        raise ContourError(
            "file-too-large",
            "the picture's file is too large",
            where=Where(file=name),
            got=f"{(file.size or 0) / 2**20:.0f} MB",
            need=f"at most {MAX_PICTURE_BYTES // 2**20} MB",
        )
    made, data = unpacked_picture(file, name, page)  # type: ignore[arg-type]
    shown = name if made["pages"] == 1 else f"{name}, page {page} of {made['pages']}"
    picture = Picture(
        id=str(uuid.uuid4()),
        name=shown,
        blob=_kept(request, data, name, made["format"]),
        format=made["format"],
        role=role,
        width=made["width"],
        height=made["height"],
    )
    return job_out(edit_job(job, version, AddPicture(op="add-picture", picture=picture)))


@router.post("/{job_id}/pictures/blank", response=JobOut)
def blank(request: HttpRequest, job_id: uuid.UUID, version: int) -> JobOut:
    """An empty sheet to sketch on by hand: a place to pin readings on, not to measure in."""
    job = own_job(request.user, job_id)
    out = io.BytesIO()
    Image.new("RGB", SHEET, "white").save(out, "PNG")
    name = f"hand sketch {1 + sum(p.name.startswith('hand sketch') for p in recipe_of(job).pictures)}"
    picture = Picture(
        id=str(uuid.uuid4()),
        name=name,
        blob=_kept(request, out.getvalue(), name, "png"),
        format="png",
        role="drawing",
        width=SHEET[0],
        height=SHEET[1],
    )
    return job_out(edit_job(job, version, AddPicture(op="add-picture", picture=picture)))


@router.post("/{job_id}/pictures/silhouette", response=JobOut)
def silhouette(request: HttpRequest, job_id: uuid.UUID, body: SilhouetteIn) -> JobOut:
    """The scan seen along an axis, as a drawing to scale: a place to pin readings on."""
    job = own_job(request.user, job_id)
    drawn, data = drawing_of(scan_state(job, body.scan), body.along)
    wide, high, mm_per_px = drawn["width"], drawn["height"], drawn["mm_per_px"]
    name = f"scan along {body.along}"
    length = Value(text=f"{(wide - 1) * mm_per_px:.4f} mm", mark="scan", note="the drawing's width")
    picture = Picture(
        id=str(uuid.uuid4()),
        name=name,
        blob=_kept(request, data, name, "png"),
        format="png",
        role="drawing",
        width=wide,
        height=high,
        scale=PictureLength(a=(0.0, high - 1.0), b=(wide - 1.0, high - 1.0), length=length),
    )
    return job_out(edit_job(job, body.version, AddPicture(op="add-picture", picture=picture)))


@router.post("/{job_id}/pictures/{picture_id}/pin", response=JobOut)
def pin(request: HttpRequest, job_id: uuid.UUID, picture_id: str, body: PinIn) -> JobOut:
    """Where on the picture a reading was taken."""
    job = own_job(request.user, job_id)
    picture = _picture(job, picture_id)
    x, y = flat_picture(picture).to_photo(np.array([body.at]))[0]
    spot = _valid(Pin, "pin it inside the picture", on=picture.id, at=(float(x), float(y), 0.0))
    return job_out(edit_job(job, body.version, SetReading(op="set-reading", id=body.reading, pin=spot)))


@router.get("/{job_id}/pictures/{picture_id}", response=PictureOut)
def look(request: HttpRequest, job_id: uuid.UUID, picture_id: str) -> PictureOut:
    job = own_job(request.user, job_id)
    picture = _picture(job, picture_id)
    facts = facts_of(job, picture)
    flat = flat_picture(picture)
    pinned = [r for r in recipe_of(job).readings if r.pin is not None and r.pin.on == picture.id]
    spots = flat.to_flat(np.array([r.pin.at[:2] for r in pinned if r.pin])) if pinned else []
    pins = [PinOut(reading=r.id, at=(float(x), float(y))) for r, (x, y) in zip(pinned, spots, strict=True)]
    return PictureOut(
        size=facts.size,
        mm_per_px=facts.scale.mm_per_px if facts.scale else None,
        relative_u=facts.scale.relative_u if facts.scale else None,
        scale_line=list(facts.scale_line),
        check_line=list(facts.check_line),
        check_error=facts.check_error,
        check_away=facts.check_away,
        marks=[MarkOut(**{**asdict(m), "problem": m.problem}) for m in facts.marks],
        problems=list(facts.problems),
        pins=pins,
    )


@router.get("/{job_id}/pictures/{picture_id}/photo")
def photo(request: HttpRequest, job_id: uuid.UUID, picture_id: str) -> HttpResponse:
    """The picture as it came in."""
    picture = _picture(own_job(request.user, job_id), picture_id)
    path = store().blob(picture.blob, name=picture.name)
    return FileResponse(path.open("rb"), content_type=f"image/{picture.format}")


@router.get("/{job_id}/pictures/{picture_id}/flat")
def flat(request: HttpRequest, job_id: uuid.UUID, picture_id: str) -> HttpResponse:
    """The picture straightened. Marks are placed on its full size, however coarsely it is shown."""
    path = flat_file(_picture(own_job(request.user, job_id), picture_id))
    answer = FileResponse(path.open("rb"), content_type="image/jpeg")
    answer["Cache-Control"] = "private, max-age=3600"
    answer["ETag"] = path.parent.name[:16]
    return answer


@router.post("/{job_id}/pictures/{picture_id}/snap", response=SnapOut)
def snap(request: HttpRequest, job_id: uuid.UUID, picture_id: str, body: SnapIn) -> SnapOut:
    """Edges near what a hand has drawn; raises fit-failed where there are none."""
    picture = _picture(own_job(request.user, job_id), picture_id)
    p = np.array(body.points, float)
    if len(p) < {"corners": 4, "ends": 2, "circle": 2, "trace": 2}[body.kind]:
        raise ContourError("bad-params", "too few points", got=len(p))
    if body.kind == "corners":
        found = squared_up(grey_photo(picture), p[:4])
        return SnapOut(points=found.corners.tolist(), rms=found.rms, bend=found.bend)
    pixels, drawn = FlatPixels(grey_photo(picture), flat_picture(picture)), picture.role == "drawing"
    if body.kind == "ends":
        a, b = ends_on_edges(pixels, p[0], p[1], drawn=drawn)
        return SnapOut(points=[tuple(a), tuple(b)], rms=0.0, bend=0.0)
    if body.kind == "trace":
        corners, rms = traced(pixels, p, bends=tuple(body.bends), closed=body.closed, drawn=drawn)
        return SnapOut(points=corners.tolist(), rms=rms, bend=0.0)
    radius = float(np.linalg.norm(p[1] - p[0]))
    circle = snap_circle(pixels, p[0], radius, drawn=drawn)
    way = (p[1] - p[0]) / max(radius, 1e-9)
    return SnapOut(points=[tuple(circle.centre), tuple(circle.centre + circle.radius * way)], rms=circle.rms, bend=0.0)


@router.post("/{job_id}/pictures/{picture_id}/marks", response=JobOut)
def mark(request: HttpRequest, job_id: uuid.UUID, picture_id: str, body: MarkIn) -> JobOut:
    job = own_job(request.user, job_id)
    picture = _picture(job, picture_id)
    points = flat_picture(picture).to_photo(np.array(body.points))
    if body.kind == "trace":
        sides_of(len(points), tuple(body.bends), closed=body.closed)  # refused here, not when it is looked at
    old = next((m for m in picture.marks if m.id == body.id), None)
    made = _valid(
        PictureMark,
        "mark it inside the picture",
        id=body.id,
        kind=body.kind,
        name=body.name,
        points=tuple((float(x), float(y)) for x, y in points),
        count=body.count,
        closed=body.closed,
        bends=tuple(body.bends),
        snapped=body.snapped,
        step=body.step,
        reading=old.reading if old else None,
    )
    return job_out(edit_job(job, body.version, SetMark(op="set-mark", picture=picture.id, mark=made)))


@router.post("/{job_id}/pictures/{picture_id}/known", response=JobOut)
def known_length(request: HttpRequest, job_id: uuid.UUID, picture_id: str, body: LineIn) -> JobOut:
    """A length that is known: the scale, or what it is tried on."""
    job = own_job(request.user, job_id)
    picture = _picture(job, picture_id)
    recipe = recipe_of(job)
    evaluate(body.length.text, dimension="length", unit=recipe.unit, lookup=scope_of(job).lookup)
    a, b = flat_picture(picture).to_photo(np.array([body.a, body.b])).tolist()
    line = _valid(PictureLength, "mark it inside the picture", a=tuple(a), b=tuple(b), length=body.length)
    part: dict[str, Any] = {body.which: line}
    return job_out(edit_job(job, body.version, SetPicture(op="set-picture", id=picture.id, **part)))


def _named(job: Job, name: str) -> None:
    if any(n.name == name for n in recipe_of(job).named):
        raise ContourError(
            "name-taken",
            f"'{name}' is the name of another value",
            where=Where(value=name),
            remedy="choose another name",
        )


M = TypeVar("M", bound=BaseModel)


def _valid(model: type[M], remedy: str, /, **fields: Any) -> M:
    """One of the recipe's entries by fields that come from outside; raises ContourError (bad-params) with what is wrong."""
    try:
        return model.model_validate(fields)
    except ValidationError as error:
        first = error.errors()[0]
        place = ".".join(str(p) for p in first["loc"])
        raise ContourError(
            "bad-params", first["msg"].removeprefix("Value error, "), where=Where(param=place or None), remedy=remedy
        ) from None


def _reading(**fields: Any) -> Reading:
    return _valid(Reading, "use a name such as bore_d, and figures in range", id=str(uuid.uuid4()), **fields)


@router.post("/{job_id}/pictures/{picture_id}/marks/{mark_id}/reading", response=JobOut)
def to_reading(request: HttpRequest, job_id: uuid.UUID, picture_id: str, mark_id: str, body: ReadingIn) -> JobOut:
    """What a mark measures becomes a reading, pinned where it was measured."""
    job = own_job(request.user, job_id)
    picture = _picture(job, picture_id)
    facts = next((m for m in facts_of(job, picture).marks if m.id == mark_id), None)
    if facts is None or facts.value is None or facts.dimension == "number":
        raise ContourError(
            "bad-params", "this mark has no length or angle yet", remedy="set the picture's scale by a known length"
        )
    _named(job, body.name)
    made = next(m for m in picture.marks if m.id == mark_id)
    x, y = np.mean(made.points, axis=0)
    unit: Any = "deg" if facts.dimension == "angle" else "mm"
    reading = _reading(
        name=body.name,
        source="photo",
        u_mm=facts.u,
        takes=({"value": round(facts.value, 6), "unit": unit, "method": "photo"},),
        note=f"{made.kind} in {picture.name}",
        pin={"on": picture.id, "at": (float(x), float(y), 0.0)},
    )
    return job_out(edit_job(job, body.version, PutReadings(op="put-readings", readings=(reading,))))


@router.post("/{job_id}/pictures/{picture_id}/dimension", response=JobOut)
def dimension(request: HttpRequest, job_id: uuid.UUID, picture_id: str, body: DimensionIn) -> JobOut:
    """A figure typed where a drawing states it: a reading with the mark *drawing* and the stated tolerance."""
    job = own_job(request.user, job_id)
    picture = _picture(job, picture_id)
    _named(job, body.name)
    x, y = flat_picture(picture).to_photo(np.array([body.at]))[0]
    reading = _reading(
        name=body.name,
        source="drawing",
        tolerance_mm=body.tolerance_mm,
        takes=({"value": body.value, "unit": body.unit, "method": "drawing"},),
        note=f"as {picture.name} states it",
        pin={"on": picture.id, "at": (float(x), float(y), 0.0)},
    )
    return job_out(edit_job(job, body.version, PutReadings(op="put-readings", readings=(reading,))))
