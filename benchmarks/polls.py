"""Asking again: a job of sixty steps while nothing changes, and the shelf of two hundred jobs."""

from __future__ import annotations

import http.client
import tempfile
import time
import urllib.request
import uuid
from collections.abc import Iterator
from pathlib import Path

import numpy as np

from tests.bench.served import Person, account
from tests.browser.conftest import Server

__all__ = ["run"]

STEPS, JOBS, TIMES = 60, 200, 50


class _Page:
    """A page that asks over one connection, as browsers do."""

    def __init__(self, person: Person) -> None:
        host = person.base.removeprefix("http://")
        self.line = http.client.HTTPConnection(host, timeout=60)
        request = urllib.request.Request(f"{person.base}/api/session")
        person.jar.add_cookie_header(request)
        self.cookies = {"Cookie": str(request.get_header("Cookie"))}

    def asked(self, path: str, tag: str | None = None) -> tuple[float, int, str | None]:
        """Seconds, bytes of the body, and the state that the answer is of."""
        begun = time.perf_counter()
        self.line.request("GET", f"/api{path}", headers={**self.cookies, **({"If-None-Match": tag} if tag else {})})
        answer = self.line.getresponse()
        size = len(answer.read())
        if answer.status != (304 if tag else 200):
            raise RuntimeError(f"{path}: {answer.status}")
        return time.perf_counter() - begun, size, answer.headers["ETag"]


def run() -> Iterator[tuple[str, str]]:
    with tempfile.TemporaryDirectory() as folder:
        var = Path(folder) / "var"
        server = Server(var, demo=False)
        try:
            account(var, "poller")
            person = Person(server.base, "poller")
            job = person.ask("POST", "/jobs", {"name": "Sixty steps", "unit": "mm"})["id"]
            steps = [
                {
                    "op": "add-step",
                    "id": str(uuid.uuid4()),
                    "kind": "point",
                    "params": {"by": "typed", "x": {"text": f"{k} mm"}},
                }
                for k in range(STEPS)
            ]
            person.edit(job, {"op": "add-steps", "steps": steps})
            person.built(job)
            path, page = f"/jobs/{job}", _Page(person)
            _, size, tag = page.asked(path)
            whole = [page.asked(path)[0] for _ in range(TIMES)]
            yield (
                f"a job of {STEPS} steps, all of it, n = {TIMES}: median",
                f"{np.median(whole) * 1e3:.1f} ms, {size / 1e3:.0f} kB",
            )
            again = [page.asked(path, tag) for _ in range(TIMES)]
            times = [t for t, _, _ in again]
            yield (
                "asked again, nothing has changed: median, p95, bytes (wanted: <= 5 ms, 30 kB)",
                f"{np.median(times) * 1e3:.1f} ms, {np.percentile(times, 95) * 1e3:.1f} ms, {max(b for _, b, _ in again)} B",
            )
            for k in range(JOBS - 1):
                person.ask("POST", "/jobs", {"name": f"Part {k}", "unit": "mm"})
            time.sleep(5)  # their builds, of nothing, are over
            shelf = [page.asked("/jobs")[:2] for _ in range(TIMES)]
            yield (
                f"the shelf of {JOBS} jobs, n = {TIMES}: median, p95 (wanted: <= 50 ms)",
                f"{np.median([t for t, _ in shelf]) * 1e3:.1f} ms, {np.percentile([t for t, _ in shelf], 95) * 1e3:.1f} ms, {shelf[0][1] / 1e3:.0f} kB",
            )
        finally:
            server.stop()
