"""Edits of what formulas know by name: named values and readings."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import Field

from contour.job.build.scope import rename_everywhere
from contour.job.edits.checked import Known, require_free, scope_upto, validated
from contour.recipe.evidence.reading import Feature, Measures, Pin, Reading, Take
from contour.recipe.formula import Dimension, committed
from contour.recipe.problem import ContourError, Where
from contour.recipe.recipe import NamedValue, Recipe
from contour.recipe.strict import Strict
from contour.recipe.values import Value

__all__ = ["OPERATIONS", "DeleteValue", "SetReading", "SetValue", "set_value"]


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


def set_value(recipe: Recipe, edit: SetValue, known: Known) -> tuple[Recipe, str]:
    """The recipe with that value, and what the edit is called; raises ContourError where its name or its formula does not hold."""
    old = next((v for v in recipe.values if v.id == edit.id), None)
    given = edit.model_dump(exclude={"op"}, exclude_none=True)
    fields = {**(old.model_dump() if old else {}), **given}
    name = str(fields.get("name", ""))
    value = validated(NamedValue, name, fields)
    require_free(recipe, edit.id, name)
    if old is not None and old.name != name:
        recipe = rename_everywhere(recipe, old.name, name)
    values = [v for v in recipe.values if v.id != edit.id]
    at = next((i for i, v in enumerate(recipe.values) if v.id == edit.id), len(values))
    longer = recipe.model_copy(update={"values": (*values[:at], value, *values[at:])})
    scope = scope_upto(longer, known, None)
    try:
        scope.lookup(name)
    except ContourError as error:
        if error.problem.code != "step-blocked":
            raise
    text = committed(value.value.text, dimension=value.dimension, unit=recipe.unit, lookup=scope.lookup)
    value = value.model_copy(update={"value": value.value.model_copy(update={"text": text})})
    longer = recipe.model_copy(update={"values": (*values[:at], value, *values[at:])})
    return longer, f"change {name}" if old else f"add {name}"


def _set_reading(recipe: Recipe, edit: SetReading, known: Known) -> tuple[Recipe, str]:
    old = next((r for r in recipe.readings if r.id == edit.id), None)
    given = edit.model_dump(exclude={"op"}, exclude_none=True)
    fields = {**(old.model_dump() if old else {}), **given}
    fields |= {**({"pin": None} if edit.unpin else {}), **({"feature": None} if edit.untie else {})}
    fields |= {"same_as": None} if edit.unlink or fields.get("same_as") == edit.id else {}
    name = str(fields.get("name", ""))
    reading = validated(Reading, name, fields)
    require_free(recipe, edit.id, name)
    if old is not None and old.name != name:
        recipe = rename_everywhere(recipe, old.name, name)
    evidence = tuple(reading if e.id == edit.id else e for e in recipe.evidence)
    if old is None:
        evidence = (*evidence, reading)
    return recipe.model_copy(update={"evidence": evidence}), f"change {name}" if old else f"add reading {name}"


def _delete_value(recipe: Recipe, edit: DeleteValue, known: Known) -> tuple[Recipe, str]:
    for row in recipe.named:
        if row.id == edit.id:
            return recipe.model_copy(
                update={
                    "values": tuple(v for v in recipe.values if v.id != edit.id),
                    "evidence": tuple(e for e in recipe.evidence if e.id != edit.id),
                }
            ), f"delete {row.name}"
    raise ContourError(
        "not-found",
        "the job has no such value",
        got=edit.id[:8],
        need="one of the job's values",
        where=Where(param="id"),
        remedy="look at the values again: they have changed",
    )


OPERATIONS: dict[type, Any] = {SetValue: set_value, SetReading: _set_reading, DeleteValue: _delete_value}
