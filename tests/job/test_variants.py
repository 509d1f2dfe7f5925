"""Variants: what they may set, what taking one gives, and what becomes of them when the job changes under them."""

import pytest

from contour.job.edits.variants import variant_of, with_variant
from contour.job.questions.compare import recipe_changes
from contour.recipe.problem import ContourError
from contour.recipe.recipe import Recipe, dump_recipe, load_recipe
from tests.job.test_scope_edits import edited, recipe, refused

__all__ = ["recipe"]

SKIN = {"of": "v-skin", "value": {"text": "2.4"}}
PLATE = {"of": "plate-00", "place": "distance", "value": {"text": "plate_t + 0.5 mm", "mark": "assumed"}}


def put(recipe: Recipe, name: str, *settings: dict, **more) -> Recipe:
    return edited(recipe, op="put-variant", id=f"w-{name}", name=name, settings=list(settings), **more)


def text_of(recipe: Recipe, step: str, place: str) -> str:
    return recipe.step(step).params[place]["text"]


def test_a_variant_changes_nothing_until_it_is_taken_and_stays_then(recipe):
    before = dump_recipe(recipe)
    job = put(recipe, "worn", SKIN, PLATE, note="as it came in")
    assert job.values == recipe.values and job.steps == recipe.steps
    assert "variants" not in before and load_recipe(dump_recipe(job)) == job
    taken = edited(job, op="take-variant", id="w-worn")
    assert taken.values[0].value.text == "2.4 mm"  # as if it had been typed there
    assert text_of(taken, "plate-00", "distance") == "plate_t + 0.5 mm"
    assert taken.variants == job.variants
    assert {(c.what, c.after) for c in recipe_changes(job, taken)} == {
        ("skin", "2.4 mm"),
        ("Base plate", "plate_t + 0.5 mm"),
    }


def test_a_size_that_the_step_leaves_open_can_be_set_and_nothing_else_of_it(recipe):
    job = put(recipe, "open", {"of": "boss-000", "place": "back", "value": {"text": "3 mm"}})
    assert text_of(with_variant(job, job.variants[0]), "boss-000", "back") == "3 mm"
    for place in ("operation", "nothing", "bodies[0]", "distance.text"):
        assert refused(job, op="put-variant", id="n", name="n", settings=[{**PLATE, "place": place}]) == "not-found"


def test_what_a_variant_sets_must_be_readable_and_is_refused_with_its_place(recipe):
    for text, code in (("2 deg", "mixed-dimensions"), ("nothing_like_it", "unknown-name"), ("3 +", "bad-formula")):
        assert (
            refused(recipe, op="put-variant", id="n", name="n", settings=[{**PLATE, "value": {"text": text}}]) == code
        )
    with pytest.raises(ContourError) as raised:
        put(recipe, "wrong", {**PLATE, "value": {"text": "2 deg"}})
    where = raised.value.problem.where
    assert (where.step, where.param, where.entity) == ("plate-00", "distance", "variant wrong")
    assert refused(recipe, op="put-variant", id="n", name="n", settings=[SKIN, SKIN]) == "bad-params"
    assert refused(recipe, op="put-variant", id="n", name="") == "bad-params"
    two = put(put(recipe, "worn"), "new")
    assert refused(two, op="put-variant", id="w-new", name="worn") == "name-taken"


def test_it_is_changed_in_its_place_and_dropped(recipe):
    job = put(put(recipe, "worn", SKIN), "new", PLATE)
    job = edited(job, op="put-variant", id="w-worn", name="as it came")
    assert [v.name for v in job.variants] == ["as it came", "new"]
    assert variant_of(job, "as it came").settings[0].of == "v-skin" and variant_of(job, "w-new").name == "new"
    assert edited(job, op="drop-variant", id="w-worn").variants == (job.variants[1],)
    for op in ("drop-variant", "take-variant"):
        assert refused(job, op=op, id="w-none") == "not-found"


def test_renaming_a_value_is_followed_and_a_lost_one_is_told_of_without_stopping_the_others(recipe):
    job = put(put(recipe, "worn", {**PLATE, "value": {"text": "skin * 5"}}, SKIN), "new", PLATE)
    job = edited(job, op="set-value", id="v-skin", name="wall")
    assert job.variants[0].settings[0].value.text == "wall * 5"
    lost = edited(edited(job, op="set-value", id="v-gap", value={"text": "9 mm"}), op="delete-value", id="v-skin")
    with pytest.raises(ContourError) as raised:
        with_variant(lost, lost.variants[0])
    assert raised.value.problem.where.entity == "variant worn"
    assert text_of(with_variant(lost, lost.variants[1]), "plate-00", "distance") == "plate_t + 0.5 mm"
    # What it still has can be kept when another setting is added beside the lost one.
    again = edited(
        lost,
        op="put-variant",
        id="w-worn",
        settings=[s.model_dump() for s in lost.variants[0].settings] + [{"of": "v-gap", "value": {"text": "8 mm"}}],
    )
    assert len(again.variants[0].settings) == 3
