"""The pump housing as the demo has it: rebuilt from its scan, what it holds by closed form, and a leak that is shown where it is."""

from __future__ import annotations

import math

import numpy as np
import pytest

from contour.job.build.build import build
from contour.job.build.store import Store
from contour.products import load_product
from contour.recipe.recipe import Recipe, Step
from contour.solid.gate import check_solid
from contour.solid.mass import volume
from contour.solid.shape import read_shape
from demo.files import HOUSING, made_file
from demo.pump_housing import PIPE, SIZES, housing_job, pump_housing


@pytest.fixture(scope="module")
def housing(tmp_path_factory) -> tuple[Recipe, Store]:
    folder = tmp_path_factory.mktemp("housing")
    file = made_file(HOUSING, folder)
    store = Store(folder / "store")
    return housing_job(store.put_blob(file.read_bytes()), file), store


def held() -> float:
    """Room, and bore from the room's wall to the pipe's end, mm³: over each strip of the bore the room's wall lies at its own depth."""
    r, y = PIPE["bore"], np.linspace(-PIPE["bore"], PIPE["bore"], 200001)
    strips = 2 * np.sqrt(np.maximum(r * r - y * y, 0)) * (PIPE["ends"] - np.sqrt(SIZES["room"] ** 2 - y * y))
    return math.pi * SIZES["room"] ** 2 * SIZES["room_h"] + float(np.trapezoid(strips, y))


def test_every_step_is_done_and_the_scan_lies_on_it(housing):
    result = build(*housing)
    assert [s.status for s in result.steps] == ["ok"] * len(housing[0].steps), [s.problems for s in result.steps]
    assert result.fit is not None and result.fit.figures["inside_share"] > 0.9
    # Each step that makes material brings it nearer to the scan.
    shares = [f.inside_share for f in result.fit.by_step.values()]
    assert shares == sorted(shares) and len(shares) == 7


def test_it_holds_what_room_and_bore_come_to(housing):
    recipe, store = housing
    result = build(recipe, store, with_fit=False)
    whole, inner = (read_shape(load_product(store.folder(b.key)).brep) for b in result.bodies)
    found = check_solid(inner)
    assert found.closed and found.valid and found.solids == 1
    # The truth by closed form; what a scan with 0.02 mm of noise makes of 25 mm of radius lies within 0.2 %.
    assert found.volume == pytest.approx(held(), rel=2e-3)
    assert volume(whole) == pytest.approx(volume(pump_housing().shape), rel=5e-3)


def test_without_its_pipe_capped_it_leaks_there(housing):
    recipe, store = housing
    last = recipe.steps[-1]
    open_ = {**last.params, "openings": last.params["openings"][:1]}
    state = build(_with(recipe, open_), store, with_fit=False).steps[-1]
    (problem,) = state.problems
    assert state.status == "failed" and "not closed" in problem.message
    x, y, z = problem.where.point
    # It leaves by the pipe, which is as wide all along.
    assert 20 < x < 48 and math.hypot(y, z + PIPE["low"]) < 2


def _with(recipe: Recipe, params: dict) -> Recipe:
    last = recipe.steps[-1]
    return recipe.model_copy(
        update={"steps": (*recipe.steps[:-1], Step.model_validate({**last.model_dump(), "params": params}))}
    )
