"""The server as a program: one a folder, nothing left behind, slow senders, a database held by another program, quiet ends."""

from __future__ import annotations

import json
import os
import re
import signal
import socket
import sqlite3
import stat
import subprocess
import sys
import threading
import time
import urllib.error
import urllib.request
from http.cookiejar import CookieJar
from pathlib import Path

import pytest

ROOT = Path(__file__).resolve().parents[2]
START_S = 120


def command(var: Path, *argv: str, demo: bool = False) -> subprocess.Popen[str]:
    env = {**os.environ, "CONTOUR_VAR": str(var), "CONTOUR_DEMO": "1" if demo else "0", "PYTHONPATH": str(ROOT)}
    return subprocess.Popen(
        [sys.executable, "-m", "bench", *argv], env=env, cwd=ROOT, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True, start_new_session=True
    )  # fmt: skip


def address_of(process: subprocess.Popen[str]) -> str:
    assert process.stdout is not None
    line = process.stdout.readline()
    found = re.search(r"http://[^/]+", line)
    assert found, (line, process.stderr and process.stderr.read())
    return found.group()


def until(true, what: str, seconds: float = START_S) -> None:
    end = time.monotonic() + seconds
    while not true():
        assert time.monotonic() < end, f"not in time: {what}"
        time.sleep(0.05)


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
def signed_in(var, served):
    """An opener of somebody with an account, and the token for changes."""
    code = "import django; django.setup(); from django.contrib.auth import get_user_model as m; m().objects.create_user('keeper', password='ferry-rope-7')"
    env = {**os.environ, "CONTOUR_VAR": str(var), "DJANGO_SETTINGS_MODULE": "bench.settings"}
    subprocess.run([sys.executable, "-c", code], env=env, cwd=ROOT, check=True)
    opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(CookieJar()))
    base = served[1]
    csrf = json.load(opener.open(f"{base}/api/session"))["csrf"]
    ask(opener, f"{base}/api/session", {"username": "keeper", "password": "ferry-rope-7"}, csrf)
    return opener, json.load(opener.open(f"{base}/api/session"))["csrf"]


def ask(opener, url: str, body: dict, csrf: str) -> dict:
    head = {"Content-Type": "application/json", "X-CSRFToken": csrf}
    return json.load(opener.open(urllib.request.Request(url, json.dumps(body).encode(), head), timeout=60))


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


def test_a_database_that_another_program_holds_is_told_and_nothing_is_lost(var, served, signed_in):
    opener, csrf = signed_in
    base = served[1]
    other = sqlite3.connect(var / "contour.sqlite3", isolation_level=None)
    other.execute("BEGIN IMMEDIATE")
    refused: list[urllib.error.HTTPError] = []

    def begin() -> None:
        try:
            ask(opener, f"{base}/api/jobs", {"name": "Sluice", "unit": "mm"}, csrf)
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
    assert ask(opener, f"{base}/api/jobs", {"name": "Sluice", "unit": "mm"}, csrf)["recipe"]["name"] == "Sluice"


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


def alive(pid: int) -> bool:
    try:
        return "Z" not in Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[0]
    except OSError:
        return False


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
