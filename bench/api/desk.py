"""The caliper desk: what is said beside the readings, tables, and the line that calipers send their values on."""

from __future__ import annotations

import json
import uuid
from dataclasses import asdict
from typing import Any, Literal

from django.conf import settings
from django.core import signing
from django.db import transaction
from django.http import HttpRequest, HttpResponse
from ninja import Field, File, Router, Schema
from ninja.files import UploadedFile

from bench.api.jobs import JobOut, job_out
from bench.jobs import edit_job, known_values, last_result, own_job, recipe_of
from bench.models import CaliperLine, Job
from contour.job.build.result import BuildResult
from contour.job.edits.reading import PutReadings
from contour.job.questions.desk import desk_facts, standards_near
from contour.job.questions.uncertain import value_uncertainties
from contour.metrology.against import Pair, print_correction
from contour.metrology.lines import takes_of_text
from contour.metrology.reading import all_readings
from contour.metrology.standards.threads import nearest_threads
from contour.metrology.table import readings_from_csv, readings_to_csv
from contour.recipe.evidence.reading import Take
from contour.recipe.formula import Quantity
from contour.recipe.problem import ContourError, Where
from contour.simulate.caliper import Caliper, closed, line_of, measured, zeroed

router = Router(tags=["desk"])
lines = Router(tags=["desk"])

MOST_WAITING = 200
MAX_TABLE_BYTES = 2 * 1024 * 1024
_SALT = "caliper"


class AgainstOut(Schema):
    """difference: reading less scan, mm; away: in units of their joint uncertainty."""

    reading: str
    scan: float
    u_scan: float
    difference: float
    away: float
    what: str


class DoubtOut(Schema):
    """A session against the scan: shift of all its takes (mm) with standard uncertainty."""

    session: str
    shift: float
    u: float
    pairs: int
    suspected: bool
    readings: list[str]


class ScaleOut(Schema):
    """scale: scan over truth, less one; factor: what would put the scan right."""

    scale: float
    u: float
    pairs: int
    misfit: float
    significant: bool
    factor: float


class FigureOut(Schema):
    """mm or degrees, u its standard uncertainty; tolerance: plus or minus, as a drawing states it."""

    source: Literal["drawing", "caliper", "photo", "scan"]
    name: str
    value: float
    u: float | None
    tolerance: float | None


class SizeOut(Schema):
    """Figures of one size from several sources; apart: of the two that disagree most, in units of their joint uncertainty."""

    figures: list[FigureOut]
    apart: float | None
    between: tuple[str, str] | None
    out_of_tolerance: list[str]
    agree: bool


class StandardOut(Schema):
    """text: the formula that takes it; away: in units of the reading's uncertainty."""

    label: str
    value: float
    text: str
    difference: float
    away: float | None


class DeskOut(Schema):
    """uncertain: standard uncertainty of named values by id; standards: by reading id; address: where a caliper sends to."""

    against: list[AgainstOut]
    sessions: list[DoubtOut]
    scale: ScaleOut | None
    sizes: list[SizeOut]
    uncertain: dict[str, float]
    standards: dict[str, list[StandardOut]]
    address: str
    waiting: int


class ThreadIn(Schema):
    """Readings by id: a diameter, and a pitch (of a span: one gap)."""

    diameter: str
    pitch: str
    inside: bool = False


class ThreadOut(Schema):
    """away: difference of the diameter and of the pitch in units of their uncertainties."""

    designation: str
    series: str
    major: float
    pitch: float
    minor: float
    core: float
    tap_drill: str
    clearance: list[float]
    difference: float
    pitch_difference: float
    away: float | None
    pitch_away: float | None


class SizeIn(Schema):
    """One size of the made part: the reading, what the model has there (mm), and whether it is an inside size."""

    reading: str
    model: float
    inside: bool = False


class CorrectionOut(Schema):
    scale: float
    u_scale: float
    outside: float | None
    u_outside: float | None
    inside: float | None
    u_inside: float | None
    rms: float
    pairs: int


class CollectIn(Schema):
    """The reading that what the caliper sent goes to, and the session it was taken in."""

    version: int
    reading: str
    session: str | None = None


class CaliperState(Schema):
    """The simulated caliper as the panel shows it."""

    resolution_mm: float = Field(0.01, gt=0, le=1)
    limit_mm: float = Field(0.02, ge=0, le=1)
    repeat_mm: float = Field(0.008, ge=0, le=1)
    error_mm: float = Field(0.0, ge=-1, le=1)
    zero_mm: float = Field(0.0, ge=-5, le=5)
    unit: Literal["mm", "inch"] = "mm"
    shown_mm: float = 0.0
    taken: int = Field(0, ge=0)
    seed: int = Field(1, ge=0)


class CaliperIn(Schema):
    state: CaliperState
    press: Literal["measure", "close", "zero", "send"]
    true_mm: float = 0.0


class CaliperOut(Schema):
    """line: what was sent, when the send key was pressed."""

    state: CaliperState
    line: str | None


class TruthSize(Schema):
    """A size of a truth model that the simulated jaws can be put on."""

    model: str
    name: str
    mm: float
    inside: bool


def _state(job: Job) -> BuildResult:
    return last_result(job) or BuildResult()


def _address(job: Job) -> str:
    return f"/api/caliper/{signing.dumps(str(job.id), salt=_SALT)}"


@router.get("/{job_id}/desk", response=DeskOut)
def look(request: HttpRequest, job_id: uuid.UUID) -> DeskOut:
    job = own_job(request.user, job_id)
    recipe = recipe_of(job)
    facts = desk_facts(recipe, _state(job))
    means = all_readings(recipe)
    steps = {
        step: {n: Quantity(v.value, v.length, v.angle, v.mark) for n, v in values.items()}  # type: ignore[arg-type]
        for step, values in known_values(job).items()
    }
    return DeskOut(
        against=[AgainstOut(**asdict(a)) for a in facts.against],
        sessions=[DoubtOut(session=d.session, readings=list(d.readings), **asdict(d.check)) for d in facts.sessions],
        scale=None if facts.scale is None else ScaleOut(factor=facts.scale.factor, **asdict(facts.scale)),
        sizes=[SizeOut(agree=s.agree, **asdict(s)) for s in facts.sizes],
        uncertain=value_uncertainties(recipe, steps),
        standards={
            r.id: [StandardOut(**asdict(s)) for s in standards_near(recipe, r, means[r.id])]
            for r in recipe.readings
            if r.id in means
        },
        address=_address(job),
        waiting=CaliperLine.objects.filter(job=job).count(),
    )


def _measured(job: Job, reading: str, what: str) -> tuple[Any, Any]:
    recipe = recipe_of(job)
    facts = all_readings(recipe).get(reading)
    if facts is None:
        raise ContourError(
            "not-found",
            f"the reading for the {what} has no takes",
            where=Where(param=what),
            remedy="choose another reading",
        )
    return next(r for r in recipe.readings if r.id == reading), facts


@router.post("/{job_id}/threads", response=list[ThreadOut])
def threads(request: HttpRequest, job_id: uuid.UUID, body: ThreadIn) -> list[ThreadOut]:
    """Standard threads near two readings."""
    job = own_job(request.user, job_id)
    _, diameter = _measured(job, body.diameter, "diameter")
    reading, pitch = _measured(job, body.pitch, "pitch")
    u_pitch = None if pitch.u is None else pitch.u / reading.over
    which = {"minor": diameter.mean} if body.inside else {"major": diameter.mean}
    return [
        ThreadOut(
            designation=c.thread.designation,
            series=c.thread.series,
            major=c.thread.major,
            pitch=c.thread.pitch,
            minor=c.thread.minor,
            core=c.thread.core,
            tap_drill=c.thread.tap_drill.name,
            clearance=list(c.thread.clearance),
            difference=c.difference,
            pitch_difference=c.pitch_difference,
            away=c.difference / diameter.u if diameter.u else None,
            pitch_away=c.pitch_difference / u_pitch if u_pitch else None,
        )
        for c in nearest_threads(pitch=pitch.each, inside=body.inside, **which)
    ]


@router.post("/{job_id}/made-again", response=CorrectionOut)
def made_again(request: HttpRequest, job_id: uuid.UUID, body: list[SizeIn]) -> CorrectionOut:
    """What readings of the first made part say of its making: scale and offsets."""
    job = own_job(request.user, job_id)
    pairs = []
    for row in body:
        reading, facts = _measured(job, row.reading, "reading")
        pairs.append(Pair(reading.name, facts.mean, max(facts.u or 0.0, 1e-4), row.model, 0.0, row.inside))
    return CorrectionOut(**asdict(print_correction(pairs)))


@router.get("/{job_id}/readings.csv")
def table_out(request: HttpRequest, job_id: uuid.UUID) -> HttpResponse:
    job = own_job(request.user, job_id)
    answer = HttpResponse(readings_to_csv(recipe_of(job)), content_type="text/csv; charset=utf-8")
    answer["Content-Disposition"] = 'attachment; filename="readings.csv"'
    return answer


@router.post("/{job_id}/readings.csv", response=JobOut)
def table_in(request: HttpRequest, job_id: uuid.UUID, version: int, file: File[UploadedFile]) -> JobOut:
    job = own_job(request.user, job_id)
    if (file.size or 0) > MAX_TABLE_BYTES:
        raise ContourError(
            "file-too-large",
            "this table is too large for a desk of readings",
            where=Where(file=file.name),
            got=f"{(file.size or 0) / 2**20:.1f} MB",
            need="at most 2 MB",
        )
    try:
        text = file.read().decode("utf-8")
    except UnicodeDecodeError:
        raise ContourError(
            "file-not-understood",
            "the table is not plain text",
            where=Where(file=file.name),
            need="CSV in UTF-8",
            remedy="save it again as CSV",
        ) from None
    readings = readings_from_csv(text, recipe_of(job))
    return job_out(edit_job(job, version, PutReadings(op="put-readings", readings=tuple(readings))))


def _queue(job: Job, data: bytes) -> int:
    takes = takes_of_text(data)
    with transaction.atomic():
        if CaliperLine.objects.filter(job=job).count() + len(takes) > MOST_WAITING:
            raise ContourError(
                "flood",
                "too many values wait for a reading",
                need=f"at most {MOST_WAITING}",
                remedy="open the caliper desk and choose the reading they go to",
            )
        CaliperLine.objects.bulk_create(CaliperLine(job=job, take=t.model_dump(mode="json")) for t in takes)
    return len(takes)


@lines.post("/{key}", auth=None, response=dict[str, int])
def send(request: HttpRequest, key: str) -> dict[str, int]:
    """Lines of a caliper (docs/formats.md). The key in the address opens this job's queue and nothing else."""
    try:
        job = Job.objects.get(id=signing.loads(key, salt=_SALT))
    except (signing.BadSignature, Job.DoesNotExist):
        raise ContourError(
            "not-found", "no desk has this address", remedy="copy the address from the caliper desk again"
        ) from None
    return {"received": _queue(job, request.body)}


@router.post("/{job_id}/caliper/collect", response=JobOut)
def collect(request: HttpRequest, job_id: uuid.UUID, body: CollectIn) -> JobOut:
    """What has arrived becomes takes of the reading in focus, in one transaction: a value is in the queue or in the job."""
    job = own_job(request.user, job_id)
    with transaction.atomic():
        waiting = list(CaliperLine.objects.filter(job=job))
        reading = next((r for r in recipe_of(job).readings if r.id == body.reading), None)
        if reading is None:
            raise ContourError("not-found", "the job has no such reading", remedy="choose a reading")
        if waiting:
            takes = tuple(Take.model_validate({**w.take, "session": body.session}) for w in waiting)
            try:
                more = type(reading).model_validate({**reading.model_dump(), "takes": (*reading.takes, *takes)})
            except ValueError:
                raise ContourError(
                    "mixed-dimensions",
                    f"what the caliper sent does not fit '{reading.name}'",
                    where=Where(value=reading.name),
                    got=", ".join(f"{t.value:g} {t.unit}" for t in takes[:4]),
                    remedy="choose the reading it belongs to",
                ) from None
            job = edit_job(job, body.version, PutReadings(op="put-readings", readings=(more,)))
            CaliperLine.objects.filter(id__in=[w.id for w in waiting]).delete()
    return job_out(job)


@router.get("/{job_id}/caliper", response=dict[str, int])
def waiting(request: HttpRequest, job_id: uuid.UUID) -> dict[str, int]:
    """How many values wait for a reading: asked often while one is in focus."""
    return {"waiting": CaliperLine.objects.filter(job=own_job(request.user, job_id)).count()}


@router.delete("/{job_id}/caliper", response=dict[str, int])
def forget(request: HttpRequest, job_id: uuid.UUID) -> dict[str, int]:
    """Throws away what waits for a reading."""
    count, _ = CaliperLine.objects.filter(job=own_job(request.user, job_id)).delete()
    return {"dropped": count}


@router.post("/{job_id}/caliper/simulated", response=CaliperOut)
def press(request: HttpRequest, job_id: uuid.UUID, body: CaliperIn) -> CaliperOut:
    """A key of the simulated caliper. Its send key sends a line as a real one would."""
    job = own_job(request.user, job_id)
    c = Caliper(**body.state.dict())
    if body.press == "measure":
        c = measured(c, body.true_mm)
    elif body.press == "close":
        c = closed(c)
    elif body.press == "zero":
        c = zeroed(c)
    line = None
    if body.press == "send":
        line = line_of(c)
        _queue(job, f"{line}\n".encode())
    return CaliperOut(state=CaliperState(**asdict(c)), line=line)


@router.get("/{job_id}/truth-sizes", response=list[TruthSize])
def truth_sizes(request: HttpRequest, job_id: uuid.UUID) -> list[TruthSize]:
    """Sizes of the demo's truth models; none where no demo is loaded."""
    own_job(request.user, job_id)
    path = settings.VAR / "demo" / "truth-sizes.json"
    return [TruthSize(**row) for row in json.loads(path.read_text())] if path.exists() else []
