"""Workers on other machines: a web machine with the only database, Redis between them, and one worker killed in a build."""

from __future__ import annotations

import json
import os
import signal
import socket
import subprocess
from pathlib import Path

import pytest
import redis

from tests.bench.served import Person, account, address_of, alive, command, until


@pytest.fixture(scope="module")
def queue(tmp_path_factory):
    """Debian's Redis on a free port, keeping nothing."""
    with socket.socket() as s:
        s.bind(("127.0.0.1", 0))
        port = s.getsockname()[1]
    folder = tmp_path_factory.mktemp("redis")
    server = subprocess.Popen(
        [
            "redis-server",
            "--port",
            str(port),
            "--bind",
            "127.0.0.1",
            "--save",
            "",
            "--appendonly",
            "no",
            "--dir",
            str(folder),
        ],
        stdout=subprocess.DEVNULL,
    )
    client = redis.Redis(port=port)

    def up() -> bool:
        try:
            return bool(client.ping())
        except redis.RedisError:
            return False

    until(up, "Redis is up")
    yield f"redis://127.0.0.1:{port}/0"
    server.terminate()
    server.wait(30)


class Site:
    """A web machine and two others, which share a folder and nothing else."""

    def __init__(self, folder: Path, queue: str) -> None:
        self.var, self.shared, self.queue = folder / "web", folder / "shared", queue
        self.web = command(
            self.var, "serve", "--prepare", "--port", "8850", CONTOUR_REDIS=queue, CONTOUR_SHARED=str(self.shared)
        )
        self.base = address_of(self.web)
        self.folders = [folder / "first", folder / "second"]
        self.workers = [self.worker(k) for k in range(2)]

    def worker(self, k: int) -> subprocess.Popen[str]:
        env = {"CONTOUR_REDIS": self.queue, "CONTOUR_SHARED": str(self.shared), "CONTOUR_ROLE": "remote"}
        return command(self.folders[k], "run_huey", "--quiet", **env)

    def stop(self) -> None:
        for process in (*self.workers, self.web):
            if alive(process.pid):
                process.send_signal(signal.SIGCONT)
                os.killpg(process.pid, signal.SIGTERM)
        for process in (*self.workers, self.web):
            process.wait(60)


@pytest.fixture(scope="module")
def site(tmp_path_factory, queue):
    made = Site(tmp_path_factory.mktemp("site"), queue)
    yield made
    made.stop()


def test_a_worker_killed_in_a_build_loses_nothing(site, block_stl):
    account(site.var, "keeper")
    person = Person(site.base, "keeper")
    job = person.begin(block_stl.read_bytes())
    person.built(job["id"])
    first, second = site.workers
    killed = False
    for seed in range(40, 60):
        second.send_signal(signal.SIGSTOP)  # so that the first one takes the build
        person.region(job, seed)

        def state() -> str | None:
            status = person.ask("GET", f"/jobs/{job['id']}")["build"]["status"]
            return status if status != "queued" else None

        if until(state, "the build has begun") == "running":
            os.killpg(first.pid, signal.SIGKILL)  # its children with it, as when a machine goes
            killed = True
        second.send_signal(signal.SIGCONT)
        if killed:
            break
    assert killed, "every build was over before it could be killed"
    done = person.built(job["id"])
    steps = done["build"]["result"]["steps"]
    assert len(steps) == len(done["recipe"]["steps"]) > 0
    assert {s["status"] for s in steps} <= {"ok", "failed"} and done["build"]["problem"] is None
    # And the site goes on with the one that is left.
    person.region(job, 77)
    assert len(person.built(job["id"])["build"]["result"]["steps"]) == len(steps) + 1


def test_only_the_web_machine_has_a_database(site):
    assert (site.var / "contour.sqlite3").exists()
    for folder in (*site.folders, site.shared):
        assert not list(folder.rglob("*.sqlite3")), folder
    assert (site.shared / "store" / "blobs").is_dir() and not (site.var / "store").exists()


def test_what_runs_on_another_machine_can_be_cancelled(site, block_stl):
    account(site.var, "second")
    person = Person(site.base, "second")
    job = person.begin(block_stl.read_bytes() + b"\0", "Other")
    person.built(job["id"])
    scan = job["recipe"]["evidence"][0]["id"]
    row = person.ask("POST", f"/jobs/{job['id']}/regions", {"scan": scan})
    person.ask("DELETE", f"/jobs/{job['id']}/regions/{row['id']}")

    def over() -> str | None:
        status = person.ask("GET", f"/jobs/{job['id']}/regions/{row['id']}")["status"]
        return status if status in ("cancelled", "done") else None

    assert until(over, "the search has ended") in ("cancelled", "done")


def test_reports_of_a_claim_that_is_over_change_nothing(queue, monkeypatch, settings, db):
    """A worker that was taken for dead reports its result late: the row belongs to somebody else, and the worker is told to stop."""
    import uuid

    from django.contrib.auth import get_user_model

    from bench import remote
    from bench.models import Task

    settings.REDIS = queue
    remote._redis.cache_clear()
    owner = get_user_model().objects.create_user("keeper")
    mine, other = uuid.uuid4(), uuid.uuid4()
    row = Task.objects.create(owner=owner, kind="count", status="running", claim=mine)
    remote._apply({"task": str(row.id), "claim": str(other), "what": "claimed"})
    remote._apply({"task": str(row.id), "claim": str(other), "what": "done", "result": {"facets": 1}})
    row.refresh_from_db()
    assert row.status == "running" and row.result == ""
    assert redis.Redis.from_url(queue).exists(f"contour:cancel:{other}")
    remote._apply(
        {"task": str(row.id), "claim": str(mine), "what": "event", "event": {"event": "deliver", "name": "meshing"}}
    )
    remote._apply({"task": str(row.id), "claim": str(mine), "what": "done", "result": {"facets": 2}})
    row.refresh_from_db()
    assert row.status == "done" and json.loads(row.result) == {"facets": 2}
    remote._redis.cache_clear()
