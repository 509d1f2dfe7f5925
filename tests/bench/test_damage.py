"""A store that was damaged from outside: products are built again, files are told by their name and mended by bringing them in again."""

import json

import pytest
from huey.contrib.djhuey import HUEY

from bench.models import Task
from bench.store import store
from tests.bench.asking import bring, edited, get, post, region_edit, scan_id
from tests.conftest import facet_near

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture(autouse=True)
def own_store(settings, tmp_path):
    """What is damaged here is nobody else's."""
    settings.SHARED = tmp_path
    for name, folder in (("STORE", "store"), ("DELIVERIES", "deliveries"), ("THUMBNAILS", "thumbnails")):
        setattr(settings, name, tmp_path / folder)
    store.cache_clear()
    yield
    store.cache_clear()


@pytest.fixture
def on_top(block_scan) -> int:
    """A facet of the block's top, as its file numbers it."""
    return int(block_scan.source_facet[facet_near(block_scan, (30, 5, 10))])


def scan_key(client, job: dict) -> str:
    return next(iter(get(client, f"/jobs/{job['id']}")["build"]["result"]["scans"].values()))


@pytest.mark.parametrize("damage", ["outcome.json", "view.bin"])
def test_a_damaged_product_is_built_again_when_it_is_asked_for(maker, job, damage):
    """An empty outcome.json blocked its job for good."""
    key = scan_key(maker, job)
    path = f"/api/jobs/{job['id']}/products/{key}/view"
    whole = b"".join(maker.get(path).streaming_content)
    (store().folder(key) / damage).write_bytes(b"")
    first = maker.get(path)
    assert first.status_code == 404 and "built again" in first.json()["problem"]["message"]
    again = maker.get(path)
    assert again.status_code == 200 and b"".join(again.streaming_content) == whole


def test_a_product_of_another_kind_is_told_as_none_of_what_was_asked_for(maker, job):
    """A region's key where a body's belongs was a fault of the application."""
    key = scan_key(maker, job)
    for asked, kind in (("faces", "body"), ("borders", "body"), ("sketch", "sketch"), (f"region?scan={key}", "region")):
        problem = get(maker, f"/jobs/{job['id']}/products/{key}/{asked}", 404)["problem"]
        assert problem["message"] == f"this product is no {kind}"


def test_a_job_that_was_built_by_other_rules_is_built_again_when_it_is_opened(maker, job, monkeypatch):
    """A version that measures better showed what the one before it had measured until somebody changed the job."""
    get(maker, f"/jobs/{job['id']}")
    builds = Task.objects.filter(job=job["id"], kind="build")
    assert builds.count() == 1  # it is looked at as it was built
    monkeypatch.setattr("bench.work.rules_key", lambda: "of the next version")
    for _ in range(3):
        get(maker, f"/jobs/{job['id']}")
    assert builds.count() == 2  # once
    assert get(maker, f"/jobs/{job['id']}")["build"]["status"] == "done"


def test_a_result_that_another_version_has_told_otherwise_is_no_fault(maker, job, on_top, monkeypatch):
    """A version whose facts had one field less kept a result that this one could not read: the job could not be opened any more."""
    edited(maker, job, region_edit(job, on_top))
    built = Task.objects.filter(job=job["id"], kind="build").latest("created")
    result = json.loads(built.result)
    del result["steps"][0]["facts"]["area"]
    built.result, built.payload = json.dumps(result), {"rules": "of the version before"}
    built.save()
    looked = get(maker, f"/jobs/{job['id']}")
    assert looked["build"]["result"]["steps"][0]["status"] == "ok"  # it was built again
    monkeypatch.setattr("bench.work.hand_over", lambda *_, **__: None)  # and while it is not yet
    built.save()
    Task.objects.filter(job=job["id"], kind="build").exclude(id=built.id).delete()
    looked = get(maker, f"/jobs/{job['id']}")
    assert (looked["build"]["status"], looked["build"]["current"], looked["build"]["result"]) == ("queued", False, None)
    edited(maker, job, region_edit(job, on_top + 1))


def test_a_damaged_product_does_not_stop_the_next_edit(maker, job, on_top):
    (store().folder(scan_key(maker, job)) / "outcome.json").write_text("{")
    added = region_edit(job, on_top)
    edited(maker, job, added)
    build = get(maker, f"/jobs/{job['id']}")["build"]
    assert build["status"] == "done" and build["result"]["steps"][0]["status"] == "ok"


@pytest.mark.parametrize("how", ["missing", "damaged"])
def test_a_file_that_is_gone_is_named_and_mended_by_bringing_it_in_again(maker, job, block_stl, on_top, how):
    data = block_stl.read_bytes()
    blob = job["recipe"]["evidence"][0]["blob"]
    place = store().blob(blob)
    edited(maker, job, {"op": "set-reading", "id": "r1", "name": "bore_d", "takes": [{"value": 12.0}]})
    for products in store().products.iterdir():
        (products / "outcome.json").unlink(missing_ok=True)  # nothing is left in the cache either
    place.unlink() if how == "missing" else place.write_bytes(data[: len(data) // 2])
    edited(maker, job, region_edit(job, on_top))
    now = get(maker, f"/jobs/{job['id']}")
    (problem,) = now["build"]["result"]["problems"]
    assert problem["code"] == "file-missing" and "block.stl" in problem["message"] and "again" in problem["remedy"]
    assert now["build"]["result"]["steps"][0]["status"] == "blocked"
    assert "r1" in now["readings"]  # the rest of the job works
    bring(maker, data)
    now = get(maker, f"/jobs/{job['id']}")
    assert now["build"]["result"]["problems"] == [] and now["build"]["result"]["steps"][0]["status"] == "ok"


def test_a_missing_picture_is_told_by_its_name(maker, job):
    made = post(maker, f"/jobs/{job['id']}/pictures/blank?version={job['version']}", {})
    picture = next(e for e in made["recipe"]["evidence"] if e["kind"] == "picture")
    store().blob(picture["blob"]).unlink()
    problem = get(maker, f"/jobs/{job['id']}/pictures/{picture['id']}/photo", 404)["problem"]
    assert picture["name"] in problem["message"]
    assert get(maker, f"/jobs/{job['id']}")["recipe"]["evidence"]
    assert scan_id(job)


def test_asking_again_and_again_for_what_is_gone_builds_it_once(maker, job):
    key = scan_key(maker, job)
    (store().folder(key) / "outcome.json").write_bytes(b"")
    HUEY.immediate = False
    for _ in range(4):
        assert maker.get(f"/api/jobs/{job['id']}/products/{key}/view").status_code == 404
        post(maker, f"/jobs/{job['id']}/grow", {"scan": scan_id(job), "seeds": [0]}, 404)
    assert Task.objects.filter(kind="build", status="queued", cancel=False).count() == 1
    assert Task.objects.filter(kind="build", cancel=True).count() == 0
