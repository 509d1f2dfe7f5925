"""Power cuts at three moments each of an edit, a build, a delivery and an upload: committed is kept, nothing half-made is served.
./run bench crashes does fifty of each, and lets a server go on from some of them."""

from __future__ import annotations

import signal

import pytest

from tests.bench.crash_points import OPERATIONS, Site, crash_points, faults_of
from tests.bench.served import Person, address_of, command

POINTS, SEED = 3, 8


@pytest.fixture(scope="module")
def site(tmp_path_factory, block_stl):
    made = Site(tmp_path_factory.mktemp("crash") / "var", 8870, block_stl.read_bytes())
    yield made
    made.stop()


@pytest.mark.parametrize("operation", OPERATIONS)
def test_what_was_answered_is_kept_and_nothing_is_half_made(site, tmp_path, operation):
    seen = 0
    for place, answered in crash_points(site, operation, POINTS, SEED, tmp_path):
        assert faults_of(place, answered) == []
        seen += 1
    assert seen == POINTS


def test_a_server_goes_on_from_where_the_power_went(site, tmp_path):
    """The copy of a moment in a build is started again: the edit is there, and its build comes to its end."""
    for place, answered in crash_points(site, "build", 1, SEED + 1, tmp_path / "copies"):
        process = command(place, "serve", "--prepare", "--port", "8890")
        try:
            person = Person(address_of(process), "keeper")
            done = person.built(site.job)
            assert set(answered["steps"]) <= {s["id"] for s in done["recipe"]["steps"]}
            assert len(done["build"]["result"]["steps"]) == len(done["recipe"]["steps"])
        finally:
            process.send_signal(signal.SIGTERM)
            process.wait(60)
