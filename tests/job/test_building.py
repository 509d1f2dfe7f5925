"""One step's bug, crash or time-out is that step's problem: what does not depend on it is built."""

import signal

import pytest

from contour.job.build.build import build
from contour.job.work import children as building
from contour.job.work import runner
from contour.job.work.children import build_in_children
from contour.job.work.runner import ChildDied
from contour.recipe.problem import ContourError, Problem
from contour.recipe.registry import StepKind
from contour.steps import KINDS

ENDED = {"code": "crashed", "message": "the geometry kernel crashed here"}


def failing(monkeypatch, kind: str, error: BaseException) -> None:
    def run(*_):
        raise error

    changed = {n: getattr(KINDS[kind], n) for n in KINDS[kind].__dataclass_fields__} | {"run": run}
    monkeypatch.setitem(KINDS, kind, StepKind(**changed))


def statuses(result) -> dict[str, str]:
    return {s.kind: s.status for s in result.steps}


@pytest.mark.parametrize(
    ("error", "code"),
    [
        (KeyError(4), "crashed"),
        (ZeroDivisionError(), "crashed"),
        (MemoryError(), "out-of-memory"),
        (OSError(28, "No space left"), "no-space"),
        (ContourError("degenerate", "x"), "degenerate"),
    ],
)
def test_whatever_a_step_raises_is_its_own_located_problem(monkeypatch, store, recipe, error, code):
    failing(monkeypatch, "sketch", error)
    result = build(recipe, store)
    found = statuses(result)
    assert found["region"] == "ok" and found["sketch"] == "failed" and found["extrude"] == "blocked"
    step = next(s for s in result.steps if s.kind == "sketch")
    assert step.problems[0].code == code
    assert step.problems[0].where.step == step.id
    assert not isinstance(error, KeyError) or "KeyError: 4" in step.problems[0].got


def test_what_killed_a_child_is_not_tried_again_and_the_rest_is_built(store, recipe):
    sketch = next(s for s in recipe.steps if s.kind == "sketch")
    result = build(recipe, store, ended={sketch.id: ENDED})
    found = statuses(result)
    assert found["region"] == "ok" and found["sketch"] == "failed" and found["extrude"] == "blocked"
    assert next(s for s in result.steps if s.kind == "sketch").problems[0].message == ENDED["message"]


@pytest.mark.parametrize("stage", ["health", "fit"])
def test_health_and_fit_may_fail_without_taking_the_geometry_along(store, recipe, stage):
    result = build(recipe, store, ended={stage: ENDED})
    assert set(statuses(result).values()) == {"ok"} and result.bodies
    assert [p.code for p in result.problems] == ["crashed"] and stage in result.problems[0].message


def test_a_scan_that_killed_a_child_is_named(store, recipe):
    result = build(recipe, store, ended={recipe.evidence[0].id: ENDED})
    assert result.problems[0].where.file == recipe.evidence[0].name
    assert set(statuses(result).values()) == {"blocked"}


class Children:
    """Stands in for :func:`run_in_child`: each one reports its stages and dies of the error given for one of them, until
    it is told that this stage has ended."""

    def __init__(self, stages: list[str], deaths: dict[str, list[Exception]]) -> None:
        self.stages, self.deaths, self.tried = stages, deaths, []

    def __call__(self, task, payload, *, on_event, cancelled, stage_limit_s, time_limit_s):
        for stage in self.stages:
            if stage in payload["ended"]:
                continue
            on_event({"event": "step", "id": stage})
            self.tried.append(stage)
            if self.deaths.get(stage):
                raise self.deaths[stage].pop(0)
        return payload["ended"]


def built(monkeypatch, deaths: dict[str, list[Exception]]) -> tuple[dict[str, Problem], list[str]]:
    children = Children(["a", "b", "c"], deaths)
    monkeypatch.setattr(building, "run_in_child", children)
    ended = build_in_children({"recipe": "", "store": ""})
    return {k: Problem.model_validate(v) for k, v in ended.items()}, children.tried


def test_a_crash_ends_its_stage_and_a_new_child_does_the_rest(monkeypatch):
    ended, tried = built(monkeypatch, {"b": [ChildDied(-signal.SIGSEGV)], "c": [ChildDied(-signal.SIGABRT)]})
    assert {k: p.got for k, p in ended.items()} == {"b": "SIGSEGV", "c": "SIGABRT"}
    assert tried == ["a", "b", "a", "c", "a"]


def test_a_time_out_ends_its_stage(monkeypatch):
    late = ContourError("time-limit", "the task took too long and was ended", got="over 300 s")
    ended, _ = built(monkeypatch, {"a": [late], "b": [ChildDied(-signal.SIGALRM)]})
    assert [p.code for p in ended.values()] == ["time-limit", "time-limit"]
    assert "file" in ended["b"].message


@pytest.mark.parametrize("exitcode", [-signal.SIGKILL, 255, None])
def test_a_child_killed_from_outside_begins_again_and_is_blamed_the_third_time(monkeypatch, exitcode):
    """Also when the fork server went with it, so that nobody can say how it ended."""
    assert built(monkeypatch, {"b": [ChildDied(exitcode)] * 2})[0] == {}
    assert list(built(monkeypatch, {"b": [ChildDied(exitcode)] * 3})[0]) == ["b"]


def test_a_child_killed_before_its_first_stage_begins_again(monkeypatch):
    deaths = [ChildDied(-signal.SIGKILL), ChildDied(None)]

    def child(task, payload, **_):
        if deaths:
            raise deaths.pop()
        return payload["ended"]

    monkeypatch.setattr(building, "run_in_child", child)
    assert build_in_children({"recipe": "", "store": ""}) == {} and not deaths
    deaths += [ChildDied(-signal.SIGKILL)] * 3
    with pytest.raises(ChildDied):
        build_in_children({"recipe": "", "store": ""})


def test_a_start_on_a_fork_server_that_has_just_died_is_a_child_that_died(monkeypatch):
    class Process:
        def __init__(self, **_): ...

        def start(self):
            raise EOFError

    monkeypatch.setattr(runner.context, "Process", Process, raising=False)
    with pytest.raises(ChildDied) as died:
        runner.run_in_child("ping", {})
    assert died.value.exitcode is None


@pytest.mark.parametrize("error", [ContourError("cancelled", "x"), ContourError("bad-recipe", "x")])
def test_what_is_no_stages_fault_is_raised(monkeypatch, error):
    with pytest.raises(ContourError) as caught:
        built(monkeypatch, {"a": [error]})
    assert caught.value.problem.code == error.problem.code
