"""Blobs (kept for good) and products (a cache that can be rebuilt) as files, each written whole or not at all."""

from __future__ import annotations

import json
import os
import re
import shutil
import tempfile
import time
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any

from contour.job.keys import blob_hash
from contour.recipe.problem import ContourError

__all__ = ["Store"]

_DIGEST = re.compile(r"[0-9a-f]{64}")
_KEY = re.compile(r"[0-9a-f]{40}([br]\d+)?(-s)?")


class Store:
    """`root`/blobs/<hash> and `root`/products/<key>/…

    A product's folder is built beside its place and renamed into it: a killed process leaves at worst a folder that
    nobody reads, and two processes that build the same product cannot disturb each other.
    """

    def __init__(self, root: Path) -> None:
        self.root = root
        self.blobs = root / "blobs"
        self.products = root / "products"
        for folder in (self.blobs, self.products):
            folder.mkdir(parents=True, exist_ok=True)

    def put_blob(self, data: bytes) -> str:
        digest = blob_hash(data)
        if not (self.blobs / digest).exists():
            handle, name = tempfile.mkstemp(dir=self.blobs)
            with os.fdopen(handle, "wb") as f:
                f.write(data)
            os.replace(name, self.blobs / digest)
        return digest

    def adopt_blob(self, path: Path, digest: str) -> None:
        """Move a finished file in under its hash."""
        os.replace(path, self.blobs / digest)

    def blob(self, digest: str) -> Path:
        """Where a file lies; raises ContourError (not-found), for anything that is no hash as for one that is not here."""
        path = self.blobs / digest
        if not _DIGEST.fullmatch(digest) or not path.is_file():
            raise ContourError(
                "not-found", "the evidence file is missing", got=digest[:12], remedy="bring the scan in again"
            )
        return path

    def folder(self, key: str) -> Path:
        """Where a product lies, or would; raises ContourError (not-found) for what is no product's key."""
        if not _KEY.fullmatch(key):
            raise ContourError("not-found", "there is no such product", got=key[:12], remedy="load the page again")
        return self.products / key

    def has(self, key: str) -> bool:
        return (self.folder(key) / "outcome.json").exists()

    def outcome(self, key: str) -> dict[str, Any]:
        """Facts and problems kept with a product; touching it marks it as used."""
        path = self.folder(key) / "outcome.json"
        os.utime(path)
        data: dict[str, Any] = json.loads(path.read_text())
        return data

    def put(self, key: str, outcome: dict[str, Any], write: Callable[[Path], None]) -> None:
        place = self.folder(key)
        if self.has(key):
            return
        draft = Path(tempfile.mkdtemp(prefix=".draft-", dir=self.products))
        try:
            write(draft)
            (draft / "outcome.json").write_text(json.dumps(outcome))
            try:
                os.rename(draft, place)
            except OSError:
                if not self.has(key):
                    raise  # somebody else's identical product is as good as ours; anything else is news
        finally:
            shutil.rmtree(draft, ignore_errors=True)

    def trim(self, pinned: Iterable[str], cap_bytes: int) -> int:
        """Drop the longest unused products beyond `cap_bytes`, never the pinned ones; returns how many went."""
        keep = set(pinned)
        entries = []
        for place in self.products.iterdir():
            if place.name.startswith(".draft-"):
                if time.time() - place.stat().st_mtime > 3600:
                    shutil.rmtree(place, ignore_errors=True)
                continue
            size = sum(f.stat().st_size for f in place.rglob("*") if f.is_file())
            mark = place / "outcome.json"
            entries.append((mark.stat().st_mtime if mark.exists() else 0.0, size, place))
        total = sum(size for _, size, _ in entries)
        gone = 0
        for _, size, place in sorted(entries):
            if total <= cap_bytes:
                break
            if place.name not in keep:
                shutil.rmtree(place, ignore_errors=True)
                total -= size
                gone += 1
        return gone
