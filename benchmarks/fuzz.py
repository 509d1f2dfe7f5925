"""Requests made from the API's own schema, against a running server: more of them than ./run test has."""

from __future__ import annotations

import json
import tempfile
import uuid
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from contour.check.exact_arrays import exact_arrays
from contour.exchange.stl_out import write_stl
from contour.simulate.scanner import ScanSettings, virtual_scan
from demo.bracket import bracket
from tests.bench.fuzz import fuzz
from tests.bench.served import Person, account
from tests.browser.conftest import ROOT, Server

__all__ = ["run"]

CASES, SEED = 40, 77


def run() -> Iterator[tuple[str, str]]:
    made = virtual_scan(exact_arrays(bracket().shape), ScanSettings(spacing_mm=2.2, noise_mm=0.03, seed=3))
    document = json.loads((ROOT / "web" / "openapi.json").read_text())
    with tempfile.TemporaryDirectory() as name:
        path = Path(name) / "scan.stl"
        write_stl(path, made.vertices, made.facets)
        server = Server(Path(name) / "var", demo=False)
        try:
            account(server.var, "keeper")
            person = Person(server.base, "keeper")
            job = person.begin(path.read_bytes(), "Bracket")
            person.region(job, 100)
            done = person.built(job["id"])
            step, scan = done["recipe"]["steps"][0]["id"], done["recipe"]["evidence"][0]
            real = {
                "job_id": lambda: job["id"],
                "scan": lambda: scan["id"],
                "scan_id": lambda: scan["id"],
                "evidence": lambda: scan["id"],
                "step": lambda: step,
                "id": lambda: str(uuid.uuid4()),
                "region": lambda: step,
                "blob": lambda: scan["blob"],
                "version": lambda: person.ask("GET", f"/jobs/{job['id']}")["version"],
            }
            cookies = {c.name: c.value for h in person.opener.handlers if hasattr(h, "cookiejar") for c in h.cookiejar}

            def send(case: Any) -> Any:
                return case.call(base_url=server.base, headers={"X-CSRFToken": person.csrf}, cookies=cookies)

            skipped = ("DELETE /api/session", "POST /api/session")
            out = fuzz(document, send, real, cases=CASES, seed_=SEED, skip=skipped)
            yield (
                f"{out.cases:,} requests to every operation: 5xx (wanted: 0)",
                str(sum(n for s, n in out.statuses.items() if s >= 500)),
            )
            yield (
                "answers that are not as declared (wanted: 0)",
                f"{len(out.faults)}" + (f": {out.faults[:2]}" if out.faults else ""),
            )
            yield "statuses", ", ".join(f"{s}: {n}" for s, n in sorted(out.statuses.items()))
        finally:
            server.stop()
