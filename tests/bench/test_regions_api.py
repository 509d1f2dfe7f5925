"""The regions of a whole scan through the API: found, coloured by their labels, kept as steps in one edit, stopped."""

from __future__ import annotations

import base64

import numpy as np
import pytest

from bench.models import Task
from contour.exchange.stl_out import write_stl
from tests.bench.asking import bring, edited, get, post
from tests.bench.test_history_api import block, read_block, result, state  # noqa: F401
from tests.fit.test_thread import HOLE
from tests.fit.threaded import scan_of

pytestmark = pytest.mark.django_db(transaction=True)


def find(client, job_id: str, scan: str, **more: object) -> dict:
    row = post(client, f"/jobs/{job_id}/regions", {"scan": scan, **more})
    return get(client, f"/jobs/{job_id}/regions/{row['id']}")


def test_regions_are_found_and_kept_as_steps_in_one_edit(maker, block):  # noqa: F811
    key = result(maker, block)["scans"][block["scan"]]
    row = find(maker, block["id"], key)
    assert row["status"] == "done", row["problem"]
    rows = row["result"]["regions"]
    kinds = [r["kind"] for r in rows]
    assert kinds.count("plane") >= 6 and "cylinder" in kinds
    assert {p["kind"] for p in row["result"]["proposals"]} >= {"parallel", "perpendicular"}
    answer = maker.get(f"/api/jobs/{block['id']}/regions/{row['id']}/labels")
    labels = np.frombuffer(b"".join(answer.streaming_content), "<i4")
    assert [int((labels == r["id"]).sum()) for r in rows] == [r["facets"] for r in rows]
    before = state(maker, block)
    bore = kinds.index("cylinder")
    body = {"version": before["version"], "evidence": block["scan"], "regions": [0, bore], "names": ["Base", "Eye"]}
    post(maker, f"/jobs/{block['id']}/regions/{row['id']}/keep", body)
    after = state(maker, block)
    assert [s["name"] for s in after["recipe"]["steps"]][-2:] == ["Base", "Eye"]
    made = {s["name"]: s for s in result(maker, block)["steps"]}
    assert made["Eye"]["status"] == "ok" and made["Eye"]["facts"]["kind"] == "cylinder"
    assert made["Eye"]["facts"]["facets"] == rows[bore]["facets"]
    assert made["Eye"]["facts"]["diameter"] == pytest.approx(2 * rows[bore]["params"]["radius"], abs=0.1)
    # The next search leaves them what they have.
    kept = [s["id"] for s in after["recipe"]["steps"] if s["name"] in ("Base", "Eye")]
    again = find(maker, block["id"], key, protect=kept, coarseness=1.5)
    assert again["status"] == "done"
    post(maker, f"/jobs/{block['id']}/head", {"version": after["version"], "direction": "undo"})
    assert len(state(maker, block)["recipe"]["steps"]) == len(before["recipe"]["steps"])


def test_a_thread_is_found_kept_as_a_step_and_taken_as_a_standard(maker, tmp_path):
    scan = scan_of(HOLE)
    path = tmp_path / "nut.stl"
    write_stl(path, scan.vertices, scan.facets)
    upload = bring(maker, path.read_bytes())
    job = post(maker, "/jobs", {"upload": upload["id"], "name": "Turnbuckle nut", "unit": "mm"})
    evidence = job["recipe"]["evidence"][0]["id"]
    row = find(maker, job["id"], result(maker, job)["scans"][evidence])
    rows = row["result"]["regions"]
    (thread,) = [r for r in rows if r["kind"] == "thread"]
    assert thread["outward"] == -1 and thread["params"]["hand"] == "right"
    assert thread["params"]["pitch"] == pytest.approx(1.5, abs=4 * thread["u"]["pitch"] + 0.002)
    assert thread["candidates"][0]["designation"] == "M10x1.5" and thread["candidates"][0]["difference_u"] < 4
    body = {"version": state(maker, job)["version"], "evidence": evidence, "regions": [thread["id"]], "names": ["Bore"]}
    post(maker, f"/jobs/{job['id']}/regions/{row['id']}/keep", body)
    post(maker, f"/jobs/{job['id']}/regions/{row['id']}/keep", body | {"version": body["version"] + 1}, 409)
    made = result(maker, job)["steps"][-1]
    assert made["kind"] == "thread" and made["status"] == "ok" and made["facts"]["near"][0]["designation"] == "M10x1.5"
    step = state(maker, job)["recipe"]["steps"][-1]["id"]
    edited(maker, job, {"op": "set-params", "step": step, "params": {"taken_as": "M10x1.5"}})
    facts = result(maker, job)["steps"][-1]["facts"]
    assert facts["major"] == 10.0 and facts["measured_major"] != 10.0


def test_what_cannot_be_kept_or_shown_is_said(maker, block):  # noqa: F811
    key = result(maker, block)["scans"][block["scan"]]
    row = find(maker, block["id"], key, least_area=1e5)
    assert row["status"] == "failed" and row["problem"]["code"] == "nothing-found" and row["problem"]["remedy"]
    labels = maker.get(f"/api/jobs/{block['id']}/regions/{row['id']}/labels")
    assert labels.status_code == 404
    done = find(maker, block["id"], key)
    body = {"version": state(maker, block)["version"], "evidence": block["scan"], "regions": [999]}
    post(maker, f"/jobs/{block['id']}/regions/{done['id']}/keep", body, 404)
    post(maker, f"/jobs/{block['id']}/regions", {"scan": "0" * 64}, 404)


def test_a_search_can_be_stopped(maker, block):  # noqa: F811
    key = result(maker, block)["scans"][block["scan"]]
    row = find(maker, block["id"], key)
    Task.objects.filter(id=row["id"]).update(status="running", cancel=False)
    assert maker.delete(f"/api/jobs/{block['id']}/regions/{row['id']}").status_code == 200
    assert Task.objects.get(id=row["id"]).cancel


def test_a_region_step_tells_its_form_and_residuals(maker, block):  # noqa: F811
    key = result(maker, block)["scans"][block["scan"]]
    row = find(maker, block["id"], key)
    bore = next(r["id"] for r in row["result"]["regions"] if r["kind"] == "cylinder")
    body = {"version": state(maker, block)["version"], "evidence": block["scan"], "regions": [bore], "names": ["Eye"]}
    post(maker, f"/jobs/{block['id']}/regions/{row['id']}/keep", body)
    step = next(s for s in result(maker, block)["steps"] if s["name"] == "Eye")
    form = get(maker, f"/jobs/{block['id']}/products/{step['key']}/form?scan={key}")
    assert form["flatness"] is None and 0 < form["roundness"] < 0.15 and len(form["profile"]) > 60
    assert form["radius"] == pytest.approx(6, abs=0.1) and form["depth"] is None
    facets = np.frombuffer(base64.b64decode(form["facets"]), "<u4")
    residuals = np.frombuffer(base64.b64decode(form["residuals"]), "<f4")
    assert (
        len(facets) == len(residuals) == step["facts"]["facets"] and np.abs(residuals).max() < 0.4
    )  # its rim is rounded


def test_a_scan_tells_where_it_is_how_noisy(maker, block):  # noqa: F811
    key = result(maker, block)["scans"][block["scan"]]
    answer = get(maker, f"/jobs/{block['id']}/noise?scan={key}")
    health = get(maker, f"/jobs/{block['id']}/scans/{block['scan']}/health")
    here = np.frombuffer(base64.b64decode(answer["here"]), "<f4")
    assert len(here) == health["facets"] and answer["noise"] == health["noise"]
    assert np.median(here) == pytest.approx(answer["noise"], rel=0.3)
    get(maker, f"/jobs/{block['id']}/noise?scan={'0' * 64}", 404)


def test_accepted_proposals_settle_the_regions_and_their_values_are_intent(maker, block):  # noqa: F811
    key = result(maker, block)["scans"][block["scan"]]
    row = find(maker, block["id"], key)
    offered = row["result"]["proposals"]
    size = next(i for i, p in enumerate(offered) if p["kind"] == "round" and p["stated"] == "Ø")
    square = next(i for i, p in enumerate(offered) if p["kind"] == "perpendicular")
    parallel = next(i for i, p in enumerate(offered) if p["kind"] == "parallel")
    assert offered[size]["proposed"] == 12 and offered[size]["demand"]["kind"] == "size"
    before = state(maker, block)
    where = f"/jobs/{block['id']}/regions/{row['id']}"
    bore = offered[size]["regions"][0]
    body = {
        "version": before["version"],
        "evidence": block["scan"],
        "proposals": [size, parallel],
        "names": {bore: "Eye"},
    }
    post(maker, f"{where}/accept", body)
    after = state(maker, block)
    steps = after["recipe"]["steps"]
    intent = steps[-1]
    assert intent["kind"] == "intent" and len(intent["params"]["relations"]) == 2
    agreed = intent["params"]["relations"][0]
    assert (
        agreed["size"]["text"] == "12 mm"
        and agreed["size"]["mark"] == "intent"
        and "measured 1" in agreed["size"]["note"]
    )
    assert agreed["measured"] == pytest.approx(12, abs=0.1)
    states = {s["name"]: s for s in result(maker, block)["steps"]}
    settled = states["Intent"]["facts"]["regions"]
    eye = next(s["id"] for s in steps if s["name"] == "Eye")
    assert settled[eye]["diameter"] == pytest.approx(12, abs=1e-9) and settled[eye]["cost"] < 3
    # Steps below see what was agreed, with its mark; the region itself keeps what was measured.
    assert (
        states["Eye"]["facts"]["diameter"] == pytest.approx(agreed["measured"], abs=0.05)
        and states["Eye"]["facts"]["diameter"] != 12
    )
    edited(
        maker,
        block,
        {"op": "add-step", "kind": "point", "name": "Below", "params": {"x": {"text": "eye.diameter / 2"}}},
    )
    value = {s["name"]: s for s in result(maker, block)["steps"]}["Below"]["values"]["x"]
    assert value["value"] == pytest.approx(6, abs=1e-9) and value["mark"] == "intent"
    # More goes into the same step, and what is agreed already is not agreed twice; no region is kept twice.
    count = len(steps)
    body = {"version": state(maker, block)["version"], "evidence": block["scan"], "proposals": [square, size]}
    post(maker, f"{where}/accept", body)
    steps = state(maker, block)["recipe"]["steps"]
    intents = [s for s in steps if s["kind"] == "intent"]
    assert len(intents) == 1 and len(intents[0]["params"]["relations"]) == 3
    assert len(steps) <= count + 2 and {s["name"]: s for s in result(maker, block)["steps"]}["Intent"]["status"] == "ok"
    # A demand that contradicts is a problem of the step with its place; nothing is lost.
    rows = intents[0]["params"]["relations"]
    rows.append({**rows[0], "size": {"text": "13 mm", "mark": "intent"}})
    edited(maker, block, {"op": "set-params", "step": intents[0]["id"], "params": {"relations": rows}})
    failed = {s["name"]: s for s in result(maker, block)["steps"]}["Intent"]
    assert failed["status"] == "failed" and failed["problems"][0]["code"] == "degenerate"
    assert failed["problems"][0]["where"]["param"].startswith("relations[")


def test_rejected_proposals_are_remembered_with_the_search(maker, block):  # noqa: F811
    key = result(maker, block)["scans"][block["scan"]]
    row = find(maker, block["id"], key)
    where = f"/jobs/{block['id']}/regions/{row['id']}"
    post(maker, f"{where}/reject", {"proposals": [0, 2]})
    post(maker, f"{where}/reject", {"proposals": [2], "back": True})
    again = get(maker, f"/jobs/{block['id']}/regions?scan={key}")
    assert again["id"] == row["id"] and again["result"]["rejected"] == [0]
    post(maker, f"{where}/accept", {"version": 1, "evidence": block["scan"], "proposals": [9999]}, 404)


def kept(client, block, row, numbers, names):  # noqa: F811
    body = {"version": state(client, block)["version"], "evidence": block["scan"], "regions": numbers, "names": names}
    post(client, f"/jobs/{block['id']}/regions/{row['id']}/keep", body)
    return {s["name"]: s["id"] for s in state(client, block)["recipe"]["steps"]}


def test_regions_are_changed_by_hand_in_one_edit_each(maker, block):  # noqa: F811
    key = result(maker, block)["scans"][block["scan"]]
    row = find(maker, block["id"], key)
    rows = row["result"]["regions"]
    planes = sorted((r for r in rows if r["kind"] == "plane"), key=lambda r: -r["area"])
    ids = kept(maker, block, row, [planes[0]["id"], planes[1]["id"]], ["Roof", "Other"])

    def count(name: str) -> int:
        return next(s for s in result(maker, block)["steps"] if s["name"] == name)["facts"]["facets"]

    def change(status: int = 200, **body):
        now = state(maker, block)["version"]
        return post(
            maker,
            f"/jobs/{block['id']}/regions-by-hand",
            {"version": now, "evidence": block["scan"], "scan": key, **body},
            status,
        )

    whole = count("Roof")
    change(op="rings", regions=[ids["Roof"]], rings=-2)
    smaller = count("Roof")
    assert 0.7 * whole < smaller < whole
    change(op="rings", regions=[ids["Roof"]], rings=2)
    assert smaller < count("Roof") <= whole * 1.02
    at, n = planes[0]["at"], planes[0]["params"]["normal"]
    across = np.cross(n, [0.3, 0.5, 0.2]).tolist()
    before = count("Roof")
    change(op="split", regions=[ids["Roof"]], origin=at, normal=across)
    assert count("Roof") + count("Roof part 2") == before
    parts = {s["name"]: s["id"] for s in state(maker, block)["recipe"]["steps"]}
    change(op="join", regions=[ids["Roof"], parts["Roof part 2"]])
    assert count("Roof") == before and "Roof part 2" not in {s["name"] for s in state(maker, block)["recipe"]["steps"]}
    # A plane that a step has parts it as well, and only a plane does.
    plane = {
        "op": "add-step",
        "id": "22222222-2222-4222-8222-222222222222",
        "kind": "plane",
        "name": "Across",
        "after": ids["Other"],
        "params": {"by": "free", "scan": {"id": block["scan"]}, "origin": at, "normal": across},
    }
    edited(maker, block, plane)
    result(maker, block)
    change(op="split", regions=[ids["Roof"]], plane=plane["id"])
    assert count("Roof") + count("Roof part 2") == before
    parts = {s["name"]: s["id"] for s in state(maker, block)["recipe"]["steps"]}
    change(op="join", regions=[ids["Roof"], parts["Roof part 2"]])
    change(404, op="split", regions=[ids["Roof"]], plane=block["scan"])
    # Facets given to one region leave the other; wear has no say in the fit.
    labels = np.frombuffer(
        b"".join(maker.get(f"/api/jobs/{block['id']}/regions/{row['id']}/labels").streaming_content), "<i4"
    )
    some = np.flatnonzero(labels == planes[1]["id"])[:40].astype("<u4")
    packed = base64.b64encode(some.tobytes()).decode()
    other = count("Other")
    change(op="give", regions=[ids["Roof"]], facets=packed)
    assert count("Roof") == before + 40 and count("Other") == other - 40
    change(op="take", regions=[ids["Roof"]], facets=packed)
    assert count("Roof") == before
    mine = np.flatnonzero(labels == planes[0]["id"])[:30].astype("<u4")
    change(op="worn", regions=[ids["Roof"]], facets=base64.b64encode(mine.tobytes()).decode())
    assert next(s for s in result(maker, block)["steps"] if s["name"] == "Roof")["facts"]["left_out"] > 0
    # What would leave nothing, or says too little, is refused and changes nothing.
    change(422, op="split", regions=[ids["Roof"]], origin=[0, 0, 1e6], normal=n)
    change(400, op="split", regions=[ids["Roof"]])
    change(422, op="give", regions=[ids["Roof"]])
    change(400, op="join", regions=[ids["Roof"]])
    assert count("Roof") == before


def test_a_fit_is_held_to_a_radius_a_direction_and_a_point(maker, block):  # noqa: F811
    key = result(maker, block)["scans"][block["scan"]]
    row = find(maker, block["id"], key)
    rows = row["result"]["regions"]
    bore = next(r["id"] for r in rows if r["kind"] == "cylinder")
    face = max((r for r in rows if r["kind"] == "plane"), key=lambda r: r["area"])["id"]
    ids = kept(maker, block, row, [face, bore], ["Face", "Eye"])
    edited(
        maker,
        block,
        {
            "op": "add-step",
            "id": "11111111-1111-4111-8111-111111111111",
            "kind": "point",
            "name": "Centre",
            "params": {"x": {"text": "15 mm"}, "y": {"text": "15 mm"}},
            "after": ids["Face"],
        },
    )
    params = {
        "radius": {"text": "5.9 mm"},
        "direction": {"id": ids["Face"]},
        "through": {"id": "11111111-1111-4111-8111-111111111111"},
    }
    edited(maker, block, {"op": "set-params", "step": ids["Eye"], "params": params})
    states = {s["name"]: s for s in result(maker, block)["steps"]}
    eye, flat = states["Eye"]["facts"], states["Face"]["facts"]
    assert eye["radius"] == pytest.approx(5.9, abs=1e-7)
    assert abs(np.dot(eye["axis"], flat["axis"])) == pytest.approx(1, abs=1e-12)
    off = np.array(eye["origin"]) - [15, 15, 0]
    assert np.linalg.norm(off - (off @ eye["axis"]) * np.array(eye["axis"])) < 1e-6
    edited(maker, block, {"op": "set-params", "step": ids["Face"], "params": {"radius": {"text": "5 mm"}}})
    face_state = {s["name"]: s for s in result(maker, block)["steps"]}["Face"]
    assert face_state["problems"][0]["code"] == "wrong-kind" and face_state["problems"][0]["where"]["param"] == "radius"
