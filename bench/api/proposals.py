"""What the job proposes: candidates for a value, faces for a lost reference, pairs to seat; and what an edit would give."""

from __future__ import annotations

import threading
import uuid
from dataclasses import asdict
from typing import Any, Literal

from django.conf import settings
from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from bench.api.products import FaceFacts, faces_told, product_folder
from bench.api.task_out import SeatsTask, task_out
from bench.jobs import edited, last_result, own_job, recipe_of, scope_of
from bench.models import Task
from bench.store import store
from bench.work import enqueue
from contour.check.bore_reach import bore_reach
from contour.check.exact_solid import load_exact
from contour.job.build.fit import Figures
from contour.job.build.inputs import checked_params
from contour.job.build.result import AnyFacts, BuildResult
from contour.job.build.scope import used_names
from contour.job.edits.apply import Edit
from contour.job.questions.candidates import candidates_for
from contour.job.questions.preview import up_to_scan, without_slow
from contour.job.work.standby import ask_standby
from contour.products import load_product, part_label, product_kind_of
from contour.products.region import region_place
from contour.recipe.formula import Mark, evaluate
from contour.recipe.params import dimension_at, reference_at, refs_in
from contour.recipe.problem import ContourError, Problem
from contour.recipe.recipe import short_names, wired_recipe
from contour.recipe.reference import Ref
from contour.recipe.registry import Handle
from contour.steps import KINDS

router = Router(tags=["proposals"])


class CandidatesIn(Schema):
    """For a value of a step (its kind and parameters as they stand in the sheet), or of a named value (kind none)."""

    kind: str | None = None
    params: dict[str, Any] = {}
    place: str = ""
    text: str = ""
    own: str | None = Field(default=None, description="the step or named value it belongs to")
    dimension: Literal["length", "angle", "number"] = "length"


class CandidateOut(Schema):
    label: str
    text: str
    mark: Mark
    note: str
    value: float
    u: float | None


class CandidatesOut(Schema):
    """What the text comes to now (none while it cannot be read, then the problem says why), and what it could be."""

    value: float | None
    mark: Mark | None
    problem: Problem | None
    candidates: list[CandidateOut]


class PartOut(Schema):
    """A part that may be meant. `ref` is the reference to it, as it goes into the step's parameters; area in mm², length in mm."""

    name: str
    label: str
    kind: str
    centre: tuple[float, float, float] | None
    kin: bool
    area: float | None = None
    length: float | None = None
    ref: dict[str, Any]


class RepairOut(Schema):
    """Where a lost reference pointed, and what could be meant instead: parts of the same whole, or steps."""

    wanted: str
    old: str
    place: tuple[float, float, float] | None
    whole: str | None
    parts: list[PartOut]
    steps: list[dict[str, str]]


class ProposeIn(Schema):
    """Faces by name; none for all of the body. `after`: the body as it is after that step."""

    body: str
    faces: list[str] | None = None
    after: str | None = None
    tilt: str = "3 deg"


class MouthIn(Schema):
    """A region that a bore has left, by its step; the bodies to look in: keys of their products by their ids."""

    region: str
    bodies: dict[str, str] = Field(max_length=200)


class MouthOut(Schema):
    """Where the hole begins and how far it reaches, see :mod:`contour.check.bore_reach`; nothing where no body has material there. depth: mm."""

    body: str | None = None
    face: FaceFacts | None = None
    until: FaceFacts | None = None
    depth: float | None = None


class UseOut(Schema):
    name: str
    step: str | None
    place: str


class PreviewIn(Schema):
    """with_fit: how it would fit the scan is wanted as well, and no step is left out for that it takes long."""

    edit: Edit
    with_fit: bool = False


class PreviewBody(Schema):
    """view: base64 of a view buffer; none when the body is as the store has it under `key` · names: of the faces there · fresh: numbers of those that
    a step makes which is not in the job yet."""

    id: str
    name: str
    colour: str | None
    key: str
    view: str | None
    names: list[str]
    fresh: list[int]


class PreviewScan(Schema):
    """pose: T_here_raw; made: the state is new, so that its facets cannot be shown yet."""

    id: str
    key: str
    pose: list[list[float]]
    made: bool


class PreviewOut(Schema):
    """facts: of the steps that ran, by their id · fit: by a sample of the scan, if it was asked for · passed: ids of steps left out, which would take too long."""

    bodies: list[PreviewBody]
    scans: list[PreviewScan]
    facts: dict[str, AnyFacts]
    handles: dict[str, list[Handle]]
    problems: list[Problem]
    fit: Figures | None
    ran: list[str]
    passed: list[str]


def _result(job: Any) -> BuildResult:
    result = last_result(job)
    if result is None:
        raise ContourError("not-found", "the job has not been built yet", remedy="wait a moment")
    return result


@router.post("/{job_id}/candidates", response=CandidatesOut)
def for_value(request: HttpRequest, job_id: uuid.UUID, body: CandidatesIn) -> dict[str, Any]:
    job = own_job(request.user, job_id)
    recipe, result = recipe_of(job), _result(job)
    dimension = body.dimension
    if body.kind is not None and body.kind in KINDS and body.place:
        dimension = dimension_at(KINDS[body.kind].params, body.place)
    value, mark, problem = None, None, None
    try:
        q = evaluate(body.text, dimension=dimension, unit=recipe.unit, lookup=scope_of(job).lookup)
        value, mark = q.value, q.mark
    except ContourError as error:
        problem = error.problem.model_dump(mode="json") if body.text.strip() else None
    found = candidates_for(
        recipe,
        result,
        kind=body.kind,
        params=body.params,
        place=body.place,
        value=value,
        dimension=dimension,
        own=body.own,
        sketch=lambda key: load_product(product_folder(job, key)),
    )
    return {"value": value, "mark": mark, "problem": problem, "candidates": [asdict(c) for c in found]}


@router.get("/{job_id}/uses", response=list[UseOut])
def uses(request: HttpRequest, job_id: uuid.UUID) -> list[dict[str, Any]]:
    """Where each name is used."""
    return [asdict(u) for u in used_names(recipe_of(own_job(request.user, job_id)))]


def _key_of(result: BuildResult, whole: str, upto: str) -> str | None:
    """Key of what a part belongs to, as a step finds it: a body's state, or what an earlier step has made."""
    return _body_key(result, whole, upto) or next((s.key for s in result.steps if s.id == whole), None)


def _body_key(result: BuildResult, body: str, upto: str | None) -> str | None:
    """Key of a body before a step (at the end when no step is given)."""
    state: dict[str, str] = {}
    for step in result.steps:
        if step.id == upto:
            break
        state = step.after
    return state.get(body)


@router.get("/{job_id}/steps/{step}/repair", response=RepairOut)
def repair(request: HttpRequest, job_id: uuid.UUID, step: str, place: str) -> dict[str, Any]:
    job = own_job(request.user, job_id)
    recipe, result = recipe_of(job), _result(job)
    kind, params = checked_params(recipe.step(step))
    ref = refs_in(params).get(place)
    if ref is None:
        raise ContourError("not-found", "the step has no such reference", got=place)
    steps = short_names(recipe)
    above = recipe.steps[: [s.id for s in recipe.steps].index(step)]
    if isinstance(ref, Ref):
        wanted = reference_at(kind.params, place)
        states = {s.id: s for s in result.steps}
        bodies = set().union(*(states[s.id].after for s in above if s.id in states)) if above else set()
        rows = [
            {"id": s.id, "name": s.name}
            for s in above
            if (s.id in bodies if wanted.id == "body" else s.kind in KINDS and wanted.serves(KINDS[s.kind].makes))
        ]
        return {
            "wanted": wanted.id,
            "old": steps.get(ref.id[:8], "a step that was deleted"),
            "place": None,
            "whole": None,
            "parts": [],
            "steps": rows,
        }
    key = _key_of(result, ref.owner, step)
    parts = []
    if key is not None and store().has(key):
        folder = store().folder(key)
        resolver = product_kind_of(folder).parts[ref.part]
        for found in resolver.candidates(ref, folder):
            parts.append(
                PartOut(
                    name=found.name,
                    label=resolver.label(found.name, steps),
                    kind=found.said.get("kind", ref.part),
                    centre=found.said.get("centre"),
                    kin=found.kin,
                    area=found.said.get("area"),
                    length=found.said.get("length"),
                    ref=ref.instead(found).model_dump(mode="json"),
                )
            )
    return {
        "wanted": ref.part,
        "old": part_label(ref, steps),
        "place": ref.place,
        "whole": ref.owner,
        "parts": parts,
        "steps": [],
    }


@router.post("/{job_id}/seats", response=SeatsTask)
def propose(request: HttpRequest, job_id: uuid.UUID, body: ProposeIn) -> SeatsTask:
    """Look for the region that each face should lie on."""
    job = own_job(request.user, job_id)
    recipe, result = recipe_of(job), _result(job)
    key = _body_key(result, body.body, None)
    if body.after is not None:
        key = next((s.after.get(body.body) for s in result.steps if s.id == body.after), None)
    if key is None or not result.scans:
        raise ContourError(
            "no-body", "there is no such body, or no scan to seat it on", remedy="extrude an outline first"
        )
    tilt = evaluate(body.tilt, dimension="angle", unit=recipe.unit, lookup=scope_of(job).lookup).value
    regions = {s.id: s.key for s in result.steps if s.kind == "region" and s.status == "ok"}
    payload = {
        "scan": next(iter(result.scans.values())),
        "body": key,
        "faces": body.faces,
        "tilt_deg": tilt,
        "regions": regions,
    }
    row = Task.objects.create(owner=request.user, job=job, revision=job.head, kind="propose", payload=payload)
    enqueue(row)
    return task_out(SeatsTask, row)


@router.get("/{job_id}/seats/{task_id}", response=SeatsTask)
def proposed(request: HttpRequest, job_id: uuid.UUID, task_id: uuid.UUID) -> SeatsTask:
    row = Task.objects.filter(id=task_id, job=own_job(request.user, job_id), kind="propose").first()
    if row is None:
        raise ContourError("not-found", "there is no such proposal")
    return task_out(SeatsTask, row)


@router.post("/{job_id}/mouth", response=MouthOut)
def mouth(request: HttpRequest, job_id: uuid.UUID, body: MouthIn) -> MouthOut:
    """The face that a hole seen on the scan is drilled from, and how far it reaches."""
    job = own_job(request.user, job_id)
    key = next((s.key for s in _result(job).steps if s.id == body.region and s.kind == "region"), None)
    if key is None:
        raise ContourError("not-found", "there is no such region", got=body.region[:20])
    region = load_product(product_folder(job, key, of="region"))
    if region.surface.kind != "cylinder":
        return MouthOut()
    place = region_place(region)
    for name, of in body.bodies.items():
        exact = product_folder(job, of, of="body") / "exact.npz"
        if not exact.exists():  # a body that nobody has looked at yet
            continue
        found = bore_reach(load_exact(exact), place.at, place.along, place.span)
        if found is not None:
            faces = faces_told(job, of)
            until = None if found.until is None else faces[found.until]
            return MouthOut(body=name, face=faces[found.face], until=until, depth=found.depth)
    return MouthOut()


_newest: dict[str, object] = {}
_guard = threading.Lock()


@router.post("/{job_id}/preview", response=PreviewOut)
def show(request: HttpRequest, job_id: uuid.UUID, body: PreviewIn) -> dict[str, Any]:
    """The bodies as the edit would make them, coarsely. The next preview of the same job ends this one (409)."""
    job = own_job(request.user, job_id)
    recipe, _ = edited(job, body.edit)
    about = getattr(body.edit, "step", None) or getattr(body.edit, "id", None)
    recipe = up_to_scan(recipe, about)
    known = last_result(job)
    recipe, passed = without_slow(recipe, about, known) if known and not body.with_fit else (recipe, [])
    mine = object()
    with _guard:
        _newest[str(job.id)] = mine
    fresh = {s.id for s in recipe.steps} - {s.id for s in recipe_of(job).steps}
    payload = {
        "recipe": wired_recipe(recipe),
        "store": str(settings.STORE),
        "fresh": sorted(fresh),
        "with_fit": body.with_fit,
    }
    # By a child of its own: what may take long must not keep the one waiting that the next picture comes from.
    child = f"{job.id} fit" if body.with_fit else str(job.id)
    result: dict[str, Any] = ask_standby(
        child, "preview", payload, cancelled=lambda: _newest.get(str(job.id)) is not mine, time_limit_s=60
    )
    return {**result, "passed": passed}
