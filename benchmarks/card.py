"""From a click to the card's text on a scan of a million facets: what the page asks for and waits for, the picture apart."""

from __future__ import annotations

import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

import numpy as np

from contour.exchange.stl_out import write_stl
from demo.bracket import bracket_scan
from tests.bench.served import Person, account
from tests.browser.conftest import Server

__all__ = ["run"]

SPACING_MM = 0.255  # about a million facets
CLICKS = 80
WANTED_S = 0.3


def run() -> Iterator[tuple[str, str]]:
    with tempfile.TemporaryDirectory() as folder:
        made = bracket_scan(SPACING_MM, 0.025)
        path = Path(folder) / "bracket.stl"
        write_stl(path, made.vertices, made.facets)
        var = Path(folder) / "var"
        server = Server(var, demo=False)
        try:
            account(var, "looker")
            person = Person(server.base, "looker")
            job = person.built(person.begin(path.read_bytes(), "Bracket")["id"], 600)
            scan = job["recipe"]["evidence"][0]["id"]
            seeds = np.random.default_rng(16).choice(len(made.facets), CLICKS, replace=False)
            times, kinds = [], []
            for seed in seeds:
                begun = time.perf_counter()
                answer = person.ask("POST", f"/jobs/{job['id']}/grow", {"scan": scan, "seeds": [int(seed)]})
                times.append(time.perf_counter() - begun)
                kinds.append(answer["surface"]["kind"])
            first, *rest = times
            yield "facets", f"{len(made.facets):,}"
            yield "first click", f"{first:.2f} s"
            yield f"{len(rest)} further clicks anywhere, median", f"{np.median(rest):.3f} s"
            yield f"p95 (wanted: <= {WANTED_S} s)", f"{np.percentile(rest, 95):.3f} s"
            yield "largest", f"{max(rest):.3f} s"
            yield "what they grew", ", ".join(f"{kinds.count(k)} {k}" for k in sorted(set(kinds)))
        finally:
            server.stop()
