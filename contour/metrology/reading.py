"""Repeated readings: mean and standard uncertainty of the mean (type A of the Guide to the expression of uncertainty in
measurement, JCGM 100:2008, 4.2)."""

from __future__ import annotations

import math
from dataclasses import dataclass

from contour.recipe.file import Reading
from contour.recipe.formula import LENGTH_UNITS

__all__ = ["ReadingFacts", "reading_facts"]


@dataclass(frozen=True, slots=True)
class ReadingFacts:
    """mm, or degrees for an angle. `u` is none for a single take: one reading tells nothing of its own spread."""

    dimension: str
    n: int
    mean: float
    u: float | None
    spread: float


def reading_facts(reading: Reading) -> ReadingFacts | None:
    """What a reading says; none while it has no takes. Takes in different units are brought to mm first."""
    if not reading.takes:
        return None
    angle = reading.takes[0].unit == "deg"
    values = [t.value if t.unit == "deg" else t.value * LENGTH_UNITS[t.unit] for t in reading.takes]
    n = len(values)
    mean = math.fsum(values) / n
    u = math.sqrt(math.fsum((v - mean) ** 2 for v in values) / (n - 1) / n) if n > 1 else None
    return ReadingFacts("angle" if angle else "length", n, mean, u, max(values) - min(values))
