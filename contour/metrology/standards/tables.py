"""A printed table's figures as they stand there."""

from __future__ import annotations

__all__ = ["row"]


def row(text: str) -> tuple[float, ...]:
    """The figures of a row, parted by white space."""
    return tuple(float(t) for t in text.split())
