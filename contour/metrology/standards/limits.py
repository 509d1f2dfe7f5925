"""Limits and fits of ISO 286-1:2010 for nominal sizes up to 500 mm.

The grades IT01 to IT18 and the fundamental deviations of shafts are the standard's own rounded figures (its formulas,
such as i = 0.45 D^(1/3) + 0.001 D, give them only up to rounding rules); what follows from them by rule (holes from
shafts, the Delta of K to ZC, js, j) is computed.
"""

from __future__ import annotations

import re
from bisect import bisect_left
from dataclasses import dataclass

from contour.metrology.standards.tables import row
from contour.recipe.problem import ContourError, Where

__all__ = ["COMMON_HOLES", "COMMON_SHAFTS", "Fit", "Limits", "fit_of", "limits_of"]

# Upper ends of the size ranges, mm: the main ones, and those that the deviations a to c and r to zc are split into.
_MAIN = (3, 6, 10, 18, 30, 50, 80, 120, 180, 250, 315, 400, 500)
_SPLIT = row("3 6 10 14 18 24 30 40 50 65 80 100 120 140 160 180 200 225 250 280 315 355 400 450 500")


# Micrometres, one figure a main range: ISO 286-1:2010, table 1.
_GRADES: dict[str, tuple[float, ...]] = {
    "01": row("0.3 0.4 0.4 0.5 0.6 0.6 0.8 1 1.2 2 2.5 3 4"),
    "0": row("0.5 0.6 0.6 0.8 1 1 1.2 1.5 2 3 4 5 6"),
    "1": row("0.8 1 1 1.2 1.5 1.5 2 2.5 3.5 4.5 6 7 8"),
    "2": row("1.2 1.5 1.5 2 2.5 2.5 3 4 5 7 8 9 10"),
    "3": row("2 2.5 2.5 3 4 4 5 6 8 10 12 13 15"),
    "4": row("3 4 4 5 6 7 8 10 12 14 16 18 20"),
    "5": row("4 5 6 8 9 11 13 15 18 20 23 25 27"),
    "6": row("6 8 9 11 13 16 19 22 25 29 32 36 40"),
    "7": row("10 12 15 18 21 25 30 35 40 46 52 57 63"),
    "8": row("14 18 22 27 33 39 46 54 63 72 81 89 97"),
    "9": row("25 30 36 43 52 62 74 87 100 115 130 140 155"),
    "10": row("40 48 58 70 84 100 120 140 160 185 210 230 250"),
    "11": row("60 75 90 110 130 160 190 220 250 290 320 360 400"),
    "12": row("100 120 150 180 210 250 300 350 400 460 520 570 630"),
    "13": row("140 180 220 270 330 390 460 540 630 720 810 890 970"),
    "14": row("250 300 360 430 520 620 740 870 1000 1150 1300 1400 1550"),
    "15": row("400 480 580 700 840 1000 1200 1400 1600 1850 2100 2300 2500"),
    "16": row("600 750 900 1100 1300 1600 1900 2200 2500 2900 3200 3600 4000"),
    "17": row("1000 1200 1500 1800 2100 2500 3000 3500 4000 4600 5200 5700 6300"),
    "18": row("1400 1800 2200 2700 3300 3900 4600 5400 6300 7200 8100 8900 9700"),
}

# How far the nearer limit of a shaft lies below its nominal size (a to h), micrometres: table 4.
_BELOW: dict[str, tuple[float, ...]] = {
    "a": row(
        "270 270 280 290 290 300 300 310 320 340 360 380 410 460 520 580 660 740 820 920 1050 1200 1350 1500 1650"
    ),
    "b": row("140 140 150 150 150 160 160 170 180 190 200 220 240 260 280 310 340 380 420 480 540 600 680 760 840"),
    "c": row("60 70 80 95 95 110 110 120 130 140 150 170 180 200 210 230 240 260 280 300 330 360 400 440 480"),
    "cd": row("34 46 56"),
    "d": row("20 30 40 50 65 80 100 120 145 170 190 210 230"),
    "e": row("14 20 25 32 40 50 60 72 85 100 110 125 135"),
    "ef": row("10 14 18"),
    "f": row("6 10 13 16 20 25 30 36 43 50 56 62 68"),
    "fg": row("4 6 8"),
    "g": row("2 4 5 6 7 9 10 12 14 15 17 18 20"),
    "h": row("0 0 0 0 0 0 0 0 0 0 0 0 0"),
}
_NONE = float("nan")
# How far the nearer limit lies above it (k to zc): table 5.
_ABOVE: dict[str, tuple[float, ...]] = {
    "k": row("0 1 1 1 2 2 2 3 3 4 4 4 5"),
    "m": row("2 4 6 7 8 9 11 13 15 17 20 21 23"),
    "n": row("4 8 10 12 15 17 20 23 27 31 34 37 40"),
    "p": row("6 12 15 18 22 26 32 37 43 50 56 62 68"),
    "r": row("10 15 19 23 23 28 28 34 34 41 43 51 54 63 65 68 77 80 84 94 98 108 114 126 132"),
    "s": row("14 19 23 28 28 35 35 43 43 53 59 71 79 92 100 108 122 130 140 158 170 190 208 232 252"),
    "t": (*[_NONE] * 6, *row("41 48 54 66 75 91 104 122 134 146 166 180 196 218 240 268 294 330 360")),
    "u": row("18 23 28 33 33 41 48 60 70 87 102 124 144 170 190 210 236 258 284 315 350 390 435 490 540"),
    "v": (*[_NONE] * 4, *row("39 47 55 68 81 102 120 146 172 202 228 252 284 310 340 385 425 475 530 595 660")),
    "x": row("20 28 34 40 45 54 64 80 97 122 146 178 210 248 280 310 350 385 425 475 525 590 660 740 820"),
    "y": (*[_NONE] * 5, *row("63 75 94 114 144 174 214 254 300 340 380 425 470 520 580 650 730 820 920 1000")),
    "z": row("26 35 42 50 60 73 88 112 136 172 210 258 310 365 415 465 520 575 640 710 790 900 1000 1100 1250"),
    "za": row("32 42 52 64 77 98 118 148 180 226 274 335 400 470 535 600 670 740 820 920 1000 1150 1300 1450 1600"),
}
# j has no rule: lower deviations of shafts j5, j6 and j7, upper ones of holes J6, J7 and J8.
_J_SHAFT = {
    "5": row("2 2 2 3 4 5 7 9 11 13 16 18 20"),
    "6": row("2 2 2 3 4 5 7 9 11 13 16 18 20"),
    "7": row("4 4 5 6 8 10 12 15 18 21 26 28 32"),
}
_J_HOLE = {
    "6": row("2 5 5 6 8 10 13 16 18 22 25 29 33"),
    "7": row("4 6 8 10 12 14 18 22 26 30 36 39 43"),
    "8": row("6 10 12 15 20 24 28 34 41 47 55 60 66"),
}
COMMON_HOLES = tuple("H6 H7 H8 H9 H11 G7 F7 F8 E8 E9 D9 D10 JS7 K7 M7 N7 P7 R7 S7".split())
COMMON_SHAFTS = tuple("h5 h6 h7 h8 h9 h11 g5 g6 f6 f7 e8 d9 js6 j6 k5 k6 m6 n6 p6 r6 s6 u6".split())
_CLASS = re.compile(r"([A-Za-z]{1,2})\s*(01|0|1[0-8]|[1-9])")


@dataclass(frozen=True, slots=True)
class Limits:
    """A tolerance class at a nominal size: deviations and limits of size, mm."""

    nominal: float
    tolerance_class: str
    inside: bool
    lower: float
    upper: float

    @property
    def least(self) -> float:
        return round(self.nominal + self.lower, 7)

    @property
    def greatest(self) -> float:
        return round(self.nominal + self.upper, 7)

    @property
    def middle(self) -> float:
        return self.nominal + (self.lower + self.upper) / 2


@dataclass(frozen=True, slots=True)
class Fit:
    """A hole and a shaft of one nominal size: least and greatest clearance (negative: interference), mm."""

    hole: Limits
    shaft: Limits

    @property
    def least_clearance(self) -> float:
        return round(self.hole.lower - self.shaft.upper, 7)

    @property
    def greatest_clearance(self) -> float:
        return round(self.hole.upper - self.shaft.lower, 7)

    @property
    def kind(self) -> str:
        if self.least_clearance >= 0:
            return "clearance"
        return "interference" if self.greatest_clearance <= 0 else "transition"


def _bad(text: str, why: str, need: str) -> ContourError:
    return ContourError("bad-params", why, got=text, need=need, where=Where(param="class"), remedy="try H7 or g6")


def _shaft_deviation(letter: str, nominal: float) -> float | None:
    """The fundamental deviation's figure at that size; none where the standard has none."""
    row = (_BELOW | _ABOVE)[letter]
    ranges = _MAIN if len(row) <= len(_MAIN) else _SPLIT
    at = bisect_left(ranges, nominal)
    value = row[at] if at < len(row) else _NONE
    return None if value != value else value


def _grade(number: str, nominal: float) -> float:
    return _GRADES[number][bisect_left(_MAIN, nominal)]


def _shaft(letter: str, number: str, nominal: float) -> tuple[float, float] | None:
    """(lower, upper), micrometres."""
    it = _grade(number, nominal)
    if letter == "js":
        return -it / 2, it / 2
    if letter == "j":
        if number not in _J_SHAFT:
            return None
        low = -_J_SHAFT[number][bisect_left(_MAIN, nominal)]
        return low, low + it
    value = _shaft_deviation(letter, nominal)
    if value is None:
        return None
    if letter in _BELOW:
        return -value - it, -value
    # k is above zero in the grades 4 to 7 only.
    if letter == "k" and number not in ("4", "5", "6", "7"):
        value = 0.0
    return value, value + it


def _hole(letter: str, number: str, nominal: float) -> tuple[float, float] | None:
    it = _grade(number, nominal)
    if letter == "js":
        return -it / 2, it / 2
    if letter == "j":
        if number not in _J_HOLE:
            return None
        high = _J_HOLE[number][bisect_left(_MAIN, nominal)]
        return high - it, high
    value = _shaft_deviation(letter, nominal)
    if value is None:
        return None
    if letter in _BELOW:
        return value, value + it
    grade = int(number)
    if letter == "k" and grade > 8:
        return (-it, 0.0) if nominal <= 3 else None
    if letter == "n" and grade > 8:
        return (-4.0 - it, -4.0) if nominal <= 3 else (-it, 0.0)
    # Fine grades shift up by Delta, so that a hole and a shaft of the next finer grade give the same fit: 4.3.2.5.
    fine = grade <= (8 if letter in ("k", "m", "n") else 7)
    delta = it - _grade(str(grade - 1), nominal) if fine and nominal > 3 and grade > 2 else 0.0
    high = -value + delta
    if letter == "m" and grade == 6 and 250 < nominal <= 315:
        high = -9.0  # the standard's own exception
    return high - it, high


def limits_of(nominal: float, tolerance_class: str) -> Limits:
    """Limits of a class such as ``H7`` (hole) or ``g6`` (shaft) at a nominal size in mm.

    Raises ContourError (bad-params) for sizes beyond 500 mm, unknown classes, and classes the standard leaves empty.

    >>> limits_of(25, "H7").greatest
    25.021
    >>> limits_of(25, "g6").upper, limits_of(25, "g6").lower
    (-0.007, -0.02)
    """
    if not 0 < nominal <= 500:
        raise ContourError(
            "bad-params",
            "limits are given for sizes above 0 up to 500 mm",
            got=f"{nominal:g} mm",
            need="0 to 500 mm",
            where=Where(param="nominal"),
            remedy="take a size in that range",
        )
    match = _CLASS.fullmatch(tolerance_class.strip())
    known = sorted({*_BELOW, *_ABOVE, "j", "js"})
    if match is None or match[1].lower() not in known or not (match[1].islower() or match[1].isupper()):
        raise _bad(
            tolerance_class,
            "this is no tolerance class",
            f"a letter of {', '.join(known)} (capitals for holes) and a grade",
        )
    letters, number = match[1], match[2]
    inside = letters.isupper()
    found = (_hole if inside else _shaft)(letters.lower(), number, nominal)
    if found is None:
        raise _bad(tolerance_class, f"the standard has no {tolerance_class} at {nominal:g} mm", "a class it has there")
    low, high = found
    return Limits(nominal, letters + number, inside, round(low / 1000, 7), round(high / 1000, 7))


def fit_of(nominal: float, text: str) -> Fit:
    """A fit such as ``H7/g6``.

    >>> fit_of(40, "H7/p6").kind
    'interference'
    nominal, mm.
    """
    parts = text.split("/")
    if len(parts) != 2:
        raise _bad(text, "a fit is a hole's class and a shaft's", "such as H7/g6")
    hole, shaft = limits_of(nominal, parts[0]), limits_of(nominal, parts[1])
    if not hole.inside or shaft.inside:
        raise _bad(text, "the hole's class comes first, in capitals", "such as H7/g6")
    return Fit(hole, shaft)
