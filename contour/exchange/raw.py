"""Triangles as they stand in a file, and the notes that every reader takes: what all mesh readers share."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from contour.recipe.problem import ContourError, Where

__all__ = ["MAX_FACETS", "NoteLog", "RawScan", "ReadNote", "ScanFormat", "check_facet_count"]

ScanFormat = Literal["stl", "obj", "ply", "3mf", "wrl"]
MAX_FACETS = 10_000_000
_PLACES_KEPT = 20


@dataclass(frozen=True, slots=True)
class ReadNote:
    """One kind of finding: how often, and the first places (lines of text files, facet numbers of binary ones)."""

    code: str
    message: str
    count: int
    places: tuple[int, ...]
    place_kind: Literal["line", "facet", "file"]

    def text(self) -> str:
        if self.place_kind == "file":
            return self.message
        shown = ", ".join(str(p) for p in self.places[:5]) + (" …" if self.count > 5 else "")
        return f"{self.message} ({self.count} at {self.place_kind} {shown})"


@dataclass(frozen=True, slots=True)
class RawScan:
    """Triangles as they stand in the file.

    corners : (n, 3, 3) float64, file units, finite. facet_ids : (n,) int64, each triangle's number in the file
    (polygons triangulated), before anything was dropped. facets_read counts those numbers. unit is the file's own
    where its format has one.
    """

    corners: NDArray[np.float64]
    facet_ids: NDArray[np.int64]
    facets_read: int
    format: ScanFormat
    solids: tuple[str, ...] = ()
    notes: tuple[ReadNote, ...] = ()
    unit: Literal["mm", "cm", "m", "inch"] | None = None


@dataclass(slots=True)
class NoteLog:
    """Collects findings while a file is read; keeps counts for all and places for the first few."""

    place_kind: Literal["line", "facet"]
    _found: dict[str, tuple[str, int, list[int]]] = field(default_factory=dict)
    _file: list[ReadNote] = field(default_factory=list)

    def add(self, code: str, message: str, places: int | Iterable[int]) -> None:
        listed = [places] if isinstance(places, int) else [int(p) for p in places]
        if not listed:
            return
        text, count, kept = self._found.get(code, (message, 0, []))
        kept.extend(listed[: _PLACES_KEPT - len(kept)])
        self._found[code] = (text, count + len(listed), kept)

    def add_file(self, code: str, message: str) -> None:
        self._file.append(ReadNote(code, message, 1, (), "file"))

    def notes(self) -> tuple[ReadNote, ...]:
        found = [ReadNote(c, m, n, tuple(p), self.place_kind) for c, (m, n, p) in self._found.items()]
        return tuple(self._file + found)


def check_facet_count(count: int, name: str) -> None:
    """Raises ContourError (file-too-large) beyond what the bench can hold."""
    if count > MAX_FACETS:
        raise ContourError(
            "file-too-large",
            "the scan has too many facets",
            where=Where(file=name),
            got=f"{count:,}",
            need=f"at most {MAX_FACETS:,}",
            remedy="thin the scan out before bringing it in",
        )
