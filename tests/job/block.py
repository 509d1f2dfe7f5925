"""A scanned block with a hole, rebuilt in two halves: its store and recipe, and what tests of whole jobs change in it."""

from __future__ import annotations

import pytest

from contour.exchange.scanfile import read_scan
from contour.job.build.store import Store
from contour.mesh.prepare import prepare_scan
from contour.recipe.evidence.scan import ScanEvidence
from contour.recipe.recipe import Recipe, Step
from tests.conftest import facet_near
from tests.steps.test_sketch_on_scan import section_params


@pytest.fixture(scope="module")
def store(tmp_path_factory):
    return Store(tmp_path_factory.mktemp("store"))


@pytest.fixture(scope="module")
def recipe(store, block_stl) -> Recipe:
    blob = store.put_blob(block_stl.read_bytes())
    scan = prepare_scan(read_scan(block_stl), 1.0)
    top = int(scan.source_facet[facet_near(scan, (30, 5, 10))])
    outline = {**section_params(scan), "scan": {"id": "scan"}, "plane": {"id": "top"}}
    return Recipe(
        name="Test block",
        evidence=(ScanEvidence(id="scan", name="block.stl", blob=blob, format="stl", unit="mm"),),
        steps=(
            Step(id="top", kind="region", name="Top", params={"scan": {"id": "scan"}, "seeds": [top]}),
            Step(id="outline", kind="sketch", name="Outline", params=outline),
            Step(
                id="upper",
                kind="extrude",
                name="Block",
                params={"sketch": {"id": "outline"}, "distance": {"text": "4 mm"}},
            ),
            Step(
                id="lower",
                kind="extrude",
                name="Lower",
                params={
                    "sketch": {"id": "outline"},
                    "distance": {"text": "-6 mm"},
                    "operation": "add",
                    "bodies": [{"id": "upper"}],
                },
            ),
        ),
    )


def changed(recipe: Recipe, step: str, **params) -> Recipe:
    steps = tuple(s.model_copy(update={"params": {**s.params, **params}}) if s.id == step else s for s in recipe.steps)
    return recipe.model_copy(update={"steps": steps})


def switched_off(recipe: Recipe, step: str) -> Recipe:
    steps = tuple(s.model_copy(update={"enabled": s.id != step}) for s in recipe.steps)
    return recipe.model_copy(update={"steps": steps})


def statuses(result) -> dict[str, str]:
    return {s.id: s.status for s in result.steps}
