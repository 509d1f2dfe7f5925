"""The API as the browser uses it; the queue works inline here, its children are real."""

import json
import uuid

import pytest
from django.contrib.auth import get_user_model
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from django.utils import timezone
from huey.contrib.djhuey import HUEY

from bench import work
from bench.models import Job, Revision, Task, Upload
from contour.mesh.prepare import PreparedScan
from tests.bench.asking import bring, client_of, edited, get, post, region_edit, scan_id
from tests.conftest import binary_stl, cube, facet_near

pytestmark = pytest.mark.django_db(transaction=True)


def test_an_upload_is_read_and_its_unit_proposed(maker, block_stl):
    upload = bring(maker, block_stl.read_bytes())
    assert upload["status"] == "done"
    assert upload["facts"]["unit_guess"] == "mm"
    assert upload["facts"]["closed"]


def test_an_upload_says_whether_it_was_scanned_or_modelled(maker, block_stl):
    scanned = bring(maker, block_stl.read_bytes())["facts"]
    assert scanned["made"] == "scanned" and 0.01 < scanned["noise"] < 0.05
    modelled = bring(maker, binary_stl(cube(10.0)), "cube.stl")["facts"]
    # Its vertices are what single floats can say of 10 mm, and that is no noise of a scanner.
    assert modelled["made"] == "modelled" and modelled["noise"] < 1e-4


def test_a_bad_file_is_refused_with_what_to_try(maker):
    upload = bring(maker, b"no mesh at all", "notes.stl")
    assert upload["status"] == "failed"
    assert upload["problem"]["code"] == "file-not-understood"
    assert upload["problem"]["where"]["file"] == "notes.stl"
    answer = maker.post("/api/uploads", {"file": SimpleUploadedFile("empty.stl", b"")})
    assert answer.status_code in (400, 422)
    assert answer.json()["problem"]["code"] in ("file-empty", "bad-params")
    post(maker, "/jobs", {"upload": upload["id"], "name": "x", "unit": "mm"}, 422)


def test_the_whole_path_over_the_api(maker, job, block_scan: PreparedScan):
    assert job["build"]["result"]["scans"]
    pick = facet_near(block_scan, (30, 5, 10))
    grown = post(maker, f"/jobs/{job['id']}/grow", {"scan": scan_id(job), "seeds": [pick]})
    assert grown["surface"]["kind"] == "plane"
    params = {"scan": {"id": scan_id(job)}, "seeds": grown["source_seeds"], "surface": "plane"}
    edited(maker, job, {"op": "add-step", "id": "region-1", "kind": "region", "params": params})
    question = {
        "scan": scan_id(job),
        "origin": grown["surface"]["origin"],
        "normal": grown["surface"]["axis"],
        "offset": "-4",
    }
    raw = post(maker, f"/jobs/{job['id']}/section", question)
    assert len(raw["cuts"]) == 2
    assert raw["loops"] == []
    fitted = post(maker, f"/jobs/{job['id']}/section", {**question, "fitted": True})
    assert [len(loop["pieces"]) for loop in fitted["loops"]] == [4, 1]
    ids = iter(range(1, 100))
    loops = [
        {
            "closed": loop["closed"],
            "pieces": [
                {k: p[k] for k in ("kind", "start", "end", "mid", "points")} | {"id": f"e{next(ids)}"}
                for p in loop["pieces"]
            ],
        }
        for loop in fitted["loops"]
    ]
    params = {
        "scan": {"id": scan_id(job)},
        "plane": {"id": "region-1"},
        "offset": {"text": "-4"},
        "origin": fitted["origin"],
        "u_axis": fitted["u_axis"],
        "pose": fitted["pose"],
    }
    take = {"act": "take", "loops": loops, "within": fitted["tolerance"]}
    drawn = post(maker, f"/jobs/{job['id']}/drawing", {"acts": [take]})["drawing"]
    edited(maker, job, {"op": "add-step", "id": "outline-1", "kind": "sketch", "params": params | drawn})
    params = {"sketch": {"id": "outline-1"}, "distance": {"text": "8 mm"}, "symmetric": True}
    done = edited(maker, job, {"op": "add-step", "id": "extrude-1", "kind": "extrude", "params": params})
    assert [s["status"] for s in done["build"]["result"]["steps"]] == ["ok", "ok", "ok"]
    (body,) = done["build"]["result"]["bodies"]
    assert body["volume"] == pytest.approx((1200 - 113.1) * 8, rel=4e-3)
    fit = done["build"]["result"]["fit"]
    assert not fit["figures"]["sampled"]
    place = block_scan.centroids[pick].tolist()
    probe = post(maker, f"/jobs/{job['id']}/probe", {"fit": fit["key"], "facet": pick, "point": place})
    assert probe["deviation"] == pytest.approx(0, abs=0.1)
    shelf = get(maker, "/jobs")
    assert shelf[0]["bodies"] == 1
    assert maker.get(shelf[0]["picture"]).getvalue()[:4] == b"\x89PNG"
    for kind in ("count", "step", "stl"):
        row = post(maker, f"/jobs/{job['id']}/deliveries", {"kind": kind, "chord_mm": 0.02})
        row = get(maker, f"/jobs/{job['id']}/deliveries/{row['id']}")
        assert row["status"] == "done", row
        if kind != "count":
            answer = maker.get(f"/api/jobs/{job['id']}/deliveries/{row['id']}/file")
            assert answer["Content-Disposition"] == f'attachment; filename="Test-block.{kind}"'
            assert len(answer.getvalue()) == row["result"]["bytes"]


def test_undo_and_redo_go_all_the_way_and_lose_nothing(maker, job):
    first = edited(maker, job, region_edit(job))
    second = edited(maker, job, {"op": "rename-step", "step": first["recipe"]["steps"][0]["id"], "name": "Top"})
    assert second["undo"] == "rename Region 1"

    def move(direction, version, status=200):
        return post(maker, f"/jobs/{job['id']}/head", {"version": version, "direction": direction}, status)

    back = move("undo", second["version"])
    assert back["recipe"]["steps"][0]["name"] == "Region 1"
    begin = move("undo", back["version"])
    assert begin["recipe"]["steps"] == []
    assert begin["undo"] is None
    move("undo", begin["version"], 409)
    again = move("redo", move("redo", begin["version"])["version"])
    assert again["recipe"] == second["recipe"]
    assert Revision.objects.filter(job_id=job["id"]).count() == 3


def test_an_edit_of_a_stale_state_is_refused_and_changes_nothing(maker, job):
    edited(maker, job, region_edit(job))
    body = {"version": job["version"], "edit": {"op": "set-job", "name": "Other"}}
    refused = post(maker, f"/jobs/{job['id']}/edits", body, 409)
    assert refused["problem"]["code"] == "stale-revision"
    assert get(maker, f"/jobs/{job['id']}")["recipe"]["name"] == "Test block"


@pytest.mark.parametrize(
    ("edit", "status", "code"),
    [
        ({"op": "add-step", "kind": "weave", "params": {}}, 400, "bad-params"),
        ({"op": "add-step", "kind": "region", "params": {"seeds": []}}, 400, "bad-params"),
        (
            {"op": "add-step", "kind": "extrude", "params": {"sketch": {"id": "x"}, "distance": {"text": "3 +"}}},
            400,
            "bad-formula",
        ),
        ({"op": "delete-step", "step": "nowhere"}, 404, "not-found"),
        ({"op": "set-job", "acceptance": {"text": "-1 mm"}}, 400, "bad-params"),
        ({"op": "set-job", "acceptance": {"text": "2 deg"}}, 400, "mixed-dimensions"),
        ({"op": "fly"}, 400, "bad-params"),
    ],
)
def test_edits_that_cannot_be_are_problems(maker, job, edit, status, code):
    refused = edited(maker, job, edit, status)
    assert refused["problem"]["code"] == code
    assert get(maker, f"/jobs/{job['id']}")["version"] == job["version"]


def test_the_unit_shown_changes_nothing_but_bare_numbers(maker, job):
    out = edited(maker, job, {"op": "set-job", "unit": "inch", "acceptance": {"text": "0.1 mm"}})
    assert out["recipe"]["unit"] == "inch"
    assert out["recipe"]["acceptance_mm"] == pytest.approx(0.1)
    out = edited(maker, job, {"op": "set-job", "acceptance": {"text": "0.01"}})
    assert out["recipe"]["acceptance_mm"] == pytest.approx(0.254)


def test_a_stranger_sees_nothing_by_any_address(maker, job):
    edited(maker, job, region_edit(job))
    other, nobody = client_of("other"), Client()
    key = get(maker, f"/jobs/{job['id']}")["build"]["result"]["steps"][0]["key"]
    reading = [f"/jobs/{job['id']}", f"/jobs/{job['id']}/picture", f"/jobs/{job['id']}/products/{key}/facets"]
    writing = {
        f"/jobs/{job['id']}/edits": {"version": 2, "edit": {"op": "set-job", "name": "Mine"}},
        f"/jobs/{job['id']}/head": {"version": 2, "direction": "undo"},
        f"/jobs/{job['id']}/grow": {"scan": scan_id(job), "seeds": [1]},
        f"/jobs/{job['id']}/cancel": {},
        f"/jobs/{job['id']}/deliveries": {"kind": "step"},
    }
    for path in reading:
        get(other, path, 404)
        get(nobody, path, 401)
    for path, body in writing.items():
        post(other, path, body, 404)
        post(nobody, path, body, 401)
    assert get(other, "/jobs") == []
    upload = Upload.objects.first()
    get(other, f"/uploads/{upload.id}", 404)
    post(other, "/jobs", {"upload": str(upload.id), "name": "x", "unit": "mm"}, 404)
    # a key of a product opens nothing through a job of one's own
    theirs = Job.objects.create(owner=get_user_model().objects.get(username="other"))
    theirs.head = Revision.objects.create(job=theirs, label="begin", recipe=Job.objects.get(id=job["id"]).head.recipe)
    theirs.save()
    get(other, f"/jobs/{theirs.id}/products/{key}/facets", 404)


def test_signing_in_and_out(maker):
    client = Client()
    post(client, "/session", {"username": "maker", "password": "wrong"}, 400)
    assert post(client, "/session", {"username": "maker", "password": "ferry-rope-7"})["user"] == "maker"
    assert get(client, "/session")["user"] == "maker"
    client.delete("/api/session")
    get(client, "/jobs", 401)


def test_a_task_left_by_a_dead_worker_is_done_by_the_next_sweep(maker, job, monkeypatch):
    now = edited(maker, job, region_edit(job))
    row = Task.objects.get(id=now["build"]["task"])
    old = row.created - 10 * work.STALE
    Task.objects.filter(id=row.id).update(status="running", result="", heartbeat=old, claim=uuid.uuid4())
    assert work.sweep() == 1
    row.refresh_from_db()
    assert row.status == "done"
    assert json.loads(row.result)["steps"][0]["status"] in ("ok", "failed")


def test_a_cancelled_task_is_not_begun_and_a_new_head_cancels_the_old_build(maker, job):
    HUEY.immediate = False  # nothing runs: rows stay queued
    first = edited(maker, job, region_edit(job))
    edited(maker, job, region_edit(job, 1))
    old = Task.objects.get(id=first["build"]["task"])
    assert old.cancel
    HUEY.immediate = True
    work.perform.call_local(str(old.id))
    old.refresh_from_db()
    assert old.status == "cancelled"
    post(maker, f"/jobs/{job['id']}/cancel", {})
    assert Task.objects.filter(job_id=job["id"], status="queued", cancel=False).count() == 0


def test_only_one_worker_wins_a_task(maker, job):
    HUEY.immediate = False
    now = edited(maker, job, region_edit(job))
    HUEY.immediate = True
    for _ in range(2):
        work.perform.call_local(now["build"]["task"])
    row = Task.objects.get(id=now["build"]["task"])
    assert (row.status, row.attempts) == ("done", 1)


def test_an_exported_job_is_whole(maker, job, tmp_path, capsys):
    from bench.management.commands.contour import Command

    edited(maker, job, region_edit(job))
    with pytest.raises(SystemExit) as ended:
        Command().run_from_argv(
            ["bench", "contour", "export-job", job["id"], "--out", str(tmp_path / "b.json"), "--json"]
        )
    assert ended.value.code == 0
    assert json.loads((tmp_path / "b.json").read_text())["name"] == "Test block"
    (blob,) = (tmp_path / "b.files").iterdir()
    assert blob.name == job["recipe"]["evidence"][0]["blob"]


def test_a_persons_tasks_take_turns_and_only_so_many_wait(maker, job, monkeypatch):
    HUEY.immediate = False
    edited(maker, job, region_edit(job))
    scan = scan_id(job)
    monkeypatch.setattr(work, "MOST_WAITING", 3)
    rows = [post(maker, f"/jobs/{job['id']}/regions", {"scan": scan})["id"] for _ in range(3)]
    refused = post(maker, f"/jobs/{job['id']}/regions", {"scan": scan}, 413)["problem"]
    assert refused["code"] == "flood" and Task.objects.filter(kind="segment").count() == 3
    HUEY.immediate = True
    build = Task.objects.get(kind="build", status="queued")
    Task.objects.filter(id=rows[1]).update(cancel=True)
    work.perform.call_local(str(build.id))  # its end gives the others their turn, one after the other
    states = dict(Task.objects.filter(kind="segment").values_list("id", "status"))
    assert [states[uuid.UUID(r)] for r in rows] == ["done", "cancelled", "done"]


def test_while_something_of_ones_own_runs_the_next_task_waits(maker, job):
    HUEY.immediate = False
    edited(maker, job, region_edit(job))
    row = Task.objects.get(kind="build", status="queued")
    HUEY.immediate = True
    other = Task.objects.create(owner=row.owner, kind="count", status="running", heartbeat=timezone.now())
    work.perform.call_local(str(row.id))
    row.refresh_from_db()
    assert row.status == "queued"
    other.delete()
    work.next_turn(row.owner)
    row.refresh_from_db()
    assert row.status == "done"


def test_the_job_that_is_looked_at_is_built_before_those_that_have_waited_longer(maker, job):
    HUEY.immediate = False
    edited(maker, job, region_edit(job))
    first = Task.objects.get(kind="build", status="queued")
    copies = [post(maker, f"/jobs/{job['id']}/duplicate", {"name": n})["id"] for n in ("second", "third")]
    turn = Task.objects.filter(status="queued").in_turn
    assert turn().first().id == first.id
    seen = get(maker, f"/jobs/{copies[1]}")
    assert str(turn().first().job_id) == copies[1]
    assert get(maker, f"/jobs/{copies[1]}") == seen  # being waited for changes nothing that is told
    HUEY.immediate = True
    order: list[str] = []
    with pytest.MonkeyPatch.context() as patched:
        patched.setattr(work, "hand_over", lambda task, **_: order.append(task))
        work.next_turn(first.owner)
    assert order == [str(turn().first().id)]


def test_what_was_asked_for_goes_before_builds_of_jobs_that_nobody_has_open(maker, job):
    HUEY.immediate = False
    edited(maker, job, region_edit(job))
    owner = Task.objects.get(kind="build", status="queued").owner
    asked = [Task.objects.create(owner=owner, kind=kind, status="queued").id for kind in ("inspect", "propose")]
    assert list(Task.objects.filter(status="queued").in_turn().values_list("id", flat=True))[:2] == asked
    get(maker, f"/jobs/{job['id']}")
    kinds = Task.objects.filter(status="queued").in_turn().values_list("kind", flat=True)
    assert list(kinds) == ["build", "inspect", "propose"]


@pytest.mark.parametrize(("status", "said"), [("failed", "has failed"), ("cancelled", "was cancelled")])
def test_a_delivery_of_a_job_that_is_not_being_built_does_not_say_wait(maker, job, status, said):
    edited(maker, job, region_edit(job))
    Task.objects.filter(kind="build").update(status=status, result="")
    problem = post(maker, f"/jobs/{job['id']}/deliveries", {"kind": "step"}, 422)["problem"]
    assert said in problem["message"] and "wait" not in problem["remedy"]
