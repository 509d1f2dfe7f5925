"""Interactive questions about a scan of two million facets: how long each takes, and what the web process holds meanwhile."""

from __future__ import annotations

import base64
import json
import tempfile
import threading
import time
import urllib.error
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np

from contour.exchange.stl_out import write_stl
from tests.bench.served import Person, account
from tests.browser.conftest import Server

__all__ = ["run"]

SIDE = 1000  # two facets to a cell
WANTED_MB = 500


def _sheet(path: Path) -> bytes:
    """A sheet of 200 mm with a swell of 6 mm over it and noise of 0.01 mm, as STL."""
    rng = np.random.default_rng(13)
    t = np.linspace(0.0, 200.0, SIDE + 1)
    x, y = np.meshgrid(t, t, indexing="ij")
    z = 3.0 * np.sin(x / 30) * np.cos(y / 40) + rng.normal(0, 0.01, x.shape)
    vertices = np.column_stack([x.ravel(), y.ravel(), z.ravel()])
    i, j = np.meshgrid(np.arange(SIDE), np.arange(SIDE), indexing="ij")
    a = (i * (SIDE + 1) + j).ravel()
    b, c, d = a + SIDE + 1, a + SIDE + 2, a + 1
    write_stl(path, vertices, np.vstack([np.column_stack([a, b, c]), np.column_stack([a, c, d])]).astype(np.int32))
    return path.read_bytes()


def _held_mb(pid: int) -> float:
    status = Path(f"/proc/{pid}/status").read_text()
    return next(int(line.split()[1]) for line in status.splitlines() if line.startswith("RssAnon")) / 1024


class _Watched:
    """The most that a process held while the block ran."""

    def __init__(self, pid: int) -> None:
        self.pid, self.peak, self._over = pid, _held_mb(pid), threading.Event()

    def __enter__(self) -> _Watched:
        threading.Thread(target=self._watch, daemon=True).start()
        return self

    def _watch(self) -> None:
        while not self._over.wait(0.01):
            self.peak = max(self.peak, _held_mb(self.pid))

    def __exit__(self, *_: Any) -> None:
        self._over.set()


def run() -> Iterator[tuple[str, str]]:
    with tempfile.TemporaryDirectory() as folder:
        var = Path(folder) / "var"
        server = Server(var, demo=False)
        try:
            account(var, "heavy")
            person = Person(server.base, "heavy")
            job = person.built(person.begin(_sheet(Path(folder) / "sheet.stl"), "Sheet")["id"], 600)
            job = person.region(job, SIDE * SIDE // 2)
            job = person.built(job["id"], 600)
            yield from _asked(server.pids()["web"], person, job)
        finally:
            server.stop()


def _asked(pid: int, person: Person, job: dict[str, Any]) -> Iterator[tuple[str, str]]:
    at = f"/jobs/{job['id']}"
    scan = job["recipe"]["evidence"][0]["id"]
    facets = 2 * SIDE * SIDE
    everything = base64.b64encode(np.arange(facets, dtype="<u4").tobytes()).decode()
    region = next(s["key"] for s in job["build"]["result"]["steps"] if s["kind"] == "region")
    middle = [SIDE * SIDE + SIDE // 2]
    cut = {"scan": scan, "origin": [100, 100, 0], "normal": [1, 0, 0]}
    questions: dict[str, tuple[str, str, Any]] = {
        "grow": ("POST", f"{at}/grow", {"scan": scan, "seeds": middle}),
        "grow, all of it": ("POST", f"{at}/grow", {"scan": scan, "seeds": middle, "tolerance": "7 mm"}),
        "picked, all of it": ("POST", f"{at}/picked", {"scan": scan, "facets": everything}),
        "keep-picked, all of it": ("POST", f"{at}/keep-picked", {"scan": scan, "facets": everything}),
        "brush": ("POST", f"{at}/brush", {"scan": scan, "facet": middle[0], "radius_mm": 100}),
        "form": ("GET", f"{at}/products/{region}/form?scan={scan}", None),
        "section": ("POST", f"{at}/section", cut),
        "where to cut": ("POST", f"{at}/where-to-cut", {"scan": scan, "origin": [100, 100, 0], "normal": [1, 0, 0]}),
    }
    most = 0.0
    for name, (method, path, body) in questions.items():
        times, size, peak = [], 0, 0.0
        for _ in range(3):
            with _Watched(pid) as watched:
                begun = time.perf_counter()
                try:
                    size = len(json.dumps(person.ask(method, path, body)))
                except urllib.error.HTTPError as refused:
                    size = 0
                    yield f"{name} was refused", refused.read().decode()[:200]
                times.append(time.perf_counter() - begun)
            peak = max(peak, watched.peak)
        most = max(most, peak)
        yield (
            f"{name}: first and median of 3, answer, most held by the web process",
            f"{times[0]:.2f} s, {np.median(times):.2f} s, {size / 1e6:.1f} MB, {peak:.0f} MB",
        )
    yield f"most held by the web process (wanted: <= {WANTED_MB} MB)", f"{most:.0f} MB"
