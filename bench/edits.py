"""Edits of a recipe: what the browser may ask for, applied to a frozen recipe to give the next one."""

from __future__ import annotations

import uuid
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from contour.job.build import checked_params
from contour.recipe.file import Recipe, Step
from contour.recipe.formula import LengthUnit
from contour.recipe.problem import ContourError, Where
from contour.recipe.values import Value
from contour.steps import KINDS

__all__ = ["Edit", "apply_edit"]


class _Strict(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class AddStep(_Strict):
    op: Literal["add-step"]
    id: str | None = Field(
        default=None, description="a UUID chosen by the browser, so that it can select the step at once"
    )
    kind: str
    name: str | None = Field(default=None, max_length=200)
    params: dict[str, Any]


class SetParams(_Strict):
    """Replaces the named parameters of a step; the others stay."""

    op: Literal["set-params"]
    step: str
    params: dict[str, Any]


class RenameStep(_Strict):
    op: Literal["rename-step"]
    step: str
    name: str = Field(min_length=1, max_length=200)


class SwitchStep(_Strict):
    op: Literal["switch-step"]
    step: str
    enabled: bool


class DeleteStep(_Strict):
    op: Literal["delete-step"]
    step: str


class SetJob(_Strict):
    op: Literal["set-job"]
    name: str | None = Field(default=None, min_length=1, max_length=200)
    unit: LengthUnit | None = None
    acceptance: Value | None = None


Edit = Annotated[AddStep | SetParams | RenameStep | SwitchStep | DeleteStep | SetJob, Field(discriminator="op")]


def _checked(step: Step, recipe: Recipe) -> Step:
    """Parameters must fit their kind, and typed values must be readable; whether they work is for the build to say."""
    kind, params = checked_params(step)
    for name in type(params).model_fields:
        value = getattr(params, name)
        if isinstance(value, Value):
            try:
                value.resolve("length", recipe.unit)
            except ContourError as error:
                raise error.at(step=step.id, param=name) from None
    return step.model_copy(update={"params": params.model_dump(mode="json"), "kind": kind.id})


def _next_name(recipe: Recipe, kind: str) -> str:
    title = KINDS[kind].title if kind in KINDS else kind
    taken = {s.name for s in recipe.steps}
    return next(f"{title} {n}" for n in range(1, 10_000) if f"{title} {n}" not in taken)


def _replaced(recipe: Recipe, step: Step) -> Recipe:
    steps = tuple(step if s.id == step.id else s for s in recipe.steps)
    return recipe.model_copy(update={"steps": steps})


def apply_edit(recipe: Recipe, edit: Edit) -> tuple[Recipe, str]:
    """The next recipe and what the edit is called in the undo list.

    Raises ContourError (bad-params, bad-formula, mixed-dimensions, not-found) and changes nothing then.
    """
    if isinstance(edit, AddStep):
        step = Step(
            id=edit.id or str(uuid.uuid4()),
            kind=edit.kind,
            name=edit.name or _next_name(recipe, edit.kind),
            params=edit.params,
        )
        if any(s.id == step.id for s in recipe.steps):
            raise ContourError("bad-params", "a step with this id exists", where=Where(step=step.id))
        return recipe.model_copy(update={"steps": (*recipe.steps, _checked(step, recipe))}), f"add {step.name}"
    if isinstance(edit, SetJob):
        changes: dict[str, Any] = {}
        if edit.name is not None:
            changes["name"] = edit.name.strip() or recipe.name
        if edit.unit is not None:
            changes["unit"] = edit.unit
        if edit.acceptance is not None:
            mm = edit.acceptance.resolve("length", recipe.unit)
            if not 0 < mm <= 100:
                raise ContourError(
                    "bad-params", "the acceptance must lie between 0 and 100 mm", got=f"{mm:g} mm",
                    where=Where(param="acceptance"), remedy="type something like 0.1 mm",
                )  # fmt: skip
            changes["acceptance_mm"] = mm
        return recipe.model_copy(update=changes), "change " + ", ".join(k.replace("_mm", "") for k in changes)
    step = recipe.step(edit.step)
    if isinstance(edit, SetParams):
        changed = step.model_copy(update={"params": {**step.params, **edit.params}})
        return _replaced(recipe, _checked(changed, recipe)), f"change {step.name}"
    if isinstance(edit, RenameStep):
        return _replaced(
            recipe, step.model_copy(update={"name": edit.name.strip() or step.name})
        ), f"rename {step.name}"
    if isinstance(edit, SwitchStep):
        word = "switch on" if edit.enabled else "switch off"
        return _replaced(recipe, step.model_copy(update={"enabled": edit.enabled})), f"{word} {step.name}"
    steps = tuple(s for s in recipe.steps if s.id != step.id)
    return recipe.model_copy(update={"steps": steps}), f"delete {step.name}"
