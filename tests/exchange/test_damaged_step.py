"""A STEP file that kills the kernel is told in one line by every command that reads one, and costs a job one step."""

from __future__ import annotations

import json
import re
import signal
import subprocess
import sys
import uuid
from pathlib import Path

import pytest

from contour.cli import main
from contour.exchange import limits
from contour.exchange.limits import file_limit_s, hard_limit
from contour.exchange.step import write_step
from contour.job.work.children import build_in_children, solid_file_facts
from contour.recipe.problem import ContourError
from contour.recipe.recipe import Step, dump_recipe
from tests.job.block import recipe, store  # noqa: F401 -- fixtures


@pytest.fixture(scope="session")
def deadly(tmp_path_factory, drilled_block) -> Path:
    """The block's file without its first vector: the kernel follows a null pointer."""
    path = tmp_path_factory.mktemp("step") / "deadly.step"
    write_step(path, [("block", drilled_block.shape, None)], unit="mm")
    text = path.read_text()
    path.write_text(re.sub(r"#\d+ = VECTOR\([^;]*;\n", "", text, count=1))
    return path


@pytest.fixture(scope="session")
def sound(tmp_path_factory, drilled_block) -> Path:
    path = tmp_path_factory.mktemp("step") / "sound.step"
    write_step(path, [("block", drilled_block.shape, None)], unit="mm")
    return path


@pytest.mark.parametrize(
    "argv",
    [
        ["check", "{step}"],
        ["compare", "{scan}", "{step}", "--unit", "mm"],
        ["scan", "{step}", "--out", "{out}"],
        ["align", "{scan}", "--to", "{step}", "--out", "{out}", "--unit", "mm"],
    ],
)
def test_every_command_that_reads_a_solid_outlives_a_crash_of_the_kernel(capfd, tmp_path, block_stl, deadly, argv):
    places = {"step": deadly, "scan": block_stl, "out": tmp_path / "out.stl"}
    assert main([*(a.format(**places) for a in argv), "--json"]) == 2
    out, err = capfd.readouterr()
    assert len(err.splitlines()) == 1 and "deadly.step" in err and "crashed" in err and "SIGSEGV" in err
    assert json.loads(out)["problem"]["where"]["file"] == "deadly.step"
    assert not (tmp_path / "out.stl").exists()


def test_a_file_is_read_before_it_is_kept(deadly, sound):
    assert solid_file_facts(sound, "sound.step")["faces"] == 7
    with pytest.raises(ContourError, match=r"crashes on this file.*theirs\.step") as caught:
        solid_file_facts(deadly, "theirs.step")
    assert caught.value.problem.code == "file-not-understood"


def test_a_hanging_file_ends_its_child_and_nothing_else(monkeypatch):
    assert limits._expendable is False
    with hard_limit(0.01):  # this process is not to be lost: the limit is not kept here
        assert file_limit_s(Path(__file__)) > 15


def test_in_a_process_that_may_be_lost_the_limit_is_kept_at_once():
    code = "import time\nfrom contour.exchange.limits import *\nmay_be_lost()\nwith hard_limit(0.2): time.sleep(60)"
    assert subprocess.run([sys.executable, "-c", code], check=False).returncode == -signal.SIGALRM


def test_in_a_job_a_deadly_file_is_the_problem_of_its_step(store, recipe, deadly):  # noqa: F811
    scan = recipe.evidence[0].id
    blob = store.put_blob(deadly.read_bytes())
    params = {"scan": {"id": scan}, "by": "solid", "solid": {"blob": blob, "name": "deadly.step"}}
    align = Step(id=str(uuid.uuid4()), kind="align", name="Laid on", params=params)
    job = recipe.model_copy(update={"steps": (*recipe.steps, align)})
    result = build_in_children({"recipe": dump_recipe(job), "store": str(store.root), "fit": False})
    states = {s["kind"]: s for s in result["steps"]}
    assert [s["status"] for s in result["steps"]] == ["ok"] * len(recipe.steps) + ["failed"]
    assert states["align"]["problems"][0]["where"]["step"] == align.id
    assert states["align"]["problems"][0]["got"] == "SIGSEGV"
    assert result["bodies"]
