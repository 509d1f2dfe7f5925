"""Edits of variants: sets of values that the job can take, each as good as what stands in it now."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import Field

from contour.job.build.inputs import checked_params
from contour.job.edits.checked import Known, checked_step, replaced, validated
from contour.job.edits.values import SetValue, set_value
from contour.recipe.params import put_at, walk
from contour.recipe.problem import ContourError, Where
from contour.recipe.recipe import Recipe, Setting, Step, Variant
from contour.recipe.strict import Strict
from contour.recipe.values import Value

__all__ = ["OPERATIONS", "DropVariant", "PutVariant", "TakeVariant", "variant_of", "with_variant"]


class PutVariant(Strict):
    """Makes a variant, or changes the one with that id: what is not said stays."""

    op: Literal["put-variant"]
    id: str
    name: str | None = None
    note: str | None = Field(default=None, max_length=500)
    settings: tuple[Setting, ...] | None = None


class DropVariant(Strict):
    op: Literal["drop-variant"]
    id: str


class TakeVariant(Strict):
    """The job goes on with the variant's values; the variant stays."""

    op: Literal["take-variant"]
    id: str


def variant_of(recipe: Recipe, of: str) -> Variant:
    """The variant with that id or name; raises ContourError (not-found)."""
    for variant in recipe.variants:
        if of in (variant.id, variant.name):
            return variant
    names = ", ".join(v.name for v in recipe.variants)
    raise ContourError(
        "not-found",
        "the job has no such variant",
        got=of[:60],
        need=f"one of: {names}" if names else "a job with variants",
        where=Where(param="variant"),
        remedy="look at the variants again: they have changed",
    )


def with_variant(recipe: Recipe, variant: Variant, known: Known | None = None) -> Recipe:
    """The recipe with the variant's values in the place of its own.

    Raises ContourError: not-found for a setting whose value is gone, else what is wrong with a value, each with the variant's name
    and the place that it was said for.
    """
    for setting in variant.settings:
        try:
            recipe = _set(recipe, setting, known or {})
        except ContourError as error:
            raise error.at(entity=f"variant {variant.name}") from None
    return recipe


def _set(recipe: Recipe, setting: Setting, known: Known) -> Recipe:
    if not setting.place:
        if all(v.id != setting.of for v in recipe.values):
            raise _gone("the named value that it sets is gone")
        return set_value(recipe, SetValue(op="set-value", id=setting.of, value=setting.value), known)[0]
    step = next((s for s in recipe.steps if s.id == setting.of), None)
    if step is None:
        raise _gone("the step whose value it sets is gone")
    return replaced(recipe, checked_step(_step_with(step, setting), recipe, known))


def _step_with(step: Step, setting: Setting) -> Step:
    params = checked_params(step)[1]
    plain = params.model_dump(mode="json", by_alias=True)
    # A value, or where one may stand and none does: a first size of its own is as good as another.
    free = setting.place in plain and plain[setting.place] is None
    if not free and all(leaf.place != setting.place or not isinstance(leaf.value, Value) for leaf in walk(params)):
        raise _gone(f"'{step.name}' has no such value any more").at(param=setting.place)
    put_at(plain, setting.place, setting.value.model_dump(mode="json"))
    return step.model_copy(update={"params": plain})


def _gone(what: str) -> ContourError:
    return ContourError("not-found", what, need="a value of the job", remedy="take the setting out of the variant")


def _put_variant(recipe: Recipe, edit: PutVariant, known: Known) -> tuple[Recipe, str]:
    old = next((v for v in recipe.variants if v.id == edit.id), None)
    given = edit.model_dump(exclude={"op"}, exclude_none=True)
    fields = {**(old.model_dump() if old else {}), **given}
    variant = validated(Variant, str(fields.get("name", "")), fields)
    if any(v.name == variant.name and v.id != variant.id for v in recipe.variants):
        raise ContourError(
            "name-taken",
            f"there is a variant '{variant.name}' already",
            where=Where(param="name", value=variant.name),
            got=variant.name,
            need="a name of its own",
            remedy="choose another name",
        )
    places = [(s.of, s.place) for s in variant.settings]
    if len(set(places)) != len(places):
        raise ContourError(
            "bad-params",
            f"'{variant.name}' sets one value twice",
            where=Where(param="settings"),
            need="each value once",
            remedy="take one of the two out",
        )
    if edit.settings is not None:
        kept = {(s.of, s.place): s for s in (old.settings if old else ())}
        said = [s for s in variant.settings if kept.get((s.of, s.place)) != s]
        # Only what is new must hold: a setting that has lost its value is shown as such, and stops no other.
        with_variant(recipe, variant.model_copy(update={"settings": tuple(said)}), known)
    at = next((i for i, v in enumerate(recipe.variants) if v.id == variant.id), len(recipe.variants))
    variants = (*recipe.variants[:at], variant, *recipe.variants[at + 1 :])
    return recipe.model_copy(update={"variants": variants}), f"{'change' if old else 'add'} variant {variant.name}"


def _drop_variant(recipe: Recipe, edit: DropVariant, known: Known) -> tuple[Recipe, str]:
    gone = variant_of(recipe, edit.id)
    left = tuple(v for v in recipe.variants if v.id != gone.id)
    return recipe.model_copy(update={"variants": left}), f"drop variant {gone.name}"


def _take_variant(recipe: Recipe, edit: TakeVariant, known: Known) -> tuple[Recipe, str]:
    variant = variant_of(recipe, edit.id)
    return with_variant(recipe, variant, known), f"take variant {variant.name}"


OPERATIONS: dict[type, Any] = {PutVariant: _put_variant, DropVariant: _drop_variant, TakeVariant: _take_variant}
