"""What a body is made of: kept by an edit, its usual density with it, and its mass in the build."""

from __future__ import annotations

import pytest

from contour.job.build.build import build
from contour.job.build.store import Store
from contour.job.edits.apply import apply_edit
from contour.job.edits.job import SetBody
from contour.metrology.standards.materials import MATERIALS
from contour.recipe.problem import ContourError
from contour.recipe.recipe import Recipe, Step, dump_recipe, load_recipe

BLOCK = Recipe(
    name="Block",
    steps=(
        Step(
            id="block",
            kind="primitive",
            name="Block",
            params={
                "form": "block",
                "width": {"text": "20 mm"},
                "depth": {"text": "10 mm"},
                "height": {"text": "5 mm"},
            },
        ),
    ),
)


def made_of(recipe: Recipe = BLOCK, **more) -> Recipe:
    return apply_edit(recipe, SetBody(op="set-body", id="block", **more))[0]


def mass(recipe: Recipe, folder) -> float | None:
    return build(recipe, Store(folder), with_fit=False).bodies[0].mass


def test_a_known_material_brings_its_density_and_the_body_its_mass(tmp_path):
    assert mass(BLOCK, tmp_path) is None
    steel = made_of(material="steel")
    assert steel.bodies[0].density == 7.85 and mass(steel, tmp_path) == pytest.approx(7.85)
    assert load_recipe(dump_recipe(steel)) == steel


def test_a_density_of_ones_own_stands_and_another_material_takes_its_place(tmp_path):
    own = made_of(material="bronze", density=8.6)
    assert mass(own, tmp_path) == pytest.approx(8.6)
    assert mass(made_of(own, material="PLA"), tmp_path) == pytest.approx(1.24)
    # One that nobody knows has no density until it is said.
    unknown = made_of(own, material="driftwood")
    assert unknown.bodies[0].material == "driftwood" and mass(unknown, tmp_path) is None
    assert mass(made_of(unknown, density=0.5), tmp_path) == pytest.approx(0.5)


@pytest.mark.parametrize("density", [-1.0, 0.0, 31.0])
def test_a_density_that_cannot_be_is_refused(density):
    with pytest.raises(ContourError) as refused:
        made_of(density=density)
    assert "density" in str(refused.value.problem.where.param) and refused.value.problem.remedy


def test_the_table_is_plain():
    names = [m.name for m in MATERIALS]
    assert len(set(names)) == len(names) and all(0.1 < m.density < 25 for m in MATERIALS)
