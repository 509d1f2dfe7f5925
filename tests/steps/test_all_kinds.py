"""What holds for every kind of step there is, and for those that are still to come: lost references, steps that are switched off, round
trips, keys. Parameters are made from the kind's own fields."""

from __future__ import annotations

import json
from collections.abc import Callable
from typing import Any

import pytest

from contour.job.build.build import build
from contour.job.build.inputs import checked_params
from contour.job.build.keys import step_key
from contour.job.build.scope import rename_everywhere
from contour.job.build.store import Store
from contour.job.edits.relations import needs, order_problem
from contour.recipe.fields import FieldSpec, fields_of
from contour.recipe.params import refs_in, values_in
from contour.recipe.recipe import Recipe, Step, dump_recipe, load_recipe
from contour.recipe.reference import PARTS
from contour.steps import KINDS
from tests.steps.test_sketch_on_scan import section_params

FIGURES = {"length": "2 mm", "angle": "3 deg", "number": "2"}
PAIR = {"face": {"body": "{id}", "name": "{id}.end[p1]"}, "region": {"id": "{id}"}}
LINE = {"kind": "line", "start": [0, 0], "end": [1, 0], "mid": None, "points": []}
# What cannot be told from the fields alone: facets, outlines, rows that have to be there.
MORE: dict[str, dict[str, Any]] = {
    "region": {"seeds": [0]},
    "intent": {"relations": [{"kind": "parallel", "members": [0, 0]}]},
    "merge": {"others": [{"scan": {"id": "{id}"}}]},
    "seat": {"pairs": [PAIR]},
    "traced": {"points": [[0, 0], [4, 0], [0, 3]]},
    "align": {"by": "move"},
    "point": {"by": "centre"},
}


def value_of(f: FieldSpec, id: str) -> Any:
    """Something for a field: references to that id, a figure of the right dimension, the default of all else."""
    if f.type in ("ref", "refs", "face"):
        whole: Any = {"id": id}
        if not f.ids:
            model = PARTS[f.parts[0]]
            whole = {model.whole: id, model.said: f"{id}.end[p1]"}
        return [whole] if f.type == "refs" else whole
    if f.type == "spot":
        return {"facet": 0}
    if f.type == "value" and f.dimension:
        return {"text": FIGURES[f.dimension], "mark": "assumed"}
    return f.options[0] if f.type == "choice" and f.needed else f.fallback


Make = Callable[..., Step]


@pytest.fixture(scope="module")
def step_of(block_scan) -> Make:
    """A step of a kind whose references all point to `id`."""
    taken = {k: v for k, v in section_params(block_scan).items() if k not in ("scan", "plane", "offset")}

    def make(kind: str, id: str = "gone") -> Step:
        more = json.loads(json.dumps({**MORE, "sketch": taken}.get(kind, {})).replace("{id}", id))
        params = {f.name: value_of(f, id) for f in fields_of(KINDS[kind].params)} | more
        return Step(id="it", kind=kind, name="It", params={k: v for k, v in params.items() if v is not None})

    return make


def job(*steps: Step) -> Recipe:
    return Recipe(name="Kinds", steps=steps)


def in_use(step: Step) -> set[str]:
    kind, params = checked_params(step)
    used = kind.reads(params)
    return set(refs_in(params)) if used is None else set(refs_in(params)) & used


@pytest.mark.parametrize("kind", sorted(KINDS))
def test_every_lost_reference_is_told_where_it_is(kind, step_of, tmp_path):
    step = step_of(kind)
    (state,) = build(job(step), Store(tmp_path), with_fit=False).steps
    assert in_use(step), "a kind that refers to nothing needs no test like this"
    assert state.status == "failed"
    assert {(p.code, p.where.param, p.where.step) for p in state.problems} == {
        ("ref-lost", p, "it") for p in in_use(step)
    }
    assert all(p.remedy for p in state.problems)


@pytest.mark.parametrize("kind", sorted(KINDS))
def test_what_it_refers_to_switched_off_blocks_it_and_stands_above_it(kind, step_of, tmp_path):
    off = Step(id="above", kind="point", name="Above", enabled=False, params={"by": "typed", "x": {"text": "1 mm"}})
    step = step_of(kind, "above")
    recipe = job(off, step)
    states = build(recipe, Store(tmp_path), with_fit=False).steps
    assert [s.status for s in states] == ["off", "blocked"]
    assert {p.where.param for p in states[1].problems} == in_use(step)
    assert needs(recipe)["it"] == {"above"} and order_problem(recipe) is None
    assert order_problem(job(step, off)) == (step, off)


@pytest.mark.parametrize("kind", sorted(KINDS))
def test_it_comes_back_from_json_the_same(kind, step_of):
    step = step_of(kind)
    model = KINDS[kind].params
    params = model.model_validate(step.params)
    plain = json.loads(params.model_dump_json())
    assert model.model_validate(plain) == params
    assert load_recipe(dump_recipe(job(step))) == job(step)
    assert dump_recipe(load_recipe(dump_recipe(job(step)))) == dump_recipe(job(step))


@pytest.mark.parametrize("kind", sorted(KINDS))
def test_its_key_does_not_depend_on_the_order_in_which_it_is_said(kind, step_of):
    step = step_of(kind)
    params = KINDS[kind].params.model_validate(step.params)
    turned = KINDS[kind].params.model_validate(dict(reversed(step.params.items())))
    values = dict.fromkeys(values_in(params), 1.0)
    inputs = dict.fromkeys(refs_in(params), "a" * 40)

    def key(of: Any, values: dict[str, float], inputs: dict[str, str]) -> str:
        return step_key(KINDS[kind], "it", of, values, inputs)

    first = key(params, values, inputs)
    assert first == key(turned, dict(reversed(values.items())), dict(reversed(inputs.items())))
    for place in values:
        assert first != key(params, {**values, place: 2.0}, inputs)
    for place in inputs:
        assert first != key(params, values, {**inputs, place: "b" * 40})


@pytest.mark.parametrize("kind", sorted(KINDS))
def test_a_name_is_followed_into_every_value_and_renaming_twice_is_renaming_once(kind, step_of):
    step = step_of(kind)
    params = json.loads(json.dumps(step.params).replace('"2 mm"', '"size_a / 2"'))
    named = job(step.model_copy(update={"params": params}))
    once = rename_everywhere(named, "size_a", "size_b")
    assert rename_everywhere(once, "size_a", "size_b") == once
    assert rename_everywhere(once, "size_b", "size_a") == named
    lengths = sum(
        v.text == "size_b / 2" for v in values_in(KINDS[kind].params.model_validate(once.steps[0].params)).values()
    )
    assert lengths == json.dumps(params).count("size_a / 2")


@pytest.mark.parametrize("kind", [k for k, v in KINDS.items() if v.starts])
def test_what_begins_it_goes_into_fields_that_it_has(kind):
    """A slip here would make a button that does nothing."""
    fields = {f.name: f for f in fields_of(KINDS[kind].params)}
    for start in KINDS[kind].starts:
        into = fields[start.into]
        assert into.type in ("refs", "ref", "face", "edge"), start
        assert into.type == "refs" or start.most == 1 or start.second, start
        assert not start.second or start.second in fields
        for name, value in start.also.items():
            assert name in fields, (start, name)
            if fields[name].options:
                assert value in fields[name].options, (start, name)
