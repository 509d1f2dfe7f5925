"""Sections through the API: turned planes, several at once, profiles and shadows, places to cut, trade-off, pieces by hand."""

from __future__ import annotations

import base64
import uuid

import numpy as np
import pytest

from contour.check.exact_arrays import exact_arrays
from contour.simulate.scanner import ScanSettings, virtual_scan
from contour.simulate.star_outlines import entities_of
from tests.bench.asking import bring, edited, get, post, scan_id  # noqa: F401
from tests.bench.test_history_api import block, read_block, result, state  # noqa: F401
from tests.conftest import binary_stl
from tests.steps.helpers import shape_of
from tests.steps.test_revolve_step import NEW, revolve

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def plane(maker, block):  # noqa: F811
    key = result(maker, block)["scans"][block["scan"]]
    return {"scan": key, "origin": [20, 15, 5], "normal": [0, 0, 1]}


def test_a_turned_plane_cuts_where_it_lies(maker, block, plane):  # noqa: F811
    flat = post(maker, f"/jobs/{block['id']}/section", {**plane, "fitted": True})
    assert sorted(len(loop["pieces"]) for loop in flat["loops"]) == [1, 4]
    turned = post(maker, f"/jobs/{block['id']}/section", {**plane, "turn_u": 10, "fitted": True})
    assert np.degrees(np.arccos(turned["normal"][2])) == pytest.approx(10)
    points = np.frombuffer(base64.b64decode(turned["cuts"][0]["points"]), "<f4").reshape(-1, 3)
    assert np.abs((points - turned["origin"]) @ turned["normal"]).max() < 1e-4
    post(maker, f"/jobs/{block['id']}/section", {**plane, "normal": [0, 0, 0]}, 400)


def test_several_planes_and_a_fan(maker, block, plane):  # noqa: F811
    rows = post(
        maker, f"/jobs/{block['id']}/sections", {**plane, "offset": "-3 mm", "kind": "parallel", "count": 4, "step": 2}
    )
    assert [r["origin"][2] for r in rows] == pytest.approx([2, 4, 6, 8]) and all(r["cuts"] for r in rows)
    fan = {
        **plane,
        "normal": [1, 0, 0],
        "kind": "fan",
        "count": 3,
        "step": 30,
        "axis": [0, 0, 1],
        "axis_origin": [15, 15, 0],
    }
    rows = post(maker, f"/jobs/{block['id']}/sections", fan)
    assert [np.degrees(np.arctan2(r["normal"][1], r["normal"][0])) for r in rows] == pytest.approx([0, 30, 60])
    post(maker, f"/jobs/{block['id']}/sections", {**plane, "kind": "fan", "count": 3, "step": 30}, 400)


def test_places_to_cut_and_what_a_tolerance_costs(maker, block, plane):  # noqa: F811
    best, *_ = post(maker, f"/jobs/{block['id']}/where-to-cut", {k: plane[k] for k in ("scan", "origin", "normal")})
    assert best["pieces"] == 5 and best["loops"] == 2 and -4.5 < best["offset"] < 4.5
    rows = post(maker, f"/jobs/{block['id']}/outline-tradeoff", plane)
    tolerances = [r["tolerance"] for r in rows]
    assert tolerances == sorted(tolerances) and rows[0]["pieces"] >= rows[-1]["pieces"] >= 5
    assert any(r["pieces"] == 5 for r in rows)


def test_a_shadow_and_a_turned_profile_are_taken_as_sketches(maker, block, plane):  # noqa: F811
    where = f"/jobs/{block['id']}/section"
    shadow = post(maker, where, {**plane, "source": "silhouette", "fitted": True})
    assert sorted(len(loop["pieces"]) for loop in shadow["loops"]) == [1, 4]
    bore = {**plane, "source": "radial", "origin": [15, 15, 0], "fitted": True}
    profile = post(maker, where, bore)
    assert profile["runout"] < 0.2 and profile["loops"]
    radii = [p["start"][1] for loop in profile["loops"] for p in loop["pieces"] if p["kind"] == "line"]
    assert min(abs(r - 6) for r in radii) < 0.15
    post(maker, where, {**bore, "origin": [500, 500, 0]}, 422)


def test_a_turned_shaft_is_closed_along_its_axis_and_turned_into_a_solid(maker):
    """R 6 for 12 mm and R 9 for 18 mm; the profile begins and ends on the axis, where the scan has nothing."""
    corners = np.array([(0, 0), (6, 0), (6, 12), (9, 12), (9, 30), (0, 30)], float)
    solid = exact_arrays(shape_of(revolve(entities_of(corners)), NEW).shape)
    made = virtual_scan(solid, ScanSettings(spacing_mm=0.4, noise_mm=0.01, seed=3))
    facets = made.vertices[made.facets]
    job = post(maker, "/jobs", {"upload": bring(maker, binary_stl(facets))["id"], "name": "shaft", "unit": "mm"})
    wall = int(np.linalg.norm(facets.mean(axis=1) - (9.0, 20.0, 0.0), axis=1).argmin())
    ids = {name: str(uuid.uuid4()) for name in ("wall", "profile", "body")}
    region = {"scan": {"id": scan_id(job)}, "seeds": [wall]}
    done = edited(maker, job, {"op": "add-step", "id": ids["wall"], "kind": "region", "params": region})
    told = done["build"]["result"]
    axis = told["steps"][0]["facts"]
    assert axis["kind"] == "cylinder"
    plane = {"scan": told["scans"][scan_id(job)], "origin": axis["origin"], "normal": axis["axis"]}
    found = post(maker, f"/jobs/{job['id']}/section", {**plane, "source": "radial", "fitted": True})
    (loop,) = found["loops"]
    assert loop["closed"] and loop["bridged"]
    assert [p["kind"] for p in loop["pieces"] if p["assumed"]] == ["line"]
    kept = ("kind", "start", "end", "mid", "points", "assumed")
    pieces = [{k: p[k] for k in kept} | {"id": f"e{k}"} for k, p in enumerate(loop["pieces"], 1)]
    loops = [{"closed": True, "bridged": True, "pieces": pieces}]
    take = {"act": "take", "loops": loops, "within": found["tolerance"]}
    drawn = post(maker, f"/jobs/{job['id']}/drawing", {"acts": [take]})["drawing"]
    frame = {"scan": region["scan"], "source": "radial", "axis": {"id": ids["wall"]}}
    frame |= {k: found[k] for k in ("origin", "u_axis", "pose")}
    turn = {"sketch": {"id": ids["profile"]}, "axis": {"id": ids["wall"]}}
    steps = [
        {"op": "add-step", "id": ids["profile"], "kind": "sketch", "params": frame | drawn},
        {"op": "add-step", "id": ids["body"], "kind": "revolve", "params": turn},
    ]
    done = edited(maker, job, {"op": "add-steps", "steps": steps})["build"]["result"]
    assert [s["status"] for s in done["steps"]] == ["ok"] * 3, done["steps"]
    assert done["steps"][1]["facts"]["assumed"] == pytest.approx(30, abs=1)
    assert done["bodies"][0]["volume"] == pytest.approx(np.pi * (36 * 12 + 81 * 18), rel=3e-3)


def test_pieces_changed_by_hand_are_fitted_as_they_are_said(maker, block, plane):  # noqa: F811
    where = f"/jobs/{block['id']}/section"
    found = post(maker, where, {**plane, "fitted": True})
    loops = [
        {
            "closed": loop["closed"],
            "pieces": [
                {
                    "id": f"e{10 * i + j + 1}",
                    "kind": p["kind"],
                    "start": p["start"],
                    "end": p["end"],
                    "mid": p["mid"],
                    "points": p["points"],
                }
                for j, p in enumerate(loop["pieces"])
            ],
        }
        for i, loop in enumerate(found["loops"])
    ]
    square = next(loop for loop in loops if len(loop["pieces"]) == 4)
    a = square["pieces"][0]
    middle = [(a["start"][k] + a["end"][k]) / 2 for k in range(2)]
    square["pieces"][0:1] = [{**a, "end": middle}, {**a, "id": "e99", "start": middle}]
    again = post(maker, where, {**plane, "fitted": True, "loops": loops})
    assert sorted(len(loop["pieces"]) for loop in again["loops"]) == [1, 5]
    assert sorted(lo["area"] for lo in again["loops"]) == pytest.approx(
        sorted(lo["area"] for lo in found["loops"]), rel=0.01
    )
    square["pieces"] = [{**square["pieces"][0], "start": [900, 900], "end": [950, 900]}]
    answer = post(maker, where, {**plane, "fitted": True, "loops": loops}, 422)
    assert answer["problem"]["code"] == "outline-changed" and answer["problem"]["where"]["entity"]


def test_a_spot_outlasts_the_view(maker, block, plane):  # noqa: F811
    spot = post(maker, f"/jobs/{block['id']}/spot", {"scan": plane["scan"], "facet": 3, "point": [0, 0, 0]})
    assert sum(spot["weights"]) == pytest.approx(1) and spot["facet"] >= 0
    params = {"by": "scan", "scan": {"id": block["scan"]}, "spot": spot}
    edited(maker, block, {"op": "add-step", "kind": "point", "name": "Spot", "params": params})
    made = next(s for s in result(maker, block)["steps"] if s["name"] == "Spot")
    assert made["status"] == "ok" and made["facts"]["u"] > 0
    wall = {"what": "thickness", "scan": {"id": block["scan"]}, "first_spot": spot}
    edited(maker, block, {"op": "add-step", "kind": "measurement", "name": "Wall", "params": wall})
    made = next(s for s in result(maker, block)["steps"] if s["name"] == "Wall")
    assert made["status"] == "ok" and made["facts"]["thickness"] > 1 and made["values"]["thickness"]["mark"] == "scan"
    post(maker, f"/jobs/{block['id']}/spot", {"scan": plane["scan"], "facet": 10**8, "point": [0, 0, 0]}, 404)


def test_what_nearly_holds_is_put_right_at_a_cost_that_is_told(maker, block, plane):  # noqa: F811
    found = post(maker, f"/jobs/{block['id']}/section", {**plane, "turn_u": 1.2, "turn_v": 0.7, "fitted": True})
    loop = max(found["loops"], key=lambda x: len(x["pieces"]))
    pieces = [
        {
            "id": f"e{j + 1}",
            "kind": p["kind"],
            "start": p["start"],
            "end": p["end"],
            "mid": p["mid"],
            "points": p["points"],
        }
        for j, p in enumerate(loop["pieces"])
    ]
    # A corner pulled aside by hand: what the lines were by themselves is fitted again, what is asked for is held.
    loops = [{"closed": True, "pieces": pieces, "relations": [{"kind": "parallel", "first": "e1", "second": "e3"}]}]
    where = {**plane, "turn_u": 1.2, "turn_v": 0.7}
    made = post(maker, f"/jobs/{block['id']}/section", {**where, "fitted": True, "loops": loops})["loops"][0]["pieces"]

    def angle(p):
        return np.degrees(np.arctan2(p["end"][1] - p["start"][1], p["end"][0] - p["start"][0])) % 180

    assert abs(angle(made[0]) - angle(made[2])) == pytest.approx(0, abs=1e-6)
    rows = post(maker, f"/jobs/{block['id']}/outline-relations", {**where, "loops": loops})
    assert all(r["rms_held"] is None or r["rms_held"] >= 0 for r in rows)
    wrong = [{**loops[0], "relations": [{"kind": "concentric", "first": "e1", "second": "e2"}]}]
    answer = post(maker, f"/jobs/{block['id']}/section", {**where, "fitted": True, "loops": wrong}, 422)
    assert answer["problem"]["code"] == "degenerate"


def test_a_plane_in_a_face_is_told_at_once_with_where_it_is_not(maker, job):
    """Typing the plate's own thickness ended in a 500 after 12 s."""
    body = {"scan": scan_id(job), "origin": [20, 5, 0], "normal": [0, 0, 1], "offset": "10 mm", "fitted": True}
    told = post(maker, f"/jobs/{job['id']}/section", body)
    assert told["along"]["area"] > 600 and told["along"]["above"] is None
    clean = post(maker, f"/jobs/{job['id']}/section", {**body, "offset": f"{told['along']['below']} mm"})
    assert clean["along"] is None and [lo["explained"] for lo in clean["loops"]] == [True, True]
    assert post(maker, f"/jobs/{job['id']}/outline-tradeoff", body) is not None
    assert post(maker, f"/jobs/{job['id']}/outline-relations", {**body, "loops": []}) == []


@pytest.fixture
def gappy(maker, block_scan):
    """The block with a hole in one of its walls, and one over a corner."""
    keep = np.ones(len(block_scan.facets), bool)
    for place, radius in (((30.0, 0.0, 5.0), 4.0), ((40.0, 30.0, 5.0), 3.5)):
        keep &= np.linalg.norm(block_scan.centroids - np.array(place), axis=1) > radius
    upload = bring(maker, binary_stl(block_scan.vertices[block_scan.facets[keep]]), "gappy.stl")
    job = post(maker, "/jobs", {"upload": upload["id"], "name": "Gappy", "unit": "mm"})
    return job, {"scan": scan_id(job), "origin": [20, 15, 5], "normal": [0, 0, 1], "fitted": True}


def test_gaps_are_bridged_told_and_changed_one_by_one(maker, gappy):
    job, plane = gappy
    ask = f"/jobs/{job['id']}/section"
    told = post(maker, ask, plane)
    assert all(loop["closed"] for loop in told["loops"]) and [len(lo["pieces"]) for lo in told["loops"]] == [4, 1]
    assert sorted(g["how"] for g in told["gaps"]) == ["meet", "one piece"]
    outer = told["loops"][0]
    assert outer["bridged"] and not any(p["assumed"] for p in outer["pieces"])
    (through,) = (g for g in told["gaps"] if g["how"] == "one piece")
    assert through["middle"] == pytest.approx([30, 0, 5], abs=0.6) and through["length"] == pytest.approx(8, abs=1)
    dark = [p for p in outer["pieces"] if p["unseen"]]
    assert len(dark) == 3 and all(len(p["seen"]) >= 1 for p in dark)
    near = [(a + b) / 2 for a, b in zip(through["start"], through["end"], strict=True)]
    opened = post(maker, ask, {**plane, "wishes": [{"near": near, "how": "open"}]})
    # A loop with one gap left is not closed, and nothing of it is assumed.
    assert [lo["closed"] for lo in opened["loops"] if lo["bridged"] or len(lo["pieces"]) > 1] == [False, False]
    lined = post(maker, ask, {**plane, "wishes": [{"near": near, "how": "line"}]})
    assert {g["how"] for g in lined["gaps"]} == {"line", "meet"}
    plain = post(maker, ask, {**plane, "bridge": False})
    assert plain["gaps"] == [] and not all(loop["closed"] for loop in plain["loops"])
