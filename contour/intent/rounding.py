"""Round values: the system and the step that the sizes of a part fall on beyond chance."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from contour.intent.features import FAR

__all__ = ["BY_CHANCE", "Rounding", "rounding_of", "said"]

_RARE = 8.0  # a step between round values must be so many uncertainties wide
BY_CHANCE = 0.05


@dataclass(frozen=True, slots=True)
class Rounding:
    """How the sizes of a part are made: system "mm" or "inch", and the step that its sizes are multiples of more often than chance
    explains, mm; 0 where none is."""

    system: str
    step: float

    def near(self, value: float, u: float) -> float | None:
        """The roundest value within 3 u, or none. Without a common step a value must be round beyond chance by itself.

        >>> Rounding("mm", 0.5).near(12.03, 0.02), Rounding("mm", 0.5).near(12.03, 0.2), Rounding("mm", 0.0).near(12.03, 0.02)
        (12.0, None, None)
        """
        for step in _STEPS[self.system]:
            near = round(value / step) * step
            if near <= 0 or abs(near - value) > FAR * u:
                continue
            by_itself = 2 * FAR * u / step <= BY_CHANCE
            # A coarse step that holds is a multiple of the common one as well: 12 is 12 whether steps are of 1 or of 0.5.
            common = self.step > 0 and step >= self.step * 0.999 and self.step >= _RARE * u
            if by_itself or common:
                return float(round(near, 6))
        return None


_STEPS = {
    "mm": (100.0, 50.0, 20.0, 10.0, 5.0, 2.0, 1.0, 0.5, 0.25, 0.1),
    "inch": (25.4, 12.7, 6.35, 3.175, 1.5875, 0.79375),
}


def rounding_of(sizes: Sequence[tuple[float, float]]) -> Rounding:
    """The system and step that (value, standard uncertainty) of sizes, mm, fall on beyond chance.

    For each step the hits are held against what values without any order would score (binomial); the least likely wins, and
    only when it is less likely than one in a hundred.
    """
    best = (0.01, "mm", 0.0)
    for system in ("mm", "inch"):
        for step in (s for s in _STEPS[system] if 0.2 < s <= 2.0):
            told = [(v, u) for v, u in sizes if step >= _RARE * u and v > step]
            if len(told) < 3:
                continue
            chance = float(np.mean([min(2 * FAR * max(u, 1e-3) / step, 1.0) for _, u in told]))
            hits = sum(abs(round(v / step) * step - v) <= FAR * max(u, 1e-3) for v, u in told)
            if hits < 0.6 * len(told):
                continue
            tail = sum(
                math.comb(len(told), k) * chance**k * (1 - chance) ** (len(told) - k)
                for k in range(hits, len(told) + 1)
            )
            if tail < best[0]:
                best = (tail, system, step)
    return Rounding(best[1], best[2])


def said(mm: float, system: str) -> str:
    """A round value in words.

    >>> said(12.7, "inch"), said(12.7, "mm")
    ('0.5 inch', '12.7 mm')
    """
    return f"{mm:g} mm" if system == "mm" else f"{mm / 25.4:g} inch"
