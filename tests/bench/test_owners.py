"""Nobody reaches a file or a product that is not theirs, whoever's hash or key they know."""

import json
import uuid

import pytest
from django.contrib.auth import get_user_model
from django.db import connection
from django.db.migrations.executor import MigrationExecutor

from bench.blobs import keep, require_own
from bench.jobs import import_recipe
from bench.models import Job, KeptFile, Task
from bench.store import store
from contour.exchange.step import write_step
from contour.recipe.evidence.scan import ScanEvidence
from contour.recipe.problem import ContourError
from contour.recipe.recipe import Recipe
from tests.bench.asking import bring, client_of, edited, get, post, region_edit, scan_id

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def stranger():
    return client_of("stranger")


@pytest.fixture
def foreign_step(stranger, drilled_block, tmp_path) -> str:
    """A STEP file that the stranger has brought in: its hash."""
    path = tmp_path / "theirs.step"
    write_step(path, [("theirs", drilled_block.shape, None)], unit="mm")
    return keep(get_user_model().objects.get(username="stranger"), path.read_bytes())


def practice(key: str, kind: str = "step") -> dict:
    return {"solid": {"kind": kind, "key": key, "name": "x"}, "settings": {"spacing": 4.0}}


def test_a_practice_scan_takes_only_files_of_ones_own(maker, job, foreign_step):
    refused = post(maker, f"/jobs/{job['id']}/practice", practice(foreign_step), 404)["problem"]
    unknown = post(maker, f"/jobs/{job['id']}/practice", practice("0" * 64), 404)["problem"]
    assert {**refused, "got": ""} == {**unknown, "got": ""}  # whether somebody else has it is not told
    assert not Task.objects.filter(kind="virtual-scan").exists()


@pytest.mark.parametrize("key", ["../../deliveries/x.step", "/etc/hostname", "../secret", "A" * 64, ""])
@pytest.mark.parametrize("kind", ["step", "body"])
def test_a_path_is_no_key(maker, job, key, kind):
    assert post(maker, f"/jobs/{job['id']}/practice", practice(key, kind), 400)["problem"]["code"] == "bad-params"


def test_steps_and_previews_take_only_files_of_ones_own(maker, job, foreign_step):
    scan = {"id": scan_id(job)}
    align = {"scan": scan, "by": "solid", "solid": {"blob": foreign_step, "name": "theirs.step"}}
    picked = {"scan": scan, "picked": {"blob": foreign_step, "count": 20}}
    for kind, params in (("align", align), ("region", picked)):
        edit = {"op": "add-step", "id": str(uuid.uuid4()), "kind": kind, "params": params}
        assert edited(maker, job, edit, 404)["problem"]["code"] == "not-found"
        post(maker, f"/jobs/{job['id']}/preview", {"edit": edit}, 404)
    zone = {"op": "set-scan", "id": scan_id(job), "zone": {"blob": foreign_step, "count": 20}}
    edited(maker, job, zone, 404)
    assert get(maker, f"/jobs/{job['id']}")["recipe"] == job["recipe"]


def test_a_step_that_was_there_may_not_be_given_a_foreign_file(maker, job, foreign_step):
    added = region_edit(job)
    edited(maker, job, added)
    change = {"op": "set-params", "step": added["id"], "params": {"picked": {"blob": foreign_step, "count": 20}}}
    edited(maker, job, change, 404)


def test_an_imported_job_may_not_name_foreign_files(maker, stranger, job):
    blob = job["recipe"]["evidence"][0]["blob"]
    recipe = Recipe(name="x", evidence=(ScanEvidence(id="s", name="s.stl", blob=blob, format="stl", unit="mm"),))
    with pytest.raises(ContourError, match="no file with this hash"):
        import_recipe(get_user_model().objects.get(username="stranger"), recipe)
    assert Job.objects.count() == 1  # nothing half-made is left
    import_recipe(get_user_model().objects.get(username="maker"), recipe)


def test_what_came_with_the_application_is_everybodys(maker, stranger):
    digest = keep(None, b"a truth model")
    for name in ("maker", "stranger"):
        require_own(get_user_model().objects.get(username=name), [digest])


def test_a_step_named_like_a_foreign_product_does_not_open_it(maker, stranger, job, block_stl):
    theirs = bring(stranger, block_stl.read_bytes() + b"\0", "other.stl")  # other bytes: another product
    other = post(stranger, "/jobs", {"upload": theirs["id"], "name": "Other", "unit": "mm"})
    key = next(iter(get(stranger, f"/jobs/{other['id']}")["build"]["result"]["scans"].values()))
    assert stranger.get(f"/api/jobs/{other['id']}/products/{key}/view").status_code == 200
    added = region_edit(job)
    edited(maker, job, added)
    edited(maker, job, {"op": "rename-step", "step": added["id"], "name": key})
    assert f'"{key}"' in json.dumps(
        get(maker, f"/jobs/{job['id']}")["build"]["result"]
    )  # the name stands in the result
    assert maker.get(f"/api/jobs/{job['id']}/products/{key}/view").status_code == 404
    assert maker.get(f"/api/jobs/{job['id']}/products/..%2Fblobs/view").status_code == 404


def test_the_store_takes_hashes_and_keys_only(tmp_path):
    for text in ("../../secret", "/etc/hostname", ".", "", "a" * 63, "a" * 64 + "\n"):
        with pytest.raises(ContourError, match="missing"):
            store().blob(text)
        with pytest.raises(ContourError, match="no such product"):
            store().folder(text)


def test_files_of_jobs_that_were_there_before_owners_stay_theirs(maker, job):
    owner = get_user_model().objects.get(username="maker")
    digest = job["recipe"]["evidence"][0]["blob"]
    executor = MigrationExecutor(connection)
    newest = executor.loader.graph.leaf_nodes("bench")
    executor.migrate([("bench", "0003_caliper_line")])
    MigrationExecutor(connection).migrate(newest)
    assert KeptFile.objects.filter(owner=owner, digest=digest).count() == 1
