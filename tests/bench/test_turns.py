"""Fair turns: one who asks without a pause waits for others, nobody else does, and nobody waits alone."""

from __future__ import annotations

import pytest

from bench.turns import MOST_S, SHARE, WINDOW_S, Turns


class Clock:
    now = 100.0

    def __call__(self) -> float:
        return self.now


@pytest.fixture
def clock() -> Clock:
    return Clock()


def asked(turns: Turns, clock: Clock, person: str, seconds: float, times: int) -> None:
    for _ in range(times):
        clock.now += seconds
        turns.took(person, seconds)


def test_alone_nobody_waits(clock):
    turns = Turns(clock)
    asked(turns, clock, "heavy", 0.5, 40)
    assert turns.pause("heavy") == 0.0


def test_the_one_who_asks_without_a_pause_waits_and_the_others_do_not(clock):
    turns = Turns(clock)
    asked(turns, clock, "heavy", 0.5, 40)
    asked(turns, clock, "light", 0.3, 1)
    assert 0 < turns.pause("heavy") <= MOST_S
    assert turns.pause("light") == 0.0 and turns.pause("new") == 0.0


def test_a_pause_pays_what_was_taken(clock):
    """Somebody who waits as told ends up with the share that is his, whatever a question costs."""
    turns = Turns(clock)
    taken = begun = 0.0
    for k in range(2000):
        if k == 1000:
            taken, begun = 0.0, clock.now
        turns.took("light", 0.05)  # others keep asking
        clock.now += turns.pause("heavy")
        clock.now += 0.05
        turns.took("heavy", 0.05)
        taken += 0.05
    assert taken / (clock.now - begun) == pytest.approx(SHARE, abs=0.03)


def test_what_was_long_ago_is_forgotten(clock):
    turns = Turns(clock)
    asked(turns, clock, "heavy", 0.5, 40)
    clock.now += 4 * WINDOW_S
    asked(turns, clock, "light", 0.3, 1)
    assert turns.pause("heavy") == 0.0
    clock.now += 10 * WINDOW_S
    turns.pause("light")
    assert len(turns._spent) == 0


def test_only_some_wait_at_once_so_that_threads_are_left(clock, monkeypatch):
    turns, slept = Turns(clock), []
    asked(turns, clock, "heavy", 0.5, 40)
    asked(turns, clock, "light", 0.3, 1)

    def sleep(seconds: float) -> None:
        slept.append(seconds)
        turns.wait("heavy")  # while this one waits, the next comes

    monkeypatch.setattr("bench.turns.time.sleep", sleep)
    turns.wait("heavy")
    assert len(slept) == 3 and turns._waiting == 0


@pytest.mark.django_db
def test_all_of_a_job_counts_only_questions_wait_and_strangers_do_neither(maker, monkeypatch):
    counted, waited = [], []
    monkeypatch.setattr(Turns, "took", lambda _, person, seconds: counted.append((person, seconds)))
    monkeypatch.setattr(Turns, "wait", lambda _, person: waited.append(person))
    job = "/api/jobs/00000000-0000-4000-8000-000000000000"
    maker.get(job)
    assert maker.post(f"{job}/grow", {}, "application/json").status_code >= 400
    assert len(counted) == 2 and len(waited) == 1 and counted[0][1] >= 0
    maker.logout()
    maker.post(f"{job}/grow", {}, "application/json")
    assert len(counted) == 2 and len(waited) == 1


def test_a_little_of_others_leaves_room_for_everybody(clock):
    turns = Turns(clock)
    asked(turns, clock, "heavy", 0.5, 40)
    asked(turns, clock, "light", 0.05, 1)
    assert turns.pause("heavy") == 0.0
