"""Seats of screw heads: counterbores for cylinder heads, countersinks for flat ones. mm.

Cylinder heads: ISO 4762, counterbores DIN 974-1 series 1; inch ASME B18.3, counterbore sizes of its table. Flat heads: the theoretical sharp diameter
of ISO 10642 (90 deg) and of ASME B18.3 (82 deg): a head sits flush where the countersink is as wide.
"""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from functools import cache

from contour.metrology.standards.threads import Thread

__all__ = ["HeadSeat", "head_seat"]

# Size, counterbore, sharp head; 0: not in the table.
_METRIC = """
2 4.3 0; 2.5 5 0; 3 6.5 6.72; 4 8 8.96; 5 10 11.2; 6 11 13.44; 8 15 17.92; 10 18 22.4; 12 20 26.88; 14 24 30.8; 16 26 33.6;
20 33 40.32; 24 40 0; 30 50 0; 36 58 0
"""
_INCH = """
#4 7/32 .255; #5 1/4 .281; #6 9/32 .307; #8 5/16 .359; #10 3/8 .411; 1/4 7/16 .531; 5/16 17/32 .656; 3/8 5/8 .781; 7/16 23/32 .844;
1/2 13/16 .938; 5/8 1 1.188; 3/4 19/16 1.438; 7/8 11/8 1.688; 1 13/8 1.938
"""
_INCH_OVER = 25.4 / 64


@dataclass(frozen=True, slots=True)
class HeadSeat:
    """counterbore, depth: of a cylinder head · countersink, angle: of a flat one, deg; none where no head of that size is known."""

    counterbore: float | None
    depth: float
    countersink: float | None
    angle: float


def _deeper(d: float) -> float:
    """How much deeper than its head a counterbore is: DIN 974-1."""
    return 0.2 if d <= 1.4 else 0.4 if d <= 6 else 0.6 if d <= 20 else 0.8


@cache
def _seats() -> dict[str, HeadSeat]:
    """By the nominal size of the thread as its designation begins: ``M6``, ``#8``, ``1/4``."""
    out = {}
    for row in _METRIC.replace("\n", " ").split(";"):
        d, bore, sharp = map(float, row.split())
        out[f"M{d:g}"] = HeadSeat(bore, d + _deeper(d), sharp or None, 90.0)
    for row in _INCH.replace("\n", " ").split(";"):
        size, wide, sharp_inch = row.split()
        inches = 0.060 + 0.013 * int(size[1:]) if size.startswith("#") else float(Fraction(size))
        out[size] = HeadSeat(25.4 * float(Fraction(wide)), 25.4 * inches + _INCH_OVER, 25.4 * float(sharp_inch), 82.0)
    return out


def head_seat(thread: Thread) -> HeadSeat | None:
    """Of the screw with this thread; none where the tables have no head of its size."""
    size = thread.designation.split("x")[0] if thread.series.startswith("ISO") else thread.designation.rsplit("-", 1)[0]
    return _seats().get(size)
