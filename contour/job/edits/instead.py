"""One step used in the place of another, wherever that one is referred to."""

from __future__ import annotations

import copy
from typing import Any, Literal

from contour.job.build.scope import rename_everywhere
from contour.job.edits.checked import Known, require_order
from contour.recipe.naming import slug
from contour.recipe.params import plain_leaves, put_at
from contour.recipe.problem import ContourError, Where
from contour.recipe.recipe import Recipe, Step
from contour.recipe.strict import Strict
from contour.steps import KINDS

__all__ = ["OPERATIONS", "UseInstead"]


class UseInstead(Strict):
    """References to `step`, and formulas with its values, go over to `by`; the step itself stays."""

    op: Literal["use-instead"]
    step: str
    by: str


def _use_instead(recipe: Recipe, edit: UseInstead, known: Known) -> tuple[Recipe, str]:
    old, new = recipe.step(edit.step), recipe.step(edit.by)
    if old.id == new.id or _made(old) != _made(new):
        raise ContourError(
            "wrong-kind",
            f"'{new.name}' cannot stand in the place of '{old.name}'",
            where=Where(step=new.id),
            got="itself" if old.id == new.id else f"a step that makes a {_made(new)}",
            need=f"another step that makes a {_made(old)}",
            remedy="choose another step",
        )
    steps = tuple(s if s.id == new.id else _with(s, old.id, new.id) for s in recipe.steps)
    after = recipe.model_copy(update={"steps": steps})
    # Two steps may share a name; formulas can only be followed while both are the step's alone.
    if all(sum(slug(s.name) == slug(one.name) for s in recipe.steps) == 1 for one in (old, new)):
        after = rename_everywhere(after, slug(old.name), slug(new.name))
        after = after.model_copy(update={"steps": tuple(_kept(s, recipe, old, new) for s in after.steps)})
    if after == recipe:
        raise ContourError(
            "unchanged",
            f"nothing refers to '{old.name}'",
            where=Where(step=old.id),
            got="no reference",
            need="a step that is used below",
            remedy="choose the step that others rest on",
        )
    require_order(after)
    return after, f"use {new.name} in the place of {old.name}"


def _made(step: Step) -> str:
    return KINDS[step.kind].makes if step.kind in KINDS else step.kind


def _with(step: Step, old: str, new: str) -> Step:
    """Parts of a body keep their names: where the other body has none of that name, the build says so and offers its own."""
    params: Any = copy.deepcopy(step.params)
    for leaf in list(plain_leaves(step.params)):
        if leaf.what == "ref" and leaf.said["id"] == old:
            put_at(params, leaf.place, {**leaf.said, "id": new})
        elif leaf.what == "part" and leaf.of == old:
            put_at(params, leaf.place, {k: new if v == old else v for k, v in leaf.said.items()})
    return step.model_copy(update={"params": params})


def _kept(step: Step, before: Recipe, old: Step, new: Step) -> Step:
    """The two themselves keep the formulas that they had."""
    return before.step(step.id) if step.id in (old.id, new.id) else step


OPERATIONS: dict[type, Any] = {UseInstead: _use_instead}
