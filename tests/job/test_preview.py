"""What an edit would give: bodies for the view, and how they would fit the scan, without keeping anything."""

from __future__ import annotations

import pytest

from contour.job.build.build import build
from contour.job.questions.preview import preview, without_slow
from contour.recipe.recipe import Step
from contour.solid import boolean
from tests.job.block import changed


def test_a_preview_keeps_nothing(store, recipe):
    build(recipe, store, with_fit=False)
    before = sorted(p.name for p in store.products.iterdir())
    found = preview(changed(recipe, "lower", distance={"text": "-4.25 mm"}), store)
    assert sorted(p.name for p in store.products.iterdir()) == before
    assert found["ran"] == ["lower"]
    assert found["bodies"][0]["view"]
    broken = preview(changed(recipe, "lower", distance={"text": "0 mm"}), store)
    assert broken["problems"][0]["code"] == "body-broken"
    assert preview(recipe, store)["bodies"][0]["view"] is None


def test_a_preview_does_without_slow_steps_below_that_nothing_speaks_of(store, recipe):
    cut = {"body": {"id": "upper"}, "plane": {"id": "top"}, "offset": {"text": "-2 mm"}, "keep": "back"}
    longer = recipe.model_copy(
        update={"steps": (*recipe.steps, Step(id="shorter1", kind="cut", name="Cut", params=cut))}
    )
    result = build(longer, store, with_fit=False)
    assert [s.status for s in result.steps][-1] == "ok" and result.steps[-1].took > 0

    def took(seconds):
        slow = (s.model_copy(update={"took": seconds if s.id != "upper" else 0.0}) for s in result.steps)
        return result.model_copy(update={"steps": tuple(slow)})

    lighter, passed = without_slow(longer, "outline", took(5.0))
    assert "shorter1" in passed and "upper" not in passed
    assert [s.enabled for s in lighter.steps if s.id in passed] == [False] * len(passed)
    assert without_slow(longer, "outline", took(0.01)) == (longer, [])
    assert without_slow(longer, "shorter1", took(5.0))[1] == []  # it is the one that is looked at
    assert without_slow(longer, None, took(5.0)) == (longer, [])
    spoken = Step(
        id="later", kind="fillet", name="Later", params={"edges": [{"body": "upper", "edge": "shorter1.cut"}]}
    )
    more = longer.model_copy(update={"steps": (*longer.steps, spoken)})
    assert "shorter1" not in without_slow(more, "outline", took(5.0))[1]


def test_the_fit_of_a_preview_is_that_of_the_sample_once_it_is_built(store, recipe):
    """The same edit, looked at and then made: the figures by the sample are the same but for how finely faces are meshed."""
    build(recipe, store)
    edit = changed(recipe, "lower", distance={"text": "-5.8 mm"})
    before = sorted(p.name for p in store.products.iterdir())
    looked = preview(edit, store, with_fit=True)["fit"]
    assert sorted(p.name for p in store.products.iterdir()) == before
    made = build(edit, store).fit.by_step["lower"].inside_share
    assert looked["sampled"] and looked["inside_share"] == pytest.approx(made, abs=2e-3)
    assert preview(recipe, store)["fit"] is None
    same = preview(recipe, store, with_fit=True)["fit"]["inside_share"]
    assert same == build(recipe, store).fit.by_step["lower"].inside_share > looked["inside_share"] + 0.1


def test_places_are_not_asked_for_a_picture_and_are_for_what_is_kept(store, recipe, monkeypatch):
    asked = []
    monkeypatch.setattr(boolean, "misplaced", lambda *of: asked.append(of))
    longer = changed(recipe, "lower", distance={"text": "-4.75 mm"})
    assert preview(longer, store)["bodies"][0]["view"] and not asked
    preview(changed(recipe, "lower", distance={"text": "-4.7 mm"}), store, with_fit=True)
    build(longer, store, with_fit=False)
    assert len(asked) == 2


def test_there_is_no_fit_without_a_scan_of_the_part_or_a_body(store, recipe):
    bare = recipe.model_copy(update={"steps": recipe.steps[:2]})
    assert preview(bare, store, with_fit=True)["fit"] is None
    lonely = recipe.model_copy(update={"evidence": (), "steps": ()})
    assert preview(lonely, store, with_fit=True)["fit"] is None


def test_a_preview_names_the_faces_it_shows(store, recipe):
    result = build(recipe, store, with_fit=False)
    (body,) = preview(changed(recipe, "lower", distance={"text": "-5.7 mm"}), store)["bodies"]
    assert sorted(body["names"]) == sorted(f["name"] for f in result.bodies[0].faces)
    (kept,) = preview(recipe, store)["bodies"]
    assert kept["names"] == [] and kept["view"] is None
