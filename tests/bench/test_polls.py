"""Asking again costs little: a job says whether it has changed, the shelf reads no results, and whose a product is, is a table."""

from __future__ import annotations

import json

import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext

from bench.models import Job, JobProduct, Revision, Task
from contour.job.build.keys import keys_in_result
from tests.bench.asking import client_of, edited, get, post
from tests.bench.test_history_api import block, read_block  # noqa: F401

pytestmark = pytest.mark.django_db(transaction=True)


def look(client, job: str, tag: str | None = None):
    return client.get(f"/api/jobs/{job}", headers={"If-None-Match": tag} if tag else {})


def test_a_job_that_has_not_changed_says_only_that(maker, block):  # noqa: F811
    first = look(maker, block["id"])
    again = look(maker, block["id"], first["ETag"])
    assert (
        first.status_code == 200
        and again.status_code == 304
        and again.content == b""
        and again["ETag"] == first["ETag"]
    )
    assert "private" in first["Cache-Control"]


@pytest.mark.parametrize("change", ["edit", "progress", "result", "another build"])
def test_whatever_is_told_of_a_job_makes_it_another_state(maker, block, change):  # noqa: F811
    tag = look(maker, block["id"])["ETag"]
    builds = Task.objects.filter(job=block["id"], kind="build")
    if change == "edit":
        edited(maker, get(maker, f"/jobs/{block['id']}"), {"op": "set-job", "name": "Another"})
    elif change == "progress":
        builds.update(progress={"event": "step", "index": 3})
    elif change == "result":
        builds.update(result=builds.first().result)
    else:
        job = Job.objects.get(id=block["id"])
        Task.objects.create(owner=job.owner, job=job, revision=job.head, kind="build")
    assert look(maker, block["id"], tag).status_code == 200


def test_a_heartbeat_alone_is_no_change(maker, block):  # noqa: F811
    from django.utils import timezone

    tag = look(maker, block["id"])["ETag"]
    Task.objects.filter(job=block["id"]).update(heartbeat=timezone.now())
    assert look(maker, block["id"], tag).status_code == 304


def test_a_state_opens_no_job_of_somebody_else(maker, block):  # noqa: F811
    tag = look(maker, block["id"])["ETag"]
    assert look(client_of("other"), block["id"], tag).status_code == 404


def test_the_shelf_asks_one_question_however_many_jobs_there_are(maker, block):  # noqa: F811
    for k in range(5):
        post(maker, "/jobs", {"name": f"Part {k}", "unit": "mm"})
    with CaptureQueriesContext(connection) as asked:
        cards = get(maker, "/jobs")
    assert len(cards) == 6
    said = [q["sql"] for q in asked if "bench_" in q["sql"]]
    assert len(said) == 1 and "recipe" not in said[0] and "result" not in said[0]


def test_a_card_follows_edits_builds_and_undo(maker, block):  # noqa: F811
    def card() -> dict:
        return next(c for c in get(maker, "/jobs") if c["id"] == block["id"])

    first = card()
    assert (first["scans"], first["steps"], first["bodies"]) == (
        1,
        len(get(maker, f"/jobs/{block['id']}")["recipe"]["steps"]),
        1,
    )
    assert (first["closed"], first["failing"]) == (1, 0)
    edited(
        maker,
        get(maker, f"/jobs/{block['id']}"),
        {"op": "set-job", "name": "Renamed", "acceptance": {"text": "0.2 mm"}},
    )
    assert (card()["name"], card()["acceptance_mm"]) == ("Renamed", 0.2)
    post(
        maker,
        f"/jobs/{block['id']}/head",
        {"version": get(maker, f"/jobs/{block['id']}")["version"], "direction": "undo"},
    )
    assert (card()["name"], card()["acceptance_mm"]) == (first["name"], first["acceptance_mm"])


def test_every_product_that_a_build_tells_of_is_the_jobs(maker, block):  # noqa: F811
    result = get(maker, f"/jobs/{block['id']}")["build"]["result"]
    keys = set(keys_in_result(result))
    assert keys and keys <= set(JobProduct.objects.filter(job=block["id"]).values_list("key", flat=True))


def test_jobs_of_before_get_their_table_and_their_card(maker, block):  # noqa: F811
    """The migration's own function, on rows as an earlier version has left them."""
    from importlib import import_module

    from django.apps import apps

    kept = set(JobProduct.objects.filter(job=block["id"]).values_list("key", flat=True))
    card = Job.objects.get(id=block["id"]).card
    JobProduct.objects.all().delete()
    Job.objects.update(card={})
    import_module("bench.migrations.0005_products_and_cards").fill(apps, None)
    assert set(JobProduct.objects.filter(job=block["id"]).values_list("key", flat=True)) == {
        k
        for k in kept
        if not k.endswith("-s")  # of a fit's sample: seen while the build ran, and by nobody since
    }
    since = ("closed", "failing")  # on cards of later versions
    assert Job.objects.get(id=block["id"]).card == {k: v for k, v in card.items() if k not in since}
    assert json.loads(Revision.objects.filter(job=block["id"]).last().recipe)["name"] == card["name"]


def test_a_server_that_is_started_anew_knows_no_states(maker, block, monkeypatch):  # noqa: F811
    """A newer version may answer in another shape: no page is told that what it has from before will do."""
    tag = look(maker, block["id"])["ETag"]
    monkeypatch.setattr("bench.api.jobs._STARTED", "another")
    assert look(maker, block["id"], tag).status_code == 200
