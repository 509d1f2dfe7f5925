"""Figures of one size from several sources, side by side: what the drawing states, the caliper reads, the photo and the
scan say, and whether they can all be true."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal, TypeVar

__all__ = ["FAR", "Figure", "SizeBeside", "beside", "grouped"]

T = TypeVar("T")
Source = Literal["drawing", "caliper", "photo", "scan"]
# Figures of one size that lie farther apart than this many joint standard uncertainties do not agree.
FAR = 2.5


@dataclass(frozen=True, slots=True)
class Figure:
    """mm (or degrees) with standard uncertainty; tolerance: plus or minus, where a drawing states it."""

    source: Source
    name: str
    value: float
    u: float | None
    tolerance: float | None = None


@dataclass(frozen=True, slots=True)
class SizeBeside:
    """figures: drawing first, then by uncertainty · apart: of the pair that disagrees most, in units of its joint standard
    uncertainty, and who they are; none where nothing tells · out_of_tolerance: names of the measured figures that lie outside
    what the drawing allows by more than their own U95."""

    figures: tuple[Figure, ...]
    apart: float | None
    between: tuple[str, str] | None
    out_of_tolerance: tuple[str, ...]

    @property
    def agree(self) -> bool:
        return self.apart is None or self.apart <= FAR


def grouped(rows: Sequence[T], same: Callable[[T, T], bool]) -> list[list[T]]:
    """Rows in groups that hang together, in the order of their first row; a row on its own is a group too.

    >>> grouped([1, 8, 2, 9, 20], lambda a, b: abs(a - b) == 1)
    [[1, 2], [8, 9], [20]]
    """
    groups: list[list[T]] = []
    for row in rows:
        mine = [g for g in groups if any(same(row, other) for other in g)]
        if not mine:
            groups.append([row])
            continue
        first, *rest = mine
        first.append(row)
        for other in rest:
            first.extend(other)
        groups = [g for g in groups if not any(g is o for o in rest)]
    return groups


def beside(figures: Sequence[Figure]) -> SizeBeside:
    """The figures of one size held against each other.

    A drawing's figure is a statement, not a measurement: measured figures are held against its tolerance, and against each
    other by their uncertainties (difference over the root of the sum of squares).
    """
    rows = sorted(figures, key=lambda f: (f.source != "drawing", f.u if f.u is not None else math.inf))
    apart, between = None, None
    measured = [f for f in rows if f.source != "drawing" and f.u]
    for i, a in enumerate(measured):
        for b in measured[i + 1 :]:
            away = abs(a.value - b.value) / math.hypot(a.u or 0.0, b.u or 0.0)
            if apart is None or away > apart:
                apart, between = away, (a.name, b.name)
    outside = tuple(
        dict.fromkeys(
            f.name
            for f in rows
            if f.source != "drawing"
            for d in rows
            if d.source == "drawing"
            and d.tolerance is not None
            and abs(f.value - d.value) > d.tolerance + 2 * (f.u or 0.0)
        )
    )
    return SizeBeside(tuple(rows), apart, between, outside)
