"""Steps duplicated, in whole jobs: what they refer to among themselves goes along, onto the same body or another; against closed forms."""

from __future__ import annotations

import math

import pytest
from pydantic import TypeAdapter

from contour.job.build.build import build
from contour.job.build.store import Store
from contour.job.edits.apply import Edit, apply_edit
from contour.products import load_product
from contour.recipe.problem import ContourError
from contour.recipe.recipe import Recipe, Step
from contour.solid.mass import volume
from contour.solid.shape import read_shape

EDIT = TypeAdapter(Edit)
BOSS = ["boss-sk0", "boss-ex0", "round-00"]
COPIES = ["copy-sk0", "copy-ex0", "copy-ro0"]


def traced(id, name, w, d, x=0.0, y=0.0, **more):
    points = [[-w / 2, -d / 2], [w / 2, -d / 2], [w / 2, d / 2], [-w / 2, d / 2]]
    shift = {"shift_x": {"text": f"{x} mm"}, "shift_y": {"text": f"{y} mm"}}
    return Step(id=id, kind="traced", name=name, params={"points": points, **shift, **more})


def extrude(id, name, sketch, distance, **more):
    return Step(
        id=id, kind="extrude", name=name, params={"sketch": {"id": sketch}, "distance": {"text": distance}, **more}
    )


def top(body="plate-e0"):
    return {"body": body, "name": f"{body}.end[p1]", "kind": "plane"}


@pytest.fixture
def recipe():
    """A plate 100 x 40 x 10, a thicker one beside it, and on the first a boss 10 x 8 x 6 with one round upper edge."""
    edge = {"body": "plate-e0", "edge": "boss-ex0.end[p1]|boss-ex0.side[e1]", "kind": "line", "ends": ["boss-ex0.side[e2]", "boss-ex0.side[e4]"]}  # fmt: skip
    steps = (
        traced("plate-s0", "Plate outline", 100, 40),
        extrude("plate-e0", "Plate", "plate-s0", "10 mm"),
        traced("other-s0", "Other outline", 100, 40, y=100),
        extrude("other-e0", "Other", "other-s0", "20 mm"),
        traced("boss-sk0", "Boss outline", 10, 8, x=-30, plane=top()),
        extrude("boss-ex0", "Boss", "boss-sk0", "6 mm", operation="add", bodies=[{"id": "plate-e0"}]),
        Step(id="round-00", kind="fillet", name="Boss edge", params={"edges": [edge], "radius": {"text": "boss.distance / 3"}}),
    )  # fmt: skip
    return Recipe(
        name="Plates", steps=tuple(s.model_copy(update={"group": "Boss work"}) if s.id in BOSS else s for s in steps)
    )


def duplicated(recipe, **given):
    rows = [
        {"step": s, "id": c, "params": given.get(s.replace("-", "_"), {})} for s, c in zip(BOSS, COPIES, strict=True)
    ]
    return apply_edit(recipe, EDIT.validate_python({"op": "duplicate-steps", "steps": rows}))


def volumes(recipe, tmp_path):
    store = Store(tmp_path)
    result = build(recipe, store, with_fit=False)
    assert [(s.name, s.status, s.problems) for s in result.steps if s.status != "ok"] == []
    return {id: volume(read_shape(load_product(store.folder(key)).brep)) for id, key in result.steps[-1].after.items()}


def boss(height=6.0, radius=2.0):
    return 10 * 8 * height - (1 - math.pi / 4) * radius**2 * 10


def test_beside_itself_on_the_same_face(recipe, tmp_path):
    after, said = duplicated(recipe, boss_sk0={"shift_x": {"text": "20 mm"}})
    assert said == "duplicate 3 steps"
    assert [s.id for s in after.steps[-3:]] == COPIES
    assert [s.name for s in after.steps[-3:]] == ["Boss outline 2", "Boss 2", "Boss edge 2"]
    assert {s.group for s in after.steps[-3:]} == {"Boss work 2"}
    made = volumes(after, tmp_path)
    assert made["plate-e0"] == pytest.approx(100 * 40 * 10 + 2 * boss(), rel=1e-9)
    assert made["other-e0"] == pytest.approx(100 * 40 * 20, rel=1e-9)


def test_formulas_between_them_follow(recipe, tmp_path):
    after, _ = duplicated(recipe, boss_sk0={"shift_x": {"text": "20 mm"}}, boss_ex0={"distance": {"text": "9 mm"}})
    assert after.step("copy-ro0").params["radius"]["text"] == "boss_2.distance / 3"
    assert volumes(after, tmp_path)["plate-e0"] == pytest.approx(40000 + boss() + boss(9.0, 3.0), rel=1e-9)


def test_onto_another_body(recipe, tmp_path):
    after, _ = duplicated(recipe, boss_sk0={"plane": top("other-e0")}, boss_ex0={"bodies": [{"id": "other-e0"}]})
    made = volumes(after, tmp_path)
    assert made["plate-e0"] == pytest.approx(40000 + boss(), rel=1e-9)
    assert made["other-e0"] == pytest.approx(80000 + boss(), rel=1e-9)
    edge = after.step("copy-ro0").params["edges"][0]
    assert edge["body"] == "other-e0" and edge["edge"] == "copy-ex0.end[p1]|copy-ex0.side[e1]"
    assert edge["ends"] == ["copy-ex0.side[e2]", "copy-ex0.side[e4]"]


def test_an_edge_between_a_copied_face_and_one_outside_follows_what_was_chosen(recipe):
    foot = {"body": "plate-e0", "edge": "boss-ex0.side[e1]|plate-e0.end[p1]", "kind": "line", "ends": []}
    more = recipe.model_copy(
        update={"steps": tuple(s.model_copy(update={"params": {**s.params, "edges": [foot]}}) if s.id == "round-00" else s for s in recipe.steps)}
    )  # fmt: skip
    same, _ = duplicated(more, boss_sk0={"shift_x": {"text": "20 mm"}})
    assert same.step("copy-ro0").params["edges"][0]["edge"] == "copy-ex0.side[e1]|plate-e0.end[p1]"
    other, _ = duplicated(more, boss_sk0={"plane": top("other-e0")}, boss_ex0={"bodies": [{"id": "other-e0"}]})
    assert other.step("copy-ro0").params["edges"][0]["edge"] == "copy-ex0.side[e1]|other-e0.end[p1]"


def test_a_single_step_keeps_what_it_refers_to(recipe):
    row = {"step": "round-00", "id": "copy-ro0"}
    after, said = apply_edit(recipe, EDIT.validate_python({"op": "duplicate-steps", "steps": [row]}))
    assert said == "duplicate Boss edge"
    copy, was = after.step("copy-ro0"), after.step("round-00")
    assert copy.params["edges"][0]["edge"] == was.params["edges"][0]["edge"] and copy.group == was.group


@pytest.mark.parametrize(
    ("rows", "code"),
    [
        ([{"step": "gone"}], "not-found"),
        ([{"step": "boss-sk0"}, {"step": "boss-sk0"}], "bad-params"),
        ([{"step": "boss-sk0", "id": "plate-s0"}], "bad-params"),
        ([{"step": "boss-sk0", "params": {"plane": top("round-00")}}], "bad-order"),
        ([{"step": "boss-sk0", "params": {"depth": 3}}], "bad-params"),
    ],
)
def test_what_cannot_be_is_refused_and_changes_nothing(recipe, rows, code):
    with pytest.raises(ContourError) as refused:
        apply_edit(recipe, EDIT.validate_python({"op": "duplicate-steps", "steps": rows}))
    assert refused.value.problem.code == code
