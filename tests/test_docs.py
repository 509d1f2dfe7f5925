"""What the documents show is run: the example of a step kind, built in a job, against closed forms."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

from contour.job.build.build import build
from contour.job.build.store import Store
from contour.recipe.recipe import Recipe, Step
from contour.steps import KINDS

DOCS = Path(__file__).parent.parent / "docs"


@pytest.fixture
def example(monkeypatch):
    (code,) = re.findall(r"```python\n(.*?)```", (DOCS / "add-a-step-kind.md").read_text(), re.S)
    module: dict = {"__name__": "between"}
    exec(compile(code, "add-a-step-kind.md", "exec", dont_inherit=True), module)
    kind = module["KIND"]
    monkeypatch.setitem(KINDS, kind.id, kind)
    return kind


def _point(id: str, x: str, y: str) -> Step:
    return Step(id=id, kind="point", name=id.capitalize(), params={"by": "typed", "x": {"text": x}, "y": {"text": y}})


def _job(second: str) -> Recipe:
    params = {"first": {"id": "a"}, "second": {"id": second}, "away": {"text": "b.y / 2"}}
    steps = (
        _point("a", "1 mm", "2 mm"),
        _point("b", "4 mm", "6 mm"),
        Step(id="m", kind="between", name="Between 1", params=params),
    )
    return Recipe(name="Example", steps=steps)


def test_the_example_is_built(example, tmp_path):
    result = build(_job("b"), Store(tmp_path), with_fit=False)
    made = result.steps[-1]
    assert made.status == "ok", made.problems
    assert made.facts.origin == pytest.approx((1 + 3 * 0.6, 2 + 3 * 0.8, 0.0)) and made.values[
        "apart"
    ].value == pytest.approx(5.0)


def test_its_refusal_has_its_place(example, tmp_path):
    made = build(_job("a"), Store(tmp_path), with_fit=False).steps[-1]
    assert (made.status, made.problems[0].where.param, made.problems[0].where.step) == ("failed", "second", "m")


@pytest.mark.parametrize("page", sorted(p.name for p in DOCS.glob("*.md")))
def test_what_a_page_points_to_is_there(page):
    text = (DOCS / page).read_text()
    paths = set(re.findall(r"`((?:contour|bench|tests|web/src|demo|benchmarks)/[\w./-]+\.(?:py|tsx?))`", text))
    missing = sorted(p for p in paths if not (DOCS.parent / p).exists())
    links = [m for m in re.findall(r"\]\(([\w./-]+)\)", text) if not (DOCS / m).exists()]
    assert not missing and not links
