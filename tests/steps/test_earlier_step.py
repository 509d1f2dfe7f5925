"""The scan as it was before a step: its facets and their numbers again, laid where the scan lies now."""

from __future__ import annotations

import numpy as np
import pytest

from contour.geometry.rigid import moved
from contour.job.build.build import build
from contour.job.build.store import Store
from contour.job.edits.apply import apply_edit
from contour.job.edits.steps import AddStep
from contour.products import load_product
from contour.recipe.evidence.scan import ScanEvidence
from contour.recipe.recipe import Recipe, Step
from tests.conftest import binary_stl

FAR = {"by": "move", "shift_x": {"text": "5 mm"}, "turn_z": {"text": "20 deg"}}


def step(kind: str, name: str, **params) -> Step:
    return Step(id=name, kind=kind, name=name, params=params)


def evidence(store: Store, corners: np.ndarray, id: str) -> ScanEvidence:
    return ScanEvidence(id=id, name=f"{id}.stl", blob=store.put_blob(binary_stl(corners)), format="stl", unit="mm")


@pytest.fixture
def bench(tmp_path, block_scan) -> tuple[Recipe, Store, str]:
    store = Store(tmp_path)
    scan = evidence(store, block_scan.vertices[block_scan.facets], "scan")
    return Recipe(name="Test", evidence=(scan,)), store, "scan"


def walked(recipe: Recipe, store: Store, *steps: Step):
    made = build(recipe.model_copy(update={"steps": steps}), store, with_fit=False)
    assert [s.status for s in made.steps] == ["ok"] * len(steps), made.steps
    return [load_product(store.folder(next(iter(s.scans.values())))).scan for s in made.steps]


def test_what_a_step_took_away_is_there_again_with_its_numbers(bench):
    recipe, store, scan = bench
    of = {"scan": {"id": scan}}
    cut = step("decimate", "thin", **of, to="count", count={"text": "500"})
    thin, again = walked(recipe, store, cut, step("earlier", "back", **of, before={"id": "thin"}))
    assert len(thin.facets) < 600 < len(again.facets)
    assert np.array_equal(again.source_facet, np.arange(again.raw_facets))


def test_it_lies_where_the_scan_has_been_put_since(bench):
    recipe, store, scan = bench
    of = {"scan": {"id": scan}}
    cut = step("decimate", "thin", **of, to="count", count={"text": "500"})
    steps = (cut, step("align", "put", **of, **FAR), step("earlier", "back", **of, before={"id": "thin"}))
    _, put, back = walked(recipe, store, *steps)
    assert np.allclose(back.pose, put.pose)
    raw = walked(recipe, store, cut, step("earlier", "back", **of, before={"id": "thin"}))[1]
    assert np.allclose(back.vertices, moved(put.pose, raw.vertices), atol=1e-9)


def test_a_step_of_another_scan_is_refused_with_its_place(bench, block_scan):
    recipe, store, scan = bench
    other = evidence(store, block_scan.vertices[block_scan.facets] + 1, "other")
    both = recipe.model_copy(update={"evidence": (*recipe.evidence, other)})
    cut = step("decimate", "thin", scan={"id": "other"}, to="count", count={"text": "500"})
    back = step("earlier", "back", scan={"id": scan}, before={"id": "thin"})
    (_, state) = build(both.model_copy(update={"steps": (cut, back)}), store, with_fit=False).steps
    assert state.status == "failed" and state.problems[0].where.param == "before"
    assert state.problems[0].remedy


def test_it_is_added_below_what_is_made_from_the_scan(bench):
    """Other steps that change a scan go above what is made from it: this one would undo what that was drawn on."""
    recipe, store, scan = bench
    of = {"scan": {"id": scan}}
    cut = step("decimate", "thin", **of, to="count", count={"text": "500"})
    top = step("region", "top", **of, seeds=[0])
    recipe = recipe.model_copy(update={"steps": (cut, top)})
    edit = AddStep(op="add-step", kind="earlier", params={**of, "before": {"id": "thin"}})
    longer, _ = apply_edit(recipe, edit)
    assert [s.kind for s in longer.steps] == ["decimate", "region", "earlier"]
