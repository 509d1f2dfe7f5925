"""Uncertainty of formulas over readings: the law of propagation with correlated inputs (JCGM 100:2008, 5.2).

An instrument's error limit is half shared: half of its variance goes with all readings taken with it (its zero, its
jaws), half with the place on its scale. So a difference of two readings loses some of it and a sum keeps more.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from contour.metrology.reading import ReadingFacts

__all__ = ["SHARED", "Input", "input_of", "propagated"]

# Correlation of the error-limit parts of two readings with one instrument.
SHARED = 0.5


@dataclass(frozen=True, slots=True)
class Input:
    """One measured quantity: value, standard uncertainty of its own, and the part it shares with others of a group."""

    value: float
    own: float
    shared: float = 0.0
    group: str | None = None

    @property
    def u(self) -> float:
        return math.hypot(self.own, self.shared)


def input_of(facts: ReadingFacts) -> Input | None:
    """A reading as an input; none while its uncertainty is unknown."""
    if facts.u is None:
        return None
    if facts.instrument is None:
        return Input(facts.mean, facts.u)
    return Input(facts.mean, math.sqrt(max(facts.u**2 - facts.limit**2, 0.0)), facts.limit, facts.instrument)


def propagated(f: Callable[[Mapping[str, float]], float], inputs: Mapping[str, Input]) -> tuple[float, float]:
    """(value, standard uncertainty) of f at the inputs' values.

    f: takes values by name. Derivatives are central differences over one standard uncertainty each way, so that a
    bend of f within the uncertainty is averaged over. What f raises goes through.

    >>> value, u = propagated(lambda v: v["a"] / 4, {"a": Input(10.0, 0.02)})
    >>> value, round(u, 6)
    (2.5, 0.005)
    """
    at = {name: i.value for name, i in inputs.items()}
    value = f(at)
    slopes = {}
    for name, i in inputs.items():
        if i.u == 0:
            continue
        up = f({**at, name: i.value + i.u})
        down = f({**at, name: i.value - i.u})
        slopes[name] = (up - down) / (2 * i.u)
    square = sum((slopes[n] * inputs[n].own) ** 2 for n in slopes)
    groups: dict[str, list[str]] = {}
    for n in slopes:
        if inputs[n].shared:
            groups.setdefault(inputs[n].group or n, []).append(n)
    for names in groups.values():
        square += _grouped([slopes[n] * inputs[n].shared for n in names])
    return value, math.sqrt(max(square, 0.0))


def _grouped(parts: Sequence[float]) -> float:
    """Variance of a sum of parts that correlate by SHARED with each other."""
    return (1 - SHARED) * sum(p * p for p in parts) + SHARED * sum(parts) ** 2
