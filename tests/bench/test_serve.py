"""The server as a program: one a folder, nothing left behind, slow senders, a database held by another program, quiet ends."""

from __future__ import annotations

import json
import signal
import socket
import sqlite3
import stat
import threading
import urllib.error
import urllib.request
from pathlib import Path

import pytest

from tests.bench.served import START_S, Person, account, address_of, alive, command, until


@pytest.fixture(scope="module")
def var(tmp_path_factory) -> Path:
    return tmp_path_factory.mktemp("var")


@pytest.fixture(scope="module")
def served(var):
    process = command(var, "serve", "--prepare", "--port", "8790")
    yield process, address_of(process)
    process.send_signal(signal.SIGTERM)
    assert process.wait(60) is not None


@pytest.fixture(scope="module")
def keeper(var, served) -> Person:
    account(var, "keeper")
    return Person(served[1], "keeper")


def test_a_second_start_is_told_where_the_first_one_is(var, served):
    second = command(var, "serve", "--prepare", "--port", "8790")
    out, err = second.communicate(timeout=START_S)
    assert second.returncode == 0 and served[1] in out and "already" in out and err == ""
    assert served[0].poll() is None


def test_what_lies_in_the_folder_is_its_owners_alone(var, served):
    for path in [var / "secret", *var.glob("*.sqlite3"), var / "pids", var / "store", var / "log"]:
        assert stat.S_IMODE(path.stat().st_mode) & 0o077 == 0, path.name


def test_senders_that_trickle_hold_up_nobody(served):
    """Seventeen half-sent requests of a stranger stopped the server: each held a thread until its body was there."""
    base = served[1]
    port = int(base.rsplit(":", 1)[1])
    head = b"POST /api/session HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Type: application/json\r\nContent-Length: 4000\r\n\r\n{"
    slow = []
    try:
        for _ in range(60):
            s = socket.create_connection(("127.0.0.1", port))
            s.sendall(head)
            slow.append(s)
        for s in slow[:30]:
            s.sendall(b" ")
        for _ in range(20):
            with urllib.request.urlopen(f"{base}/api/session", timeout=30) as answer:
                assert answer.status == 200
    finally:
        for s in slow:
            s.close()


def test_a_database_that_another_program_holds_is_told_and_nothing_is_lost(var, keeper):
    other = sqlite3.connect(var / "contour.sqlite3", isolation_level=None)
    other.execute("BEGIN IMMEDIATE")
    refused: list[urllib.error.HTTPError] = []

    def begin() -> None:
        try:
            keeper.ask("POST", "/jobs", {"name": "Sluice", "unit": "mm"})
        except urllib.error.HTTPError as error:
            refused.append(error)

    asking = threading.Thread(target=begin)
    asking.start()
    asking.join(60)
    other.execute("ROLLBACK")
    other.close()
    assert refused and refused[0].code == 503
    problem = json.load(refused[0])["problem"]
    assert problem["code"] == "busy" and "Traceback" not in str(problem)
    assert keeper.ask("POST", "/jobs", {"name": "Sluice", "unit": "mm"})["recipe"]["name"] == "Sluice"


def test_a_supervisor_that_is_killed_leaves_no_process_behind(tmp_path):
    process = command(tmp_path, "serve", "--prepare", "--port", "8810")
    address_of(process)
    pids = [int(line.split()[1]) for line in (tmp_path / "pids").read_text().splitlines()]
    assert len(pids) == 2
    process.kill()
    process.wait(30)

    def gone() -> bool:
        return not any(alive(p) for p in pids)

    until(gone, "web and worker have ended")
    again = command(tmp_path, "serve", "--port", "8810")  # and the folder is free again
    address_of(again)
    again.send_signal(signal.SIGINT)  # as Ctrl-C does
    out, err = again.communicate(timeout=60)
    assert "Traceback" not in err and again.returncode == 0


def test_stopping_while_starting_is_quiet(tmp_path):
    process = command(tmp_path, "serve", "--prepare", "--port", "8830")
    until(lambda: (tmp_path / "serve.lock").exists(), "the start has begun")
    process.send_signal(signal.SIGINT)
    out, err = process.communicate(timeout=60)
    assert "Traceback" not in err + out


def test_a_folder_that_cannot_be_is_told_in_a_sentence(tmp_path):
    (tmp_path / "taken").write_text("a file, no folder")
    process = command(tmp_path / "taken" / "var", "serve")
    out, err = process.communicate(timeout=60)
    assert process.returncode == 2 and len(err.strip().splitlines()) == 1 and "Traceback" not in err
