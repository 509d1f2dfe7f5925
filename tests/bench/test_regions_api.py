"""The regions of a whole scan through the API: found, coloured by their labels, kept as steps in one edit, stopped."""

from __future__ import annotations

import base64

import numpy as np
import pytest

from bench.models import Task
from tests.bench.test_api import edited, get, inline_queue, job, maker, post  # noqa: F401
from tests.bench.test_history_api import block, read_block, result, state  # noqa: F401

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
