"""Somebody signed in with a job; the queue works inline, its children are real."""

import pytest
from huey.contrib.djhuey import HUEY

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


@pytest.fixture
def maker():
    return client_of("maker")


@pytest.fixture
def job(maker, block_stl) -> dict:
    upload = bring(maker, block_stl.read_bytes())
    return post(maker, "/jobs", {"upload": upload["id"], "name": "Test block", "unit": "mm"})
