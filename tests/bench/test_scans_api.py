"""Scans through the API: health, mends above what uses them, alignments that everything follows, merging, practice scans."""

import io
import uuid

import numpy as np
import pytest
from django.test import Client

from bench.models import Upload
from contour.exchange.step import write_step
from contour.exchange.stl_out import write_stl
from contour.mesh.prepare import PreparedScan, mesh_of
from tests.bench.asking import bring, client_of, edited, get, post
from tests.bench.test_history_api import block, read_block, result, state  # noqa: F401

pytestmark = pytest.mark.django_db(transaction=True)


def add(client: Client, job: dict, kind: str, params: dict, status: int = 200) -> str:
    step = str(uuid.uuid4())
    edited(client, job, {"op": "add-step", "id": step, "kind": kind, "params": params}, status)
    return step


def names(client: Client, job: dict) -> list[str]:
    return [s["kind"] for s in state(client, job)["recipe"]["steps"]]


@pytest.fixture
def holed(maker, block_scan: PreparedScan, tmp_path) -> dict:
    """A job around the block's scan with one hole in its top."""
    gone = np.linalg.norm(block_scan.centroids - [30, 20, 10], axis=1) < 3
    mesh = mesh_of(block_scan).without(gone)
    write_stl(tmp_path / "holed.stl", mesh.vertices, mesh.facets)
    upload = bring(maker, (tmp_path / "holed.stl").read_bytes(), "holed.stl")
    made = post(maker, "/jobs", {"upload": upload["id"], "name": "Holed", "unit": "mm"})
    return {"id": made["id"], "scan": made["recipe"]["evidence"][0]["id"]}


def health(client: Client, job: dict) -> dict:
    return get(client, f"/jobs/{job['id']}/scans/{job['scan']}/health")


def test_health_names_the_hole_and_its_mend_closes_it(maker, holed):
    found = health(maker, holed)
    (hole,) = (d for d in found["defects"] if d["kind"] == "hole")
    (place,) = hole["places"]
    assert np.linalg.norm(np.subtract(place["point"], [30, 20, 10])) < 0.5
    assert np.dot(place["normal"], [0, 0, 1]) > 0.95
    assert place["source"]
    scan = {"scan": {"id": holed["scan"]}}
    add(maker, holed, "fill", {**scan, "which": "picked", "rims": place["source"]})
    after = result(maker, holed)
    assert after["scans"][holed["scan"]] != after["raw"][holed["scan"]]
    assert not [d for d in health(maker, holed)["defects"] if d["kind"] == "hole"]
    row = post(maker, f"/jobs/{holed['id']}/scan-moved", {"scan": holed["scan"]})
    done = get(maker, f"/jobs/{holed['id']}/scan-moved/{row['id']}")
    assert done["result"]["new_facets"] > 20
    # What was there lies where it was: only the fill lies off the raw scan, by less than a facet.
    assert 0 < done["result"]["moved_share"] < 0.05
    assert maker.get(f"/api/jobs/{holed['id']}/scan-moved/{row['id']}/view").status_code == 200


def test_a_defect_that_is_left_is_not_asked_again_and_that_can_be_undone(maker, holed):
    place = next(d for d in health(maker, holed)["defects"] if d["kind"] == "hole")["places"][0]
    edit = {"op": "leave-defect", "scan": holed["scan"], "kind": "hole", "point": place["point"]}
    edited(maker, holed, edit)
    assert [p["left"] for d in health(maker, holed)["defects"] if d["kind"] == "hole" for p in d["places"]] == [True]
    edited(maker, holed, {**edit, "left": False})
    assert not any(p["left"] for d in health(maker, holed)["defects"] for p in d["places"])


def test_a_mend_goes_above_what_is_made_from_its_scan(maker, block):  # noqa: F811
    add(maker, block, "smooth", {"scan": {"id": block["scan"]}})
    assert names(maker, block) == ["smooth", "region", "sketch", "extrude", "extrude"]
    assert [s["status"] for s in result(maker, block)["steps"]] == ["ok"] * 5


def test_everything_follows_when_the_alignment_is_edited(maker, block):  # noqa: F811
    before = result(maker, block)
    turn = add(
        maker,
        block,
        "align",
        {"scan": {"id": block["scan"]}, "by": "move", "turn_x": {"text": "90 deg"}, "shift_z": {"text": "100 mm"}},
    )
    after = result(maker, block)
    assert [s["status"] for s in after["steps"]] == ["ok"] * 5
    assert after["bodies"][0]["volume"] == pytest.approx(before["bodies"][0]["volume"], rel=1e-6)
    assert after["fit"]["figures"]["rms"] == pytest.approx(before["fit"]["figures"]["rms"], rel=1e-3)
    assert np.array(after["poses"][block["scan"]])[2, 3] == pytest.approx(100)
    region = next(s for s in after["steps"] if s["kind"] == "region")
    assert np.dot(region["facts"]["axis"], [0, -1, 0]) > 0.999
    edited(maker, block, {"op": "set-params", "step": turn, "params": {"turn_x": {"text": "0 deg"}}})
    assert (
        np.dot(next(s for s in result(maker, block)["steps"] if s["kind"] == "region")["facts"]["axis"], [0, 0, 1])
        > 0.999
    )


def test_an_alignment_may_not_slide_under_what_stands_on_the_scan(maker, block):  # noqa: F811
    step = add(maker, block, "align", {"scan": {"id": block["scan"]}, "by": "principal"})
    version = state(maker, block)["version"]
    answer = post(
        maker,
        f"/jobs/{block['id']}/edits",
        {"version": version, "edit": {"op": "move-step", "step": step, "before": None}},
        400,
    )
    assert answer["problem"]["code"] == "bad-order"
    assert names(maker, block)[0] == "align"


def test_an_alignment_is_previewed_by_its_pose(maker, block):  # noqa: F811
    edit = {
        "op": "add-step",
        "kind": "align",
        "params": {"scan": {"id": block["scan"]}, "by": "move", "shift_x": {"text": "7 mm"}},
    }
    shown = post(maker, f"/jobs/{block['id']}/preview", {"edit": edit})
    (scan,) = shown["scans"]
    assert np.array(scan["pose"])[0, 3] == pytest.approx(7)
    assert next(iter(shown["facts"].values()))["moved"] == pytest.approx(7)
    assert names(maker, block).count("align") == 0


def test_the_fit_can_be_limited_to_a_zone_and_a_reference_is_not_measured(maker, block, read_block):  # noqa: F811
    from base64 import b64encode

    path = f"/jobs/{block['id']}"
    whole = result(maker, block)["fit"]["figures"]
    top = np.flatnonzero(read_block.centroids[:, 2] > 9.7).astype("<u4")
    kept = post(maker, f"{path}/keep-picked", {"scan": block["scan"], "facets": b64encode(top.tobytes()).decode()})
    edited(maker, block, {"op": "set-scan", "id": block["scan"], "zone": kept})
    limited = result(maker, block)["fit"]["figures"]
    assert limited["points"] < 0.5 * whole["points"]
    edited(maker, block, {"op": "set-scan", "id": block["scan"], "clear_zone": True})
    assert result(maker, block)["fit"]["figures"]["points"] == whole["points"]
    edited(maker, block, {"op": "set-scan", "id": block["scan"], "role": "reference"})
    assert result(maker, block)["fit"] is None


def test_facets_with_a_name_are_found_again_on_a_mended_scan(maker, block, read_block):  # noqa: F811
    from base64 import b64decode, b64encode

    path = f"/jobs/{block['id']}"
    top = np.flatnonzero(read_block.centroids[:, 2] > 9.7).astype("<u4")
    kept = post(maker, f"{path}/keep-picked", {"scan": block["scan"], "facets": b64encode(top.tobytes()).decode()})
    part = {"part": "facets", "scan": block["scan"], "picked": kept}
    edited(maker, block, {"op": "put-set", "set": {"id": "set00000", "name": "Top", "parts": [part]}})
    again = maker.get(f"/api{path}/sets/set00000/facets?scan={block['scan']}").json()
    assert np.array_equal(np.frombuffer(b64decode(again), "<u4"), top)
    assert maker.get(f"/api{path}/sets/gone/facets?scan={block['scan']}").json() == ""


def test_a_second_scan_comes_in_from_an_upload_of_ones_own_only(maker, holed, block_stl):
    upload = bring(maker, block_stl.read_bytes(), "again.stl")
    version = state(maker, holed)["version"]
    body = {"version": version, "upload": upload["id"], "unit": "mm"}
    stranger = client_of("stranger")
    theirs = bring(stranger, block_stl.read_bytes(), "theirs.stl")
    assert (
        post(maker, f"/jobs/{holed['id']}/scans", {**body, "upload": theirs["id"]}, 404)["problem"]["code"]
        == "not-found"
    )
    added = post(maker, f"/jobs/{holed['id']}/scans", body)
    first, second = (e["id"] for e in added["recipe"]["evidence"])
    # Both lie on each other already: merging closes the hole of the one with the other.
    spots = [{"here": p, "there": p} for p in ([5.0, 5, 10], [35, 25, 10], [40, 10, 5])]
    step = add(maker, holed, "merge", {"scan": {"id": first}, "others": [{"scan": {"id": second}, "pairs": spots}]})
    now = result(maker, holed)
    assert now["merged"] == {second: first}
    assert list(now["scans"]) == [first]
    assert not [d for d in health(maker, holed)["defects"] if d["kind"] == "hole"]
    refused = post(
        maker,
        f"/jobs/{holed['id']}/edits",
        {"version": state(maker, holed)["version"], "edit": {"op": "drop-scan", "id": second}},
        400,
    )
    assert "used by steps" in refused["problem"]["message"]
    edited(maker, holed, {"op": "delete-step", "step": step})
    edited(maker, holed, {"op": "drop-scan", "id": second})
    assert len(state(maker, holed)["recipe"]["evidence"]) == 1


def test_a_scan_by_its_hash_alone_opens_nothing(maker, holed, block_stl):
    bring(client_of("stranger"), block_stl.read_bytes(), "theirs.stl")
    blob = Upload.objects.get(owner__username="stranger").blob
    scan = {"id": str(uuid.uuid4()), "name": "stolen.stl", "blob": blob, "format": "stl", "unit": "mm"}
    edit = {"version": state(maker, holed)["version"], "edit": {"op": "add-scan", "scan": scan}}
    assert post(maker, f"/jobs/{holed['id']}/edits", edit, 404)["problem"]["code"] == "not-found"


def test_the_virtual_scanner_makes_an_upload_with_the_truth_beside_it(maker, holed, drilled_block, tmp_path):
    from bench.store import store

    write_step(tmp_path / "block.step", [("block", drilled_block.shape, None)], unit="mm")
    path = f"/api/jobs/{holed['id']}/files"
    kept = maker.post(path, {"file": io.BytesIO((tmp_path / "block.step").read_bytes())}).json()
    assert maker.post(path, {"file": io.BytesIO(b"solid no step")}).status_code == 422
    body = {
        "solid": {"kind": "step", "key": kept["blob"], "name": "block"},
        "settings": {
            "spacing": 1.5,
            "table_steps": 4,
            "deep": 0.1,
            "worn": [{"centre": [30, 15, 10], "radius": 6, "depth": 0.5}],
        },
    }
    row = post(maker, f"/jobs/{holed['id']}/practice", body)
    made = get(maker, f"/jobs/{holed['id']}/practice/{row['id']}")["result"]
    assert made["faces"] == 7
    assert made["faces_seen"] == 7
    labels = np.frombuffer(store().blob(made["labels"]).read_bytes(), "<i4")
    assert len(labels) == made["facets"]
    upload = get(maker, f"/uploads/{made['upload']}")
    assert upload["facts"]["facets"] == made["facets"]
    assert upload["facts"]["size"] == pytest.approx([40, 30, 10], abs=0.3)
    body["settings"]["spacing"] = 19
    row = post(maker, f"/jobs/{holed['id']}/practice", body)
    problem = get(maker, f"/jobs/{holed['id']}/practice/{row['id']}")["problem"]
    assert problem["where"]["param"] == "spacing"
    assert "mm" in problem["need"]


def test_a_scan_lies_down_on_a_solid(maker, holed, drilled_block, tmp_path):
    write_step(tmp_path / "block.step", [("block", drilled_block.shape, None)], unit="mm")
    kept = maker.post(
        f"/api/jobs/{holed['id']}/files", {"file": io.BytesIO((tmp_path / "block.step").read_bytes())}
    ).json()
    add(
        maker,
        holed,
        "align",
        {"scan": {"id": holed["scan"]}, "by": "move", "turn_x": {"text": "70 deg"}, "turn_z": {"text": "25 deg"}},
    )
    add(maker, holed, "align", {"scan": {"id": holed["scan"]}, "by": "solid", "solid": kept})
    last = result(maker, holed)["steps"][-1]
    assert last["status"] == "ok"
    assert last["facts"]["rms_fit"] < 0.08
    assert last["facts"]["low"] == pytest.approx([0, 0, 0], abs=0.15)


def test_what_was_not_seen_is_taken_over_and_is_no_evidence(maker, holed):
    """The block is its own mirror image across y = 15: what lies about (30, 20) on its top lies about (30, 10) as well."""
    size = {"width": {"text": "40 mm"}, "depth": {"text": "30 mm"}, "height": {"text": "10 mm"}}
    add(maker, holed, "primitive", {"form": "block", **size})
    before = result(maker, holed)["fit"]["figures"]
    step = add(maker, holed, "counterpart", {"scan": {"id": holed["scan"]}})
    after = result(maker, holed)
    told = next(s for s in after["steps"] if s["id"] == step)
    assert (told["status"], told["facts"]["changed"], told["facts"]["refused"]) == ("ok", 1, 0)
    assert told["facts"]["borrowed"] == pytest.approx(np.pi * 9, rel=0.5)
    assert not [d for d in health(maker, holed)["defects"] if d["kind"] == "hole"]
    body = {"scan": after["scans"][holed["scan"]], "origin": [30, 15, 5], "normal": [1, 0, 0], "fitted": True}
    cut = post(maker, f"/jobs/{holed['id']}/section", body)
    (loop,) = cut["loops"]
    assert loop["closed"] and not loop["bridged"] and len(loop["pieces"]) == 4
    (partly,) = (p for p in loop["pieces"] if p["unseen"])
    (unseen,) = partly["unseen"]
    assert not partly["assumed"] and {round(z) for _, _, z in unseen} == {10}
    assert sorted(y for _, y, _ in (unseen[0], unseen[-1])) == pytest.approx([17, 23], abs=1.2)
    # No deviation is told of it: the scan counts as far as it was scanned.
    assert after["fit"]["figures"]["unseen_share"] == pytest.approx(before["unseen_share"], abs=0.01)
    assert after["fit"]["figures"]["unseen_share"] > 0


def test_a_filled_hole_is_measured_nowhere(maker, holed):
    size = {"width": {"text": "40 mm"}, "depth": {"text": "30 mm"}, "height": {"text": "10 mm"}}
    add(maker, holed, "primitive", {"form": "block", **size})
    before = result(maker, holed)["fit"]
    add(maker, holed, "fill", {"scan": {"id": holed["scan"]}})
    after = result(maker, holed)["fit"]
    assert after["key"] != before["key"]
    assert {k: after["figures"][k] for k in ("points", "inside_share", "unseen_share")} == pytest.approx(
        {k: before["figures"][k] for k in ("points", "inside_share", "unseen_share")}, rel=0.01
    )


def test_a_mend_stands_below_what_it_is_told_to_go_by(maker, block):  # noqa: F811
    plane = add(
        maker, block, "plane", {"by": "free", "scan": {"id": block["scan"]}, "origin": [0, 15, 0], "normal": [0, 1, 0]}
    )
    add(maker, block, "counterpart", {"scan": {"id": block["scan"]}, "plane": {"id": plane}})
    assert names(maker, block) == ["region", "sketch", "extrude", "extrude", "plane", "counterpart"]
    last = result(maker, block)["steps"][-1]
    assert (last["status"], [p["code"] for p in last["problems"]]) == ("ok", ["unchanged"])
