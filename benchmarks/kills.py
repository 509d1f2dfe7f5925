"""kill -9 of the child, the worker and the server during builds, twenty times: does anything get lost?"""

from __future__ import annotations

import json
import os
import signal
import sqlite3
import tempfile
import time
import urllib.request
from collections.abc import Iterator
from http.cookiejar import CookieJar
from pathlib import Path
from typing import Any

import numpy as np

from tests.bench.crash_points import descendants
from tests.browser.conftest import Server

__all__ = ["run"]

ROUNDS = 20


class Client:
    """Just enough of a browser: cookies and the CSRF header."""

    def __init__(self, server: Server) -> None:
        self.base = server.base
        self.open = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(CookieJar()))
        self.open.open(server.address).read()
        self.csrf = self.get("/session")["csrf"]

    def get(self, path: str) -> Any:
        return json.load(self.open.open(f"{self.base}/api{path}", timeout=20))

    def post(self, path: str, body: dict[str, Any]) -> Any:
        headers = {"Content-Type": "application/json", "X-CSRFToken": self.csrf}
        request = urllib.request.Request(f"{self.base}/api{path}", json.dumps(body).encode(), headers)
        return json.load(self.open.open(request, timeout=20))


def kill(server: Server, victim: str) -> None:
    pids = server.pids()
    if victim == "server":  # everything at once, as a power cut would
        server.stop(signal.SIGKILL)
        for pid in [*pids.values(), *(d for p in pids.values() for d in descendants(p))]:
            try:
                os.kill(pid, signal.SIGKILL)
            except ProcessLookupError:
                pass
        time.sleep(0.3)
        server.start()
        return
    targets = [pids["worker"]] if victim == "worker" else descendants(pids["worker"])[-1:]
    for pid in targets:
        try:
            os.kill(pid, signal.SIGKILL)
        except ProcessLookupError:
            pass


def run() -> Iterator[tuple[str, str]]:
    rng = np.random.default_rng(3)
    with tempfile.TemporaryDirectory() as folder:
        server = Server(Path(folder))
        try:
            client = Client(server)
            job = next(j["id"] for j in client.get("/jobs") if j["steps"] > 0)
            wait_done(client, job, 60)
            lost, waits = 0, []
            for k in range(ROUNDS):
                now = client.get(f"/jobs/{job}")
                step = next(s for s in now["recipe"]["steps"] if s["name"] == "Base outline")
                # the first outline changes, so everything after it is built again
                params = {"tolerance": {"text": f"{0.080 + 0.0001 * (k + 1):.4f} mm", "mark": "assumed"}}
                edit = {"op": "set-params", "step": step["id"], "params": params}
                after = client.post(f"/jobs/{job}/edits", {"version": now["version"], "edit": edit})
                time.sleep(float(rng.uniform(0.05, 0.9)))
                begun = time.monotonic()
                victim = ("child", "worker", "server")[k % 3]
                kill(server, victim)
                if victim == "server":
                    client = Client(server)
                done = wait_done(client, job, 60)
                waits.append(time.monotonic() - begun)
                same = done is not None and done["recipe"] == after["recipe"] and done["revision"] == after["revision"]
                whole = done is not None and all(s["status"] == "ok" for s in done["build"]["result"]["steps"])
                lost += not (same and whole)
            yield f"kill -9 of child, worker, server in turn, {ROUNDS} times: builds lost or unfinished", str(lost)
            yield "from the kill to the finished build", f"median {np.median(waits):.1f} s, worst {max(waits):.1f} s"
            check = sqlite3.connect(Path(folder) / "contour.sqlite3").execute("PRAGMA integrity_check").fetchone()[0]
            yield "integrity of the database afterwards", check
        finally:
            server.stop()


def wait_done(client: Client, job: str, limit_s: float) -> Any:
    end = time.monotonic() + limit_s
    while time.monotonic() < end:
        try:
            now = client.get(f"/jobs/{job}")
        except OSError:
            time.sleep(0.2)
            continue
        if now["build"]["status"] == "done":
            return now
        if now["build"]["status"] == "failed":
            return None
        time.sleep(0.1)
    return None
