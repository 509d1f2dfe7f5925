"""What edits of steps and values have in common: parameters that are checked, names that are free, an order that holds."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, TypeVar

from pydantic import BaseModel, ValidationError

from contour.job.build.inputs import checked_params
from contour.job.build.result import ValueState
from contour.job.build.scope import Scope, commit_values
from contour.job.edits.relations import late_placement, order_problem
from contour.recipe.formula import Quantity
from contour.recipe.naming import slug
from contour.recipe.problem import ContourError, Where
from contour.recipe.recipe import Recipe, Step

__all__ = ["Known", "checked_step", "replaced", "require_free", "require_order", "scope_upto", "validated"]

M = TypeVar("M", bound=BaseModel)
Known = Mapping[str, Mapping[str, ValueState]]  # step id -> its values as the last build found them


def scope_upto(recipe: Recipe, known: Known, upto: str | None) -> Scope:
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


def checked_step(step: Step, recipe: Recipe, known: Known) -> Step:
    """Parameters must fit their kind, and typed values must be readable; whether they work is for the build to say."""
    kind, params = checked_params(step)
    try:
        plain = commit_values(params, recipe.unit, scope_upto(recipe, known, step.id).lookup)
    except ContourError as error:
        raise error.at(step=step.id) from None
    return step.model_copy(update={"params": plain, "kind": kind.id})


def replaced(recipe: Recipe, step: Step) -> Recipe:
    """The recipe with this step in the place of the one with its id."""
    steps = tuple(step if s.id == step.id else s for s in recipe.steps)
    return recipe.model_copy(update={"steps": steps})


def require_order(recipe: Recipe) -> None:
    """Raises ContourError (bad-order) where a step points to something that does not stand above it."""
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


def require_free(recipe: Recipe, id: str, name: str) -> None:
    """Raises ContourError (name-taken) where a value's name belongs to another value or a step."""
    for other in recipe.named:
        if other.name == name and other.id != id:
            raise ContourError(
                "name-taken",
                f"'{name}' is the name of another value",
                where=Where(value=name),
                got=name,
                need="a name of its own",
                remedy="choose another name",
            )
    for step in recipe.steps:
        if slug(step.name) == name:
            raise ContourError(
                "name-taken",
                f"'{name}' is how formulas write the step '{step.name}'",
                where=Where(value=name),
                got=name,
                need="a name that no step has",
                remedy="choose another name",
            )


def validated(model: type[M], name: str, fields: dict[str, Any]) -> M:
    """The model made of these fields; raises ContourError (bad-params) with the name and the first fault in it."""
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
            need="a name and a value that can be read",
            remedy="use a name such as bore_d, and figures with a unit",
        ) from None
