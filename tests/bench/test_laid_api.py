"""Pictures under a sketch through the API: how they lie, laid by two places and by their edges, fitted to, figures beside sizes, and refusals."""

from __future__ import annotations

import math
import uuid

import numpy as np
import pytest

from demo.gland_nut import CARD, SIZES
from tests.bench.asking import client_of, edited, post
from tests.bench.test_desk_api import desk  # noqa: F401
from tests.bench.test_drawings_api import draw, spot
from tests.bench.test_pictures_api import nut, photo, version  # noqa: F401

pytestmark = pytest.mark.django_db(transaction=True)

ACROSS = SIZES["hex_af"][0] / math.cos(math.radians(30))
# The head on the card, mm from the card's middle: what the photo was rendered from.
LEFT, RIGHT, LOW = -36.0, -21.0, -3.0 - ACROSS / 2
PLANE = {"origin": [0, 0, 0], "u_axis": [1, 0, 0], "normal": [0, 0, 1]}


@pytest.fixture
def head(maker, desk, photo) -> dict:  # noqa: F811
    """A rectangle drawn by hand over the nut's head, the photo under it with the card's middle at the drawing's zero."""
    box = {
        "act": "rectangle",
        "by": "corner",
        "spots": [spot(LEFT + 0.4, LOW - 0.3), spot(RIGHT + 0.3, LOW + ACROSS + 0.5)],
        "width": "15.1 mm",
        "height": "53.4 mm",
    }
    drawing = draw(maker, desk, [box])["drawing"]
    (px,) = photo["shot"].place(np.zeros((1, 2)))
    drawing["pictures"] = [{"picture": photo["id"], "px": px.tolist(), "at": [0, 0], "turn": 0.0}]
    return drawing


def under(maker, desk, drawing, status=200):  # noqa: F811
    return post(maker, f"/jobs/{desk['id']}/drawing/under", {"drawing": drawing}, status)


def lay(maker, desk, drawing, status=200, **more):  # noqa: F811
    asked = {"drawing": drawing, "under": drawing["pictures"][0], **more}
    return post(maker, f"/jobs/{desk['id']}/drawing/lay", asked, status)


def fit(maker, desk, drawing, adjust=True, status=200, picture=None):  # noqa: F811
    wanted = picture or drawing["pictures"][0]["picture"]
    asked = {"step": str(uuid.uuid4()), "drawing": drawing, "picture": wanted, "adjust": adjust, **PLANE}
    return post(maker, f"/jobs/{desk['id']}/drawing/fit", asked, status)


def on_plane(laid: dict, px: np.ndarray) -> np.ndarray:
    a, b, c, d, e, f = laid["matrix"]
    return np.column_stack([a * px[:, 0] + c * px[:, 1] + e, b * px[:, 0] + d * px[:, 1] + f])


def test_it_lies_as_large_as_its_card_says(maker, desk, head):  # noqa: F811
    (laid,) = under(maker, desk, head)["pictures"]
    assert laid["problem"] is None
    wide, high = laid["size"]
    box = on_plane(laid, np.array([[0.0, 0.0], [wide, high]]))
    # y goes down in the picture and up in the plane; the card fills most of it.
    assert box[1][0] - box[0][0] > CARD[0] and box[0][1] > box[1][1]
    assert abs(np.linalg.det(np.array(laid["matrix"][:4]).reshape(2, 2))) == pytest.approx(laid["mm_per_px"] ** 2)


def test_the_head_is_measured_by_its_edges(maker, desk, head):  # noqa: F811
    found = fit(maker, desk, head)
    by = {s["name"]: s for s in found["sizes"]}
    values = sorted((s["value"], s["u"]) for s in by.values())
    assert values[0][0] == pytest.approx(RIGHT - LEFT, abs=0.1) and values[1][0] == pytest.approx(ACROSS, abs=0.15)
    assert all(0.02 < u < 0.15 for _, u in values)
    assert {v["mark"] for v in found["drawing"]["lengths"].values()} == {"photo"}
    assert found["drawing"]["pictures"] == [{**head["pictures"][0], "mirrored": False}]
    off = fit(maker, desk, head, adjust=False)
    assert off["drawing"] is None and off["inside"] < found["inside"] and off["whiskers"]


def test_by_its_edges_it_comes_to_lie_under_what_is_drawn(maker, desk, head):  # noqa: F811
    settled = fit(maker, desk, head)["drawing"]
    away = {**head["pictures"][0], "at": [1.5, -1.2], "turn": 1.0}
    found = lay(maker, desk, {**settled, "pictures": [away]})
    assert found["under"]["at"] == pytest.approx([0, 0], abs=0.1) and found["under"]["turn"] == pytest.approx(
        0, abs=0.15
    )
    assert not found["doubted"] and found["edges"] > 100


def test_by_two_places_it_comes_to_where_they_belong_and_doubts_are_said(maker, desk, head):  # noqa: F811
    moved = lay(maker, desk, head, seen=[[-36, 0], [60, 0]], meant=[[0, 0], [0, 96]])
    assert moved["under"]["turn"] == pytest.approx(90) and moved["under"]["at"] == pytest.approx([0, 36])
    assert moved["larger"] == pytest.approx(1) and not moved["doubted"]
    assert lay(maker, desk, head, seen=[[-36, 0], [60, 0]], meant=[[0, 0], [0, 98]])["doubted"]
    said = lay(maker, desk, head, 400, seen=[[1, 1], [1, 1.05]], meant=[[0, 0], [10, 0]])
    assert said["problem"]["code"] == "bad-params" and said["problem"]["remedy"]


def test_figures_pinned_in_it_stand_beside_the_sizes_they_state(maker, desk, head, photo):  # noqa: F811
    (laid,) = under(maker, desk, head)["pictures"]
    inverse = np.linalg.inv(np.array(laid["matrix"][:4]).reshape(2, 2).T)
    px = inverse @ (np.array([RIGHT + 4, -3.0]) - laid["matrix"][4:])
    stated = {"name": "over_corners", "at": px.tolist(), "value": 53.0, "tolerance_mm": 0.3}
    post(maker, f"{photo['path']}/dimension", {"version": version(maker, desk), **stated})
    out = under(maker, desk, head)
    (figure,) = [f for f in out["pictures"][0]["figures"] if f["reading"] == "over_corners"]
    assert figure["at"] == pytest.approx([RIGHT + 4, -3.0], abs=0.05) and figure["source"] == "drawing"
    (beside,) = [b for b in out["beside"] if b["reading"] == "over_corners"]
    size = next(n for n, v in head["lengths"].items() if v["text"] == "53.4 mm")
    assert beside["size"] == size and beside["text"] == "over_corners"
    assert beside["off"] == pytest.approx(0.4) and beside["allowed"] is False
    # Taken, it holds the size, and a fit leaves it alone.
    lengths = {**head["lengths"], size: {"text": "over_corners", "mark": "drawing"}}
    held = {s["name"]: s["held"] for s in fit(maker, desk, {**head, "lengths": lengths})["sizes"]}
    assert held[size] and not all(held.values())


def test_each_picture_that_cannot_lie_says_so_and_the_others_lie(maker, desk, head, photo):  # noqa: F811
    blank = post(maker, f"/jobs/{desk['id']}/pictures/blank?version={version(maker, desk)}", {})["recipe"]["evidence"]
    plain = next(e for e in blank if e["kind"] == "picture" and e["id"] != photo["id"])
    gone = str(uuid.uuid4())
    rows = [{"picture": p, "px": [0, 0], "at": [0, 0]} for p in (plain["id"], gone)]
    out = under(maker, desk, {**head, "pictures": [*head["pictures"], *rows]})["pictures"]
    assert [p["matrix"] is not None for p in out] == [True, False, False]
    assert "no scale" in out[1]["problem"]["message"] and "known length" in out[1]["problem"]["remedy"]
    assert out[2]["problem"]["code"] == "not-found"
    said = fit(maker, desk, {**head, "pictures": rows}, status=400, picture=plain["id"])
    assert said["problem"]["code"] == "bad-params"
    assert fit(maker, desk, head, status=404, picture=gone)["problem"]["code"] == "not-found"


def test_where_no_edge_is_near_the_drawing_stays_as_it_is(maker, desk, head):  # noqa: F811
    far = {**head["pictures"][0], "at": [500, 500]}
    said = fit(maker, desk, {**head, "pictures": [far]}, status=422)
    assert said["problem"]["code"] == "fit-failed" and "lay the picture" in said["problem"]["remedy"]


def test_it_is_kept_with_the_sketch_and_lies_there_after_it_is_straightened_anew(maker, desk, head, photo):  # noqa: F811
    sketch = str(uuid.uuid4())
    made = edited(maker, desk, {"op": "add-step", "id": sketch, "kind": "sketch", "params": head})
    step = next(s for s in made["recipe"]["steps"] if s["id"] == sketch)
    assert step["params"]["pictures"][0]["picture"] == photo["id"]
    before = under(maker, desk, head)["pictures"][0]
    edited(maker, desk, {"op": "set-picture", "id": photo["id"], "bend": 0.0})
    after = under(maker, desk, head)["pictures"][0]
    assert before["matrix"] != after["matrix"]
    # Its own pixel stays where it was put.
    assert after["problem"] is None and abs(after["mm_per_px"] / before["mm_per_px"] - 1) < 0.05


def test_a_stranger_lays_nothing_under_my_drawing(desk, head):  # noqa: F811
    other = client_of("stranger")
    for path, body in (("under", {}), ("lay", {"under": head["pictures"][0]})):
        post(other, f"/jobs/{desk['id']}/drawing/{path}", {"drawing": head, **body}, 404)


def test_a_size_that_a_formula_holds_is_offered_no_other_figure(maker, desk, head, photo):  # noqa: F811
    for name, value in (("wide", 15.0), ("tall", 53.0)):
        at = {"at": [10, 10], "value": value, "name": name}
        post(maker, f"{photo['path']}/dimension", {"version": version(maker, desk), **at})
    (one, other) = head["lengths"]
    edited(
        maker, desk, {"op": "set-value", "id": "v", "name": "half", "dimension": "length", "value": {"text": "15.1 mm"}}
    )
    lengths = {**head["lengths"], one: {"text": "half", "mark": "caliper"}}
    beside = under(maker, desk, {**head, "lengths": lengths})["beside"]
    assert [b["size"] for b in beside] == [other]
