"""The recipe and the script that docs/library.md shows are run, and what comes of them is held against closed forms."""

from __future__ import annotations

import json
import math
import re
from pathlib import Path

import pytest

from contour import job
from contour.cli import main
from contour.recipe.problem import ContourError
from contour.solid.gate import check_solid

PAGE = (Path(__file__).parents[2] / "docs" / "library.md").read_text()
(RECIPE,) = re.findall(r"```json\n(.*?)```", PAGE, re.S)
(SCRIPT,) = re.findall(r"```python\n(.*?)```", PAGE, re.S)


def bracket(thickness: float, hole: float = 9.0) -> float:
    """The plate, its upright above it, a fillet of 4 mm between them, two holes."""
    fillet = (1 - math.pi / 4) * 16 * 40
    return 60 * 40 * thickness + 6 * 40 * (45 - thickness) + fillet - 2 * math.pi / 4 * hole**2 * thickness


@pytest.fixture
def angle(tmp_path):
    (tmp_path / "angle.json").write_text(RECIPE)
    return job.load(tmp_path / "angle.json")


def test_the_recipe_is_as_short_as_it_says_and_builds():
    assert len(RECIPE.strip().splitlines()) <= 12


def test_it_builds_to_its_closed_form(angle):
    made = job.run(angle)
    assert made.bodies == ["Bracket"] and made.volume("Bracket") == pytest.approx(bracket(6), rel=1e-9)
    assert made.measure("thickness") == 6 and made.measure("upright.distance") == 45
    found = check_solid(made.body("Bracket").shape)
    assert found.closed and found.valid and found.solids == 1


def test_a_changed_value_goes_where_formulas_lead_and_the_job_before_stays(angle):
    thicker, wider = job.change(angle, "thickness", "8 mm"), job.change(angle, "hole.diameter", "11 mm")
    assert job.run(thicker).volume("Bracket") == pytest.approx(bracket(8), rel=1e-9)
    assert job.run(wider).volume("Bracket") == pytest.approx(bracket(6, 11), rel=1e-9)
    assert job.run(wider).measure("other_hole.diameter") == 11
    assert job.run(angle).volume("Bracket") == pytest.approx(bracket(6), rel=1e-9)


def test_the_script_runs_and_what_it_wrote_is_read_back(angle, tmp_path, monkeypatch, capsys):
    monkeypatch.chdir(tmp_path)
    exec(compile(SCRIPT, "library.md", "exec"), {})
    monkeypatch.undo()
    assert f"{bracket(8) - bracket(6):.4f}"[:7] in capsys.readouterr().out
    assert main(["check", str(tmp_path / "thicker.step"), "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert told["volume"] == pytest.approx(bracket(8), rel=1e-6) and told["valid"]


def test_the_command_line_builds_it_too(angle, tmp_path, capfd):
    assert main(["build", str(tmp_path / "angle.json"), "--out", str(tmp_path / "made"), "--json"]) == 0
    told = json.loads(capfd.readouterr().out)
    assert told["bodies"][0]["volume"] == pytest.approx(bracket(6), rel=1e-9)


@pytest.mark.parametrize(
    ("ask", "code"),
    [
        (lambda a: job.change(a, "girth", "3 mm"), "not-found"),
        (lambda a: job.change(a, "shelf.distance", "3 mm"), "not-found"),
        (lambda a: job.run(a).measure("bracket.colour"), "not-found"),
        (lambda a: job.run(a).body("Shelf"), "not-found"),
        (lambda a: job.run(job.change(a, "rounded.radius", "90 mm")), None),
        (lambda _: job.load("nowhere.json"), "file-missing"),
    ],
)
def test_what_cannot_be_says_where_and_what_to_try(angle, ask, code):
    with pytest.raises(ContourError) as refused:
        ask(angle)
    problem = refused.value.problem
    assert problem.remedy and (code is None or problem.code == code)
    assert problem.where.param or problem.where.step or problem.where.file
