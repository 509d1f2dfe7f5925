"""Blobs (kept for good) and products (a cache that can be rebuilt) as files, each written whole or not at all."""

from __future__ import annotations

import contextlib
import hashlib
import json
import logging
import os
import re
import shutil
import tempfile
import time
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any

from contour.job.build.keys import blob_hash
from contour.recipe.problem import ContourError, Where

__all__ = ["Store", "sync_folder"]

log = logging.getLogger(__name__)

_DIGEST = re.compile(r"[0-9a-f]{64}")
_KEY = re.compile(r"[0-9a-f]{40}([bpr]\d+)?(-s)?")
_LONGEST_DRAFT_S = 3600.0


def sync_folder(folder: Path) -> None:
    """A renamed file is only sure to be found again when its folder is written too."""
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


class Store:
    """`root`/blobs/<hash> and `root`/products/<key>/…

    A product's folder is built beside its place and renamed into it: a killed process leaves at worst a folder that
    nobody reads, and two processes that build the same product cannot disturb each other. `outcome.json` is written last and
    lists the size of every other file: what a power cut has left short is found when the product is opened, dropped, and built
    again. Blobs cannot be built again, so they reach the disk before they get their name.
    """

    def __init__(self, root: Path) -> None:
        self.root = root
        self.blobs = root / "blobs"
        self.products = root / "products"
        for folder in (self.blobs, self.products):
            folder.mkdir(parents=True, exist_ok=True)

    def put_blob(self, data: bytes) -> str:
        digest = blob_hash(data)
        place = self.blobs / digest
        if not (place.is_file() and place.stat().st_size == len(data)):
            handle, name = tempfile.mkstemp(prefix=".draft-", dir=self.blobs)
            try:
                with os.fdopen(handle, "wb") as f:
                    f.write(data)
                self.adopt_blob(Path(name), digest)
            except BaseException:
                Path(name).unlink(missing_ok=True)
                raise
        return digest

    def adopt_blob(self, path: Path, digest: str) -> None:
        """Move a finished file in under its hash."""
        with path.open("rb") as f:
            os.fsync(f.fileno())
        os.replace(path, self.blobs / digest)
        sync_folder(self.blobs)

    def blob(self, digest: str, *, name: str | None = None) -> Path:
        """Where a file lies; raises ContourError (file-missing), for anything that is no hash as for one that is not here.
        `name`: what it is to its owner."""
        path = self.blobs / digest
        if not _DIGEST.fullmatch(digest) or not path.is_file():
            raise ContourError(
                "file-missing",
                f"the file of '{name}' is missing" if name else "a file of the job is missing",
                where=Where(file=name),
                got=digest[:12],
                need="the file that was brought in",
                remedy="bring the same file in again: the job finds it by its content",
            )
        return path

    def whole_blob(self, digest: str, *, name: str | None = None) -> Path:
        """Where a file lies, known to hold the bytes that were kept. Raises ContourError (file-missing)."""
        path = self.blob(digest, name=name)
        with path.open("rb") as f:
            if hashlib.file_digest(f, "sha256").hexdigest() == digest:
                return path
        raise ContourError(
            "file-missing",
            f"the file of '{name}' is damaged" if name else "a file of the job is damaged",
            where=Where(file=name),
            got=f"{path.stat().st_size:,} bytes that are not the ones kept",
            need="the very bytes that were brought in",
            remedy="bring the same file in again: the job finds it by its content",
        )

    def read_blob(self, digest: str, *, name: str | None = None) -> bytes:
        """The bytes of a file. Raises ContourError (file-missing)."""
        return self.whole_blob(digest, name=name).read_bytes()

    def folder(self, key: str) -> Path:
        """Where a product lies, or would; raises ContourError (not-found) for what is no product's key."""
        if not _KEY.fullmatch(key):
            raise ContourError(
                "not-found",
                "there is no such product",
                got=key[:12],
                need="the key of a product",
                where=Where(entity=key[:12]),
                remedy="load the page again",
            )
        return self.products / key

    def has(self, key: str) -> bool:
        return self._opened(key) is not None

    def _opened(self, key: str) -> dict[str, Any] | None:
        """What is kept with a product whose files are all there at their sizes; a damaged one is dropped."""
        place = self.folder(key)
        try:
            data = json.loads((place / "outcome.json").read_bytes())
            sizes: dict[str, int] = data.pop("sizes", {})
            if all((place / name).stat().st_size == size for name, size in sizes.items()):
                return dict(data)
            log.warning("product %s is damaged and will be built again", key)
        except FileNotFoundError:
            if not place.exists():
                return None
        except (ValueError, TypeError, AttributeError):
            log.warning("product %s cannot be read and will be built again", key)
        self._drop(place)
        return None

    def _drop(self, place: Path) -> None:
        """Away at once for everybody, then file by file."""
        grave = Path(tempfile.mkdtemp(prefix=".draft-", dir=self.products))
        with contextlib.suppress(OSError):
            os.rename(place, grave / place.name)
        shutil.rmtree(grave, ignore_errors=True)

    def outcome(self, key: str) -> dict[str, Any]:
        """Facts and problems kept with a product; touching it marks it as used. Raises ContourError (not-found)."""
        data = self._opened(key)
        if data is None:
            raise ContourError(
                "not-found",
                "this product is not there any more",
                got=key[:12],
                need="a product that is kept",
                where=Where(entity=key[:12]),
                remedy="wait until it is built again",
            )
        with contextlib.suppress(FileNotFoundError):
            os.utime(self.folder(key) / "outcome.json")
        return data

    def put(self, key: str, outcome: dict[str, Any], write: Callable[[Path], object]) -> None:
        """Keep what `write` leaves in the folder it is given, with `outcome` (which it may still fill)."""
        place = self.folder(key)
        if self.has(key):
            return
        draft = Path(tempfile.mkdtemp(prefix=".draft-", dir=self.products))
        try:
            write(draft)
            sizes = {str(f.relative_to(draft)): f.stat().st_size for f in draft.rglob("*") if f.is_file()}
            (draft / "outcome.json").write_text(json.dumps({**outcome, "sizes": sizes}))
            try:
                os.rename(draft, place)
            except OSError:
                if not self.has(key):
                    raise  # somebody else's identical product is as good as ours; anything else is news
        finally:
            shutil.rmtree(draft, ignore_errors=True)

    def trim(self, pinned: Iterable[str], cap_bytes: int) -> int:
        """Drop the longest unused products beyond `cap_bytes`, never the pinned ones; returns how many went.

        Others build, rename and drop while this looks: what is gone when it is looked at was not there to be counted.
        """
        keep = set(pinned)
        entries = []
        for place in list(self.products.iterdir()):
            with contextlib.suppress(FileNotFoundError):
                if place.name.startswith(".draft-"):
                    if time.time() - place.stat().st_mtime > _LONGEST_DRAFT_S:
                        shutil.rmtree(place, ignore_errors=True)
                    continue
                entries.append((_last_use(place), _size(place), place))
        total = sum(size for _, size, _ in entries)
        gone = 0
        for _, size, place in sorted(entries):
            if total <= cap_bytes:
                break
            if place.name not in keep:
                self._drop(place)
                total -= size
                gone += 1
        return gone


def _last_use(place: Path) -> float:
    try:
        return (place / "outcome.json").stat().st_mtime
    except FileNotFoundError:
        return 0.0


def _size(folder: Path) -> int:
    total = 0
    for file in folder.rglob("*"):
        with contextlib.suppress(FileNotFoundError):
            total += file.stat().st_size
    return total
