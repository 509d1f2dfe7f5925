"""Somebody signed in with a job; the queue works inline, its children are real."""

import hashlib
from pathlib import Path

import pytest
from huey.contrib.djhuey import HUEY

from bench import compute
from tests.bench.asking import bring, client_of, post


@pytest.fixture(autouse=True)
def inline_queue():
    HUEY.immediate = True
    yield
    HUEY.immediate = False


@pytest.fixture(autouse=True)
def cheap_passwords(settings):
    """A hash that is dear to guess is dear to make, and every test makes people; here nobody guesses."""
    settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]


_TOLD: dict[tuple[str, str, str], dict] = {}


@pytest.fixture(autouse=True)
def read_once(monkeypatch):
    """What a child found in a file it finds in the same bytes again: nearly every test begins by bringing the same block."""
    real = compute.run_in_child

    def run(task: str, payload: dict, **how):
        if task != "inspect":
            return real(task, payload, **how)
        key = (hashlib.sha256(Path(payload["path"]).read_bytes()).hexdigest(), payload["name"], payload["unit"])
        if key not in _TOLD:
            _TOLD[key] = real(task, payload, **how)
        return _TOLD[key]

    monkeypatch.setattr(compute, "run_in_child", run)


@pytest.fixture
def maker():
    return client_of("maker")


@pytest.fixture
def job(maker, block_stl) -> dict:
    upload = bring(maker, block_stl.read_bytes())
    return post(maker, "/jobs", {"upload": upload["id"], "name": "Test block", "unit": "mm"})
