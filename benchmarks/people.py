"""Twenty people at once on one server: everybody thinks for two to five seconds, then grows a region, cuts a section, edits, or waits
for a build; then the same with one of them asking for as much as he can."""

from __future__ import annotations

import tempfile
import threading
import time
import urllib.error
import urllib.request
import uuid
from collections import defaultdict
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np

from contour.check.exact_arrays import exact_arrays
from contour.exchange.stl_out import write_stl
from contour.simulate.scanner import ScanSettings, virtual_scan
from demo.bracket import bracket
from tests.bench.served import Person, account
from tests.browser.conftest import Server

__all__ = ["run"]

PEOPLE, SECONDS, SEED = 20, 90.0, 4


class Worker(Person):
    """Somebody with a job on a scan of their own, and a stopwatch."""

    def __init__(self, base: str, name: str, scan: bytes, seed: int) -> None:
        super().__init__(base, name)
        self.rng = np.random.default_rng(seed)
        self.times: dict[str, list[float]] = defaultdict(list)
        self.wrong: list[str] = []
        self.job = self.begin(scan, f"Bracket of {name}")["id"]

    def timed(self, what: str, method: str, path: str, body: Any = None) -> Any:
        begun = time.perf_counter()
        try:
            return self.ask(method, f"/jobs/{self.job}{path}", body)
        except urllib.error.HTTPError as error:
            if error.code != 422:  # nothing there to grow or to cut is an answer
                self.wrong.append(f"{what}: {error.code} {error.read()[:200]!r}")
        except OSError as error:
            self.wrong.append(f"{what}: {error}")
        finally:
            self.times[what].append(time.perf_counter() - begun)
        return None

    def act(self, facets: int) -> None:
        """One thing that a person does. The edit's build is waited for in the background of everything else."""
        now = self.timed("look", "GET", "")
        if now is None:
            return
        if now["build"]["status"] == "failed":
            self.wrong.append(f"build: {now['build']['problem']}")
        scan = now["recipe"]["evidence"][0]["id"]
        seed = int(self.rng.integers(facets))
        what = self.rng.choice(["grow", "grow", "cut", "edit"])
        if what == "grow":
            self.timed("grow", "POST", "/grow", {"scan": scan, "seeds": [seed]})
        elif what == "cut":
            body = {
                "scan": scan,
                "origin": [60, 40, float(self.rng.uniform(15, 50))],
                "normal": [0.05, 0.02, 1],
                "fitted": True,
            }
            self.timed("cut", "POST", "/section", body)
        else:
            edit = {
                "op": "add-step",
                "id": str(uuid.uuid4()),
                "kind": "region",
                "params": {"scan": {"id": scan}, "seeds": [seed]},
            }
            self.timed("edit", "POST", "/edits", {"version": now["version"], "edit": edit})

    def live(self, until: float, facets: int) -> None:
        while time.monotonic() < until:
            time.sleep(float(self.rng.uniform(2, 5)))
            self.act(facets)

    def hurry(self, until: float, facets: int) -> None:
        """The heavy one: whole-scan searches and edits as fast as they are answered, no thinking."""
        while time.monotonic() < until:
            now = self.ask("GET", f"/jobs/{self.job}")
            scan = now["recipe"]["evidence"][0]["id"]
            try:
                self.ask("POST", f"/jobs/{self.job}/regions", {"scan": scan})
            except urllib.error.HTTPError:
                time.sleep(0.2)
            self.act(facets)


def _round(people: list[Worker], heavy: Worker | None, facets: int) -> dict[str, np.ndarray]:
    for p in people:
        p.times.clear()
    until = time.monotonic() + SECONDS
    threads = [threading.Thread(target=p.live, args=(until, facets)) for p in people]
    if heavy is not None:
        threads.append(threading.Thread(target=heavy.hurry, args=(until, facets)))
    for t in threads:
        t.start()
    for t in threads:
        t.join()
    return {what: np.array([x for p in people for x in p.times[what]]) for what in ("look", "grow", "cut", "edit")}


def run() -> Iterator[tuple[str, str]]:
    made = virtual_scan(exact_arrays(bracket().shape), ScanSettings(spacing_mm=1.1, noise_mm=0.03, seed=3))
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "scan.stl"
        write_stl(path, made.vertices, made.facets)
        var = Path(folder) / "var"
        server = Server(var, demo=False)
        try:
            for k in range(PEOPLE + 1):
                account(var, f"person{k}")
            people = [
                Worker(server.base, f"person{k}", path.read_bytes() + bytes([k]), SEED + k) for k in range(PEOPLE + 1)
            ]
            *people, heavy = people
            for p in people:
                p.act(len(made.facets))  # compiled, mapped
            calm = _round(people, None, len(made.facets))
            busy = _round(people, heavy, len(made.facets))
            for what in calm:
                a, b = np.percentile(calm[what], 95), np.percentile(busy[what], 95)
                limit = " (wanted: 0.5 s)" if what in ("grow", "edit") else ""
                yield (
                    f"{what}, {PEOPLE} people, n = {len(calm[what])}: p95{limit}",
                    f"{a:.2f} s, median {np.median(calm[what]):.2f} s",
                )
                yield (
                    f"{what} beside one heavy user, n = {len(busy[what])}: p95 (wanted: at most double)",
                    f"{b:.2f} s ({b / a:.1f} times)",
                )
            wrong = [w for p in people for w in p.wrong]
            yield "errors and false failures (wanted: 0)", f"{len(wrong)}" + (f": {wrong[:3]}" if wrong else "")
        finally:
            server.stop()
