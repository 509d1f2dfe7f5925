"""Jobs: beginning one, moving its head by edits, undo and redo, and what the browser is told about it."""

from __future__ import annotations

import uuid
from typing import Any

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction

from bench.blobs import require_own
from bench.cards import keep_card
from bench.models import Job, Revision, Task, Upload
from bench.work import built_result, enqueue_build
from contour.job.build.blobs import blobs_of
from contour.job.build.result import BuildResult, ValueState
from contour.job.build.scope import Scope
from contour.job.edits.apply import Edit, Known, apply_edit
from contour.job.edits.solid import AddSolid
from contour.recipe.evidence.scan import ScanEvidence
from contour.recipe.evidence.solid import SolidEvidence
from contour.recipe.formula import LENGTH_UNITS, Quantity
from contour.recipe.problem import ContourError
from contour.recipe.recipe import Recipe, dump_recipe, load_recipe, wired_recipe

__all__ = [
    "add_solid_of",
    "begin_job",
    "duplicate",
    "edit_job",
    "edited",
    "head_build",
    "import_recipe",
    "known_values",
    "last_result",
    "move_head",
    "own_job",
    "recipe_of",
    "return_to",
    "scope_of",
    "undo_labels",
]


def own_job(user: AbstractBaseUser, job_id: uuid.UUID | str) -> Job:
    """The user's job; somebody else's does not exist for them."""
    job = Job.objects.select_related("head", "tip").filter(id=job_id, owner=user).first()
    if job is None:
        raise ContourError("not-found", "there is no such job", got=str(job_id)[:8], remedy="go back to the shelf")
    return job


def recipe_of(job: Job) -> Recipe:
    assert job.head is not None
    return load_recipe(job.head.recipe)


def _advance(job: Job, recipe: Recipe, label: str) -> None:
    named = set(blobs_of(recipe))
    require_own(job.owner, named - (set(blobs_of(recipe_of(job), as_read=True)) if job.head else set()))
    revision = Revision.objects.create(job=job, parent=job.head, label=label[:200], recipe=dump_recipe(recipe))
    job.head = job.tip = revision
    job.version += 1
    job.save()
    enqueue_build(job)
    keep_card(job)


@transaction.atomic
def import_recipe(user: AbstractBaseUser, recipe: Recipe) -> Job:
    """A new job with that recipe; raises ContourError (not-found) for files in it that are not the user's."""
    job = Job.objects.create(owner=user)
    _advance(job, recipe, "begin")
    return job


def begin_job(user: AbstractBaseUser, upload: Upload, *, name: str, unit: str) -> Job:
    """A new job around one uploaded scan in the unit its owner chose. An inch scan makes an inch job."""
    if not upload.facts:
        raise ContourError(
            "file-not-understood", "this scan was not read yet", remedy="wait for it, or drop another file"
        )
    if upload.format in ("step", "iges"):
        recipe = Recipe(name=name.strip() or "New job", unit="inch" if unit == "inch" else "mm")
        return import_recipe(user, apply_edit(recipe, add_solid_of(upload, unit))[0])
    evidence = ScanEvidence(
        id=str(uuid.uuid4()),
        name=upload.name,
        blob=upload.blob,
        format=upload.format,
        unit=unit,  # type: ignore[arg-type]
    )
    display = "inch" if unit == "inch" else "mm"
    return import_recipe(user, Recipe(name=name.strip() or "New job", unit=display, evidence=(evidence,)))


def add_solid_of(upload: Upload, unit: str | None, role: str = "material", after: str | None = None) -> AddSolid:
    """The edit that brings an uploaded file of solids in; `unit` none, or the one the file says, leaves it to the file."""
    facts = upload.facts or {}
    said = next((u for u, mm in LENGTH_UNITS.items() if abs(mm - facts.get("unit_mm", 1.0)) < 1e-9), None)
    solid = SolidEvidence.model_validate(
        {
            "id": str(uuid.uuid4()),
            "name": upload.name,
            "blob": upload.blob,
            "format": upload.format,
            "unit": None if unit in (None, said) and not facts.get("doubt") else unit,
        }
    )
    return AddSolid.model_validate(
        {"op": "add-solid", "solid": solid, "step": str(uuid.uuid4()), "role": role, "after": after}
    )


def _locked(job: Job, version: int) -> Job:
    fresh = Job.objects.select_for_update().select_related("head", "tip").get(id=job.id)
    if fresh.version != version:
        raise ContourError(
            "stale-revision",
            "the job has changed since this page loaded it",
            got=f"version {version}",
            need=f"version {fresh.version}",
            remedy="look at the newer state, then make the change again",
        )
    return fresh


@transaction.atomic
def edit_job(job: Job, version: int, edit: Edit) -> Job:
    """Apply one edit in one transaction; raises ContourError (stale-revision) when the head has moved."""
    fresh = _locked(job, version)
    recipe, label = edited(fresh, edit)
    if wired_recipe(recipe) != wired_recipe(recipe_of(fresh)):
        _advance(fresh, recipe, label)
    return fresh


def edited(job: Job, edit: Edit) -> tuple[Recipe, str]:
    """The recipe that an edit of the head would give, and the edit's name; nothing is kept."""
    own = recipe_of(job)
    recipe, label = apply_edit(own, edit, known_values(job))
    # A recipe is only kept if it can be read again: model_copy does not validate.
    made = load_recipe(wired_recipe(recipe))
    require_own(job.owner, set(blobs_of(made, as_read=True)) - set(blobs_of(own, as_read=True)))
    return made, label


def last_result(job: Job) -> BuildResult | None:
    """What the newest build of the job found, of the head if it is done."""
    result = head_build(job)["result"]
    return None if result is None else BuildResult.model_validate(result)


def known_values(job: Job) -> Known:
    """Values of steps, as the newest build found them."""
    result = head_build(job)["result"] or {}
    done = [s for s in result.get("steps", ()) if s["status"] == "ok"]
    known = {s["id"]: s["values"] for s in done}
    for s in done:
        for region, values in s.get("settled", {}).items():  # as what was agreed has left them
            known[region] = {**known.get(region, {}), **values}
    return {id: {n: ValueState(**v) for n, v in values.items()} for id, values in known.items()}


def scope_of(job: Job) -> Scope:
    """Every name of the job, with the steps' values as the newest build found them."""
    recipe = recipe_of(job)
    scope = Scope(recipe)
    known = known_values(job)
    for step in recipe.steps:
        found = {n: Quantity(v.value, v.length, v.angle, v.mark) for n, v in known.get(step.id, {}).items()}  # type: ignore[arg-type]
        scope.learn(step, found)
    return scope


@transaction.atomic
def return_to(job: Job, version: int, revision: Revision, name: str) -> Job:
    """The job as it was at a revision of its own, as one more edit: it can be undone like any other."""
    fresh = _locked(job, version)
    recipe = load_recipe(revision.recipe)
    if wired_recipe(recipe) == wired_recipe(recipe_of(fresh)):
        raise ContourError("unchanged", f"the job is as it was at '{name}'", remedy="choose another checkpoint")
    _advance(fresh, recipe, f"return to {name}")
    return fresh


def duplicate(user: AbstractBaseUser, recipe: Recipe, name: str) -> Job:
    """A new job that begins with that recipe."""
    return import_recipe(user, recipe.model_copy(update={"name": name[:200]}))


def _redo_target(job: Job) -> Revision | None:
    """The revision after head on the way to tip."""
    step = job.tip
    while step is not None and step != job.head:
        if step.parent_id == (job.head.id if job.head else None):
            return step
        step = step.parent
    return None


@transaction.atomic
def move_head(job: Job, version: int, direction: str) -> Job:
    """Undo or redo; raises ContourError (unchanged) at either end."""
    fresh = _locked(job, version)
    assert fresh.head is not None
    target = fresh.head.parent if direction == "undo" else _redo_target(fresh)
    if target is None:
        raise ContourError("unchanged", f"there is nothing to {direction}")
    fresh.head = target
    fresh.version += 1
    fresh.save()
    enqueue_build(fresh)
    keep_card(fresh)
    return fresh


def head_build(job: Job) -> dict[str, Any]:
    """How far the head's build is, what it found, and the last finished build's result while it runs."""
    row = Task.objects.filter(job=job, revision=job.head, kind="build").order_by("-changed", "-created").first()
    status = row.status if row else "queued"
    result = built_result(row) if row else None
    current = result is not None
    if result is None:
        older = Task.objects.filter(job=job, kind="build", status="done").order_by("-changed").first()
        result = built_result(older) if older else None
    return {
        "task": str(row.id) if row else None,
        "status": status,
        "current": current,
        "progress": (row.progress or None) if row else None,
        "problem": row.problem if row else None,
        "result": result,
    }


def undo_labels(job: Job) -> dict[str, str | None]:
    """What undo and redo would do, in words; None where they would do nothing."""
    redo = _redo_target(job)
    has_parent = job.head is not None and job.head.parent_id is not None
    return {"undo": job.head.label if has_parent and job.head else None, "redo": redo.label if redo else None}
