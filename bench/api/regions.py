"""The regions of a whole scan: found in the background, coloured by their labels, kept as steps."""

from __future__ import annotations

import json
import uuid
from contextlib import suppress

import numpy as np
from django.http import FileResponse, HttpRequest, HttpResponse
from ninja import Field, Router, Schema
from numpy.typing import NDArray

from bench.api.jobs import JobOut, job_out
from bench.api.queries import Vector, unpacked
from bench.api.task_out import FoundTask, task_out
from bench.blobs import keep as keep_file
from bench.jobs import edit_job, last_result, own_job, recipe_of
from bench.models import Job, Task
from bench.scans import job_scan, scan_state
from bench.store import store
from bench.work import delivery_path, enqueue
from contour.fit.facet_sets import Change, changed
from contour.job.edits.apply import AddStep, AddSteps, SetFacets
from contour.job.edits.intent import Agree, agreed
from contour.job.edits.region import Facets
from contour.mesh.prepare import PreparedScan
from contour.present.places import place_of_product
from contour.products import load_product
from contour.recipe.problem import ContourError
from contour.recipe.values import FacetSet, facets_to_bytes

router = Router(tags=["regions"])


class FindIn(Schema):
    """scan: key of the scan as shown · coarseness: 1 takes three times the noise · least_area: mm², none: by the facets · protect: region steps whose
    facets stay theirs."""

    scan: str
    coarseness: float = Field(default=1.0, ge=0.4, le=4)
    least_area: float | None = Field(default=None, ge=0.0, le=1e12)
    protect: list[str] = []


class AcceptIn(Schema):
    """Proposals by their place in the list."""

    version: int
    evidence: str
    proposals: list[int] = Field(min_length=1, max_length=400)
    names: dict[int, str] = Field(
        default={}, description="what regions that are not steps yet are to be called, by number"
    )


class RejectIn(Schema):
    """Proposals by their place in the list; back: they are to be offered again."""

    proposals: list[int] = Field(min_length=1, max_length=2000)
    back: bool = False


class ByHandIn(Schema):
    """Facets (base64 of uint32, the view's numbering) for give, take, worn; a plane for split; rings for rings; several regions to join."""

    version: int
    evidence: str
    scan: str
    op: Change
    regions: list[str] = Field(min_length=1, max_length=100)
    facets: str | None = Field(default=None, max_length=14_000_000)
    origin: Vector | None = None
    normal: Vector | None = None
    plane: str | None = Field(default=None, description="a step that has a plane, instead of origin and normal")
    rings: int = Field(default=0, ge=-50, le=50)


class KeepIn(Schema):
    """Regions by their number, and what each is to be called."""

    version: int
    evidence: str
    regions: list[int] = Field(min_length=1, max_length=500)
    names: list[str] = []


def _row(request: HttpRequest, job_id: uuid.UUID, task_id: uuid.UUID) -> Task:
    row = Task.objects.filter(id=task_id, job=own_job(request.user, job_id), kind="segment").first()
    if row is None:
        raise ContourError("not-found", "there is no such search for regions", remedy="look for the regions again")
    return row


@router.post("/{job_id}/regions", response=FoundTask)
def find(request: HttpRequest, job_id: uuid.UUID, body: FindIn) -> FoundTask:
    job = own_job(request.user, job_id)
    scan = scan_state(job, body.scan)  # only what belongs to the job
    result = last_result(job)
    keys = {s.id: s.key for s in result.steps if s.kind == "region" and s.status == "ok"} if result else {}
    protected = [key for p in body.protect if (key := keys.get(p)) is not None]
    payload = {"scan": scan, "coarseness": body.coarseness, "least_area": body.least_area, "protected": protected}
    row = Task.objects.create(owner=request.user, job=job, revision=job.head, kind="segment", payload=payload)
    enqueue(row)
    return task_out(FoundTask, row)


@router.get("/{job_id}/regions", response=FoundTask | None)
def last(request: HttpRequest, job_id: uuid.UUID, scan: str) -> FoundTask | None:
    """The last finished search on this state of the scan."""
    rows = Task.objects.filter(job=own_job(request.user, job_id), kind="segment", status="done").order_by("-created")
    return next(
        (task_out(FoundTask, r) for r in rows[:20] if r.payload.get("scan") == scan and delivery_path(r).exists()), None
    )


@router.get("/{job_id}/regions/{task_id}", response=FoundTask)
def look(request: HttpRequest, job_id: uuid.UUID, task_id: uuid.UUID) -> FoundTask:
    return task_out(FoundTask, _row(request, job_id, task_id))


@router.delete("/{job_id}/regions/{task_id}", response=FoundTask)
def stop(request: HttpRequest, job_id: uuid.UUID, task_id: uuid.UUID) -> FoundTask:
    row = _row(request, job_id, task_id)
    Task.objects.filter(id=row.id, status__in=["queued", "running"]).update(cancel=True)
    row.refresh_from_db()
    return task_out(FoundTask, row)


def _labels(row: Task) -> np.ndarray:
    path = delivery_path(row)
    if row.status != "done" or not path.exists():
        raise ContourError("not-found", "the regions are not ready yet", remedy="wait a moment")
    return np.fromfile(path, "<i4")


@router.get("/{job_id}/regions/{task_id}/labels")
def labels(request: HttpRequest, job_id: uuid.UUID, task_id: uuid.UUID) -> HttpResponse:
    """int32 per facet in the view's numbering, -1 where nothing was found."""
    row = _row(request, job_id, task_id)
    _labels(row)
    return FileResponse(delivery_path(row).open("rb"), content_type="application/octet-stream")


_KEPT = ("region", "thread")


def _region_steps(
    job: Job, row: Task, evidence: str, numbers: list[int], names: dict[int, str]
) -> tuple[list[AddStep], dict[int, str]]:
    """(steps still to be added, id of the step of each region by number): a region that was kept before is not kept twice."""
    scan = job_scan(job, row.payload["scan"])
    found, rows = _labels(row), json.loads(row.result or "{}")["regions"]
    known = {(s.params.get("picked") or {}).get("blob"): s.id for s in recipe_of(job).steps if s.kind in _KEPT}
    steps, ids = [], {}
    for k in numbers:
        if not 0 <= k < len(rows):
            raise ContourError("not-found", "there is no such region", got=k)
        if rows[k]["kind"] == "freeform":
            raise ContourError(
                "wrong-kind",
                "a freeform region has no surface to keep",
                got=f"region {k + 1}",
                need="a plane, cylinder, cone, sphere or torus",
                remedy="leave it out",
            )
        own = scan.source_facet[np.flatnonzero(found == k)]
        data = facets_to_bytes(own[own >= 0])
        blob = keep_file(job.owner, data)
        ids[k] = known.get(blob) or str(uuid.uuid4())
        if blob not in known:
            picked = {"blob": blob, "count": len(data) // 4}
            params = {"scan": {"id": evidence}, "picked": picked}
            kind = "thread" if rows[k]["kind"] == "thread" else "region"
            if kind == "region":
                params["surface"] = rows[k]["kind"]
            steps.append(AddStep(op="add-step", id=ids[k], kind=kind, params=params, name=names.get(k)))
    return steps, ids


@router.post("/{job_id}/regions/{task_id}/keep", response=JobOut)
def keep(request: HttpRequest, job_id: uuid.UUID, task_id: uuid.UUID, body: KeepIn) -> JobOut:
    """Chosen regions become steps, all in one edit."""
    row = _row(request, job_id, task_id)
    assert row.job is not None
    names = dict(zip(body.regions, body.names, strict=False))
    steps, _ = _region_steps(row.job, row, body.evidence, body.regions, names)
    if not steps:
        raise ContourError("unchanged", "these regions are steps already", remedy="choose others")
    return job_out(edit_job(row.job, body.version, AddSteps(op="add-steps", steps=steps)))


@router.post("/{job_id}/regions/{task_id}/accept", response=JobOut)
def accept(request: HttpRequest, job_id: uuid.UUID, task_id: uuid.UUID, body: AcceptIn) -> JobOut:
    """What was proposed is agreed to: the regions it speaks of become steps, and all of them are fitted together under it."""
    row = _row(request, job_id, task_id)
    assert row.job is not None
    offered = json.loads(row.result or "{}")["proposals"]
    if not all(0 <= p < len(offered) for p in body.proposals):
        raise ContourError("not-found", "there is no such proposal", got=str(max(body.proposals)))
    chosen = [offered[p] for p in body.proposals]
    numbers = list(dict.fromkeys(m for p in chosen for m in (p["demand"] or {"members": []})["members"]))
    steps, ids = _region_steps(row.job, row, body.evidence, numbers, body.names)
    place = {k: i for i, k in enumerate(numbers)}
    unit = recipe_of(row.job).unit
    then = Agree(
        op="agree",
        scan=body.evidence,
        regions=[ids[k] for k in numbers],
        relations=[agreed(p, place, unit) for p in chosen],
    )
    return job_out(edit_job(row.job, body.version, AddSteps(op="add-steps", steps=steps, then=then)))


@router.post("/{job_id}/regions/{task_id}/reject", response=FoundTask)
def reject(request: HttpRequest, job_id: uuid.UUID, task_id: uuid.UUID, body: RejectIn) -> FoundTask:
    """Proposals that are not wanted; they are remembered with the search."""
    row = _row(request, job_id, task_id)
    result = json.loads(row.result or "{}")
    known = set(result.get("rejected", []))
    known = known - set(body.proposals) if body.back else known | set(body.proposals)
    row.result = json.dumps({**result, "rejected": sorted(known)})
    row.save(update_fields=["result"])
    return task_out(FoundTask, row)


def _members(job: Job, scan: PreparedScan, step: str) -> NDArray[np.int64]:
    result = last_result(job)
    state = next((s for s in result.steps if s.id == step), None) if result else None
    if state is None or state.kind != "region" or state.key is None:
        raise ContourError(
            "not-found", "there is no such region, or it has not been built", got=step[:8], remedy="wait a moment"
        )
    return np.sort(scan.facets_of_source(load_product(store().folder(state.key)).source_facets))


def _kept(job: Job, scan: PreparedScan, facets: NDArray[np.int64], name: str) -> FacetSet:
    own = scan.source_facet[facets]
    data = facets_to_bytes(own[own >= 0])
    if len(data) < 4 * 6:
        raise ContourError(
            "too-few-facets",
            f"hardly anything of {name} would be left",
            got=f"{len(data) // 4} facets",
            need="at least 6",
            remedy="change less of it",
        )
    return FacetSet(blob=keep_file(job.owner, data), count=len(data) // 4)


@router.post("/{job_id}/regions-by-hand", response=JobOut)
def by_hand(request: HttpRequest, job_id: uuid.UUID, body: ByHandIn) -> JobOut:
    """Regions joined, parted, given or robbed of facets, grown or shrunk by rings, or painted as worn; one edit."""
    job = own_job(request.user, job_id)
    scan = job_scan(job, body.scan)
    recipe = recipe_of(job)
    first = recipe.step(body.regions[0])
    members = {r: _members(job, scan, r) for r in (body.regions if body.op == "join" else [first.id])}
    if body.op == "give":
        for s in recipe.steps:
            if s.kind == "region" and s.id != first.id and (s.params.get("picked") or s.params.get("seeds")):
                with suppress(ContourError):  # one that is not built has nothing to lose
                    members[s.id] = _members(job, scan, s.id)
    done = changed(
        body.op,
        first.id,
        members,
        scan,
        painted=unpacked(body.facets, scan) if body.facets else None,
        rings=body.rings,
        plane=_parting_plane(job, body),
    )
    names = {s.id: s.name for s in recipe.steps}
    rows = [Facets(step=k, picked=_kept(job, scan, f, f"'{names[k]}'")) for k, f in done.picked.items()]
    rows += [Facets(step=k, worn=_kept(job, scan, f, f"what is worn of '{names[k]}'")) for k, f in done.worn.items()]
    part = None if done.part is None else _kept(job, scan, done.part, "the other part")
    edit = SetFacets(op="set-facets", said=_SAID[body.op], rows=rows, drop=list(done.dropped), part=part)
    return job_out(edit_job(job, body.version, edit))


_SAID: dict[Change, str] = {
    "join": "join regions",
    "split": "part a region",
    "give": "give facets",
    "take": "take facets away",
    "rings": "change rings",
    "worn": "paint wear",
}


def _parting_plane(job: Job, body: ByHandIn) -> tuple[NDArray[np.float64], NDArray[np.float64]] | None:
    """The plane through a line of sight, or that of a step; none where neither is said."""
    if body.plane is not None:
        state = next((s for s in getattr(last_result(job), "steps", ()) if s.id == body.plane), None)
        if state is None or state.key is None:
            raise ContourError(
                "not-found",
                "there is no such plane, or it has not been built",
                got=body.plane[:8],
                remedy="wait a moment",
            )
        place = place_of_product(load_product(store().folder(state.key)))
        if place.shape != "plane":
            raise ContourError("wrong-kind", "only a plane parts a region", got=place.shape, remedy="choose a plane")
        return place.at, place.along
    return None if body.origin is None or body.normal is None else (np.array(body.origin), np.array(body.normal))
