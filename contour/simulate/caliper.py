"""A simulated caliper: jaws on a true size, repeatability of the hand, a display of steps, and a zero that may be off."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from contour.recipe.problem import ContourError, Where

__all__ = ["Caliper", "closed", "line_of", "measured", "zeroed"]


@dataclass(frozen=True, slots=True)
class Caliper:
    """resolution_mm: the display's step · repeat_mm: standard deviation of the hand · error_mm: what this one is wrong by,
    inside its limit · zero_mm: what it shows when closed · dropped_mm: how far the zero has moved unseen · unit: of the
    display · shown_mm: what stands on it · taken: takes so far, which with the seed decides the next one."""

    resolution_mm: float = 0.01
    limit_mm: float = 0.02
    repeat_mm: float = 0.008
    error_mm: float = 0.0
    zero_mm: float = 0.0
    unit: str = "mm"
    shown_mm: float = 0.0
    taken: int = 0
    seed: int = 1


def _shown(c: Caliper, true_mm: float) -> float:
    """Rounded to the display's step: of the unit that is shown (0.01 mm or 0.0005 inch)."""
    step = c.resolution_mm if c.unit == "mm" else 0.0005 * 25.4 * (c.resolution_mm / 0.01)
    return float(round(true_mm / step) * step)


def _noise(c: Caliper) -> float:
    return float(np.random.default_rng([c.seed, c.taken]).normal(0, c.repeat_mm))


def measured(c: Caliper, true_mm: float) -> Caliper:
    """The jaws put on a true size once more; `shown_mm` is what the display says then."""
    if not 0 <= true_mm <= 1000:
        raise ContourError(
            "bad-params",
            "the jaws open from 0 to 1000 mm",
            got=f"{true_mm:g} mm",
            where=Where(param="true_mm"),
            need="0 to 1000 mm",
            remedy="choose a size between",
        )
    return replace(c, shown_mm=_shown(c, true_mm + c.error_mm + c.zero_mm + _noise(c)), taken=c.taken + 1)


def closed(c: Caliper) -> Caliper:
    """The jaws closed: the display shows the zero as it is."""
    return replace(c, shown_mm=_shown(c, c.zero_mm))


def zeroed(c: Caliper) -> Caliper:
    """The zero button pressed with the jaws closed."""
    return replace(c, zero_mm=0.0, shown_mm=0.0)


def line_of(c: Caliper) -> str:
    """What the send key sends: see contour.metrology.lines.

    >>> line_of(Caliper(shown_mm=12.03))
    '12.03 mm'
    """
    return f"{c.shown_mm:.2f} mm" if c.unit == "mm" else f"{c.shown_mm / 25.4:.4f} inch"
