"""Typed quantities: ``12.5 mm``, ``1/2 inch + 0.1``, ``(30 + 7.5) deg``.

A recursive-descent parser for ``+ - * / ( )`` with dimensions. A bare number added to a length takes the
job's display unit; lengths, angles and counts never mix. Lengths come out in mm, angles in degrees.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass
from typing import Literal

from contour.recipe.problem import ContourError

__all__ = ["LENGTH_UNITS", "Dimension", "LengthUnit", "evaluate", "format_length"]

Dimension = Literal["length", "angle", "number"]
LengthUnit = Literal["mm", "cm", "m", "inch"]

LENGTH_UNITS: dict[str, float] = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "inch": 25.4}
_ALIASES = {"in": "inch", '"': "inch", "°": "deg", "degrees": "deg"}
_TOKEN = re.compile(r'\s*(?:(\d+\.?\d*(?:[eE][+-]?\d+)?|\.\d+(?:[eE][+-]?\d+)?)|([A-Za-z_°"]\w*)|(.))')


@dataclass(frozen=True, slots=True)
class _Quantity:
    value: float
    length: int = 0
    angle: int = 0

    @property
    def bare(self) -> bool:
        return self.length == 0 and self.angle == 0


def format_length(mm: float, unit: LengthUnit, digits: int | None = None) -> str:
    """``format_length(12.7, "inch")`` -> ``'0.5000 inch'``."""
    places = digits if digits is not None else (4 if unit == "inch" else 3)
    return f"{mm / LENGTH_UNITS[unit]:.{places}f} {unit}"


def evaluate(text: str, *, dimension: Dimension, unit: LengthUnit = "mm") -> float:
    """Value of `text` in mm, degrees or as a plain number.

    Raises ContourError (bad-formula, mixed-dimensions) that quotes the text and the place in it.

    >>> round(evaluate("1/2 inch + 0.1 mm", dimension="length"), 3)
    12.8
    >>> evaluate("3", dimension="length", unit="inch")
    76.2
    """
    result = _Parser(text, unit).parse()
    if dimension == "length" and result.bare:
        return result.value * LENGTH_UNITS[unit]
    if dimension == "angle" and result.bare:
        return result.value
    wanted = {"length": (1, 0), "angle": (0, 1), "number": (0, 0)}[dimension]
    if (result.length, result.angle) != wanted:
        raise ContourError(
            "mixed-dimensions",
            f"'{text}' is not a {dimension}",
            got=_dimension_name(result),
            need=f"a {dimension}",
            remedy="check the units in the formula",
        )
    return result.value


def _dimension_name(q: _Quantity) -> str:
    if q.bare:
        return "a plain number"
    if (q.length, q.angle) == (1, 0):
        return "a length"
    if (q.length, q.angle) == (0, 1):
        return "an angle"
    return f"length^{q.length} angle^{q.angle}"


class _Parser:
    def __init__(self, text: str, unit: LengthUnit) -> None:
        self.text = text
        self.unit = unit
        self.tokens: list[tuple[str, str, int]] = []
        position = 0
        stripped = text.rstrip()
        while position < len(stripped):
            match = _TOKEN.match(stripped, position)
            if match is None:
                break
            number, name, sign = match.groups()
            kind = "number" if number else "name" if name else "sign"
            self.tokens.append((kind, number or name or sign, match.start(match.lastindex or 0)))
            position = match.end()
        self.at = 0

    def fail(self, reason: str) -> ContourError:
        place = self.tokens[self.at][2] + 1 if self.at < len(self.tokens) else len(self.text) + 1
        return ContourError(
            "bad-formula",
            f"'{self.text}': {reason} at character {place}",
            need="a number with a unit, such as 12.5 mm or 1/2 inch + 0.1 mm",
        )

    def peek(self, sign: str) -> bool:
        return self.at < len(self.tokens) and self.tokens[self.at][:2] == ("sign", sign)

    def parse(self) -> _Quantity:
        if not self.tokens:
            raise self.fail("nothing typed")
        value = self.sum()
        if self.at < len(self.tokens):
            raise self.fail(f"'{self.tokens[self.at][1]}' is not expected")
        if not math.isfinite(value.value):
            raise self.fail("the result is not finite")
        return value

    def sum(self) -> _Quantity:
        left = self.product()
        while self.peek("+") or self.peek("-"):
            sign = 1.0 if self.tokens[self.at][1] == "+" else -1.0
            self.at += 1
            left, right = self.matched(left, self.product())
            left = _Quantity(left.value + sign * right.value, left.length, left.angle)
        return left

    def matched(self, a: _Quantity, b: _Quantity) -> tuple[_Quantity, _Quantity]:
        """A bare number beside a length takes the display unit; anything else must agree."""
        if (a.length, a.angle) == (b.length, b.angle):
            return a, b
        factor = LENGTH_UNITS[self.unit]
        if a.bare and (b.length, b.angle) == (1, 0):
            return _Quantity(a.value * factor, 1), b
        if b.bare and (a.length, a.angle) == (1, 0):
            return a, _Quantity(b.value * factor, 1)
        raise ContourError(
            "mixed-dimensions",
            f"'{self.text}' adds {_dimension_name(a)} and {_dimension_name(b)}",
            remedy="give both parts the same kind of unit",
        )

    def product(self) -> _Quantity:
        left = self.factor()
        while self.peek("*") or self.peek("/"):
            divide = self.tokens[self.at][1] == "/"
            self.at += 1
            right = self.factor()
            if divide and right.value == 0:
                raise self.fail("division by zero")
            s = -1 if divide else 1
            value = left.value / right.value if divide else left.value * right.value
            left = _Quantity(value, left.length + s * right.length, left.angle + s * right.angle)
        return left

    def factor(self) -> _Quantity:
        if self.peek("-") or self.peek("+"):
            sign = -1.0 if self.tokens[self.at][1] == "-" else 1.0
            self.at += 1
            q = self.factor()
            return _Quantity(sign * q.value, q.length, q.angle)
        if self.peek("("):
            self.at += 1
            q = self.sum()
            if not self.peek(")"):
                raise self.fail("a ')' is missing")
            self.at += 1
            return self.with_unit(q)
        kinds = [token[0] for token in self.tokens[self.at : self.at + 4]]
        if kinds == ["number", "sign", "number", "name"] and self.tokens[self.at + 1][1] == "/":
            # "1/2 inch" is half an inch in every workshop, not one over two inches.
            top, bottom = float(self.tokens[self.at][1]), float(self.tokens[self.at + 2][1])
            if bottom == 0:
                raise self.fail("division by zero")
            self.at += 3
            return self.with_unit(_Quantity(top / bottom))
        if kinds[:1] == ["number"]:
            q = _Quantity(float(self.tokens[self.at][1]))
            self.at += 1
            return self.with_unit(q)
        if self.at < len(self.tokens) and self.tokens[self.at][0] == "name":
            raise self.fail(f"'{self.tokens[self.at][1]}' is not a number")
        raise self.fail("a number is missing")

    def with_unit(self, q: _Quantity) -> _Quantity:
        if self.at >= len(self.tokens) or self.tokens[self.at][0] != "name":
            return q
        name = self.tokens[self.at][1]
        unit = _ALIASES.get(name, name)
        if unit not in LENGTH_UNITS and unit not in ("deg", "rad"):
            raise self.fail(f"unit '{name}' is not known")
        if not q.bare:
            raise self.fail(f"'{name}' follows something that has a unit already")
        self.at += 1
        if unit in LENGTH_UNITS:
            return _Quantity(q.value * LENGTH_UNITS[unit], 1)
        return _Quantity(q.value if unit == "deg" else math.degrees(q.value), 0, 1)
