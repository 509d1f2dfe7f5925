"""What loading the demo rests on: files that are there whole or not at all, and processes that end with the one that began them."""

from __future__ import annotations

import signal
import subprocess
import sys

import pytest

from contour.exchange.scanfile import read_scan
from demo import files
from tests.bench.served import ROOT, alive, until


def test_a_file_is_made_once_and_is_there_whole_or_not_at_all(tmp_path, monkeypatch):
    made = []

    def torn(path):
        path.write_bytes(b"half of it")
        raise OSError("no room")

    def written(path):
        made.append(path)
        path.write_bytes(b"all of it")

    monkeypatch.setitem(files.FILES, "scan.ply", torn)
    with pytest.raises(OSError, match="no room"):
        files.made_file("scan.ply", tmp_path)
    assert list(tmp_path.iterdir()) == []
    monkeypatch.setitem(files.FILES, "scan.ply", written)
    for _ in range(2):
        assert files.made_file("scan.ply", tmp_path).read_bytes() == b"all of it"
    assert len(made) == 1 and list(tmp_path.iterdir()) == [tmp_path / "scan.ply"]


def test_the_bracket_comes_without_its_unit(tmp_path):
    scan = read_scan(files.made_file(files.BRACKET, tmp_path))
    assert scan.unit is None and len(scan.corners) > 50_000


PARENT = """
import multiprocessing, os, signal, sys, time
from bench.last_breath import dies_with_its_parent

def works():
    dies_with_its_parent()
    print(os.getpid(), flush=True)
    time.sleep(600)

multiprocessing.get_context("fork").Process(target=works).start()
time.sleep(600)
"""


def test_a_child_ends_with_a_parent_that_is_killed_outright():
    parent = subprocess.Popen([sys.executable, "-c", PARENT], cwd=ROOT, stdout=subprocess.PIPE, text=True)
    assert parent.stdout is not None
    child = int(parent.stdout.readline())
    assert alive(child)
    parent.send_signal(signal.SIGKILL)
    parent.wait(30)
    until(lambda: not alive(child), "the child has ended")
