"""Random jobs built, then changed in ten values each: nothing may crash or hang, no reference may quietly come to mean something else, and whatever fails
says where. Sixty by default, any number as ``robust=200``; a run that was stopped goes on where it was."""

from __future__ import annotations

import hashlib
import json
import multiprocessing
import tempfile
import traceback
from collections import Counter
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np

from benchmarks.random_jobs import meant_wrongly, random_job
from benchmarks.random_rules import Job, rebuilt, sized
from contour.job.build.store import Store
from contour.recipe.recipe import Recipe

__all__ = ["run"]

CHANGES = 10
_SCALED = ("distance", "radius", "diameter", "height", "thickness")
LIMIT_S = 300.0  # of a job with all its changes: after a real thread every step takes a second or two
ROOT = Path(__file__).parent.parent


def run(count: int = 60) -> Iterator[tuple[str, str]]:
    kept = _kept()
    done = {r["seed"]: r for r in map(json.loads, kept.read_text().splitlines())} if kept.exists() else {}
    kept.parent.mkdir(parents=True, exist_ok=True)
    rows = []
    for seed in range(count):
        if seed not in done:
            done[seed] = _in_a_child(seed)
            with kept.open("a") as file:
                file.write(json.dumps(done[seed]) + "\n")
        rows.append(done[seed])
    steps = [r["steps"] for r in rows if r["end"] == "ok"]
    changes = sum(r["changes"] for r in rows)
    failed: Counter[str] = Counter()
    for r in rows:
        failed.update(r["failed"])
    yield "jobs, and their steps", f"{count}, {min(steps)} to {max(steps)}"
    for word in ("crash", "hang"):
        bad = [r["seed"] for r in rows if r["end"] == word]
        yield f"{word}es (wanted: 0)" if word == "crash" else "hangs (wanted: 0)", f"{len(bad)} {bad or ''}"
    yield "references checked", str(sum(r["asked"] for r in rows))
    yield (
        "references that quietly mean something else (wanted: 0)",
        f"{sum(len(r['wrong']) for r in rows)} {_some(rows, 'wrong')}",
    )
    yield "failures without a place (wanted: 0)", f"{sum(len(r['unplaced']) for r in rows)} {_some(rows, 'unplaced')}"
    good = changes - sum(r["lost"] for r in rows)
    yield "rebuilds that succeed (wanted: >= 97 %)", f"{100 * good / max(changes, 1):.1f} % of {changes}"
    yield "what the others say", ", ".join(f"{k} ({n})" for k, n in failed.most_common(6)) or "nothing"


def _some(rows: list[dict[str, Any]], key: str) -> str:
    return str([(r["seed"], r[key][0]) for r in rows if r[key]][:4] or "")


def _kept() -> Path:
    """Where rows of this very code are kept."""
    digest = hashlib.sha256()
    for folder in ("contour", "benchmarks"):
        for path in sorted((ROOT / folder).rglob("*.py")):
            digest.update(path.read_bytes())
    return Path(tempfile.gettempdir()) / "contour-robust" / f"{digest.hexdigest()[:16]}.jsonl"


def _in_a_child(seed: int) -> dict[str, Any]:
    context = multiprocessing.get_context("spawn")
    here, there = context.Pipe(duplex=False)
    child = context.Process(target=_job, args=(seed, there))
    child.start()
    there.close()
    row: dict[str, Any] = {"seed": seed, "end": "crash", "steps": 0, "changes": 0, "lost": 0, "asked": 0}
    row |= {"wrong": [], "unplaced": [], "failed": {}}
    try:
        if here.poll(LIMIT_S):
            row |= here.recv()
        else:
            row["end"] = "hang"
    except EOFError:
        pass
    child.kill()
    child.join()
    return row


def _job(seed: int, to: Any) -> None:
    try:
        with tempfile.TemporaryDirectory() as folder:
            to.send(_tried(seed, Store(Path(folder))))
    except Exception:
        traceback.print_exc()
        raise


def _tried(seed: int, store: Store) -> dict[str, Any]:
    job = random_job(seed, store)
    rng = np.random.default_rng([23, seed])
    first = rebuilt(job.recipe, store)
    row: dict[str, Any] = {
        "end": "ok",
        "steps": len(job.recipe.steps),
        "changes": 0,
        "lost": 0,
        "asked": len(job.rules),
    }
    row["wrong"] = meant_wrongly(job, first)
    row["unplaced"] = [p.message for p in job.refused if not _placed(p)]
    failed: Counter[str] = Counter()
    for _ in range(CHANGES):
        built = rebuilt(_changed(job, rng), store)
        bad = [s for s in built.result.steps if s.status == "failed"]
        row["changes"] += 1
        row["lost"] += any(s.status != "ok" for s in built.result.steps)
        row["asked"] += len(job.rules)
        row["wrong"] += meant_wrongly(job, built)
        for s in bad:
            failed.update({f"{s.kind}: {p.code}" for p in s.problems})
            row["unplaced"] += [p.message for p in s.problems if not _placed(p)]
    return row | {"failed": dict(failed)}


def _placed(problem: Any) -> bool:
    where = problem.where
    return bool(problem.remedy and where.step and (where.param or where.entity or where.point))


def _changed(job: Job, rng: np.random.Generator) -> Recipe:
    """One value of one step otherwise: a size by up to a quarter, a place by up to two millimetres."""
    step, param = job.turnable[int(rng.integers(len(job.turnable)))]
    old = sized(job.recipe, step, param)
    new = old * rng.uniform(0.8, 1.25) if param in _SCALED else old + rng.uniform(-2, 2)
    steps = tuple(
        s.model_copy(update={"params": {**s.params, param: {"text": f"{new:.6f} mm"}}}) if s.id == step else s
        for s in job.recipe.steps
    )
    return job.recipe.model_copy(update={"steps": steps})
