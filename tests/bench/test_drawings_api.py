"""Drawings through the API: acts, what comes back, a point that is dragged, formulas of the job, and refusals that say where."""

from __future__ import annotations

import math
import uuid

import pytest

from tests.bench.asking import client_of, edited, get, post

pytestmark = pytest.mark.django_db(transaction=True)


def spot(x: float, y: float, **more) -> dict:
    return {"at": [x, y], **more}


RECTANGLE = {
    "act": "rectangle",
    "by": "corner",
    "spots": [spot(0, 0), spot(40, 20)],
    "width": "40",
    "height": "plate / 2",
}


def draw(maker, job, acts, drawing=None, status: int = 200):
    return post(maker, f"/jobs/{job['id']}/drawing", {"drawing": drawing or {}, "acts": acts}, status)


@pytest.fixture
def plate(maker, job) -> dict:
    value = {"text": "50 mm", "mark": "caliper"}
    edited(maker, job, {"op": "set-value", "id": "v1", "name": "plate", "value": value, "dimension": "length"})
    return draw(maker, job, [RECTANGLE])


def test_a_drawing_comes_back_settled_with_what_can_be_shown_of_it(plate):
    assert plate["solved"] and plate["dof"] == 2
    (region,) = plate["regions"]
    assert region["area"] == pytest.approx(40 * 25) and len(region["rings"][0]) == 4
    assert len(plate["paths"]) == 4 and not plate["gaps"] and not plate["loose"]
    kept = plate["drawing"]
    assert sorted(v["text"] for v in kept["lengths"].values()) == ["40 mm", "plate / 2"]
    assert [n["name"] for n in kept["named"]] == [region["name"]]


def test_a_drawing_is_kept_as_a_step_and_extruded(maker, job, plate):
    sketch, block = str(uuid.uuid4()), str(uuid.uuid4())
    edited(maker, job, {"op": "add-step", "id": sketch, "kind": "sketch", "params": plate["drawing"]})
    extrude = {"sketch": {"id": sketch}, "distance": {"text": "10 mm"}}
    edited(maker, job, {"op": "add-step", "id": block, "kind": "extrude", "params": extrude})
    now = get(maker, f"/jobs/{job['id']}")
    steps = {s["id"]: s for s in now["build"]["result"]["steps"]}
    assert steps[sketch]["facts"]["area"] == pytest.approx(1000), steps[sketch]
    assert steps[block]["facts"]["volume"] == pytest.approx(10_000)


def test_a_point_is_dragged_without_being_sent_the_drawing_again(maker, job, plate):
    kept = plate["drawing"]
    free = [n for n, e in kept["entities"].items() if e["kind"] == "point"]
    first = post(maker, f"/jobs/{job['id']}/drag", {"point": free[0], "to": [10, 5], "drawing": kept})
    assert first["points"][free[0]] == pytest.approx([10, 5], abs=1e-2)
    again = post(maker, f"/jobs/{job['id']}/drag", {"point": free[0], "to": [-3, 8], "key": first["key"]})
    assert again["points"][free[0]] == pytest.approx([-3, 8], abs=1e-2)
    # The sizes hold while it is dragged.
    xs = [p[0] for p in again["points"].values()]
    assert max(xs) - min(xs) == pytest.approx(40)
    pulled = draw(maker, job, [{"act": "pull", "point": free[0], "to": [-3, 8]}], kept)
    assert pulled["drawing"]["entities"][free[0]]["at"] == pytest.approx([-3, 8], abs=1e-2)


def test_a_drag_that_nobody_knows_says_so(maker, job, plate):
    said = post(maker, f"/jobs/{job['id']}/drag", {"point": "p1", "to": [0, 0], "key": "gone"}, status=404)
    assert said["problem"]["code"] == "not-found"


def test_a_contradiction_is_an_answer_that_names_it(maker, job, plate):
    kept = plate["drawing"]
    lines = [n for n, e in kept["entities"].items() if e["kind"] == "line"]
    out = draw(maker, job, [{"act": "size", "kind": "length", "of": [lines[2]], "value": "60"}], kept)
    assert not out["solved"] and any("d:2" in c for c in out["conflicts"])
    assert len(out["drawing"]["sizes"]) == 3  # nothing of it is lost
    back = draw(maker, job, [{"act": "change-size", "demand": "d:2", "reference": True}], out["drawing"])
    assert back["solved"] and back["sizes"][2] == pytest.approx(40)
    again = draw(maker, job, [{"act": "change-size", "demand": "d:2", "reference": False}], back["drawing"])
    assert not again["solved"]


def test_gaps_come_with_the_relation_that_closes_them(maker, job):
    acts = [
        {"act": "line", "start": spot(0, 0), "end": spot(40, 0)},
        {"act": "line", "start": spot(40, 0.2), "end": spot(20, 30)},
        {"act": "line", "start": spot(20, 30.1), "end": spot(0.1, 0)},
    ]
    out = draw(maker, job, acts)
    assert len(out["gaps"]) == 3 and not out["regions"]
    mends = [{"act": "relate", "kind": g["mend"]["kind"], "of": g["mend"]["of"]} for g in out["gaps"]]
    closed = draw(maker, job, mends, out["drawing"])
    assert closed["solved"] and closed["regions"][0]["area"] == pytest.approx(600, rel=0.02)


@pytest.mark.parametrize(
    ("acts", "code", "status"),
    [
        ([{"act": "line", "start": spot(0, 0), "end": spot(1, 1), "length": "nobody * 2"}], "unknown-name", 400),
        ([{"act": "line", "start": spot(0, 0), "end": spot(1, 1), "length": "30 deg"}], "mixed-dimensions", 400),
        ([{"act": "remove", "of": ["l1"]}, {"act": "round", "corner": "p1", "radius": "2"}], "wrong-kind", 422),
        ([{"act": "circle", "by": "three", "spots": [spot(0, 0), spot(1, 0), spot(2, 0)]}], "bad-params", 400),
    ],
)
def test_what_cannot_be_done_is_refused_with_a_code(maker, job, acts, code, status):
    said = draw(maker, job, acts, status=status)
    assert said["problem"]["code"] == code


def test_figures_that_are_none_are_refused(maker, job):
    for bad in (1e999, "x"):
        said = draw(maker, job, [{"act": "point", "at": {"at": [bad, 0]}}], status=400)
        assert said["problem"]["code"] == "bad-params"


def test_another_person_draws_on_no_job_of_mine(maker, job):
    post(client_of("stranger"), f"/jobs/{job['id']}/drawing", {"drawing": {}}, status=404)


def test_a_thousand_entities_are_answered(maker, job):
    acts = [
        {
            "act": "circle",
            "by": "centre",
            "spots": [spot(8 * (k % 15), 8 * (k // 15)), spot(8 * (k % 15) + 3, 8 * (k // 15))],
        }
        for k in range(150)
    ]
    out = draw(maker, job, acts)
    for _ in range(2):
        out = draw(maker, job, acts, out["drawing"])
    assert len(out["drawing"]["entities"]) == 900 and out["solved"]
    assert out["dof"] == 3 * 450
    assert max(math.dist(*p[:2]) for p in out["paths"].values()) < 1


@pytest.fixture
def block(maker, job, plate) -> dict[str, str]:
    """A plate of 40 by half its value, 10 high, and an empty sketch above it."""
    ids = {n: str(uuid.uuid4()) for n in ("first", "block", "second")}
    edited(maker, job, {"op": "add-step", "id": ids["first"], "kind": "sketch", "params": plate["drawing"]})
    extrude = {"sketch": {"id": ids["first"]}, "distance": {"text": "10 mm"}}
    edited(maker, job, {"op": "add-step", "id": ids["block"], "kind": "extrude", "params": extrude})
    empty = {"entities": {}, "offset": {"text": "10 mm"}}
    edited(maker, job, {"op": "add-step", "id": ids["second"], "kind": "sketch", "params": empty})
    return ids


PLANE = {"origin": [0, 0, 10], "u_axis": [1, 0, 0], "normal": [0, 0, 1]}


def linkable(maker, job, block, way: str, source: str = "block", status: int = 200):
    asked = {"step": block["second"], "source": block[source], "way": way, **PLANE}
    return post(maker, f"/jobs/{job['id']}/linkable", asked, status)


def test_what_can_be_brought_in_is_shown_before_it_is_picked(maker, job, block):
    edges = linkable(maker, job, block, "edge")
    assert len(edges) == 12 and sum(e["pieces"][0]["kind"] == "point" for e in edges) == 4
    assert all(e["link"]["part"]["body"] == block["block"] and len(e["pieces"]) == 1 for e in edges)
    faces = linkable(maker, job, block, "face")
    assert len(faces) == 6 and {len(f["pieces"]) for f in faces} == {4}
    (cut,) = linkable(maker, job, block, "cut")
    (shadow,) = linkable(maker, job, block, "silhouette")
    (other,) = linkable(maker, job, block, "sketch", "first")
    for one in (cut, shadow, other):
        assert len(one["pieces"]) == 4 and [len(p) for p in one["paths"]] == [2] * 4


def test_what_was_brought_in_follows_a_value_of_the_body(maker, job, block):
    top = next(f for f in linkable(maker, job, block, "face") if ".end[" in f["link"]["part"]["name"])
    act = {"act": "bring-in", "link": top["link"], "pieces": top["pieces"]}
    brought = draw(maker, job, [act])
    edited(maker, job, {"op": "set-params", "step": block["second"], "params": brought["drawing"]})
    edited(
        maker, job, {"op": "set-value", "id": "v1", "name": "plate", "value": {"text": "70 mm"}, "dimension": "length"}
    )
    now = get(maker, f"/jobs/{job['id']}")
    built = next(s for s in now["build"]["result"]["steps"] if s["id"] == block["second"])
    assert built["status"] == "ok" and not built["problems"]
    kept = next(s for s in now["recipe"]["steps"] if s["id"] == block["second"])["params"]
    kept = {k: v for k, v in kept.items() if k in brought["drawing"]}
    asked = {"step": block["second"], "drawing": kept, "acts": []}
    shown = post(maker, f"/jobs/{job['id']}/drawing", asked)
    heights = [p["at"][1] for p in shown["drawing"]["entities"].values() if p["kind"] == "point"]
    assert max(heights) - min(heights) == pytest.approx(35)
    as_kept = draw(maker, job, [], kept)["drawing"]["entities"].values()
    assert max(p["at"][1] for p in as_kept if p["kind"] == "point") == pytest.approx(25)  # where it was brought in


def test_nothing_below_a_sketch_can_be_brought_in(maker, job, block):
    asked = {"step": block["first"], "source": block["block"], "way": "edge", **PLANE}
    refused = post(maker, f"/jobs/{job['id']}/linkable", asked, 400)
    assert refused["problem"]["code"] == "not-above"
    nobody = client_of("somebody-else")
    post(nobody, f"/jobs/{job['id']}/linkable", asked, 404)


def test_a_drawing_is_held_against_the_section_and_adjusted_to_it(maker, job):
    # The block is 40 x 30 x 10; what is drawn is a little too large, and lies a little off.
    act = {"act": "rectangle", "by": "corner", "spots": [spot(0.2, -0.1), spot(40.8, 30.3)]}
    drawn_ = draw(maker, job, [{**act, "width": "40.6 mm", "height": "30.4 mm"}])
    step = str(uuid.uuid4())
    edited(maker, job, {"op": "add-step", "id": step, "kind": "sketch", "params": drawn_["drawing"]})
    asked = {"step": step, "drawing": drawn_["drawing"], "scan": job["recipe"]["evidence"][0]["id"]}
    asked |= {"origin": [0, 0, 5], "u_axis": [1, 0, 0], "normal": [0, 0, 1]}
    off = post(maker, f"/jobs/{job['id']}/drawing/fit", asked)
    assert off["drawing"] is None and off["inside"] < 0.5 and abs(off["worst"]["off"]) > 0.2
    assert 0 < len(off["whiskers"]) <= 800
    fit = post(maker, f"/jobs/{job['id']}/drawing/fit", {**asked, "adjust": True})
    values = sorted(s["value"] for s in fit["sizes"])
    assert values == pytest.approx([30, 40], abs=0.05) and all(s["u"] for s in fit["sizes"])
    assert fit["inside"] > 0.9 and fit["rms"] < 0.05
    marks = {v["mark"] for v in fit["drawing"]["lengths"].values()}
    assert marks == {"scan"}
    above = post(maker, f"/jobs/{job['id']}/drawing/fit", {**asked, "origin": [0, 0, 500]}, 422)
    assert above["problem"]["code"] == "no-section"
