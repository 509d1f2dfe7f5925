"""The API under requests that its own schema makes up (see tests/bench/fuzz.py): no 5xx, every answer as declared."""

from __future__ import annotations

import itertools
import uuid

import pytest
from huey.contrib.djhuey import HUEY

from bench.api import api
from tests.bench.asking import edited, get, post, region_edit, scan_id
from tests.bench.fuzz import fuzz, through

pytestmark = pytest.mark.django_db(transaction=True)

CASES, SEED = 3, 13


def furnished(maker, job) -> dict:
    """What exists in a job with a region, a picture, a checkpoint, readings and finished tasks, by the name that requests have for it."""
    added = region_edit(job)
    edited(maker, job, added)
    edited(
        maker,
        job,
        {"op": "set-reading", "id": str(uuid.uuid4()), "name": "bore_d", "takes": [{"value": 12.03}, {"value": 12.05}]},
    )
    now = get(maker, f"/jobs/{job['id']}")
    post(maker, f"/jobs/{job['id']}/pictures/blank?version={now['version']}", {})
    points = post(maker, f"/jobs/{job['id']}/checkpoints", {"name": "first"})
    found = post(maker, f"/jobs/{job['id']}/regions", {"scan": scan_id(job)})
    now = get(maker, f"/jobs/{job['id']}")
    picture = next(e["id"] for e in now["recipe"]["evidence"] if e["kind"] == "picture")
    reading = next(e["id"] for e in now["recipe"]["evidence"] if e["kind"] == "reading")
    result = now["build"]["result"]
    kinds, ops = (
        itertools.cycle(["extrude", "region", "sketch", "plane", "align", "no such kind"]),
        itertools.cycle(["distance", "", "tolerance"]),
    )
    scans = itertools.cycle([scan_id(job), *result["scans"].values()])
    blob = now["recipe"]["evidence"][0]["blob"]
    return {
        "job_id": lambda: job["id"],
        "scan": lambda: next(scans),
        "scan_id": lambda: scan_id(job),
        "evidence": lambda: scan_id(job),
        "step": lambda: added["id"],
        "key": lambda: result["steps"][0]["key"],
        "id": lambda: added["id"],
        "picture_id": lambda: picture,
        "picture": lambda: picture,
        "reading": lambda: reading,
        "checkpoint": lambda: points[0]["id"],
        "task_id": lambda: found["id"],
        "kind": lambda: next(kinds),
        "place": lambda: next(ops),
        "blob": lambda: blob,
        "region": lambda: added["id"],
        "own": lambda: added["id"],
        "version": lambda: get(maker, f"/jobs/{job['id']}")["version"],
    }


def test_no_request_is_a_fault_and_every_answer_is_as_declared(maker, job):
    real = furnished(maker, job)
    HUEY.immediate = False  # what is queued is not this test's
    skipped = ("DELETE /api/session",)  # would sign us out: everything after it would be a 401
    out = fuzz(api.get_openapi_schema(), through(maker), real, cases=CASES, seed_=SEED, skip=skipped)
    print(out.cases, dict(out.statuses))
    assert out.faults == [], "\n".join(out.faults[:20])
    assert out.cases > 300 and out.statuses[200] > 60
