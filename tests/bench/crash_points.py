"""Moments of work at which everything may stop: a snapshot of the folder as a power cut would leave it, and what must hold of it.

All processes are stopped while the folder is copied, so that the copy is the state of one moment: what had been answered by then, what was
half-written, and nothing of what came after.
"""

from __future__ import annotations

import hashlib
import json
import os
import shutil
import signal
import sqlite3
import subprocess
import threading
import time
import urllib.error
import uuid
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy as np

from contour.exchange.scanfile import read_scan
from contour.job.build.keys import keys_in_result
from contour.job.build.store import Store
from contour.recipe.recipe import load_recipe
from tests.bench.served import Person, account, address_of, command

__all__ = ["OPERATIONS", "Site", "crash_points", "faults_of"]

OPERATIONS = ("edit", "build", "delivery", "upload")


def descendants(root: int) -> list[int]:
    """A process's children and theirs, those in sessions of their own too."""
    parents: dict[int, list[int]] = {}
    for stat in Path("/proc").glob("[0-9]*/stat"):
        try:
            fields = stat.read_text().rsplit(")", 1)[1].split()
        except OSError:
            continue
        parents.setdefault(int(fields[1]), []).append(int(stat.parent.name))
    found: list[int] = []
    todo = [root]
    while todo:
        children = parents.get(todo.pop(), [])
        found += children
        todo += children
    return found


@dataclass(slots=True)
class Site:
    """A server with one person and one job; `answered`: what that person was told has been done."""

    var: Path
    port: int
    scan: bytes
    process: subprocess.Popen[str] = field(init=False)
    person: Person = field(init=False)
    job: str = field(init=False)
    answered: dict[str, Any] = field(default_factory=lambda: {"steps": [], "uploads": [], "deliveries": []})
    turn: int = 0

    def __post_init__(self) -> None:
        self.process = command(self.var, "serve", "--prepare", "--port", str(self.port))
        base = address_of(self.process)
        account(self.var, "keeper")
        self.person = Person(base, "keeper")
        self.job = self.person.begin(self.scan)["id"]
        self.person.built(self.job)

    def stop(self) -> None:
        self.process.send_signal(signal.SIGTERM)
        self.process.wait(60)

    def snapshot(self, place: Path) -> dict[str, Any]:
        """The folder as it is at this very moment, and what had been answered by then."""
        pids = [self.process.pid, *descendants(self.process.pid)]
        for pid in pids:
            _signal(pid, signal.SIGSTOP)
        try:
            answered = {k: list(v) for k, v in self.answered.items()}
            shutil.copytree(self.var, place, ignore_dangling_symlinks=True)
        finally:
            for pid in pids:
                _signal(pid, signal.SIGCONT)
        return answered

    def work(self, operation: str) -> None:
        """One operation, noted as answered when the server has said so."""
        self.turn += 1
        if operation == "edit":
            made = self._edit()
            self.answered["steps"].append(made)
        elif operation == "build":
            self.answered["steps"].append(self._edit())
            self.person.built(self.job)
        elif operation == "delivery":
            row = self.person.ask(
                "POST", f"/jobs/{self.job}/regions", {"scan": self._scan(), "least_area": float(self.turn)}
            )
            while (seen := self.person.ask("GET", f"/jobs/{self.job}/regions/{row['id']}"))["status"] in (
                "queued",
                "running",
            ):
                time.sleep(0.02)
            if seen["status"] == "done":
                self.answered["deliveries"].append(row["id"])
        else:
            data = self.scan + self.turn.to_bytes(4, "little")
            self.answered["uploads"].append((self.person.bring(data)["id"], hashlib.sha256(data).hexdigest()))

    def _scan(self) -> str:
        return str(self.person.ask("GET", f"/jobs/{self.job}")["recipe"]["evidence"][0]["id"])

    def _edit(self) -> str:
        id_ = str(uuid.uuid4())
        params = {"scan": {"id": self._scan()}, "seeds": [37 * self.turn % 900]}
        self.person.edit(self.job, {"op": "add-step", "id": id_, "kind": "region", "params": params})
        return id_


def _signal(pid: int, which: int) -> None:
    try:
        os.kill(pid, which)
    except ProcessLookupError:
        pass


def crash_points(
    site: Site, operation: str, count: int, seed: int, folder: Path
) -> Iterator[tuple[Path, dict[str, Any]]]:
    """`count` snapshots at random moments of an operation that is under way, with what had been answered."""
    rng = np.random.default_rng(seed)
    begun = time.monotonic()
    site.work(operation)
    usual = time.monotonic() - begun
    for k in range(count):
        wrong: list[BaseException] = []

        def work() -> None:
            try:
                site.work(operation)
            except (AssertionError, urllib.error.HTTPError, OSError) as error:
                wrong.append(error)

        doing = threading.Thread(target=work)
        doing.start()
        time.sleep(float(rng.uniform(0.0, 1.1)) * usual)  # the point: any moment of it will do
        place = folder / f"{operation}-{k}"
        answered = site.snapshot(place)
        doing.join(180)
        assert not doing.is_alive() and not wrong, wrong
        yield place, answered
        shutil.rmtree(place)


def faults_of(var: Path, answered: dict[str, Any]) -> list[str]:
    """What does not hold of a folder that was cut off: empty when everything does. As a server would find it at its next start."""
    out = []
    db = sqlite3.connect(var / "contour.sqlite3")
    if (said := db.execute("PRAGMA integrity_check").fetchone()[0]) != "ok":
        out.append(f"database: {said}")
    store = Store(var / "store")
    recipes = [
        load_recipe(text)
        for (text,) in db.execute("SELECT r.recipe FROM bench_job j JOIN bench_revision r ON r.id = j.head_id")
    ]
    steps = {s.id for r in recipes for s in r.steps}
    out += [f"an answered edit is lost: {s}" for s in answered["steps"] if s not in steps]
    kept = {row[0].replace("-", ""): row[1] for row in db.execute("SELECT id, blob FROM bench_upload")}
    for id_, digest in answered["uploads"]:
        if kept.get(id_.replace("-", "")) != digest:
            out.append(f"an answered upload is lost: {id_}")
    for blob in {*kept.values()}:  # whether answered or not: what the database speaks of is whole
        if hashlib.sha256(store.blob(blob).read_bytes()).hexdigest() != blob:
            out.append(f"a kept file is damaged: {blob[:12]}")
    for place in store.products.iterdir():
        if not place.name.startswith(".draft-") and not store.has(place.name):
            out.append(f"a product is half-made: {place.name}")
    for id_, kind, status, result in db.execute("SELECT id, kind, status, result FROM bench_task"):
        if status == "done" and kind == "build":
            out += [f"a finished build lacks {k}" for k in keys_in_result(json.loads(result)) if not store.has(k)]
        if status == "done" and kind == "segment":
            path = var / "deliveries" / f"{uuid.UUID(id_)}.segment"
            facets = len(read_scan(store.blob(next(iter(kept.values())))).corners)
            if not path.exists() or path.stat().st_size != 4 * facets:
                out.append(f"a finished delivery is not whole: {path.name}")
    db.close()
    return out
