"""The gland nut's blank as the demo has it: built from readings and photo, its volume by closed form, and a reading that changes it."""

from __future__ import annotations

import math

import numpy as np
import pytest

from contour.job.build.build import build
from contour.job.build.store import Store
from contour.metrology.reading import all_readings
from contour.products import load_product
from contour.solid.gate import check_solid
from contour.solid.shape import read_shape
from demo.gland_nut import gland_nut_job, gland_nut_photo


@pytest.fixture(scope="module")
def nut(tmp_path_factory):
    data, shot = gland_nut_photo()
    store = Store(tmp_path_factory.mktemp("nut"))
    return gland_nut_job(store.put_blob(data), shot), store


def volume_by_readings(recipe) -> float:
    """Hexagon and shank over the bore, mm³."""
    known = all_readings(recipe)
    mm = {r.name: known[r.id].mean for r in recipe.readings}
    bore = math.pi / 4 * mm["bore_d"] ** 2
    head = (math.sqrt(3) / 2 * mm["hex_af"] ** 2 - bore) * 15
    return head + (math.pi / 4 * mm["major_d"] ** 2 - bore) * (9 + mm["thread_len"])


def thread_by_readings(recipe) -> tuple[float, float]:
    """(least, most) that the thread takes away, mm³: all of it, or all but a pitch at each end, where it fades."""
    known = all_readings(recipe)
    mm = {r.name: known[r.id] for r in recipe.readings}
    r, p, length = mm["major_d"].mean / 2, mm["thread_span"].mean / 6, mm["thread_len"].mean
    root = r - 5 / 8 * math.sqrt(3) / 2 * p
    run = np.cumsum([0, p / 8, 5 / 16 * p, p / 4, 5 / 16 * p]) / p
    at = np.interp(np.linspace(0, 1, 20001), run, [r, r, root, root, r])
    each = math.pi * (r**2 - float(np.trapezoid(at**2, np.linspace(0, 1, 20001))))
    return each * (length - 2 * p), math.pi * (r**2 - root**2) * p + each * length


def built(recipe, store) -> tuple[float, list]:
    """(volume of the blank, all steps); the thread is checked by what it takes."""
    result = build(recipe, store, with_fit=False)
    assert [s.status for s in result.steps] == ["ok"] * 5, [s.problems for s in result.steps]
    (body,) = result.bodies
    found = check_solid(read_shape(load_product(store.folder(body.key)).brep))
    assert found.closed and found.valid and found.solids == 1
    blank = result.steps[3].facts.volume
    least, most = thread_by_readings(recipe)
    assert least < blank - found.volume < most
    return blank, list(result.steps)


def test_it_is_one_closed_solid_of_the_volume_that_its_readings_say(nut):
    recipe, store = nut
    volume, steps = built(recipe, store)
    assert volume == pytest.approx(volume_by_readings(recipe), rel=1e-6)
    assert steps[0].facts.solved and steps[2].facts.solved
    # Every size names a reading or a value, and is marked by where that comes from.
    for step in (recipe.steps[0], recipe.steps[2]):
        assert {v["mark"] for v in step.params["lengths"].values()} == {"caliper"}


def test_a_take_that_is_struck_out_changes_it_and_nothing_is_lost(nut):
    recipe, store = nut
    worn = []
    for r in recipe.evidence:
        if getattr(r, "name", "") == "bore_d":
            takes = tuple(t.model_copy(update={"value": t.value + 0.4}) for t in r.takes)
            r = r.model_copy(update={"takes": takes})
        worn.append(r)
    changed = recipe.model_copy(update={"evidence": tuple(worn)})
    volume, _ = built(changed, store)
    assert volume == pytest.approx(volume_by_readings(changed), rel=1e-6)
    assert volume < volume_by_readings(recipe) - 400


def test_the_photo_lies_under_the_half_section_where_the_nut_is_seen(nut):
    recipe, _ = nut
    (under,) = recipe.steps[0].params["pictures"]
    assert under["picture"] == next(p.id for p in recipe.pictures)
    assert tuple(under["at"]) == (0.0, 0.0)
