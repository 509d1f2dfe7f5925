"""Asking again: a job of sixty steps while nothing changes, and the shelf of two hundred jobs."""

from __future__ import annotations

import tempfile
import time
import urllib.error
import urllib.request
import uuid
from collections.abc import Iterator
from pathlib import Path

import numpy as np

from tests.bench.served import Person, account
from tests.browser.conftest import Server

__all__ = ["run"]

STEPS, JOBS, TIMES = 60, 200, 50


def _asked(person: Person, path: str, tag: str | None = None) -> tuple[float, int, str | None]:
    """Seconds, bytes of the body, and the state that the answer is of."""
    request = urllib.request.Request(f"{person.base}/api{path}", headers={"If-None-Match": tag} if tag else {})
    begun = time.perf_counter()
    try:
        with person.opener.open(request, timeout=60) as answer:
            size, tag = len(answer.read()), answer.headers["ETag"]
    except urllib.error.HTTPError as unchanged:
        if unchanged.code != 304:
            raise
        size, tag = len(unchanged.read()), unchanged.headers["ETag"]
    return time.perf_counter() - begun, size, tag


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
            path = f"/jobs/{job}"
            _, size, tag = _asked(person, path)
            whole = [_asked(person, path)[0] for _ in range(TIMES)]
            yield (
                f"a job of {STEPS} steps, all of it, n = {TIMES}: median",
                f"{np.median(whole) * 1e3:.1f} ms, {size / 1e3:.0f} kB",
            )
            again = [_asked(person, path, tag) for _ in range(TIMES)]
            times = [t for t, _, _ in again]
            yield (
                "asked again, nothing has changed: median, p95, bytes (wanted: <= 5 ms, 30 kB)",
                f"{np.median(times) * 1e3:.1f} ms, {np.percentile(times, 95) * 1e3:.1f} ms, {max(b for _, b, _ in again)} B",
            )
            for k in range(JOBS - 1):
                person.ask("POST", "/jobs", {"name": f"Part {k}", "unit": "mm"})
            time.sleep(5)  # their builds, of nothing, are over
            shelf = [_asked(person, "/jobs")[:2] for _ in range(TIMES)]
            yield (
                f"the shelf of {JOBS} jobs, n = {TIMES}: median, p95 (wanted: <= 50 ms)",
                f"{np.median([t for t, _ in shelf]) * 1e3:.1f} ms, {np.percentile([t for t, _ in shelf], 95) * 1e3:.1f} ms, {shelf[0][1] / 1e3:.0f} kB",
            )
        finally:
            server.stop()
