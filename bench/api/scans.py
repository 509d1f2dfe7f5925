"""A job's scans: their health, further scans, what mends moved, solids to lie on, and the virtual scanner."""

from __future__ import annotations

import json
import tempfile
import uuid
from pathlib import Path
from typing import Any

from django.conf import settings
from django.http import FileResponse, HttpRequest, HttpResponse
from ninja import File, Router, Schema
from ninja.files import UploadedFile

from bench.api.jobs import JobOut, job_out
from bench.api.products import product_folder
from bench.api.queries import packed
from bench.api.task_out import MovedTask, PracticeTask, task_out
from bench.blobs import keep
from bench.jobs import add_solid_of, edit_job, last_result, own_job, recipe_of
from bench.models import Task, Upload
from bench.scans import in_turn, job_scan
from bench.store import store
from bench.work import delivery_path, enqueue
from contour.exchange.solid_format import format_of
from contour.job.build.health import load_health
from contour.job.edits.scan import AddScan
from contour.job.questions.practice import PracticeScan, ScannedSolid
from contour.job.work.children import solid_file_facts
from contour.mesh.noise import noise_map
from contour.mesh.topology import vertex_facets
from contour.recipe.evidence.scan import ScanEvidence
from contour.recipe.problem import ContourError, Where

router = Router(tags=["scans"])

Vector = tuple[float, float, float]
MAX_SOLID_BYTES = 100 * 1024 * 1024


class PlaceOut(Schema):
    """point in mm as the view shows the scan; facets in the view's numbering, source: raw numbers of a few of them; normal: outwards there; left: marked as looked at and left."""

    point: Vector
    size: float
    normal: Vector
    facets: list[int]
    source: list[int]
    left: bool


class DefectOut(Schema):
    """count can be more than the places listed."""

    kind: str
    count: int
    blocking: bool
    places: list[PlaceOut]


class HealthOut(Schema):
    """scan: key of the state this is about; unit_guess: the unit its size looks like, when it is not the one given."""

    scan: str
    facets: int
    vertices: int
    noise: float
    defects: list[DefectOut]
    unit_guess: str | None


class AddScanIn(Schema):
    version: int
    upload: uuid.UUID
    unit: str
    role: str = "part"


class MovedIn(Schema):
    """One state against another of the same scan; before: the raw scan when none is given."""

    scan: str
    after: str | None = None
    before: str | None = None


class KeptFile(Schema):
    blob: str
    name: str


class PracticeIn(Schema):
    solid: ScannedSolid
    settings: PracticeScan


@router.get("/{job_id}/scans/{scan_id}/health", response=HealthOut)
def health(request: HttpRequest, job_id: uuid.UUID, scan_id: str) -> dict[str, Any]:
    job = own_job(request.user, job_id)
    result = last_result(job)
    evidence = next((s for s in recipe_of(job).scans if s.id == scan_id), None)
    if evidence is None or result is None or scan_id not in result.health:
        raise ContourError("not-found", "this scan has not been looked over yet", remedy="wait a moment")
    scan = job_scan(job, result.scans[scan_id])
    product_folder(job, result.health[scan_id])
    found = load_health(store(), result.health[scan_id], scan, evidence)
    return {
        "scan": result.scans[scan_id],
        "facets": len(scan.facets),
        "vertices": len(scan.vertices),
        "noise": scan.noise_mm,
        **found,
    }


class NoiseOut(Schema):
    """noise: of the scan as a whole, mm · here: base64 of float32, mm around every facet in the view's numbering."""

    noise: float
    here: str


@router.get("/{job_id}/noise", response=NoiseOut)
def noise(request: HttpRequest, job_id: uuid.UUID, scan: str) -> NoiseOut:
    """Where a scan is how noisy. scan: the key of its state."""
    prepared = job_scan(own_job(request.user, job_id), scan)
    with in_turn(prepared):
        offsets, around = vertex_facets(prepared.facets, len(prepared.vertices))
        here = noise_map(prepared.vertices, prepared.facets, offsets, around)
    return NoiseOut(noise=prepared.noise_mm, here=packed(here, "<f4"))


@router.post("/{job_id}/scans", response=JobOut)
def add_scan(request: HttpRequest, job_id: uuid.UUID, body: AddScanIn) -> JobOut:
    """Another scan into the job, from an upload of one's own."""
    job = own_job(request.user, job_id)
    upload = Upload.objects.filter(id=body.upload, owner=request.user).first()
    if upload is None or not upload.facts or upload.format in ("step", "iges"):
        raise ContourError("not-found", "this scan was not read yet", remedy="wait for it, or drop another file")
    evidence = ScanEvidence.model_validate(
        {
            "id": str(uuid.uuid4()),
            "name": upload.name,
            "blob": upload.blob,
            "format": upload.format,
            "unit": body.unit,
            "role": body.role,
        }
    )
    return job_out(edit_job(job, body.version, AddScan(op="add-scan", scan=evidence)))


class AddSolidIn(Schema):
    """unit: none leaves it to the file; after: the step that it is brought in below, the last one when none is given."""

    version: int
    upload: uuid.UUID
    unit: str | None = None
    role: str = "material"
    after: str | None = None


@router.post("/{job_id}/solids", response=JobOut)
def add_solid(request: HttpRequest, job_id: uuid.UUID, body: AddSolidIn) -> JobOut:
    """A STEP or IGES file into the job, from an upload of one's own, with the step that makes bodies of it."""
    job = own_job(request.user, job_id)
    upload = Upload.objects.filter(id=body.upload, owner=request.user).first()
    if upload is None or not upload.facts or upload.format not in ("step", "iges"):
        raise ContourError("not-found", "there is no such file of solids", remedy="wait for it, or drop another file")
    return job_out(edit_job(job, body.version, add_solid_of(upload, body.unit, body.role, body.after)))


@router.post("/{job_id}/scan-moved", response=MovedTask)
def compare_scan(request: HttpRequest, job_id: uuid.UUID, body: MovedIn) -> MovedTask:
    """A map of what the mends moved and added."""
    job = own_job(request.user, job_id)
    result = last_result(job)
    if result is None or body.scan not in result.scans:
        raise ContourError("not-found", "the job has no such scan", got=body.scan[:8])
    keys = {"before": body.before or result.raw[body.scan], "after": body.after or result.scans[body.scan]}
    for key in keys.values():
        product_folder(job, key)
    row = Task.objects.create(owner=request.user, job=job, revision=job.head, kind="scan-moved", payload=keys)
    enqueue(row)
    return task_out(MovedTask, row)


def _task(request: HttpRequest, job_id: uuid.UUID, task_id: uuid.UUID, kind: str) -> Task:
    row = Task.objects.filter(id=task_id, job=own_job(request.user, job_id), kind=kind).first()
    if row is None:
        raise ContourError("not-found", "there is no such task")
    return row


@router.get("/{job_id}/scan-moved/{task_id}", response=MovedTask)
def compared_scan(request: HttpRequest, job_id: uuid.UUID, task_id: uuid.UUID) -> MovedTask:
    return task_out(MovedTask, _task(request, job_id, task_id, "scan-moved"))


@router.get("/{job_id}/scan-moved/{task_id}/view")
def compared_view(request: HttpRequest, job_id: uuid.UUID, task_id: uuid.UUID) -> HttpResponse:
    path = delivery_path(_task(request, job_id, task_id, "scan-moved"))
    if not path.exists():
        raise ContourError("not-found", "the map is not there yet", remedy="wait a moment")
    return FileResponse(path.open("rb"), content_type="application/octet-stream")


@router.post("/{job_id}/files", response=KeptFile)
def keep_file(request: HttpRequest, job_id: uuid.UUID, file: File[UploadedFile]) -> KeptFile:
    """A STEP or IGES file for a step to use: a solid to lie on, to scan for practice, or a newer version of one."""
    own_job(request.user, job_id)
    name = (file.name or "solid.step").rsplit("/", 1)[-1][:200]
    if not file.size or file.size > MAX_SOLID_BYTES:
        raise ContourError(
            "file-too-large" if file.size else "file-empty",
            "the file cannot be kept",
            where=Where(file=name),
            got=f"{(file.size or 0) / 2**20:.0f} MB",
            need=f"up to {MAX_SOLID_BYTES // 2**20} MB",
        )
    data = file.read()
    with tempfile.NamedTemporaryFile(dir=settings.FILE_UPLOAD_TEMP_DIR, suffix=".step") as draft:
        draft.write(data)
        draft.flush()
        try:
            format_of(Path(draft.name))
        except ContourError as error:
            raise ContourError.of(error.problem.model_copy(update={"where": Where(file=name)})) from None
        solid_file_facts(Path(draft.name), name)  # what the kernel cannot read is refused before a step relies on it
    return KeptFile(blob=keep(request.user, data), name=name)


@router.get("/{job_id}/truth-models", response=list[KeptFile])
def truth_models(request: HttpRequest, job_id: uuid.UUID) -> list[dict[str, str]]:
    """Solids that came with the demo; none where it was not loaded."""
    own_job(request.user, job_id)
    path = settings.VAR / "demo" / "truth-models.json"
    return json.loads(path.read_text()) if path.exists() else []  # type: ignore[no-any-return]


@router.post("/{job_id}/practice", response=PracticeTask)
def practise(request: HttpRequest, job_id: uuid.UUID, body: PracticeIn) -> PracticeTask:
    """Run the virtual scanner on a body of the job or a STEP file; what it gives is an upload."""
    job = own_job(request.user, job_id)
    if body.solid.kind == "body":
        product_folder(job, body.solid.key)
    payload = {"solid": body.solid.model_dump(), "settings": json.loads(body.settings.model_dump_json())}
    row = Task.objects.create(owner=request.user, job=job, revision=job.head, kind="virtual-scan", payload=payload)
    enqueue(row)
    return task_out(PracticeTask, row)


@router.get("/{job_id}/practice/{task_id}", response=PracticeTask)
def practised(request: HttpRequest, job_id: uuid.UUID, task_id: uuid.UUID) -> PracticeTask:
    return task_out(PracticeTask, _task(request, job_id, task_id, "virtual-scan"))
