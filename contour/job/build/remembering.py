"""A store as one process sees it for a while: what was told of a product is read once, since products never change."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from contour.job.build.store import Store

__all__ = ["Remembering"]


class Remembering(Store):
    """Another store, with what is kept with its products at hand. What is not there is asked for again each time: somebody may have built it."""

    def __init__(self, under: Store, told: dict[str, dict[str, Any]] | None = None) -> None:
        """told: by key, what an earlier one has read of the same store."""
        self.under = under
        self.root, self.blobs, self.products = under.root, under.blobs, under.products
        self._told = {} if told is None else told

    def folder(self, key: str) -> Path:
        return self.under.folder(key)

    def put(self, key: str, outcome: dict[str, Any], write: Any) -> None:
        self.under.put(key, outcome, write)

    def _opened(self, key: str) -> dict[str, Any] | None:
        if key in self._told and not self.folder(key).exists():
            del self._told[key]  # room was made
        if key not in self._told:
            found = self.under._opened(key)
            if found is None:
                return None
            self._told[key] = found
        return dict(self._told[key])
