"""Sign-in, cookies, links, limits and answers: what a stranger, another page or another server on the host may not do."""

import json
import logging
import re
import stat
from datetime import timedelta

import pytest
from django.conf import settings
from django.contrib.auth import get_user_model
from django.db import OperationalError
from django.test import Client
from django.utils import timezone

from bench import demo_link
from bench.api import jobs as jobs_api
from bench.demo_link import demo_link_opens, new_demo_link
from bench.faults import fault_of, reported
from bench.models import Task, Upload
from bench.work import STALE, perform, sweep
from tests.bench.asking import bring, edited, get, region_edit

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def visitor():
    get_user_model().objects.create_user("keeper", password="ferry-rope-7")
    return Client(enforce_csrf_checks=True)


def sign_in(client: Client, password: str = "ferry-rope-7", **headers: str):
    body = json.dumps({"username": "keeper", "password": password})
    return client.post("/api/session", body, content_type="application/json", headers=headers)


def token(client: Client) -> dict[str, str]:
    return {"X-CSRFToken": client.get("/api/session").json()["csrf"]}


def test_another_page_signs_nobody_in(visitor):
    assert sign_in(visitor).status_code == 403
    answer = sign_in(visitor, **token(visitor))
    assert answer.status_code == 200 and answer.json()["user"] == "keeper"


def test_another_page_changes_nothing(visitor):
    sign_in(visitor, **token(visitor))
    answer = visitor.post("/api/jobs", json.dumps({"name": "x", "unit": "mm"}), content_type="application/json")
    assert answer.status_code == 403
    assert answer.json()["problem"]["code"] in ("not-allowed", "bad-params")


def test_guessing_closes_the_name_for_a_while_to_the_right_password_too(visitor):
    head = token(visitor)
    answers = [sign_in(visitor, "wrong", **head) for _ in range(9)]
    assert answers[0].status_code == 400
    last = answers[-1]
    assert last.status_code == 429 and "ten minutes" in last.json()["problem"]["need"]
    assert sign_in(visitor, **head).status_code == 429


def test_the_demo_link_opens_for_ten_minutes_from_its_first_use(settings, tmp_path, monkeypatch):
    settings.DEMO, settings.VAR = True, tmp_path
    now = [1_000_000.0]
    monkeypatch.setattr(demo_link.time, "time", lambda: now[0])
    old = new_demo_link().removeprefix("enter/")
    link = new_demo_link().removeprefix("enter/")
    assert not demo_link_opens(old)
    now[0] += 3600  # printed an hour ago, never opened
    assert demo_link_opens(link)
    now[0] += 599
    assert demo_link_opens(link)
    now[0] += 2
    assert not demo_link_opens(link)
    now[0] -= 7200  # nor with a clock set back
    assert not demo_link_opens(link)
    settings.DEMO = False
    assert not demo_link_opens(new_demo_link().removeprefix("enter/"))


def test_what_is_written_is_its_owners_alone():
    for name in ("secret", "log"):
        mode = stat.S_IMODE((settings.VAR / name).stat().st_mode)
        assert mode & 0o077 == 0, name


def test_cookies_carry_the_folders_name():
    assert re.fullmatch(r"contour-session-[0-9a-f]{8}", settings.SESSION_COOKIE_NAME)
    assert re.fullmatch(r"contour-csrf-[0-9a-f]{8}", settings.CSRF_COOKIE_NAME)


def test_no_inline_script_runs_on_our_page():
    policy = Client().get("/")["Content-Security-Policy"]
    rules = {r.split()[0]: r.split()[1:] for r in policy.split("; ")}
    assert (
        rules["script-src"] == ["'self'"]
        and rules["frame-ancestors"] == ["'none'"]
        and rules["object-src"] == ["'none'"]
    )


def test_an_account_brings_in_only_so_much(maker, block_stl, settings):
    settings.UPLOADS_PER_HOUR = 2
    for _ in range(2):
        bring(maker, block_stl.read_bytes())
    from django.core.files.uploadedfile import SimpleUploadedFile

    answer = maker.post("/api/uploads", {"file": SimpleUploadedFile("a.stl", b"x")})
    assert answer.status_code == 413 and "wait an hour" in answer.json()["problem"]["remedy"]
    Upload.objects.update(created=timezone.now() - timedelta(hours=2))
    bring(maker, block_stl.read_bytes())


def test_a_fault_is_logged_and_answered_with_its_report_code(maker, job, monkeypatch, caplog):
    def broken(*_):
        raise RuntimeError("the wrong rope")

    monkeypatch.setattr(jobs_api, "recipe_of", broken)
    maker.raise_request_exception = False
    with caplog.at_level(logging.ERROR):
        answer = maker.get(f"/api/jobs/{job['id']}")
    assert answer.status_code == 500 and answer["Content-Type"].startswith("application/json")
    code = re.search(r"report ([0-9a-f]{8})", answer.json()["problem"]["got"])[1]
    (record,) = [r for r in caplog.records if code in r.getMessage()]
    assert record.exc_info and "the wrong rope" in str(record.exc_info[1])
    assert "rope" not in answer.content.decode()


def test_an_address_that_is_none_is_answered_as_a_problem(maker):
    answer = maker.get("/api/nothing/here")
    assert answer.status_code == 404 and answer.json()["problem"]["code"] == "not-found"


@pytest.mark.parametrize(
    ("error", "code"),
    [
        (OSError(28, "No space left on device", "/x/y.bin"), "no-space"),
        (OSError(30, "Read-only file system"), "read-only"),
        (PermissionError(13, "Permission denied", "/x/contour.sqlite3"), "read-only"),
        (OperationalError("database is locked"), "busy"),
        (OperationalError("database or disk is full"), "no-space"),
        (OperationalError("attempt to write a readonly database"), "read-only"),
        (OSError(5, "Input/output error"), None),
        (KeyError(1), None),
    ],
)
def test_what_the_system_says_becomes_a_sentence(error, code):
    found = fault_of(error)
    assert (found and found.code) == code
    assert reported(error, "trying").code == (code or "crashed")
    if found and found.got:
        assert "/" not in found.got


def test_a_clock_set_back_leaves_no_task_running(maker, job):
    edited(maker, job, region_edit(job))
    row = Task.objects.filter(kind="build").latest("created")
    hence = timezone.now() + timedelta(hours=1)
    Task.objects.filter(id=row.id).update(status="running", heartbeat=hence, result="", claim=None)
    assert sweep() == 1
    row.refresh_from_db()
    assert row.status == "done"
    # Nor does a row from the future keep its owner's other work waiting.
    Task.objects.filter(id=row.id).update(status="running", heartbeat=hence)
    other = Task.objects.create(owner=row.owner, job=row.job, revision=row.revision, kind="build")
    perform.call_local(str(other.id))
    other.refresh_from_db()
    assert other.status == "done"
    assert timedelta(seconds=1) < STALE


@pytest.mark.parametrize(
    "body",
    [
        b'{"username": "\\ud800", "password": "x"}',
        b'{"username": NaN, "password": "x"}',
        b"[" * 100_000,
        b"\xff\xfe",
        b"",
        b"nonsense",
        b'{"username": ' + b"9" * 5000 + b', "password": "x"}',
        b'{"username": "a\\u0000b", "password": "x"}',
    ],
)
def test_bodies_that_are_no_json_are_refused_as_such(visitor, body):
    answer = visitor.post("/api/session", body, content_type="application/json", headers=token(visitor))
    assert answer.status_code == 400, answer.content
    assert answer.json()["problem"]["code"] == "bad-params"


@pytest.mark.parametrize("number", ["NaN", "Infinity", "-Infinity", "1e999"])
def test_no_number_that_json_does_not_know_gets_in(maker, job, number):
    scan = get(maker, f"/jobs/{job['id']}")["recipe"]["evidence"][0]["id"]
    body = f'{{"scan": "{scan}", "origin": [{number}, 0, 0], "normal": [0, 0, 1]}}'
    answer = maker.post(f"/api/jobs/{job['id']}/section", body, content_type="application/json")
    assert answer.status_code == 400 and "finite" in answer.json()["problem"]["message"]


def test_what_is_not_known_is_null_in_answers():
    from bench.api.answers import ContourAPI

    rendered = ContourAPI(urls_namespace="test").renderer.render(
        None, {"a": [float("nan"), 1.5], "b": (float("inf"),)}, response_status=200
    )
    assert json.loads(rendered) == {"a": [None, 1.5], "b": [None]}
