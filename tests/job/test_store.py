"""The store: what a power cut, a full disk or another process does to it is found, dropped and made again."""

import json
import os
import threading

import pytest

from contour.job.build.keys import blob_hash
from contour.job.build.store import Store
from contour.recipe.problem import ContourError

KEY = "a" * 40


@pytest.fixture
def store(tmp_path) -> Store:
    return Store(tmp_path)


def put(store: Store, key: str = KEY, size: int = 1000) -> None:
    store.put(key, {"facts": {"x": 1}}, lambda folder: (folder / "data.bin").write_bytes(b"x" * size))


def test_what_was_put_is_there_as_it_was(store):
    put(store)
    assert store.has(KEY)
    assert store.outcome(KEY) == {"facts": {"x": 1}}


@pytest.mark.parametrize("text", ["", "{", "[1, 2]", "null", "\0\0\0"])
def test_a_product_that_cannot_be_read_is_dropped_and_put_again(store, text):
    put(store)
    (store.folder(KEY) / "outcome.json").write_text(text)
    assert not store.has(KEY)
    assert not store.folder(KEY).exists()
    put(store)
    assert store.outcome(KEY)["facts"] == {"x": 1}


@pytest.mark.parametrize(
    "damage", [lambda f: f.write_bytes(b"x" * 999), lambda f: f.write_bytes(b""), lambda f: f.unlink()]
)
def test_a_file_cut_short_is_found_by_its_size(store, damage):
    put(store)
    damage(store.folder(KEY) / "data.bin")
    assert not store.has(KEY)
    put(store)
    assert (store.folder(KEY) / "data.bin").stat().st_size == 1000


def test_an_outcome_that_is_gone_says_so(store):
    with pytest.raises(ContourError, match="not there any more"):
        store.outcome(KEY)


def test_a_product_of_an_earlier_version_has_no_sizes_and_is_good(store):
    put(store)
    mark = store.folder(KEY) / "outcome.json"
    mark.write_text(json.dumps({"facts": {}}))
    assert store.has(KEY)


def test_a_write_that_fails_leaves_nothing(store):
    def full(folder):
        (folder / "data.bin").write_bytes(b"x")
        raise OSError(28, "No space left on device")

    with pytest.raises(OSError, match="No space"):
        store.put(KEY, {}, full)
    assert list(store.products.iterdir()) == []


def test_trimming_while_others_build_and_drop_raises_nothing(store):
    """Six of 88 finished builds were marked failed under load: a draft was renamed between being listed and looked at."""
    errors: list[BaseException] = []

    def build(k: int) -> None:
        try:
            for n in range(80):
                put(store, f"{k * 10**6 + n:040x}", 200)
        except BaseException as error:
            errors.append(error)

    builders = [threading.Thread(target=build, args=(k,)) for k in range(3)]
    for b in builders:
        b.start()
    while any(b.is_alive() for b in builders):
        store.trim((), 2000)
    assert errors == []


def test_an_entry_that_vanishes_while_it_is_listed_is_passed_over(store, monkeypatch):
    put(store)
    gone = store.products / ".draft-gone"

    class Listed(type(store.products)):
        def iterdir(self):
            return iter([gone, *super().iterdir(), store.products / ("f" * 40)])

    monkeypatch.setattr(store, "products", Listed(store.products))
    assert store.trim((), 0) == 2
    assert not store.has(KEY)


def test_a_blob_cut_short_is_replaced_by_the_same_bytes(store):
    digest = store.put_blob(b"a scan")
    (store.blobs / digest).write_bytes(b"a s")
    with pytest.raises(ContourError, match=r"'cover\.stl' is damaged.*bring the same file in again"):
        store.read_blob(digest, name="cover.stl")
    assert store.put_blob(b"a scan") == digest
    assert store.read_blob(digest) == b"a scan"


def test_a_blob_that_is_gone_is_told_by_its_name(store):
    with pytest.raises(ContourError, match=r"'cover\.stl' is missing"):
        store.whole_blob(blob_hash(b"never kept"), name="cover.stl")


def test_a_blob_that_cannot_be_written_leaves_no_draft(store, monkeypatch):
    def full(*_):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(os, "replace", full)
    with pytest.raises(OSError, match="No space"):
        store.put_blob(b"a scan")
    assert list(store.blobs.iterdir()) == []
