"""Requests that ended in a 500 once, each now refused with what is wrong."""

import base64
import uuid

import numpy as np
import pytest

from tests.bench.asking import edited, get, post, region_edit, scan_id

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.mark.parametrize("place", ["no_such_place", "sketch", "distance.text", "bodies[0]", "operation"])
def test_candidates_for_what_is_no_value(maker, job, place):
    problem = post(maker, f"/jobs/{job['id']}/candidates", {"kind": "extrude", "place": place, "text": "1"}, 400)[
        "problem"
    ]
    assert problem["code"] == "bad-params" and place in problem["where"]["param"]


@pytest.mark.parametrize("facet", [10**9, 10**14, -1, -(10**14)])
def test_facets_that_no_scan_has(maker, job, facet):
    scan = scan_id(job)
    post(maker, f"/jobs/{job['id']}/grow", {"scan": scan, "seeds": [facet]}, 404)
    post(maker, f"/jobs/{job['id']}/grow", {"scan": scan, "seeds": [0], "removed": [facet]}, 404)
    post(maker, f"/jobs/{job['id']}/brush", {"scan": scan, "facet": facet, "radius_mm": 2}, 404)
    post(maker, f"/jobs/{job['id']}/spot", {"scan": scan, "facet": facet, "point": [0, 0, 0]}, 404)
    assert maker.get(f"/api/jobs/{job['id']}/regions-at?scan={scan}&facet={facet}").status_code == 404
    picked = base64.b64encode(np.array([facet % 2**32], "<u4").tobytes()).decode()
    post(maker, f"/jobs/{job['id']}/picked", {"scan": scan, "facets": picked}, 404)


def test_a_facet_number_beyond_all_counting(maker, job):
    body = '{"scan": "%s", "seeds": [%s]}' % (scan_id(job), "9" * 40)  # noqa: UP031
    answer = maker.post(f"/api/jobs/{job['id']}/grow", body, content_type="application/json")
    assert answer.status_code == 400 and "too large" in answer.json()["problem"]["message"]
    assert maker.get(f"/api/jobs/{job['id']}/regions-at?scan={scan_id(job)}&facet={'9' * 40}").status_code == 404


def test_names_longer_than_a_job_has(maker, job):
    upload = job["recipe"]["evidence"][0]["blob"]
    assert upload
    for body in ({"name": "x" * 201, "unit": "mm"}, {"name": "x" * 5000, "unit": "mm"}):
        assert post(maker, "/jobs", body, 400)["problem"]["code"] == "bad-params"
    post(maker, f"/jobs/{job['id']}/checkpoints", {"name": "x" * 201}, 400)
    edited(maker, job, {"op": "rename-job", "name": "x" * 201}, 400)


def test_marks_without_points(maker, job):
    made = post(maker, f"/jobs/{job['id']}/pictures/blank?version={job['version']}", {})
    picture = next(e for e in made["recipe"]["evidence"] if e["kind"] == "picture")
    path = f"/jobs/{job['id']}/pictures/{picture['id']}"
    body = {"version": made["version"], "id": str(uuid.uuid4()), "kind": "trace", "points": []}
    post(maker, f"{path}/marks", body, 400)
    post(maker, f"{path}/snap", {"kind": "ends", "points": []}, 400)
    far = {**body, "points": [[1e11, 1e11], [0, 0], [3, 3]], "kind": "angle"}
    assert maker.post(f"/api{path}/marks", far, content_type="application/json").status_code < 500


@pytest.mark.parametrize("path", ["where-to-cut", "section"])
def test_a_path_is_no_scan_and_none_is_told(maker, job, path):
    for scan in ("../../secret", "/etc/hostname", scan_id(job) + "x", str(uuid.uuid4())):
        answer = post(maker, f"/jobs/{job['id']}/{path}", {"scan": scan, "origin": [0, 0, 0], "normal": [0, 0, 1]}, 404)
        text = str(answer)
        assert "/tmp" not in text and "products" not in text and "Error" not in text
    # By the evidence's id, which is what some ask with:
    post(maker, f"/jobs/{job['id']}/{path}", {"scan": scan_id(job), "origin": [0, 0, 5], "normal": [0, 0, 1]})


def test_an_import_of_odd_steps_is_refused_and_the_job_stays(maker, job):
    before = get(maker, f"/jobs/{job['id']}")
    odd = region_edit(job)
    for params in (
        {},
        {"scan": 7},
        {"scan": {"id": scan_id(job)}, "seeds": ["a"]},
        {"scan": {"id": scan_id(job)}, "seeds": [2**70]},
    ):
        answer = maker.post(
            f"/api/jobs/{job['id']}/edits",
            {"version": before["version"], "edit": {**odd, "params": params}},
            content_type="application/json",
        )
        assert answer.status_code in (400, 404, 422), answer.content
    assert get(maker, f"/jobs/{job['id']}")["recipe"] == before["recipe"]


def test_planes_without_a_direction(maker, job):
    body = {"scan": scan_id(job), "origin": [0, 0, 5], "normal": [0, 0, 0]}
    for path, more in (
        ("section", {}),
        ("where-to-cut", {}),
        ("section", {"source": "radial"}),
        ("section", {"source": "silhouette"}),
    ):
        problem = post(maker, f"/jobs/{job['id']}/{path}", {**body, **more}, 400)["problem"]
        assert "direction" in problem["message"]
