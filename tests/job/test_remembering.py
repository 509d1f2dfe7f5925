"""A store as one process sees it for a while, and previews, which go on from what the one before has read."""

from __future__ import annotations

import shutil

import pytest

from contour.job.build.build import build
from contour.job.build.remembering import Remembering
from contour.job.build.store import Store
from contour.job.questions import preview as previews
from contour.job.questions.preview import preview
from contour.job.work.warm import small_job
from contour.recipe.problem import ContourError

KEY = "a" * 40


class Counted(Store):
    """Counts how often a product is opened."""

    opened = 0

    def _opened(self, key):
        self.opened += 1
        return super()._opened(key)


@pytest.fixture
def under(tmp_path) -> Counted:
    return Counted(tmp_path)


def put(store: Store) -> None:
    store.put(KEY, {"facts": {"x": 1}}, lambda folder: (folder / "data.bin").write_bytes(b"x"))


def test_what_is_told_of_a_product_is_read_once(under):
    store = Remembering(under)
    put(store)
    before = under.opened
    assert [store.outcome(KEY)["facts"]["x"] for _ in range(5)] == [1] * 5 and store.has(KEY)
    assert under.opened == before + 1


def test_whoever_changes_what_was_told_changes_nothing(under):
    store = Remembering(under)
    put(store)
    store.outcome(KEY)["facts2"] = 1
    assert store.outcome(KEY) == {"facts": {"x": 1}}


def test_what_was_not_there_is_asked_for_again(under):
    store = Remembering(under)
    assert not store.has(KEY)
    put(under)
    assert store.has(KEY)


def test_what_has_gone_meanwhile_is_not_there(under):
    store = Remembering(under)
    put(store)
    assert store.has(KEY)
    under.trim([], 0)
    assert not store.has(KEY)
    with pytest.raises(ContourError, match="not there any more"):
        store.outcome(KEY)


def taller(recipe, height):
    last = recipe.steps[-1]
    params = {**last.params, "distance": {"text": f"{height} mm"}}
    return recipe.model_copy(update={"steps": (*recipe.steps[:-1], last.model_copy(update={"params": params}))})


def test_previews_one_after_the_other_run_only_what_changed_and_keep_nothing(tmp_path):
    store, job = Store(tmp_path), small_job()
    assert not [s for s in build(job, store, with_fit=False).steps if s.status != "ok"]
    kept = sorted(p.name for p in store.products.iterdir())
    first, again, other = (preview(taller(job, h), store) for h in (7.25, 7.25, 8.5))
    last = job.steps[-1].id
    assert first["ran"] == again["ran"] == other["ran"] == [last]
    assert first["bodies"] == again["bodies"] and first["bodies"][0]["view"] != other["bodies"][0]["view"]
    assert sorted(p.name for p in store.products.iterdir()) == kept


def test_a_preview_after_the_store_was_emptied_builds_again_what_it_needs(tmp_path):
    store, job = Store(tmp_path), small_job()
    build(job, store, with_fit=False)
    assert len(preview(taller(job, 7.25), store)["ran"]) == 1
    for place in store.products.iterdir():
        shutil.rmtree(place)
    made = preview(taller(job, 7.25), store)
    assert made["problems"] == [] and len(made["ran"]) == len(job.steps)


def test_what_previews_remember_is_by_store(tmp_path):
    for name in ("one", "other"):
        store = Store(tmp_path / name)
        build(small_job(), store, with_fit=False)
        preview(small_job(), store)
        assert str(store.root.resolve()) in previews._told
