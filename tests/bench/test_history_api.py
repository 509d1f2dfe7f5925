"""Values, seating, checkpoints and a second person, through the API; children are real."""

import base64
import io
import json
import re
import uuid

import numpy as np
import pytest
from django.contrib.auth import get_user_model
from django.test import Client

from bench.models import Task
from contour.exchange.scanfile import read_scan
from contour.job.work.standby import ask_standby
from contour.mesh.health import inspect_scan
from contour.mesh.prepare import PreparedScan, prepare_scan
from tests.bench.asking import client_of, edited, get, post
from tests.conftest import facet_near
from tests.steps.test_sketch_on_scan import section_params

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture(scope="module")
def read_block(block_stl) -> PreparedScan:
    """The scan as the server prepares it, facet numbers and all."""
    return prepare_scan(read_scan(block_stl), 1.0)


def onto(body: str) -> dict:
    return {"operation": "add", "bodies": [{"id": body}]}


@pytest.fixture
def block(maker, job, read_block) -> dict:
    """Top, outline, upper and lower half, as a browser would make them."""
    scan = job["recipe"]["evidence"][0]["id"]
    ids = {n: str(uuid.uuid4()) for n in ("top", "outline", "upper", "lower")}
    top = int(read_block.source_facet[facet_near(read_block, (30, 5, 10))])

    over_top = {**section_params(read_block), "scan": {"id": scan}, "plane": {"id": ids["top"]}}
    below = {"text": "-5 mm"}
    made = {
        "top": ("region", {"scan": {"id": scan}, "seeds": [top]}),
        "outline": ("sketch", over_top),
        "upper": ("extrude", {"sketch": {"id": ids["outline"]}, "distance": {"text": "4 mm"}}),
        "lower": ("extrude", {"sketch": {"id": ids["outline"]}, "distance": below, **onto(ids["upper"])}),
    }
    steps = [
        {"op": "add-step", "id": ids[name], "kind": kind, "name": name.title(), "params": params}
        for name, (kind, params) in made.items()
    ]
    edited(maker, job, {"op": "add-steps", "steps": steps})
    now = get(maker, f"/jobs/{job['id']}")
    assert [s["status"] for s in now["build"]["result"]["steps"]] == ["ok"] * 4, now["build"]
    return {"id": job["id"], "scan": scan, **ids}


def state(client: Client, block: dict) -> dict:
    return get(client, f"/jobs/{block['id']}")


def result(client: Client, block: dict) -> dict:
    return state(client, block)["build"]["result"]


def face_of(client: Client, block: dict, part: str) -> dict:
    (body,) = result(client, block)["bodies"]
    rows = get(client, f"/jobs/{block['id']}/products/{body['key']}/faces")
    return next(f for f in rows if part in f["name"])


def face_ref(block: dict, face: dict) -> dict:
    return {
        "body": block["upper"],
        "name": face["name"],
        "kind": face["kind"],
        "beside": face["beside"],
        "place": face["centre"],
    }


def test_a_reading_drives_a_size(maker, block):
    reading = {
        "op": "set-reading",
        "id": str(uuid.uuid4()),
        "name": "block_t",
        "takes": [{"value": 10.02}, {"value": 9.98}],
    }
    edited(maker, block, reading)
    edited(
        maker,
        block,
        {"op": "set-params", "step": block["lower"], "params": {"distance": {"text": "upper.distance - block_t"}}},
    )
    now = state(maker, block)
    step = next(s for s in now["build"]["result"]["steps"] if s["id"] == block["lower"])
    assert step["values"]["distance"]["value"] == pytest.approx(-6.0)
    assert step["values"]["distance"]["mark"] == "assumed"
    (facts,) = now["readings"].values()
    assert facts["mean"] == pytest.approx(10.0)
    assert facts["u"] == pytest.approx(0.02)
    uses = get(maker, f"/jobs/{block['id']}/uses")
    assert {"name": "block_t", "step": block["lower"], "place": "distance"} in uses


def test_candidates_come_from_scan_reading_and_rounding(maker, block):
    edited(
        maker,
        block,
        {"op": "set-reading", "id": str(uuid.uuid4()), "name": "half", "takes": [{"value": 4.03}, {"value": 4.05}]},
    )
    params = {"sketch": {"id": block["outline"]}, "distance": {"text": "4 mm"}}
    ask = {"kind": "extrude", "params": params, "place": "distance", "text": "4 mm", "own": block["upper"]}
    found = post(maker, f"/jobs/{block['id']}/candidates", ask)
    assert found["value"] == pytest.approx(4)
    by_mark = {c["mark"]: c for c in found["candidates"]}
    # The outline lies 4 below the scanned top (offset -6 of a block of 10 would say 6: the region is the judge).
    assert by_mark["scan"]["label"] == "to Top"
    assert by_mark["scan"]["u"] < 0.02
    assert by_mark["caliper"]["text"] == "half"
    assert by_mark["intent"]["text"] == "4 mm"
    trouble = post(maker, f"/jobs/{block['id']}/candidates", {**ask, "text": "nothing + 1"})
    assert trouble["value"] is None
    assert trouble["problem"]["code"] == "unknown-name"


def test_a_preview_gives_geometry_and_keeps_nothing(maker, block):
    before = state(maker, block)
    edit = {"op": "set-params", "step": block["lower"], "params": {"distance": {"text": "-6 mm"}}}
    found = post(maker, f"/jobs/{block['id']}/preview", {"edit": edit})
    (body,) = found["bodies"]
    assert base64.b64decode(body["view"])[:4] == b"UCV1"
    assert body["fresh"] == []  # nothing of it comes of a step that is not in the job yet
    assert found["ran"] == [block["lower"]]
    assert found["problems"] == []
    after = state(maker, block)
    assert after["revision"] == before["revision"]
    post(maker, f"/jobs/{block['id']}/preview", {"edit": {**edit, "params": {"distance": {"text": "rubbish"}}}}, 400)
    same = post(
        maker, f"/jobs/{block['id']}/preview", {"edit": {"op": "note-step", "step": block["lower"], "note": "x"}}
    )
    assert same["bodies"][0]["view"] is None


def test_the_fit_of_a_preview_comes_when_it_is_asked_for_and_keeps_no_picture_waiting(maker, block, monkeypatch):
    """From another child than the picture's: what takes long there is not what the next key waits for."""
    asked = []

    def noted(child, task, payload, **more):
        asked.append(child)
        return ask_standby(child, task, payload, **more)

    monkeypatch.setattr("bench.api.proposals.ask_standby", noted)
    edit = {"op": "set-params", "step": block["lower"], "params": {"distance": {"text": "-5.5 mm"}}}
    path = f"/jobs/{block['id']}/preview"
    picture = post(maker, path, {"edit": edit})
    fitted = post(maker, path, {"edit": edit, "with_fit": True})
    assert picture["fit"] is None and fitted["fit"]["sampled"]
    assert len(asked) == 2 and asked[0] != asked[1]
    # Of an edit that moves nothing it is the one that the job has by its sample.
    same = post(maker, path, {"edit": {"op": "note-step", "step": block["lower"], "note": "x"}, "with_fit": True})
    last = list(result(maker, block)["fit"]["by_step"].values())[-1]["inside_share"]
    assert same["fit"]["inside_share"] == pytest.approx(last, abs=1e-12)
    assert fitted["fit"]["inside_share"] != pytest.approx(last, abs=1e-3)


def test_a_preview_tells_the_faces_of_the_step_that_is_prepared(maker, block):
    """The outline extruded once more, as a body of its own: all of its faces are new, and none of the other bodies' are."""
    params = {"sketch": {"id": block["outline"]}, "distance": {"text": "4 mm"}, "operation": "new"}
    edit = {"op": "add-step", "kind": "extrude", "params": params}
    found = post(maker, f"/jobs/{block['id']}/preview", {"edit": edit})
    assert found["problems"] == []
    fresh = {b["id"]: b["fresh"] for b in found["bodies"]}
    known = {b["id"] for b in state(maker, block)["build"]["result"]["bodies"]}
    (made,) = set(fresh) - known
    assert all(fresh[b] == [] for b in known)
    assert fresh[made] == list(range(len(fresh[made]))) and len(fresh[made]) >= 6
    again = post(maker, f"/jobs/{block['id']}/preview", {"edit": {**edit, "id": str(uuid.uuid4())}})
    assert [b["fresh"] for b in again["bodies"]] == list(fresh.values())


def test_seats_are_proposed_and_kept(maker, block):
    row = post(maker, f"/jobs/{block['id']}/seats", {"body": block["upper"], "tilt": "3 deg"})
    found = get(maker, f"/jobs/{block['id']}/seats/{row['id']}")["result"]["pairs"]
    assert len(found) == 7
    bottom = face_of(maker, block, ".end[")
    pairs = [{"face": {"body": block["upper"], "name": p["face"]}, "seeds": [p["seed"]]} for p in found]
    params = {"scan": {"id": block["scan"]}, "body": {"id": block["upper"]}, "pairs": pairs}
    edited(maker, block, {"op": "add-step", "kind": "seat", "params": params})
    last = result(maker, block)["steps"][-1]
    assert (last["status"], last["facts"]["seated"], last["facts"]["unseated"]) == ("ok", 7, [])
    assert bottom["kind"] == "plane"
    fits = result(maker, block)["fit"]["by_step"]
    assert fits[last["id"]]["change"] > 0.1  # the block was a millimetre too thin


def test_a_lost_reference_is_repaired_in_place(maker, block):
    top = face_of(maker, block, f"{block['upper'][:8]}.end[")
    params = {"body": {"id": block["upper"]}, "face": face_ref(block, top), "offset": {"text": "-2 mm"}}
    edited(maker, block, {"op": "add-step", "kind": "cut", "params": params})
    cut = result(maker, block)["steps"][-1]
    assert cut["status"] == "ok"
    lost = {**face_ref(block, top), "name": "gone0000.end[e1]"}
    edited(maker, block, {"op": "set-params", "step": cut["id"], "params": {"face": lost}})
    broken = result(maker, block)["steps"][-1]
    assert broken["status"] == "failed"
    assert broken["problems"][0]["code"] == "ref-lost"
    assert broken["problems"][0]["where"]["param"] == "face"
    offer = get(maker, f"/jobs/{block['id']}/steps/{cut['id']}/repair?place=face")
    assert offer["place"] == pytest.approx(top["centre"])
    assert offer["parts"][0]["name"] == top["name"]  # the same kind at the old place comes first
    edited(maker, block, {"op": "set-params", "step": cut["id"], "params": {"face": face_ref(block, top)}})
    assert result(maker, block)["steps"][-1]["status"] == "ok"
    steps = get(maker, f"/jobs/{block['id']}/steps/{block['lower']}/repair?place=sketch")
    assert [s["name"] for s in steps["steps"]] == ["Outline"]
    get(maker, f"/jobs/{block['id']}/steps/{block['lower']}/repair?place=nothing", 404)


def test_dependents_are_told_before_a_step_goes(maker, block):
    rows = get(maker, f"/jobs/{block['id']}/steps/{block['outline']}/dependents")
    assert [r["name"] for r in rows] == ["Upper", "Lower"]
    edited(maker, block, {"op": "delete-step", "step": block["outline"], "with_dependents": True})
    assert [s["name"] for s in state(maker, block)["recipe"]["steps"]] == ["Top"]


def test_variants_are_built_side_by_side_and_one_is_taken(maker, block):
    path = f"/jobs/{block['id']}"
    assert post(maker, f"{path}/variants", {}, 404)["problem"]["code"] == "not-found"
    settings = {
        "thick": [{"of": block["upper"], "place": "distance", "value": {"text": "5 mm"}}],
        "gone": [{"of": block["upper"], "place": "distance", "value": {"text": "0 mm"}}],
    }
    for name, said in settings.items():
        edited(maker, block, {"op": "put-variant", "id": str(uuid.uuid4()), "name": name, "settings": said})
    task = post(maker, f"{path}/variants", {})
    now, thick, gone = get(maker, f"{path}/variants/{task['id']}")["result"]["columns"]
    assert [c["name"] for c in (now, thick, gone)] == ["as it stands", "thick", "gone"]
    place = f"{block['upper']}/distance"
    assert [c["values"][place]["value"] for c in (now, thick)] == [4, 5] and now["id"] == ""
    # A prism of one more millimetre of the block's outline; the scan is 10 mm high and ends where the 4 and the 5 mm lie.
    per_mm = now["volume"] / 9
    assert thick["volume"] == pytest.approx(10 * per_mm, rel=1e-9) and (thick["bodies"], thick["closed"]) == (1, 1)
    assert thick["fit"]["inside_share"] != now["fit"]["inside_share"] and thick["fit"]["rms"] > 0
    assert [x["step"] for x in gone["lost"]] == [block["upper"], block["lower"]] and gone["bodies"] == 0
    moved = post(maker, f"{path}/compare", {"variant": thick["id"]})
    assert [(c["what"], c["before"], c["after"]) for c in moved["changes"]] == [("Upper", "4 mm", "5 mm")]
    assert get(maker, f"{path}/compare/{moved['task']['id']}")["result"]["moved"]["largest"] == pytest.approx(
        1, abs=1e-4
    )
    edited(maker, block, {"op": "take-variant", "id": thick["id"]})
    assert result(maker, block)["bodies"][0]["volume"] == pytest.approx(thick["volume"], rel=1e-12)
    assert post(maker, f"{path}/compare", {"variant": "nobody"}, 404)["problem"]["code"] == "not-found"


def test_checkpoints_compare_return_and_begin_a_job(maker, block):
    path = f"/jobs/{block['id']}"
    (first,) = post(maker, f"{path}/checkpoints", {"name": "thin"})
    assert first["current"]
    edited(maker, block, {"op": "set-params", "step": block["lower"], "params": {"distance": {"text": "-6 mm"}}})
    assert get(maker, f"{path}/checkpoints")[0]["current"] is False
    compared = post(maker, f"{path}/compare", {"before": first["id"], "after": None})
    assert [(c["what"], c["field"], c["before"], c["after"]) for c in compared["changes"]] == [
        ("Lower", "distance", "-5 mm", "-6 mm")
    ]
    task = get(maker, f"{path}/compare/{compared['task']['id']}")
    moved = task["result"]["moved"]
    assert moved["largest"] == pytest.approx(1.0, abs=1e-3)
    volumes = task["result"]["volumes"]
    assert volumes[1] - volumes[0] == pytest.approx(1200 - np.pi * 36, rel=0.01)
    view = maker.get(f"/api{path}/compare/{compared['task']['id']}/view")
    assert b"".join(view.streaming_content)[:4] == b"UCV1"
    version = state(maker, block)["version"]
    back = post(maker, f"{path}/return", {"version": version, "checkpoint": first["id"]})
    assert back["recipe"]["steps"][-1]["params"]["distance"]["text"] == "-5 mm"
    assert back["undo"] == "return to thin"
    post(maker, f"{path}/return", {"version": back["version"], "checkpoint": first["id"]}, 409)
    undone = post(maker, f"{path}/head", {"version": back["version"], "direction": "undo"})
    assert undone["recipe"]["steps"][-1]["params"]["distance"]["text"] == "-6 mm"
    copy = post(maker, f"{path}/duplicate", {"checkpoint": first["id"]})
    assert copy["recipe"]["name"] == "Test block (copy)"
    assert copy["id"] != block["id"]
    assert [s["status"] for s in get(maker, f"/jobs/{copy['id']}")["build"]["result"]["steps"]] == ["ok"] * 4
    gone = maker.delete(f"/api{path}/checkpoints/{first['id']}")
    assert gone.json() == []


def test_undo_and_redo_go_on_after_signing_in_again(maker, block):
    edited(maker, block, {"op": "set-params", "step": block["lower"], "params": {"distance": {"text": "-6 mm"}}})
    later = Client()
    later.force_login(get_user_model().objects.get(username="maker"))
    now = state(later, block)
    undone = post(later, f"/jobs/{block['id']}/head", {"version": now["version"], "direction": "undo"})
    assert undone["recipe"]["steps"][-1]["params"]["distance"]["text"] == "-5 mm"
    assert undone["redo"] == "change Lower"
    redone = post(later, f"/jobs/{block['id']}/head", {"version": undone["version"], "direction": "redo"})
    assert redone["recipe"] == now["recipe"]


def test_the_same_job_open_twice_refuses_the_stale_edit_and_keeps_both_ways_open(maker, block):
    version = state(maker, block)["version"]
    edit = {"op": "rename-step", "step": block["lower"], "name": "Underside"}
    post(maker, f"/jobs/{block['id']}/edits", {"version": version, "edit": edit})
    stale = {"op": "note-step", "step": block["lower"], "note": "mine"}
    answer = post(maker, f"/jobs/{block['id']}/edits", {"version": version, "edit": stale}, 409)
    assert answer["problem"]["code"] == "stale-revision"
    assert "newer state" in answer["problem"]["remedy"]
    again = post(maker, f"/jobs/{block['id']}/edits", {"version": version + 1, "edit": stale})
    last = again["recipe"]["steps"][-1]
    assert (last["name"], last["note"]) == ("Underside", "mine")


def test_facets_by_hand_become_a_region(maker, block, read_block):
    top = np.flatnonzero((read_block.centroids[:, 2] > 9.8) & (read_block.normals[:, 2] > 0.9)).astype("<u4")
    packed = base64.b64encode(top.tobytes()).decode()
    body = {"scan": block["scan"], "facets": packed, "surface": "auto"}
    seen = post(maker, f"/jobs/{block['id']}/picked", body)
    assert seen["surface"]["kind"] == "plane"
    assert seen["count"] == len(top)
    kept = post(maker, f"/jobs/{block['id']}/keep-picked", body)
    assert kept["count"] == len(top)
    edited(
        maker, block, {"op": "add-step", "kind": "region", "params": {"scan": {"id": block["scan"]}, "picked": kept}}
    )
    last = result(maker, block)["steps"][-1]
    assert (last["status"], last["facts"]["facets"]) == ("ok", len(top))
    assert abs(last["facts"]["origin"][2] - 10) < 0.02
    at = get(maker, f"/jobs/{block['id']}/regions-at?scan={block['scan']}&facet={int(top[0])}")
    assert last["id"] in at
    post(maker, f"/jobs/{block['id']}/picked", {**body, "facets": "AAA"}, 400)
    post(maker, f"/jobs/{block['id']}/picked", {**body, "facets": ""}, 422)


def test_probes_are_pinned_and_measured(maker, block, read_block):
    facet = facet_near(read_block, (30, 8, 0))
    point = read_block.centroids[facet].tolist()
    probe = {
        "id": "p1",
        "name": "Under",
        "scan": block["scan"],
        "facet": int(read_block.source_facet[facet]),
        "point": point,
    }
    edited(maker, block, {"op": "pin-probe", "probe": probe})
    value = result(maker, block)["fit"]["probes"]["p1"]
    assert value == pytest.approx(1.0, abs=0.1)  # a block of 9 on a scan of 10


@pytest.mark.parametrize("unit", ["mm", "inch"])
def test_every_mesh_format_leaves_in_the_chosen_unit(maker, block, tmp_path, unit):
    for kind in ("obj", "stl", "ply", "3mf"):
        row = post(maker, f"/jobs/{block['id']}/deliveries", {"kind": kind, "unit": unit})
        done = get(maker, f"/jobs/{block['id']}/deliveries/{row['id']}")
        assert done["status"] == "done", done
        data = b"".join(maker.get(f"/api/jobs/{block['id']}/deliveries/{row['id']}/file").streaming_content)
        path = tmp_path / f"out.{kind}"
        path.write_bytes(data)
        facts = inspect_scan(read_scan(path), 1.0)
        assert facts.closed
        k = 25.4 if unit == "inch" else 1.0
        assert sorted(s * k for s in facts.size) == pytest.approx([9, 30, 40], abs=0.1)


def _routes() -> list[tuple[str, str]]:
    from bench.api import api

    paths = api.get_openapi_schema()["paths"]
    return [(m.upper(), p) for p, ops in paths.items() for m in ops if "{job_id}" in p]


def test_a_second_person_sees_nothing_by_any_address(maker, block):
    """Every address of the schema that leads to a job, asked by somebody else with the owner's own ids."""
    other = client_of("other")
    row = post(maker, f"/jobs/{block['id']}/deliveries", {"kind": "stl"})
    (checkpoint,) = post(maker, f"/jobs/{block['id']}/checkpoints", {"name": "mine"})
    (body,) = result(maker, block)["bodies"]
    known = {
        "job_id": block["id"],
        "task_id": row["id"],
        "checkpoint": checkpoint["id"],
        "key": body["key"],
        "step": block["lower"],
        "kind": "dxf",
        "scan_id": block["scan"],
        "picture_id": "p",
        "mark_id": "m",
        "set_id": "s",
    }
    line = {"version": 1, "points": [[0, 0], [9, 9]]}
    asked = 0
    for method, path in _routes():
        url = re.sub(r"\{(\w+)\}", lambda m: str(known[m.group(1)]), path)
        if (
            "products" in url
            or "regions-at" in url
            or "repair" in url
            or "/sets/" in url
            or (method == "GET" and url.endswith(("/regions", "/noise")))
        ):
            url += f"?scan={block['scan']}&facet=0&place=sketch"
        sheet = {"step": block["outline"], "origin": [0, 0, 0], "u_axis": [1, 0, 0], "normal": [0, 0, 1]}
        bodies = {
            "edits": {"version": 1, "edit": {"op": "delete-step", "step": block["lower"]}},
            "head": {"version": 1, "direction": "undo"},
            "return": {"version": 1, "checkpoint": checkpoint["id"]},
            "grow": {"scan": block["scan"], "seeds": [0]},
            "brush": {"scan": block["scan"], "facet": 0, "radius_mm": 3},
            "section": {"scan": block["scan"], "origin": [0, 0, 0], "normal": [0, 0, 1]},
            "probe": {"fit": body["key"], "facet": 0, "point": [0, 0, 0]},
            "picked": {"scan": block["scan"], "facets": "AAAAAA=="},
            "keep-picked": {"scan": block["scan"], "facets": "AAAAAA=="},
            "deliveries": {"kind": "step"},
            "checkpoints": {"name": "theirs"},
            "seats": {"body": block["upper"]},
            "mouth": {"region": block["top"], "bodies": {block["upper"]: body["key"]}},
            "regions": {"scan": block["scan"]},
            "keep": {"version": 1, "evidence": block["scan"], "regions": [0]},
            "drag": {"point": "p1", "to": [0, 0]},
            "linkable": {**sheet, "source": block["upper"], "way": "edge"},
            "fit": {**sheet, "drawing": {}, "scan": block["scan"]},
            "under": {"drawing": {}},
            "lay": {"drawing": {}, "under": {"picture": "p", "px": [0, 0], "at": [0, 0]}},
            "sections": {
                "scan": block["scan"],
                "origin": [0, 0, 0],
                "normal": [0, 0, 1],
                "kind": "parallel",
                "count": 2,
                "step": 1,
            },
            "outline-relations": {"scan": block["scan"], "origin": [0, 0, 0], "normal": [0, 0, 1], "loops": []},
            "outline-tradeoff": {"scan": block["scan"], "origin": [0, 0, 0], "normal": [0, 0, 1]},
            "where-to-cut": {"scan": block["scan"], "origin": [0, 0, 0], "normal": [0, 0, 1]},
            "spot": {"scan": block["scan"], "facet": 0, "point": [0, 0, 0]},
            "accept": {"version": 1, "evidence": block["scan"], "proposals": [0]},
            "reject": {"proposals": [0]},
            "regions-by-hand": {
                "version": 1,
                "evidence": block["scan"],
                "scan": block["scan"],
                "op": "rings",
                "regions": ["a"],
            },
            "scans": {"version": 1, "upload": block["id"], "unit": "mm"},
            "solids": {"version": 1, "upload": block["id"]},
            "scan-moved": {"scan": block["scan"]},
            "practice": {"solid": {"kind": "body", "key": body["key"]}, "settings": {}},
            "threads": {"diameter": "a", "pitch": "b"},
            "made-again": [{"reading": "a", "model": 1}],
            "collect": {"version": 1, "reading": "a"},
            "simulated": {"state": {}, "press": "send"},
            "snap": {"kind": "ends", **line},
            "marks": {"id": "m", "kind": "distance", **line},
            "known": {"version": 1, "which": "scale", "a": [0, 0], "b": [9, 9], "length": {"text": "9 mm"}},
            "reading": {"version": 1, "name": "theirs"},
            "dimension": {"version": 1, "name": "theirs", "at": [0, 0], "value": 1},
            "silhouette": {"version": 1, "scan": block["scan"]},
            "pin": {"version": 1, "reading": "a", "at": [0, 0]},
            "flat.dxf": {"scan": block["scan"], "origin": [0, 0, 0], "normal": [0, 0, 1]},
            "preview": {"edit": {"op": "delete-step", "step": block["lower"]}},
        }
        data = json.dumps(bodies.get(url.rsplit("/", 1)[-1], {}))
        if url.endswith(("/files", "/flat-file")):
            answer = other.post(url, {"file": io.BytesIO(b"ISO-10303-21;")})
        elif method == "POST" and url.endswith(("/readings.csv", "/pictures", "/blank")):
            answer = other.post(f"{url}?version=1", {"file": io.BytesIO(b"name,value,unit")})
        else:
            answer = other.generic(method, url, data, content_type="application/json")
        assert answer.status_code == 404, (method, url, answer.status_code, answer.content[:200])
        asked += 1
    assert asked > 25
    assert Task.objects.filter(owner__username="other").count() == 0
    assert get(other, "/jobs") == []
    assert [s["name"] for s in state(maker, block)["recipe"]["steps"]] == ["Top", "Outline", "Upper", "Lower"]
