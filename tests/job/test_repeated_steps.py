"""Steps done again elsewhere, in whole jobs: recomputed where they come to lie, against closed forms; names, changes, refusals."""

from __future__ import annotations

import math

import numpy as np
import pytest

from contour.job.build.build import build
from contour.job.build.store import Store
from contour.products import load_product
from contour.recipe.recipe import Recipe, Step
from contour.solid.agreement import sides
from contour.solid.gate import check_solid
from contour.solid.mass import volume
from contour.solid.pieces import pieces
from contour.solid.shape import NamedShape, read_shape


def square(side, x, y):
    return [[x, y], [x + side, y], [x + side, y + side], [x, y + side]]


def traced(id, points, **more):
    # A traced outline lies about its own middle.
    xs, ys = [p[0] for p in points], [p[1] for p in points]
    mx, my = (min(xs) + max(xs)) / 2, (min(ys) + max(ys)) / 2
    params = {
        "points": [[x - mx, y - my] for x, y in points],
        "shift_x": {"text": f"{mx} mm"},
        "shift_y": {"text": f"{my} mm"},
        **more,
    }
    return Step(id=id, kind="traced", name=id, params=params)


def extrude(id, sketch, distance, operation="new", body=None, **more):
    bodies = {"operation": operation, "bodies": [{"id": body}]} if body else {}
    params = {"sketch": {"id": sketch}, "distance": {"text": distance}, **bodies, **more}
    return Step(id=id, kind="extrude", name=id, params=params)


def stairs():
    """Two steps of 10 and 20 mm height, 100 x 40 in all; a pocket 6 x 6 through the lower one, near one end."""
    return [
        traced("plate-sk", [[0, 0], [100, 0], [100, 40], [0, 40]]),
        extrude("plate-ex", "plate-sk", "10 mm"),
        traced("upper-sk", [[50, 0], [100, 0], [100, 40], [50, 40]]),
        extrude("upper-ex", "upper-sk", "20 mm", "add", "plate-ex"),
        traced("pocket-s", square(6, 5, 17)),
        extrude("pocket-e", "pocket-s", "1 mm", "subtract", "plate-ex", extent="through"),
    ]


def again(**more):
    params = {
        "what": "steps",
        "steps": [{"id": "pocket-e"}],
        "bodies": [{"id": "plate-ex"}],
        "along": {"sketch": "plate-sk", "entity": "e1"},
        "pitch": {"text": "28 mm"},
        "count": {"text": "4"},
        **more,
    }
    return Step(id="again-st", kind="repeat", name="Again", params=params)


def built(store, *steps):
    return build(Recipe(name="Again", steps=tuple(steps)), store, with_fit=False)


def body_of(result, store, id="plate-ex"):
    product = load_product(store.folder(next(b.key for b in result.bodies if b.id == id)))
    shape = read_shape(product.brep)
    found = check_solid(shape)
    assert found.closed and found.valid and found.solids == 1
    return volume(shape), product.names


@pytest.fixture
def store(tmp_path):
    return Store(tmp_path)


WHOLE = 100 * 40 * 10 + 50 * 40 * 10


def test_a_pocket_goes_through_what_there_is_at_each_place(store):
    """Through is through: 10 mm of the lower step at two places, 20 mm of the upper one at two."""
    result = built(store, *stairs(), again())
    assert [s.status for s in result.steps] == ["ok"] * 7
    size, names = body_of(result, store)
    assert size == pytest.approx(WHOLE - 36 * (10 + 10 + 20 + 20))
    assert any("again-st.copy3-pocket-e-side[" in n for n in names)


def test_members_left_out_and_a_change_of_the_step_itself(store):
    result = built(store, *stairs(), again(skip="2"))
    assert body_of(result, store)[0] == pytest.approx(WHOLE - 36 * (10 + 20 + 20))
    steps = stairs()
    steps[4] = traced("pocket-s", square(4, 6, 18))
    assert body_of(built(store, *steps, again()), store)[0] == pytest.approx(WHOLE - 16 * 60)


def test_holes_are_drilled_again_from_their_own_face(store):
    bore = Step(
        id="drilled0",
        kind="hole",
        name="Drilled",
        params={
            "face": {"body": "plate-ex", "name": "plate-ex.end[p1]", "kind": "plane"},
            "by": "points",
            "points": [{"sketch": "pocket-s", "entity": "e1"}],
            "diameter": {"text": "5 mm"},
            "extent": "blind",
            "depth": {"text": "4 mm"},
            "bottom": "flat",
        },
    )
    steps = [s for s in stairs() if s.id != "pocket-e"]
    result = built(store, *steps, bore, again(steps=[{"id": "drilled0"}], pitch={"text": "12 mm"}, count={"text": "3"}))
    assert [s.status for s in result.steps][-2:] == ["ok", "ok"], result.steps[-1].problems
    assert body_of(result, store)[0] == pytest.approx(WHOLE - 3 * math.pi / 4 * 25 * 4)


def test_about_an_axis_two_steps_at_once(store):
    """A boss and the hole in it, five times about the middle of a disc."""
    ring = [[30 * math.cos(a), 30 * math.sin(a)] for a in (math.pi * k / 30 for k in range(60))]
    steps = [
        traced("disc-ske", ring),
        extrude("disc-ext", "disc-ske", "6 mm"),
        traced("boss-ske", square(8, 16, -4)),
        extrude("boss-ext", "boss-ske", "11 mm", "add", "disc-ext"),
        traced("well-ske", square(4, 18, -2)),
        extrude("well-ext", "well-ske", "1 mm", "subtract", "disc-ext", extent="through"),
        Step(
            id="spin-axi",
            kind="axis",
            name="Spin",
            params={"by": "points", "point": {"id": "zero-pnt"}, "other_point": {"id": "over-pnt"}},
        ),
    ]
    points = [
        Step(
            id=id,
            kind="point",
            name=id,
            params={"by": "typed", **{n: {"text": f"{v} mm"} for n, v in zip("xyz", at, strict=True)}},
        )
        for id, at in (("zero-pnt", (0, 0, 0)), ("over-pnt", (0, 0, 9)))
    ]
    turn = again(
        steps=[{"id": "boss-ext"}, {"id": "well-ext"}],
        bodies=[{"id": "disc-ext"}],
        by="circle",
        along=None,
        axis={"id": "spin-axi"},
        count={"text": "5"},
    )
    result = built(store, *steps[:6], *points, steps[6], turn)
    assert all(s.status == "ok" for s in result.steps), [s.problems for s in result.steps if s.problems]
    disc = 6 * 60 / 2 * 900 * math.sin(math.pi / 30)
    assert body_of(result, store, "disc-ext")[0] == pytest.approx(disc + 5 * (64 * 5 - 16 * 11), rel=1e-9)


def test_a_step_that_cannot_be_done_again_says_what_to_do_instead(store):
    edge = {"body": "plate-ex", "edge": "plate-ex.end[p1]|plate-ex.side[e1]"}
    fillet = Step(id="rounding", kind="fillet", name="Rounded", params={"edges": [edge], "radius": {"text": "1 mm"}})
    steps = [s for s in stairs() if s.id in ("plate-sk", "plate-ex")]
    result = built(store, *steps, fillet, again(steps=[{"id": "rounding"}]))
    problem = result.steps[-1].problems[0]
    assert result.steps[-1].status == "failed" and problem.where.param == "steps[0]"
    assert "repeat its body" in (problem.remedy or "")


def test_a_member_that_cannot_be_is_named(store):
    result = built(store, *stairs(), again(pitch={"text": "200 mm"}))
    problem = result.steps[-1].problems[0]
    assert problem.message.startswith("member 2") and problem.code == "unchanged"


def test_steps_of_another_body_are_refused(store):
    other = [traced("other-sk", square(9, 300, 0)), extrude("other-ex", "other-sk", "5 mm")]
    result = built(store, *stairs(), *other, again(bodies=[{"id": "other-ex"}]))
    assert result.steps[-1].status == "failed"


def test_a_face_that_another_member_has_parted_is_not_settled_by_chance(store):
    """A slot right across the face that holes are drilled from: the second member no longer knows which part is meant, and says so."""
    # The outline lies in the plate's upper face.
    slot = traced("slot-ske", [[30, -5], [34, -5], [34, 45], [30, 45]], offset={"text": "10 mm"})
    across = [slot, extrude("slot-ext", "slot-ske", "-3 mm", "subtract", "plate-ex")]
    face = {"body": "plate-ex", "name": "plate-ex.end[p1]", "kind": "plane"}
    bore = {
        "face": face,
        "by": "points",
        "points": [{"sketch": "pocket-s", "entity": "e1"}],
        "diameter": {"text": "3 mm"},
    }
    drilled = Step(id="drilled0", kind="hole", name="Drilled", params=bore)
    steps = [s for s in stairs() if s.id in ("plate-sk", "plate-ex", "pocket-s")]
    pitch = {"pitch": {"text": "15 mm"}, "count": {"text": "2"}}
    result = built(store, *steps, drilled, *across, again(steps=[{"id": "slot-ext"}, {"id": "drilled0"}], **pitch))
    problem = result.steps[-1].problems[0]
    assert result.steps[-1].status == "failed" and problem.code == "ref-ambiguous" and problem.where.param == "steps[1]"


def mirrored(*steps, body="plate-ex", low="plate-ex.side[e4]", high="plate-ex.side[e2]"):
    """Steps mirrored in the plane midway between two ends of a body."""
    ends = {"plane": {"body": body, "name": low}, "other_plane": {"body": body, "name": high}}
    plane = Step(id="mid-plane", kind="plane", name="Middle", params={"by": "midway", **ends})
    params = {"what": "steps", "by": "mirror", "steps": [{"id": s} for s in steps], "bodies": [{"id": body}]}
    return plane, Step(id="again-st", kind="repeat", name="Mirrored", params={**params, "plane": {"id": "mid-plane"}})


def test_a_mirrored_pocket_goes_through_what_is_there(store):
    """Through 10 mm of the lower step, and through 20 mm of the upper one on the other side."""
    plain, _ = body_of(built(store, *stairs()), store)
    made, names = body_of(built(store, *stairs(), *mirrored("pocket-e")), store)
    assert plain - made == pytest.approx(36 * 20, rel=1e-9)
    assert any("again-st.copy2-pocket-e" in n for n in names)


def test_mirrored_outlines_are_the_other_way_round(store):
    """An outline without any symmetry: where its corner points to turns round with it."""
    arrow = traced("pocket-s", [[4, 10], [16, 10], [4, 18]])
    steps = [*stairs()[:4], arrow, extrude("pocket-e", "pocket-s", "-3 mm", "subtract", "plate-ex")]
    deep = [
        s.model_copy(update={"params": {**s.params, "distance": {"text": "3 mm"}}}) if s.id == "pocket-e" else s
        for s in steps
    ]
    result = built(store, *deep, *mirrored("pocket-e"))
    body_of(result, store)
    product = load_product(store.folder(next(b.key for b in result.bodies if b.id == "plate-ex")))
    shape = read_shape(product.brep)
    here, there = np.array([[6.0, 16.0, 1.0], [14.0, 16.0, 1.0]]), np.array([[94.0, 16.0, 1.0], [86.0, 16.0, 1.0]])
    assert list(sides(shape, here)) == list(sides(shape, there)) == [-1, 1]


def test_a_mirrored_thread_of_any_profile_turns_the_other_way(store):
    """What climbs to the right climbs to the left in the mirror."""
    half = traced("bar-sketch", [[0, 0], [8, 0], [8, 60], [0, 60]])
    bar = Step(
        id="plate-ex",
        kind="revolve",
        name="Bar",
        params={"sketch": {"id": "bar-sketch"}, "axis": {"sketch": "bar-sketch", "entity": "e4"}},
    )
    tooth = traced("tooth-sk", [[7, 4], [9.5, 5], [7, 6]])
    coil = {
        "sketch": {"id": "tooth-sk"},
        "axis": {"sketch": "bar-sketch", "entity": "e4"},
        "pitch": {"text": "-4 mm"},
        "turns": {"text": "1.25"},
    }
    wound = Step(
        id="coil-step", kind="coil", name="Tooth", params={**coil, "operation": "add", "bodies": [{"id": "plate-ex"}]}
    )
    plain = built(store, half, bar, tooth, wound)
    result = built(
        store, half, bar, tooth, wound, *mirrored("coil-step", low="plate-ex.side[e1]", high="plate-ex.side[e3]")
    )
    one, _ = body_of(plain, store)
    two, _ = body_of(result, store)
    assert two - one == pytest.approx(one - math.pi * 64 * 60, rel=1e-5)
    product = load_product(store.folder(next(b.key for b in result.bodies if b.id == "plate-ex")))
    ((_, away),) = pieces(NamedShape(read_shape(product.brep), product.names))

    def off(sense: float, low: float, climb: float) -> list[float]:
        """How far places 0.1 mm over a crest of one hand are from the body, mm."""
        turns = np.linspace(0.1, 1.15, 22)
        at = [
            [9.6 * math.cos(2 * math.pi * t), low + climb * t, 9.6 * sense * math.sin(2 * math.pi * t)] for t in turns
        ]
        return [away(np.array(p)) for p in at]

    one_hand, other_hand = max(off(1, 5, 4)), max(off(-1, 5, 4))
    sense = 1 if one_hand < 0.15 else -1
    assert min(one_hand, other_hand) < 0.15 and max(one_hand, other_hand) > 0.5
    # Seen from above both go round the same way, while the one climbs and the other falls.
    assert max(off(sense, 55, -4)) < 0.15 and max(off(-sense, 55, -4)) > 0.5
