"""A job of sixty steps: a change in its last third beside the full rebuild, and the same recipe built in another process."""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

import numpy as np

from benchmarks.random_jobs import random_job
from benchmarks.random_rules import Built, rebuilt, sized
from contour.job.build.store import Store
from contour.recipe.recipe import Recipe, dump_recipe, load_recipe

__all__ = ["run"]

STEPS, CHANGES, REBUILDS = 60, 8, 3
ASK = """
import sys
from pathlib import Path
from benchmarks.long_job import elsewhere
elsewhere(Path(sys.argv[1]))
"""


def elsewhere(folder: Path) -> None:
    """In a process of its own: the job's volumes as JSON on stdout."""
    recipe = load_recipe((folder / "job.json").read_text())
    with tempfile.TemporaryDirectory() as store:
        print(json.dumps(_volumes(rebuilt(recipe, Store(Path(store))))))


def _volumes(built: Built) -> dict[str, float]:
    return {b.id: b.volume for b in built.result.bodies}


def _timed(recipe: Recipe, store: Store) -> tuple[float, Built]:
    begun = time.perf_counter()
    built = rebuilt(recipe, store)
    return time.perf_counter() - begun, built


def _changed(recipe: Recipe, turned: tuple[str, str], k: int) -> Recipe:
    """With one value a little larger, each time otherwise."""
    step, param = turned
    text = {"text": f"{sized(recipe, step, param) * (1.01 + k / 500):.6f} mm"}
    steps = (s.model_copy(update={"params": {**s.params, param: text}}) if s.id == step else s for s in recipe.steps)
    return recipe.model_copy(update={"steps": tuple(steps)})


def run() -> Iterator[tuple[str, str]]:
    with tempfile.TemporaryDirectory() as one:
        job = random_job(4, Store(Path(one)), STEPS)
        place = {s.id: k for k, s in enumerate(job.recipe.steps)}
        late = [t for t in job.turnable if place[t[0]] >= 2 * len(place) / 3]
        rng = np.random.default_rng(7)
        wholes, parts = [], []
        # A full rebuild between the changes too: how fast the machine is differs from minute to minute.
        for _ in range(REBUILDS):
            with tempfile.TemporaryDirectory() as other:
                store = Store(Path(other))
                full, first = _timed(job.recipe, store)
                wholes.append(full)
                for k in range(CHANGES):
                    parts.append(_timed(_changed(job.recipe, late[int(rng.integers(len(late)))], k), store)[0])
        full, late_change = float(np.median(wholes)), float(np.median(parts))
        yield "steps", f"{len(job.recipe.steps)}, {sum(s.status == 'ok' for s in first.result.steps)} of them good"
        yield (
            "full rebuild beside a change in the last third (wanted: >= 8 times)",
            f"{full:.2f} s, median {late_change:.3f} s: {full / late_change:.1f} times",
        )
        (Path(one) / "job.json").write_text(dump_recipe(job.recipe))
        said = subprocess.run([sys.executable, "-c", ASK, one], capture_output=True, text=True, check=True).stdout
        there, here = json.loads(said), _volumes(first)
        off = max(abs(there[k] / v - 1) for k, v in here.items())
        yield "volumes in another process (wanted: the same to 1e-9)", f"{len(here)} bodies, worst {off:.1e}"
