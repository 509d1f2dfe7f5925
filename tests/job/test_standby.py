"""A child that stands by for a job: stays, gives up, dies and comes again."""

from __future__ import annotations

import os
import signal
import threading

import pytest

from contour.job.work import standby
from contour.job.work.runner import ChildDied
from contour.job.work.standby import ask_standby
from contour.job.work.warm import small_job
from contour.recipe.problem import ContourError
from contour.recipe.recipe import dump_recipe

HOLD_S = 120


@pytest.fixture(autouse=True)
def nobody_stands_by_afterwards():
    yield
    for own in standby._standing.values():
        own.end()
    standby._standing.clear()


def ping(job="a", cancelled=lambda: False):
    return ask_standby(job, "ping", {}, cancelled=cancelled, time_limit_s=HOLD_S)


def shown(store, job="a", cancelled=lambda: False, limit_s=HOLD_S):
    payload = {"recipe": dump_recipe(small_job()), "store": str(store)}
    return ask_standby(job, "preview", payload, cancelled=cancelled, time_limit_s=limit_s)


def child(job="a"):
    return standby._standing[job].process


def test_the_same_child_answers_again(tmp_path):
    assert ping() == {}
    first = child().pid
    made = shown(tmp_path)
    assert made["problems"] == [] and made["bodies"][0]["view"]
    assert child().pid == first


def test_a_problem_is_told_and_the_child_stays(tmp_path):
    ping()
    first = child().pid
    with pytest.raises(ContourError) as told:
        ask_standby(
            "a", "preview", {"recipe": "{", "store": str(tmp_path)}, cancelled=lambda: False, time_limit_s=HOLD_S
        )
    assert not isinstance(told.value, ChildDied)
    assert ping() == {} and child().pid == first


def test_a_question_nobody_waits_for_is_given_up_and_the_next_is_answered(tmp_path):
    with pytest.raises(ContourError) as told:
        shown(tmp_path, cancelled=lambda: True)
    assert told.value.problem.code == "cancelled"
    assert shown(tmp_path)["problems"] == []


def test_whoever_waits_for_the_child_may_go_away():
    ping()
    with standby._standing["a"].lock, pytest.raises(ContourError) as told:
        ping(cancelled=lambda: True)
    assert told.value.problem.code == "cancelled"


def test_a_child_that_was_killed_at_rest_is_replaced():
    ping()
    gone = child()
    os.kill(gone.pid, signal.SIGKILL)
    gone.join(HOLD_S)
    assert ping() == {} and child().pid != gone.pid


def test_a_child_that_dies_over_a_question_is_told_and_replaced(tmp_path):
    ping()

    def die():
        os.kill(child().pid, signal.SIGKILL)
        return False

    with pytest.raises(ChildDied):
        shown(tmp_path, cancelled=die)
    assert ping() == {}


def test_a_child_that_goes_to_rest_just_when_it_is_asked_is_replaced(monkeypatch):
    ping()
    first, ordered = child().pid, standby._ordered

    def too_late(own, order):
        monkeypatch.setattr(standby, "_ordered", ordered)
        own.orders.close()  # the child ends as it does after a while of rest
        return own.answers

    monkeypatch.setattr(standby, "_ordered", too_late)
    assert ping() == {} and child().pid != first


def test_what_takes_too_long_is_ended(tmp_path):
    with pytest.raises(ContourError) as told:
        shown(tmp_path, limit_s=0.0)
    assert told.value.problem.code == "time-limit"
    assert ping() == {}


def test_only_the_last_jobs_have_one():
    for job in ("a", "b", "c"):
        ping(job)
    assert list(standby._standing) == ["b", "c"]


def test_the_child_goes_when_its_parent_has():
    ping()
    process, orders = child(), standby._standing["a"].orders
    orders.close()
    process.join(HOLD_S)
    assert not process.is_alive()


def test_one_after_the_other(tmp_path):
    """Of many who ask at once each gets its own answer."""
    out = []
    asking = [threading.Thread(target=lambda: out.append(shown(tmp_path)["ran"])) for _ in range(4)]
    for t in asking:
        t.start()
    for t in asking:
        t.join(HOLD_S)
    assert len(out) == 4 and all(len(ran) == 4 for ran in out)
