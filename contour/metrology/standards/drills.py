"""Twist drills that can be bought, and preferred numbers (ISO 3). Diameters in mm.

Metric stock follows ISO 235: steps of 0.05 mm up to 3, 0.1 up to 14, 0.25 up to 32, 0.5 up to 50. Inch stock: 64ths up
to 2 inch, number drills 80 to 1, letters A to Z (ASME B94.11M).
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from fractions import Fraction
from functools import cache

from contour.metrology.standards.tables import row

__all__ = ["Drill", "drills", "fraction_text", "nearest_drills", "preferred_near", "preferred_numbers"]


_NUMBERS = row("""
    0.2280 0.2210 0.2130 0.2090 0.2055 0.2040 0.2010 0.1990 0.1960 0.1935 0.1910 0.1890 0.1850 0.1820 0.1800
    0.1770 0.1730 0.1695 0.1660 0.1610 0.1590 0.1570 0.1540 0.1520 0.1495 0.1470 0.1440 0.1405 0.1360 0.1285
    0.1200 0.1160 0.1130 0.1110 0.1100 0.1065 0.1040 0.1015 0.0995 0.0980 0.0960 0.0935 0.0890 0.0860 0.0820
    0.0810 0.0785 0.0760 0.0730 0.0700 0.0670 0.0635 0.0595 0.0550 0.0520 0.0465 0.0430 0.0420 0.0410 0.0400
    0.0390 0.0380 0.0370 0.0360 0.0350 0.0330 0.0320 0.0310 0.0292 0.0280 0.0260 0.0250 0.0240 0.0225 0.0210
    0.0200 0.0180 0.0160 0.0145 0.0135
""")
_LETTERS = row("""
    0.234 0.238 0.242 0.246 0.250 0.257 0.261 0.266 0.272 0.277 0.281 0.290 0.295 0.302 0.316 0.323 0.332 0.339
    0.348 0.358 0.368 0.377 0.386 0.397 0.404 0.413
""")
# Rounded terms of one decade: ISO 3:1973, table 1 (the exact terms are 10^(k/n)).
_PREFERRED = {
    5: (1.0, 1.6, 2.5, 4.0, 6.3),
    10: (1.0, 1.25, 1.6, 2.0, 2.5, 3.15, 4.0, 5.0, 6.3, 8.0),
    20: (1.0, 1.12, 1.25, 1.4, 1.6, 1.8, 2.0, 2.24, 2.5, 2.8, 3.15, 3.55, 4.0, 4.5, 5.0, 5.6, 6.3, 7.1, 8.0, 9.0),
    40: row(
        "1.0 1.06 1.12 1.18 1.25 1.32 1.4 1.5 1.6 1.7 1.8 1.9 2.0 2.12 2.24 2.36 2.5 2.65 2.8 3.0 "
        "3.15 3.35 3.55 3.75 4.0 4.25 4.5 4.75 5.0 5.3 5.6 6.0 6.3 6.7 7.1 7.5 8.0 8.5 9.0 9.5"
    ),
}


@dataclass(frozen=True, slots=True)
class Drill:
    name: str
    diameter: float
    system: str


def fraction_text(inches: Fraction) -> str:
    """``1-9/16`` for 25/16."""
    whole, rest = divmod(inches, 1)
    if not rest:
        return str(whole)
    return f"{whole}-{rest}" if whole else str(rest)


def _steps(low: int, high: int, step: int) -> list[int]:
    return list(range(low, high + 1, step))


@cache
def drills(system: str = "both") -> tuple[Drill, ...]:
    """All drills of a system (``metric``, ``inch`` or ``both``), thinnest first."""
    hundredths = [*_steps(20, 295, 5), *_steps(300, 1390, 10), *_steps(1400, 3175, 25), *_steps(3200, 5000, 50)]
    metric = [Drill(f"{h / 100:g} mm", h / 100, "metric") for h in hundredths]
    inch = [Drill(f"{fraction_text(Fraction(k, 64))} inch", k * 25.4 / 64, "inch") for k in range(1, 129)]
    inch += [Drill(f"no. {k + 1}", d * 25.4, "inch") for k, d in enumerate(_NUMBERS)]
    inch += [Drill(chr(ord("A") + k), d * 25.4, "inch") for k, d in enumerate(_LETTERS)]
    chosen = {"metric": metric, "inch": inch}.get(system, [*metric, *inch])
    return tuple(sorted(chosen, key=lambda d: d.diameter))


def nearest_drills(diameter: float, *, system: str = "both", count: int = 3) -> list[Drill]:
    """The drills next to a diameter, nearest first. mm."""
    return sorted(drills(system), key=lambda d: abs(d.diameter - diameter))[:count]


def preferred_numbers(series: int, low: float, high: float) -> list[float]:
    """Rounded preferred numbers of R5, R10, R20 or R40 between two figures.

    >>> preferred_numbers(10, 10, 21)
    [10.0, 12.5, 16.0, 20.0]
    Numbers of any unit.
    """
    decades = range(math.floor(math.log10(low)) - 1, math.ceil(math.log10(high)) + 1)
    terms = [round(t * 10.0**e, 9) for e in decades for t in _PREFERRED[series]]
    return [t for t in terms if low <= t <= high]


def preferred_near(value: float) -> tuple[float, str]:
    """The nearest term of the coarsest series that has one within 1 %, else the nearest of R40: (term, series).

    A number of any unit.
    """
    for series in (5, 10, 20, 40):
        term = min(preferred_numbers(series, value / 2, value * 2), key=lambda t: abs(t - value))
        if abs(term - value) <= 0.01 * value or series == 40:
            return term, f"R{series}"
    raise AssertionError
