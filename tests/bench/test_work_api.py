"""Long work in one list: what is mine, how far it is, what is left by its pace, and stopping it."""

from __future__ import annotations

import uuid
from datetime import timedelta

import pytest
from django.contrib.auth import get_user_model
from django.utils import timezone

from bench.api.work import TITLES
from bench.compute import CHILD
from bench.models import Job, Task
from tests.bench.asking import client_of, get

pytestmark = pytest.mark.django_db(transaction=True)


def put(name: str, kind: str, status: str = "running", seconds: float = 30, **more) -> Task:
    owner = get_user_model().objects.get(username=name)
    row = Task.objects.create(owner=owner, kind=kind, status=status, **more)
    Task.objects.filter(id=row.id).update(created=timezone.now() - timedelta(seconds=seconds))
    return row


def test_every_kind_of_work_has_words():
    assert set(TITLES) == {*CHILD, "build"}


def test_work_tells_how_far_it_is_and_what_is_left_by_its_pace(maker, job):
    row = put("maker", "segment", progress={"name": "growing planes", "done": 25, "total": 100}, seconds=30)
    Task.objects.filter(id=row.id).update(job=job["id"])
    (told,) = get(maker, "/work")
    assert (told["title"], told["doing"], told["job_name"]) == ("finding regions", "growing planes", "Test block")
    assert told["share"] == 0.25 and told["since_s"] == pytest.approx(30, abs=5)
    assert told["left_s"] == pytest.approx(3 * told["since_s"])


def test_what_cannot_be_told_is_not_made_up(maker):
    put("maker", "build", progress={"event": "step", "index": 2, "count": 8, "name": "Boss"}, seconds=40)
    put("maker", "step", status="queued", progress={}, seconds=20)
    put("maker", "compare", progress={"name": "measuring what moved"}, seconds=10)
    put("maker", "segment", progress={"done": 0, "total": 100}, seconds=5)
    build, waiting, plain, begun = get(maker, "/work")
    assert build["share"] == 0.25 and build["left_s"] > 100
    assert (waiting["status"], waiting["share"], waiting["left_s"]) == ("queued", None, None)
    assert (plain["doing"], plain["share"], plain["left_s"]) == ("measuring what moved", None, None)
    assert begun["share"] == 0 and begun["left_s"] is None


def test_what_is_over_or_somebody_elses_is_not_listed(maker):
    client_of("other")
    put("other", "build")
    for status in ("done", "failed", "cancelled"):
        put("maker", "build", status=status)
    put("maker", "build", cancel=True)
    assert get(maker, "/work") == []


def test_work_is_asked_to_stop_by_its_owner_alone(maker):
    row, rest = put("maker", "segment"), put("maker", "count", seconds=1)
    assert client_of("other").delete(f"/api/work/{row.id}").status_code == 404
    assert maker.delete(f"/api/work/{uuid.uuid4()}").status_code == 404
    row.refresh_from_db()
    assert not row.cancel
    answer = maker.delete(f"/api/work/{row.id}")
    assert [w["id"] for w in answer.json()] == [str(rest.id)]
    row.refresh_from_db()
    assert row.cancel and row.status == "running"  # whoever works on it ends it
    assert Job.objects.count() == 0
