"""Copies of bodies: put aside, untouched by what follows, and come back to."""

from __future__ import annotations

import pytest

from contour.job.build.result import deliverable
from contour.recipe.problem import ContourError
from contour.recipe.recipe import Recipe
from contour.recipe.registry import OWN
from contour.steps import KINDS
from tests.conftest import circle, prism, rectangle
from tests.job.test_solid_job import built, edited, plate, store, with_solid
from tests.steps.helpers import body, run, shape_of, volume_of

__all__ = ["store"]

BLOCK = prism([*rectangle(40, 30), circle(15, 15, 6)], 10, prefix="old")
PEG = prism([circle(0, 0, 4)], 20, prefix="peg")


def test_a_copy_is_the_body_to_the_byte_with_its_names():
    made = run("copy", {"body": {"id": "b"}}, {"body": body(BLOCK)})
    assert list(made.puts) == [OWN] and made.gone == ()
    assert made.product.brep == body(BLOCK).brep
    assert made.product.names == BLOCK.names
    assert made.product.role == "reference"


def test_a_body_is_again_what_its_copy_is():
    made = run(
        "restore", {"body": {"id": "b"}, "copy_of_it": {"id": "c"}}, {"body": body(PEG), "copy_of_it": body(BLOCK)}
    )
    assert list(made.puts) == ["b"]
    assert volume_of(made, "b") == pytest.approx(40 * 30 * 10 - 36 * 3.141592653589793 * 10)
    assert shape_of(made, "b").names == BLOCK.names


def test_a_body_is_no_copy_of_itself():
    with pytest.raises(ContourError) as caught:
        run("restore", {"body": {"id": "b"}, "copy_of_it": {"id": "b"}}, {"body": body(PEG), "copy_of_it": body(PEG)})
    assert caught.value.problem.where.param == "copy_of_it"


@pytest.mark.parametrize("kind", ["copy", "restore"])
def test_both_take_bodies_and_make_bodies(kind):
    assert KINDS[kind].makes == "body"


def add(recipe: Recipe, id: str, kind: str, **params) -> Recipe:
    return edited(recipe, op="add-step", id=id, kind=kind, params=params)


def halved(recipe: Recipe) -> Recipe:
    """A slice cut off the plate: what a person tries, and may want to take back."""
    face = {"body": "bring000", "name": "bring000.imported[0]"}
    return add(recipe, "cut00000", "cut", body={"id": "bring000"}, face=face, offset={"text": "-2 mm"})


def test_in_a_job_the_copy_outlives_what_is_done_to_the_body_and_brings_it_back(store, tmp_path):
    recipe = with_solid(store, tmp_path, ("Side plate", plate(), None))
    whole = built(recipe, store).bodies[0].volume
    recipe = add(recipe, "copy0000", "copy", body={"id": "bring000"})
    recipe = halved(recipe)
    cut = built(recipe, store)
    volumes = {b.id: b.volume for b in cut.bodies}
    assert volumes["copy0000"] == pytest.approx(whole) and volumes["bring000"] < 0.99 * whole
    assert {b.id: b.role for b in cut.bodies} == {"bring000": "material", "copy0000": "reference"}
    assert [b["name"] for b in deliverable(cut.model_dump())] == ["Side plate"]
    recipe = add(recipe, "back0000", "restore", body={"id": "bring000"}, copy_of_it={"id": "copy0000"})
    back = built(recipe, store)
    assert {b.id: b.volume for b in back.bodies}["bring000"] == pytest.approx(whole)
    assert {b.id for b in back.bodies} == {"bring000", "copy0000"}
