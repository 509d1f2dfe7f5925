"""Edits of a recipe: what can be asked for, applied to a frozen recipe to give the next one."""

from __future__ import annotations

import uuid
from collections.abc import Mapping
from typing import Annotated, Any, Literal, TypeVar

from pydantic import BaseModel, Field, ValidationError

from contour.job.build.build import checked_params
from contour.job.build.result import ValueState
from contour.job.build.scope import Scope, commit_values, rename_everywhere
from contour.job.edits.intent import Agree, take_up
from contour.job.edits.picture import PictureEdit, apply_picture_edit
from contour.job.edits.reading import ReadingEdit, apply_reading_edit
from contour.job.edits.region import SetFacets, set_facets
from contour.job.edits.relations import dependents, late_placement, order_problem, pointed
from contour.job.edits.scan import AddScan, DropScan, LeaveDefect, SetScan, apply_scan_edit
from contour.recipe.evidence.reading import Feature, Measures, Pin, Reading, Take
from contour.recipe.formula import Dimension, LengthUnit, Quantity, committed
from contour.recipe.naming import slug
from contour.recipe.problem import ContourError, Where
from contour.recipe.recipe import BodyLook, NamedValue, Probe, Recipe, Step
from contour.recipe.strict import Strict
from contour.recipe.values import Value
from contour.steps import KINDS

__all__ = ["Edit", "Known", "apply_edit"]

M = TypeVar("M", bound=BaseModel)
Known = Mapping[str, Mapping[str, ValueState]]  # step id -> its values as the last build found them


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


class SetValue(Strict):
    """Makes a named value, or changes the one with that id."""

    op: Literal["set-value"]
    id: str
    name: str | None = None
    dimension: Dimension | None = None
    value: Value | None = None
    note: str | None = Field(default=None, max_length=500)


class DeleteValue(Strict):
    """A named value or a reading."""

    op: Literal["delete-value"]
    id: str


class SetReading(Strict):
    """Makes a reading, or changes the one with that id."""

    op: Literal["set-reading"]
    id: str
    name: str | None = None
    takes: list[Take] | None = None
    note: str | None = Field(default=None, max_length=500)
    source: Literal["caliper", "photo", "drawing"] | None = None
    measures: Measures | None = None
    over: int | None = Field(default=None, ge=1, le=10_000)
    tolerance_mm: float | None = Field(default=None, ge=0)
    u_mm: float | None = Field(default=None, ge=0)
    pin: Pin | None = None
    feature: Feature | None = None
    same_as: str | None = Field(default=None, description="another reading of the same size, by another source")
    unpin: bool | None = Field(default=None, exclude=True, description="takes the pin away")
    untie: bool | None = Field(default=None, exclude=True, description="takes the tie to the scan away")
    unlink: bool | None = Field(default=None, exclude=True, description="takes the tie to another reading away")


class SetBody(Strict):
    op: Literal["set-body"]
    id: str
    name: str | None = Field(default=None, max_length=200)
    colour: str | None = None


class PinProbe(Strict):
    op: Literal["pin-probe"]
    probe: Probe


class DropProbe(Strict):
    op: Literal["drop-probe"]
    id: str


class SetJob(Strict):
    op: Literal["set-job"]
    name: str | None = Field(default=None, min_length=1, max_length=200)
    unit: LengthUnit | None = None
    acceptance: Value | None = None


Edit = Annotated[
    AddStep
    | AddSteps
    | SetParams
    | RenameStep
    | SwitchStep
    | DeleteStep
    | MoveStep
    | NoteStep
    | GroupSteps
    | SetValue
    | DeleteValue
    | Agree
    | SetFacets
    | SetReading
    | ReadingEdit
    | PictureEdit
    | SetBody
    | PinProbe
    | DropProbe
    | AddScan
    | SetScan
    | DropScan
    | LeaveDefect
    | SetJob,
    Field(discriminator="op"),
]


def _scope(recipe: Recipe, known: Known, upto: str | None) -> Scope:
    """Names as they can be used in a step (all of them for named values): values of the last build, as far as known."""
    scope = Scope(recipe)
    for step in recipe.steps:
        if step.id == upto:
            break
        if step.id in known:
            values = known[step.id]
            scope.learn(step, {n: Quantity(v.value, v.length, v.angle, v.mark) for n, v in values.items()})  # type: ignore[arg-type]
        else:
            scope.passed(step, f"'{step.name}' has not been built")
    return scope


def _checked(step: Step, recipe: Recipe, known: Known) -> Step:
    """Parameters must fit their kind, and typed values must be readable; whether they work is for the build to say."""
    kind, params = checked_params(step)
    try:
        plain = commit_values(params, recipe.unit, _scope(recipe, known, step.id).lookup)
    except ContourError as error:
        raise error.at(step=step.id) from None
    return step.model_copy(update={"params": plain, "kind": kind.id})


def _next_name(recipe: Recipe, kind: str) -> str:
    title = KINDS[kind].title if kind in KINDS else kind
    taken = {s.name for s in recipe.steps}
    return next(f"{title} {n}" for n in range(1, 10_000) if f"{title} {n}" not in taken)


def _replaced(recipe: Recipe, step: Step) -> Recipe:
    steps = tuple(step if s.id == step.id else s for s in recipe.steps)
    return recipe.model_copy(update={"steps": steps})


def _above_use(recipe: Recipe, step: Step) -> int:
    """Where a step that changes a scan belongs: above everything that is made from that scan."""
    mine = set(pointed(step.params))
    for i, other in enumerate(recipe.steps):
        kind = KINDS.get(other.kind)
        if kind is not None and kind.makes != "scan" and mine & set(pointed(other.params)):
            return i
    return len(recipe.steps)


def _add_step(recipe: Recipe, edit: AddStep, known: Known) -> tuple[Recipe, str]:
    step = Step(
        id=edit.id or str(uuid.uuid4()),
        kind=edit.kind,
        name=edit.name or _next_name(recipe, edit.kind),
        params=edit.params,
    )
    if any(s.id == step.id for s in recipe.steps):
        raise ContourError("bad-params", "a step with this id exists", where=Where(step=step.id))
    at = len(recipe.steps)
    if edit.after is not None:
        at = recipe.steps.index(recipe.step(edit.after)) + 1
    elif edit.kind in KINDS and KINDS[edit.kind].makes == "scan":
        at = _above_use(recipe, step)
    longer = recipe.model_copy(update={"steps": (*recipe.steps[:at], step, *recipe.steps[at:])})
    longer = _replaced(longer, _checked(step, longer, known))
    _require_order(longer)
    return longer, f"add {step.name}"


def _agree(recipe: Recipe, edit: Agree, known: Known) -> tuple[Recipe, str]:
    recipe, step = take_up(recipe, edit)
    recipe = _replaced(recipe, _checked(step, recipe, known))
    _require_order(recipe)
    count = len(edit.relations)
    said = str(edit.relations[0].get("text") or edit.relations[0].get("kind"))
    return recipe, f"agree to {count} proposals" if count > 1 else f"agree: {said}"[:80]


def _require_order(recipe: Recipe) -> None:
    late = order_problem(recipe)
    if late is not None:
        step, needed = late
        raise ContourError(
            "bad-order",
            f"'{step.name}' needs '{needed.name}', which would stand below it",
            where=Where(step=step.id),
            got=needed.name,
            need=f"'{needed.name}' above '{step.name}'",
            remedy="move both, or change what it refers to",
        )
    _require_placement(recipe)


def _require_placement(recipe: Recipe) -> None:
    late = late_placement(recipe)
    if late is not None:
        step, user = late
        raise ContourError(
            "bad-order",
            f"'{step.name}' would move the scan away from under '{user.name}', which stands above it",
            where=Where(step=step.id),
            got=user.name,
            need=f"'{step.name}' above '{user.name}'",
            remedy=f"put it before '{user.name}'",
        )


def _move_step(recipe: Recipe, edit: MoveStep) -> tuple[Recipe, str]:
    step = recipe.step(edit.step)
    rest = [s for s in recipe.steps if s.id != step.id]
    at = len(rest)
    if edit.before is not None and edit.before != step.id:
        at = next((i for i, s in enumerate(rest) if s.id == edit.before), -1)
        if at < 0:
            raise ContourError("not-found", "the job has no such step", where=Where(step=edit.before))
    elif edit.before == step.id:
        return recipe, f"move {step.name}"
    moved = recipe.model_copy(update={"steps": (*rest[:at], step, *rest[at:])})
    if order_problem(recipe) is None:  # an order that is broken already may be mended by moving
        _require_order(moved)
    return moved, f"move {step.name}"


def _set_job(recipe: Recipe, edit: SetJob) -> tuple[Recipe, str]:
    changes: dict[str, Any] = {}
    if edit.name is not None:
        changes["name"] = edit.name.strip() or recipe.name
    if edit.unit is not None:
        changes["unit"] = edit.unit
    if edit.acceptance is not None:
        mm = edit.acceptance.resolve("length", recipe.unit, Scope(recipe).lookup).value
        if not 0 < mm <= 100:
            raise ContourError(
                "bad-params",
                "the acceptance must lie between 0 and 100 mm",
                got=f"{mm:g} mm",
                where=Where(param="acceptance"),
                remedy="type something like 0.1 mm",
            )
        changes["acceptance_mm"] = mm
    return recipe.model_copy(update=changes), "change " + ", ".join(k.replace("_mm", "") for k in changes)


def _require_free(recipe: Recipe, id: str, name: str) -> None:
    for other in recipe.named:
        if other.name == name and other.id != id:
            raise ContourError(
                "name-taken",
                f"'{name}' is the name of another value",
                where=Where(value=name),
                remedy="choose another name",
            )
    for step in recipe.steps:
        if slug(step.name) == name:
            raise ContourError(
                "name-taken",
                f"'{name}' is how formulas write the step '{step.name}'",
                where=Where(value=name),
                remedy="choose another name",
            )


def _named(model: type[M], name: str, fields: dict[str, Any]) -> M:
    try:
        return model.model_validate(fields)
    except ValidationError as error:
        first = error.errors()[0]
        said = str(first["msg"]).removeprefix("Value error, ")
        raise ContourError(
            "bad-params",
            said,
            where=Where(value=name or "(no name)"),
            got=repr(first.get("input"))[:60],
            remedy="use a name such as bore_d, and figures with a unit",
        ) from None


def _set_value(recipe: Recipe, edit: SetValue, known: Known) -> tuple[Recipe, str]:
    old = next((v for v in recipe.values if v.id == edit.id), None)
    given = edit.model_dump(exclude={"op"}, exclude_none=True)
    fields = {**(old.model_dump() if old else {}), **given}
    name = str(fields.get("name", ""))
    value = _named(NamedValue, name, fields)
    _require_free(recipe, edit.id, name)
    if old is not None and old.name != name:
        recipe = rename_everywhere(recipe, old.name, name)
    values = [v for v in recipe.values if v.id != edit.id]
    at = next((i for i, v in enumerate(recipe.values) if v.id == edit.id), len(values))
    longer = recipe.model_copy(update={"values": (*values[:at], value, *values[at:])})
    scope = _scope(longer, known, None)
    try:
        scope.lookup(name)
    except ContourError as error:
        if error.problem.code != "step-blocked":
            raise
    text = committed(value.value.text, dimension=value.dimension, unit=recipe.unit, lookup=scope.lookup)
    value = value.model_copy(update={"value": value.value.model_copy(update={"text": text})})
    longer = recipe.model_copy(update={"values": (*values[:at], value, *values[at:])})
    return longer, f"change {name}" if old else f"add {name}"


def _set_reading(recipe: Recipe, edit: SetReading) -> tuple[Recipe, str]:
    old = next((r for r in recipe.readings if r.id == edit.id), None)
    given = edit.model_dump(exclude={"op"}, exclude_none=True)
    fields = {**(old.model_dump() if old else {}), **given}
    fields |= {**({"pin": None} if edit.unpin else {}), **({"feature": None} if edit.untie else {})}
    fields |= {"same_as": None} if edit.unlink or fields.get("same_as") == edit.id else {}
    name = str(fields.get("name", ""))
    reading = _named(Reading, name, fields)
    _require_free(recipe, edit.id, name)
    if old is not None and old.name != name:
        recipe = rename_everywhere(recipe, old.name, name)
    evidence = tuple(reading if e.id == edit.id else e for e in recipe.evidence)
    if old is None:
        evidence = (*evidence, reading)
    return recipe.model_copy(update={"evidence": evidence}), f"change {name}" if old else f"add reading {name}"


def _delete_value(recipe: Recipe, edit: DeleteValue) -> tuple[Recipe, str]:
    for row in recipe.named:
        if row.id == edit.id:
            return recipe.model_copy(
                update={
                    "values": tuple(v for v in recipe.values if v.id != edit.id),
                    "evidence": tuple(e for e in recipe.evidence if e.id != edit.id),
                }
            ), f"delete {row.name}"
    raise ContourError("not-found", "the job has no such value")


def _set_body(recipe: Recipe, edit: SetBody) -> tuple[Recipe, str]:
    step = recipe.step(edit.id)
    old = next((b for b in recipe.bodies if b.id == edit.id), BodyLook(id=edit.id))
    new = _named(BodyLook, old.name, {**old.model_dump(), **edit.model_dump(exclude={"op"}, exclude_none=True)})
    rest = tuple(b for b in recipe.bodies if b.id != edit.id)
    return recipe.model_copy(update={"bodies": (*rest, new)}), f"change {new.name or step.name}"


def apply_edit(recipe: Recipe, edit: Edit, known: Known | None = None) -> tuple[Recipe, str]:
    """The next recipe and what the edit is called in the undo list. `known` are values of steps from the last build.

    Raises ContourError (bad-params, bad-formula, mixed-dimensions, unknown-name, value-cycle, name-taken, bad-order,
    not-found) and changes nothing then.
    """
    known = known or {}
    if isinstance(edit, AddStep):
        return _add_step(recipe, edit, known)
    if isinstance(edit, AddSteps):
        for one in edit.steps:
            recipe, _ = _add_step(recipe, one, known)
        return _agree(recipe, edit.then, known) if edit.then else (recipe, f"add {len(edit.steps)} steps")
    if isinstance(edit, SetFacets):
        after, said = set_facets(recipe, edit)
        for row in edit.rows:
            after = _replaced(after, _checked(after.step(row.step), after, known))
        return after, said
    if isinstance(edit, Agree):
        return _agree(recipe, edit, known)
    if isinstance(edit, SetJob):
        return _set_job(recipe, edit)
    if isinstance(edit, SetValue):
        return _set_value(recipe, edit, known)
    if isinstance(edit, DeleteValue):
        return _delete_value(recipe, edit)
    if isinstance(edit, SetReading):
        return _set_reading(recipe, edit)
    if isinstance(edit, SetBody):
        return _set_body(recipe, edit)
    if isinstance(edit, PinProbe):
        rest = tuple(p for p in recipe.probes if p.id != edit.probe.id)
        return recipe.model_copy(update={"probes": (*rest, edit.probe)}), f"pin {edit.probe.name}"
    if isinstance(edit, DropProbe):
        return recipe.model_copy(update={"probes": tuple(p for p in recipe.probes if p.id != edit.id)}), "drop a probe"
    if isinstance(edit, GroupSteps):
        chosen = {recipe.step(s).id for s in edit.steps}
        steps = tuple(s.model_copy(update={"group": edit.group.strip()}) if s.id in chosen else s for s in recipe.steps)
        return recipe.model_copy(update={"steps": steps}), f"group as {edit.group}" if edit.group.strip() else "ungroup"
    if isinstance(edit, MoveStep):
        return _move_step(recipe, edit)
    if isinstance(edit, AddScan | SetScan | DropScan | LeaveDefect):
        return apply_scan_edit(recipe, edit)
    if isinstance(edit, PictureEdit):
        return apply_picture_edit(recipe, edit)
    if isinstance(edit, ReadingEdit):
        return apply_reading_edit(recipe, edit)
    step = recipe.step(edit.step)
    if isinstance(edit, SetParams):
        changed = step.model_copy(update={"params": {**step.params, **edit.params}})
        return _replaced(recipe, _checked(changed, recipe, known)), f"change {step.name}"
    if isinstance(edit, RenameStep):
        name = edit.name.strip() or step.name
        if any(v.name == slug(name) for v in recipe.named):
            raise ContourError(
                "name-taken",
                f"'{slug(name)}' is the name of a value",
                where=Where(step=step.id),
                remedy="choose another name",
            )
        # Two steps may share a name; formulas can only be followed while it is the step's alone.
        alone = sum(slug(s.name) == slug(step.name) for s in recipe.steps) == 1
        after = rename_everywhere(recipe, slug(step.name), slug(name)) if alone else recipe
        return _replaced(after, after.step(step.id).model_copy(update={"name": name})), f"rename {step.name}"
    if isinstance(edit, NoteStep):
        return _replaced(recipe, step.model_copy(update={"note": edit.note.strip()})), f"note on {step.name}"
    if isinstance(edit, SwitchStep):
        word = "switch on" if edit.enabled else "switch off"
        return _replaced(recipe, step.model_copy(update={"enabled": edit.enabled})), f"{word} {step.name}"
    gone = {step.id} | ({s.id for s in dependents(recipe, step.id)} if edit.with_dependents else set())
    steps = tuple(s for s in recipe.steps if s.id not in gone)
    bodies = tuple(b for b in recipe.bodies if b.id not in gone)
    more = f" and {len(gone) - 1} more" if len(gone) > 1 else ""
    return recipe.model_copy(update={"steps": steps, "bodies": bodies}), f"delete {step.name}{more}"
