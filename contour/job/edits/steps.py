"""Edits of the list of steps."""

from __future__ import annotations

import uuid
from collections.abc import Iterator
from typing import Any, Literal

from pydantic import Field

from contour.job.build.scope import rename_everywhere
from contour.job.edits.checked import Known, checked_step, replaced, require_order
from contour.job.edits.intent import Agree, take_up
from contour.job.edits.region import SetFacets, set_facets
from contour.job.edits.relations import dependents, order_problem, pointed
from contour.recipe.naming import slug
from contour.recipe.problem import ContourError, Where
from contour.recipe.recipe import Recipe, Step
from contour.recipe.strict import Strict
from contour.steps import KINDS

__all__ = [
    "OPERATIONS",
    "AddStep",
    "AddSteps",
    "DeleteStep",
    "GroupSteps",
    "MoveStep",
    "NoteStep",
    "RenameStep",
    "SetParams",
    "SwitchStep",
]


class AddStep(Strict):
    """At the end (mends and alignments: above what is made from their scan), or right after another step."""

    op: Literal["add-step"]
    id: str | None = Field(
        default=None, description="a UUID chosen by the browser, so that it can select the step at once"
    )
    kind: str
    name: str | None = Field(default=None, max_length=200)
    params: dict[str, Any]
    after: str | None = None


class AddSteps(Strict):
    """Several steps at once, one after the other: one undo takes them all away."""

    op: Literal["add-steps"]
    steps: list[AddStep] = Field(max_length=500)
    then: Agree | None = Field(default=None, description="what is agreed between regions, those just added among them")


class SetParams(Strict):
    """Replaces the named parameters of a step; the others stay."""

    op: Literal["set-params"]
    step: str
    params: dict[str, Any]


class RenameStep(Strict):
    """Formulas that use the step's values follow."""

    op: Literal["rename-step"]
    step: str
    name: str = Field(min_length=1, max_length=200)


class SwitchStep(Strict):
    op: Literal["switch-step"]
    step: str
    enabled: bool


class DeleteStep(Strict):
    op: Literal["delete-step"]
    step: str
    with_dependents: bool = False


class MoveStep(Strict):
    """To just before another step, or to the end."""

    op: Literal["move-step"]
    step: str
    before: str | None


class NoteStep(Strict):
    op: Literal["note-step"]
    step: str
    note: str = Field(max_length=1000)


class GroupSteps(Strict):
    """An empty name takes them out of their group."""

    op: Literal["group-steps"]
    steps: list[str] = Field(min_length=1)
    group: str = Field(max_length=100)


def _next_name(recipe: Recipe, kind: str) -> str:
    title = KINDS[kind].title if kind in KINDS else kind
    taken = {s.name for s in recipe.steps}
    return next(f"{title} {n}" for n in range(1, 10_000) if f"{title} {n}" not in taken)


def _above_use(recipe: Recipe, step: Step) -> int:
    """Where a step that changes a scan belongs: above everything that is made from that scan, and below what it is told where to do so by."""
    mine = set(pointed(step.params))
    told = [
        i
        for i, other in enumerate(recipe.steps)
        if other.id in mine and other.kind in KINDS and KINDS[other.kind].makes != "scan"
    ]
    if told:
        return told[-1] + 1
    for i, other in enumerate(recipe.steps):
        kind = KINDS.get(other.kind)
        if kind is not None and kind.makes != "scan" and mine & set(pointed(other.params)):
            return i
    return len(recipe.steps)


def add_step(recipe: Recipe, edit: AddStep, known: Known) -> tuple[Recipe, str]:
    """The recipe with the step where it belongs. Raises ContourError (bad-params, bad-order …)."""
    step = Step(
        id=edit.id or str(uuid.uuid4()),
        kind=edit.kind,
        name=edit.name or _next_name(recipe, edit.kind),
        params=edit.params,
    )
    if any(s.id == step.id for s in recipe.steps):
        raise ContourError(
            "bad-params",
            "a step with this id exists",
            where=Where(step=step.id),
            got=step.id[:8],
            need="an id of its own",
            remedy="add the step again",
        )
    at = len(recipe.steps)
    if edit.after is not None:
        at = recipe.steps.index(recipe.step(edit.after)) + 1
    elif edit.kind in KINDS and KINDS[edit.kind].makes == "scan" and not KINDS[edit.kind].ends:
        at = _above_use(recipe, step)
    longer = recipe.model_copy(update={"steps": (*recipe.steps[:at], step, *recipe.steps[at:])})
    longer = replaced(longer, checked_step(step, longer, known))
    require_order(longer)
    return longer, f"add {step.name}"


def _agree(recipe: Recipe, edit: Agree, known: Known) -> tuple[Recipe, str]:
    recipe, step = take_up(recipe, edit)
    recipe = replaced(recipe, checked_step(step, recipe, known))
    require_order(recipe)
    count = len(edit.relations)
    said = str(edit.relations[0].get("text") or edit.relations[0].get("kind"))
    return recipe, f"agree to {count} proposals" if count > 1 else f"agree: {said}"[:80]


def _move_step(recipe: Recipe, edit: MoveStep, known: Known) -> tuple[Recipe, str]:
    step = recipe.step(edit.step)
    rest = [s for s in recipe.steps if s.id != step.id]
    at = len(rest)
    if edit.before is not None and edit.before != step.id:
        at = next((i for i, s in enumerate(rest) if s.id == edit.before), -1)
        if at < 0:
            raise ContourError(
                "not-found",
                "the job has no such step",
                where=Where(step=edit.before),
                got=str(edit.before)[:8],
                need="one of the job's steps",
                remedy="look at the job again: it has changed",
            )
    elif edit.before == step.id:
        return recipe, f"move {step.name}"
    moved = recipe.model_copy(update={"steps": (*rest[:at], step, *rest[at:])})
    if order_problem(recipe) is None:  # an order that is broken already may be mended by moving
        require_order(moved)
    return moved, f"move {step.name}"


def _add_steps(recipe: Recipe, edit: AddSteps, known: Known) -> tuple[Recipe, str]:
    for one in edit.steps:
        recipe, _ = add_step(recipe, one, known)
    return _agree(recipe, edit.then, known) if edit.then else (recipe, f"add {len(edit.steps)} steps")


def _set_facets(recipe: Recipe, edit: SetFacets, known: Known) -> tuple[Recipe, str]:
    after, said = set_facets(recipe, edit)
    for row in edit.rows:
        after = replaced(after, checked_step(after.step(row.step), after, known))
    return after, said


def _group_steps(recipe: Recipe, edit: GroupSteps, known: Known) -> tuple[Recipe, str]:
    group = edit.group.strip()
    chosen = {recipe.step(s).id for s in edit.steps}
    steps = tuple(s.model_copy(update={"group": group}) if s.id in chosen else s for s in recipe.steps)
    return recipe.model_copy(update={"steps": steps}), f"group as {edit.group}" if group else "ungroup"


def _set_params(recipe: Recipe, edit: SetParams, known: Known) -> tuple[Recipe, str]:
    step = recipe.step(edit.step)
    changed = step.model_copy(update={"params": {**step.params, **edit.params}})
    after = replaced(recipe, checked_step(changed, recipe, known))
    for field, old, new in _renamed_values(step.params, edit.params):
        after = _set_under(after, step.id, f"{field}[{old}]", f"{field}[{new}]")
        if _alone(recipe, step):
            after = rename_everywhere(after, f"{slug(step.name)}.{old}", f"{slug(step.name)}.{new}")
    return after, f"change {step.name}"


def _set_under(recipe: Recipe, step: str, old: str, new: str) -> Recipe:
    """Variants that set a value of a step set it under its new place."""
    variants = tuple(
        v.model_copy(
            update={
                "settings": tuple(
                    s.model_copy(update={"place": new}) if (s.of, s.place) == (step, old) else s for s in v.settings
                )
            }
        )
        for v in recipe.variants
    )
    return recipe.model_copy(update={"variants": variants})


def _renamed_values(before: dict[str, Any], now: dict[str, Any]) -> Iterator[tuple[str, str, str]]:
    """Values that a step keeps by names of their own, where just one goes by another name: the field, and what formulas called it and call it now."""
    for field, values in now.items():
        old = before.get(field)
        if not isinstance(values, dict) or not isinstance(old, dict):
            continue
        gone, new = (list(a.keys() - b.keys()) for a, b in ((old, values), (values, old)))
        if len(gone) == len(new) == 1 and values[new[0]] == old[gone[0]] and "text" in (values[new[0]] or ()):
            yield field, gone[0], new[0]


def _alone(recipe: Recipe, step: Step) -> bool:
    """Two steps may share a name; formulas can only be followed while it is the step's alone."""
    return sum(slug(s.name) == slug(step.name) for s in recipe.steps) == 1


def _rename_step(recipe: Recipe, edit: RenameStep, known: Known) -> tuple[Recipe, str]:
    step = recipe.step(edit.step)
    name = edit.name.strip() or step.name
    if any(v.name == slug(name) for v in recipe.named):
        raise ContourError(
            "name-taken",
            f"'{slug(name)}' is the name of a value",
            where=Where(step=step.id),
            got=slug(name),
            need="a name that no value has",
            remedy="choose another name",
        )
    after = rename_everywhere(recipe, slug(step.name), slug(name)) if _alone(recipe, step) else recipe
    return replaced(after, after.step(step.id).model_copy(update={"name": name})), f"rename {step.name}"


def _note_step(recipe: Recipe, edit: NoteStep, known: Known) -> tuple[Recipe, str]:
    step = recipe.step(edit.step)
    return replaced(recipe, step.model_copy(update={"note": edit.note.strip()})), f"note on {step.name}"


def _switch_step(recipe: Recipe, edit: SwitchStep, known: Known) -> tuple[Recipe, str]:
    step = recipe.step(edit.step)
    word = "switch on" if edit.enabled else "switch off"
    return replaced(recipe, step.model_copy(update={"enabled": edit.enabled})), f"{word} {step.name}"


def _delete_step(recipe: Recipe, edit: DeleteStep, known: Known) -> tuple[Recipe, str]:
    step = recipe.step(edit.step)
    gone = {step.id} | ({s.id for s in dependents(recipe, step.id)} if edit.with_dependents else set())
    steps = tuple(s for s in recipe.steps if s.id not in gone)
    bodies = tuple(b for b in recipe.bodies if b.id not in gone)
    more = f" and {len(gone) - 1} more" if len(gone) > 1 else ""
    return recipe.model_copy(update={"steps": steps, "bodies": bodies}), f"delete {step.name}{more}"


OPERATIONS: dict[type, Any] = {
    AddStep: add_step,
    AddSteps: _add_steps,
    Agree: _agree,
    SetFacets: _set_facets,
    SetParams: _set_params,
    RenameStep: _rename_step,
    SwitchStep: _switch_step,
    DeleteStep: _delete_step,
    MoveStep: _move_step,
    NoteStep: _note_step,
    GroupSteps: _group_steps,
}
