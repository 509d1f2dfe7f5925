"""The kernel dies, or never comes back, in every kind of step there is: one step fails with its place, the rest of the job stands.

The kinds are made to die in the children alone: whatever starts children is run as a script, and children run its top level again."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from pathlib import Path

import pytest

from contour.recipe.recipe import Recipe, Step, dump_recipe
from contour.steps import KINDS
from tests.steps.test_all_kinds import step_of  # noqa: F401 -- a fixture

ROOT = Path(__file__).parents[2]
SCRIPT = """
import dataclasses, json, os, signal, sys, time
from contour.steps import KINDS

def struck(params, inputs):
    if inputs.step.startswith("hang"):
        time.sleep(1000)
    os.kill(os.getpid(), signal.SIGSEGV)

if __name__ != "__main__":
    for id, kind in list(KINDS.items()):
        own = kind.run
        KINDS[id] = dataclasses.replace(
            kind,
            run=lambda p, i, own=own: own(p, i) if i.step.startswith("well") else struck(p, i),
            reads=lambda _: frozenset(),
        )
else:
    from contour.job.work.children import build_in_children

    payload = {"recipe": open(sys.argv[1]).read(), "store": sys.argv[2]}
    result = build_in_children(payload, stage_limit_s=float(sys.argv[3]))
    print(json.dumps([[s["id"], s["status"], s["problems"]] for s in result["steps"]]))
"""


def _well(id: str) -> Step:
    return Step(id=id, kind="point", name=id, params={"by": "typed", "x": {"text": "1 mm"}})


def built(recipe: Recipe, folder: Path, limit_s: float) -> dict[str, tuple[str, list[dict]]]:
    (folder / "run.py").write_text(SCRIPT)
    (folder / "job.json").write_text(dump_recipe(recipe))
    command = [sys.executable, "run.py", "job.json", "store", str(limit_s)]
    env = {**os.environ, "PYTHONPATH": str(ROOT)}
    told = subprocess.run(command, cwd=folder, env=env, capture_output=True, text=True, timeout=300)
    assert told.returncode == 0, told.stderr
    return {id: (status, problems) for id, status, problems in json.loads(told.stdout)}


@pytest.mark.parametrize(
    ("how", "kinds", "code", "limit_s"),
    [("die", sorted(KINDS), "crashed", 60.0), ("hang", ["sweep"], "time-limit", 4.0)],
)
def test_one_step_fails_with_its_place_and_the_rest_stands(how, kinds, code, limit_s, step_of, tmp_path):  # noqa: F811
    victims = [step_of(kind).model_copy(update={"id": f"{how}-{kind}"}) for kind in kinds]
    steps = [s for k, victim in enumerate(victims) for s in (victim, _well(f"well-{k}"))]
    found = built(Recipe(name="Struck", steps=(_well("well"), *steps)), tmp_path, limit_s)
    for victim in victims:
        status, problems = found[victim.id]
        assert status == "failed", victim.kind
        assert [(p["code"], p["where"]["step"]) for p in problems] == [(code, victim.id)] and problems[0]["remedy"]
    assert all(status == "ok" for id, (status, _) in found.items() if id.startswith("well"))
