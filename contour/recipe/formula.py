"""Formulas of values: ``12.5 mm``, ``bore_d / 2 + 0.1 mm``, ``max(rim, 3 1/8 inch)``, ``(30 + 7.5) deg``.

A recursive-descent parser for ``+ - * / ( )``, a few functions and names, with dimensions. A bare number added to a
length takes the job's display unit; lengths, angles and counts never mix. Lengths come out in mm, angles in degrees.
Nothing is ever handed to Python's own evaluation.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Literal

from contour.recipe.problem import ContourError

__all__ = [
    "FUNCTIONS",
    "LENGTH_UNITS",
    "RESERVED",
    "Dimension",
    "LengthUnit",
    "Lookup",
    "Mark",
    "Quantity",
    "committed",
    "evaluate",
    "format_length",
    "names_in",
    "renamed",
    "weakest",
]

Dimension = Literal["length", "angle", "number"]
LengthUnit = Literal["mm", "cm", "m", "inch"]
Mark = Literal["scan", "caliper", "photo", "drawing", "solid", "standard", "intent", "assumed"]

LENGTH_UNITS: dict[str, float] = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "inch": 25.4}
_ALIASES = {"in": "inch", '"': "inch", "°": "deg", "degrees": "deg"}
# From what proves nothing to what proves most; a formula is as good as its weakest leaf.
_STRENGTH: tuple[Mark, ...] = ("assumed", "intent", "photo", "drawing", "scan", "caliper", "standard", "solid")
FUNCTIONS = ("abs", "max", "min", "round", "sqrt")
RESERVED = frozenset({*LENGTH_UNITS, *_ALIASES, "deg", "rad", *FUNCTIONS})

_TOKEN = re.compile(
    r"\s*(?:(\d+\.?\d*(?:[eE][+-]?\d+)?(?!\.?\d)|\.\d+(?:[eE][+-]?\d+)?)"
    r'|([^\W\d]\w*(?:\.[^\W\d]\w*)?|[°"])|(.))'
)
_LONGEST, _DEEPEST = 400, 40


@dataclass(frozen=True, slots=True)
class Quantity:
    """A value in mm, degrees and their powers, and where it comes from (none for what was typed)."""

    value: float
    length: int = 0
    angle: int = 0
    mark: Mark | None = None

    @property
    def bare(self) -> bool:
        return self.length == 0 and self.angle == 0


Lookup = Callable[[str], Quantity]


@dataclass(frozen=True, slots=True)
class _Token:
    kind: Literal["number", "name", "sign"]
    text: str
    start: int
    end: int


def format_length(mm: float, unit: LengthUnit, digits: int | None = None) -> str:
    """``format_length(12.7, "inch")`` -> ``'0.5000 inch'``."""
    places = digits if digits is not None else (4 if unit == "inch" else 3)
    return f"{mm / LENGTH_UNITS[unit]:.{places}f} {unit}"


def weakest(*marks: Mark) -> Mark:
    """The mark that proves least.

    >>> weakest("caliper", "scan")
    'scan'
    """
    return min(marks, key=_STRENGTH.index)


def evaluate(
    text: str, *, dimension: Dimension, unit: LengthUnit = "mm", lookup: Lookup | None = None, mark: Mark = "assumed"
) -> Quantity:
    """Value of `text` in mm, degrees or as a plain number, marked by its weakest leaf.

    `lookup` gives the quantities that names stand for; `mark` is what the person said of the figures typed in it.
    Raises ContourError (bad-formula, mixed-dimensions, unknown-name) that quotes the text and the place in it.

    >>> round(evaluate("1/2 inch + 0.1 mm", dimension="length").value, 3)
    12.8
    >>> evaluate("3", dimension="length", unit="inch").value
    76.2
    """
    parser = _Parser(text, unit, lookup)
    result, _ = parser.parse()
    wanted = {"length": (1, 0), "angle": (0, 1), "number": (0, 0)}[dimension]
    if result.bare and dimension == "length":
        result = Quantity(result.value * LENGTH_UNITS[unit], 1)
        parser.typed = True
    elif result.bare and dimension == "angle":
        result = Quantity(result.value, 0, 1)
        parser.typed = True
    if (result.length, result.angle) != wanted:
        raise ContourError(
            "mixed-dimensions",
            f"'{text}' is not {_WITH_ARTICLE[dimension]}",
            got=_dimension_name(result),
            need=_WITH_ARTICLE[dimension],
            remedy="check the units in the formula",
        )
    leaves = [*parser.marks, *([mark] if parser.typed or not parser.marks else [])]
    return replace(result, mark=weakest(*leaves))


_WITH_ARTICLE = {"length": "a length", "angle": "an angle", "number": "a plain number"}


def _tokens(text: str) -> list[_Token]:
    found = []
    position, stripped = 0, text.rstrip()
    while position < len(stripped):
        match = _TOKEN.match(stripped, position)
        if match is None:
            break
        number, name, sign = match.groups()
        kind: Literal["number", "name", "sign"] = "number" if number else "name" if name else "sign"
        found.append(_Token(kind, number or name or sign, match.start(match.lastindex or 0), match.end()))
        position = match.end()
    return found


def _is_unit(tokens: list[_Token], k: int) -> bool:
    """A unit follows a number or a closed bracket; anywhere else a name is a name."""
    return k > 0 and (tokens[k - 1].kind == "number" or tokens[k - 1].text == ")" or tokens[k - 1].kind == "name")


def names_in(text: str) -> list[str]:
    """Names a formula refers to, in order, each once; no matter whether the formula is well formed.

    >>> names_in("bore_d / 2 + plate.distance + max(1 mm, rim)")
    ['bore_d', 'plate.distance', 'rim']
    """
    tokens = _tokens(text)
    used = [
        t.text for k, t in enumerate(tokens) if t.kind == "name" and t.text not in RESERVED and not _is_unit(tokens, k)
    ]
    return list(dict.fromkeys(used))


def renamed(text: str, old: str, new: str) -> str:
    """The formula with a name (or what stands before one of its dots) replaced.

    >>> renamed("rim + rim.distance + rim_2", "rim", "edge")
    'edge + edge.distance + rim_2'
    >>> renamed("rim.width + rim.width_2", "rim.width", "rim.wide")
    'rim.wide + rim.width_2'
    """
    tokens = _tokens(text)
    for k in reversed(range(len(tokens))):
        t = tokens[k]
        if t.kind == "name" and not _is_unit(tokens, k) and f"{t.text}.".startswith(f"{old}."):
            text = text[: t.start] + new + t.text[len(old) :] + text[t.end :]
    return text


def committed(text: str, *, dimension: Dimension, unit: LengthUnit, lookup: Lookup | None = None) -> str:
    """The formula with the display unit written beside every bare number that took it, so that it keeps its meaning
    when the display unit changes. A formula that cannot be read yet comes back as it is.

    >>> committed("rim + 2", dimension="length", unit="inch", lookup=lambda name: Quantity(3.0, 1))
    'rim + 2 inch'
    """
    text = text.strip()
    parser = _Parser(text, unit, lookup)
    try:
        result, span = parser.parse()
    except ContourError:
        return text
    spans = list(parser.promoted)
    taken: str = unit
    if result.bare and dimension in ("length", "angle"):
        spans.append(span)
        taken = unit if dimension == "length" else "deg"
    for start, end in sorted(spans, reverse=True):
        part = text[start:end]
        simple = re.fullmatch(r"[\d.]+(?:[eE][+-]?\d+)?|-?[\d.]+", part) or (
            part.startswith("(") and part.endswith(")")
        )
        text = text[:start] + (f"{part} {taken}" if simple else f"({part}) {taken}") + text[end:]
    return text


def _dimension_name(q: Quantity) -> str:
    known = {(0, 0): "a plain number", (1, 0): "a length", (0, 1): "an angle", (2, 0): "an area", (3, 0): "a volume"}
    return known.get((q.length, q.angle), f"length^{q.length} angle^{q.angle}")


Span = tuple[int, int]


class _Parser:
    """Each rule gives the quantity and the characters it was read from."""

    def __init__(self, text: str, unit: LengthUnit, lookup: Lookup | None) -> None:
        self.text = text
        self.unit = unit
        self.lookup = lookup
        self.tokens = _tokens(text[: _LONGEST + 1])
        self.at = 0
        self.depth = 0
        self.marks: list[Mark] = []
        self.typed = False
        self.promoted: list[Span] = []

    def fail(self, reason: str) -> ContourError:
        place = self.tokens[self.at].start + 1 if self.at < len(self.tokens) else len(self.text) + 1
        return ContourError(
            "bad-formula",
            f"'{self.text[:80]}': {reason} at character {place}",
            need="a number with a unit, such as 12.5 mm, or a formula of names, such as bore_d / 2 + 0.1 mm",
            got=self.text[:80],
            remedy="correct the formula there",
        )

    def peek(self, sign: str) -> bool:
        return self.at < len(self.tokens) and self.tokens[self.at].kind == "sign" and self.tokens[self.at].text == sign

    def parse(self) -> tuple[Quantity, Span]:
        if len(self.text) > _LONGEST:
            raise self.fail(f"the formula is longer than {_LONGEST} characters")
        if not self.tokens:
            raise self.fail("nothing typed")
        value, span = self.sum()
        if self.at < len(self.tokens):
            raise self.fail(f"'{self.tokens[self.at].text}' is not expected")
        if not math.isfinite(value.value):
            raise self.fail("the result is not finite")
        return value, span

    def sum(self) -> tuple[Quantity, Span]:
        self.depth += 1
        if self.depth > _DEEPEST:
            raise self.fail("too many brackets inside each other")
        left, span = self.product()
        while self.peek("+") or self.peek("-"):
            sign = 1.0 if self.tokens[self.at].text == "+" else -1.0
            self.at += 1
            right, other = self.product()
            left, right = self.matched(left, span, right, other, "adds")
            left = Quantity(left.value + sign * right.value, left.length, left.angle)
            span = (span[0], other[1])
        self.depth -= 1
        return left, span

    def matched(self, a: Quantity, sa: Span, b: Quantity, sb: Span, does: str) -> tuple[Quantity, Quantity]:
        """A bare number beside a length takes the display unit, beside an angle degrees; anything else must agree."""
        if (a.length, a.angle) == (b.length, b.angle):
            return a, b
        for bare, span, other, first in ((a, sa, b, True), (b, sb, a, False)):
            if bare.bare and (other.length, other.angle) in ((1, 0), (0, 1)):
                self.typed = True
                if other.length:
                    self.promoted.append(span)
                    taken = Quantity(bare.value * LENGTH_UNITS[self.unit], 1)
                else:
                    taken = Quantity(bare.value, 0, 1)
                return (taken, other) if first else (other, taken)
        raise ContourError(
            "mixed-dimensions",
            f"'{self.text}' {does} {_dimension_name(a)} and {_dimension_name(b)}",
            got=f"{_dimension_name(a)} and {_dimension_name(b)}",
            need="one kind of unit",
            remedy="give both parts the same kind of unit",
        )

    def product(self) -> tuple[Quantity, Span]:
        left, span = self.factor()
        while self.peek("*") or self.peek("/"):
            divide = self.tokens[self.at].text == "/"
            self.at += 1
            right, other = self.factor()
            if divide and right.value == 0:
                raise self.fail("division by zero")
            s = -1 if divide else 1
            value = left.value / right.value if divide else left.value * right.value
            left = Quantity(value, left.length + s * right.length, left.angle + s * right.angle)
            span = (span[0], other[1])
        return left, span

    def factor(self) -> tuple[Quantity, Span]:
        begin = self.tokens[self.at].start if self.at < len(self.tokens) else len(self.text)
        sign = 1.0
        while self.peek("-") or self.peek("+"):
            sign = -sign if self.tokens[self.at].text == "-" else sign
            self.at += 1
        q, (_, end) = self.atom()
        return Quantity(sign * q.value, q.length, q.angle), (begin, end)

    def atom(self) -> tuple[Quantity, Span]:
        begin = self.tokens[self.at].start if self.at < len(self.tokens) else len(self.text)
        if self.peek("("):
            self.at += 1
            q, _ = self.sum()
            self.close()
            return self.with_unit(q, begin)
        kinds = [token.kind for token in self.tokens[self.at : self.at + 4]]
        if (
            kinds == ["number", "sign", "number", "name"]
            and self.tokens[self.at + 1].text == "/"
            and (_ALIASES.get(self.tokens[self.at + 3].text, self.tokens[self.at + 3].text) in LENGTH_UNITS)
        ):
            # "1/2 inch" is half an inch in every workshop, not one over two inches.
            top, bottom = float(self.tokens[self.at].text), float(self.tokens[self.at + 2].text)
            if bottom == 0:
                raise self.fail("division by zero")
            self.at += 3
            return self.with_unit(Quantity(top / bottom), begin)
        if kinds == ["number", "number", "sign", "number"] and self.tokens[self.at + 2].text == "/":
            # "3 1/8 inch": two numbers beside each other mean nothing else.
            whole, top, bottom = (float(self.tokens[self.at + k].text) for k in (0, 1, 3))
            if not (whole.is_integer() and top.is_integer() and bottom.is_integer() and top < bottom):
                raise self.fail("a whole number and a fraction below one are expected, such as 3 1/8")
            self.at += 4
            return self.with_unit(Quantity(whole + top / bottom), begin)
        if kinds[:1] == ["number"]:
            q = Quantity(float(self.tokens[self.at].text))
            self.at += 1
            return self.with_unit(q, begin)
        if kinds[:1] == ["name"]:
            return self.named(begin)
        raise self.fail("a number is missing")

    def close(self) -> None:
        if not self.peek(")"):
            raise self.fail("a ')' is missing")
        self.at += 1

    def named(self, begin: int) -> tuple[Quantity, Span]:
        name = self.tokens[self.at].text
        follows = self.tokens[self.at + 1].text if self.at + 1 < len(self.tokens) else ""
        if name in FUNCTIONS and follows == "(":
            return self.call(name, begin)
        if name in RESERVED:
            raise self.fail(f"'{name}' is not a number")
        if self.lookup is None:
            raise self.unknown(name)
        try:
            q = self.lookup(name)
        except KeyError:
            raise self.unknown(name) from None
        self.at += 1
        if q.mark is not None:
            self.marks.append(q.mark)
        return self.with_unit(Quantity(q.value, q.length, q.angle), begin)

    def unknown(self, name: str) -> ContourError:
        place = self.tokens[self.at].start + 1
        return ContourError(
            "unknown-name",
            f"'{self.text[:80]}': '{name}' at character {place} is not known here",
            got=name,
            need="the name of a value, of a reading, or of an earlier step's value",
            remedy="look the name up in the list of values, or add it there",
        )

    def call(self, name: str, begin: int) -> tuple[Quantity, Span]:
        self.at += 2
        given = [self.sum()]
        while self.peek(","):
            self.at += 1
            given.append(self.sum())
        self.close()
        end = self.tokens[self.at - 1].end
        counts = {"abs": (1, 1), "sqrt": (1, 1), "round": (1, 2), "min": (2, 20), "max": (2, 20)}[name]
        if not counts[0] <= len(given) <= counts[1]:
            raise self.fail(
                f"{name} takes {counts[0] if counts[0] == counts[1] else f'{counts[0]} to {counts[1]}'} values"
            )
        first, span = given[0]
        if name == "abs":
            return replace(first, value=abs(first.value)), (begin, end)
        if name == "sqrt":
            if first.value < 0 or first.length % 2 or first.angle % 2:
                raise self.fail("there is no root of this")
            return Quantity(math.sqrt(first.value), first.length // 2, first.angle // 2), (begin, end)
        if name == "round":
            step, other = given[1] if len(given) > 1 else (Quantity(1.0), span)
            if len(given) == 1 and not first.bare:
                raise self.fail("round needs a second value, the step, such as round(rim, 0.5 mm)")
            first, step = self.matched(first, span, step, other, "rounds")
            if step.value <= 0:
                raise self.fail("the step of round must be above zero")
            ratio = first.value / step.value
            if not math.isfinite(ratio):
                raise self.fail("the result is not finite")
            return replace(first, value=math.floor(ratio + 0.5) * step.value), (begin, end)
        for k in range(1, len(given)):
            other_q, other = given[k]
            first, other_q = self.matched(first, span, other_q, other, "compares")
            chosen = min(first.value, other_q.value) if name == "min" else max(first.value, other_q.value)
            first = replace(first, value=chosen)
        return first, (begin, end)

    def with_unit(self, q: Quantity, begin: int) -> tuple[Quantity, Span]:
        end = self.tokens[self.at - 1].end
        if self.at >= len(self.tokens) or self.tokens[self.at].kind != "name":
            return q, (begin, end)
        name = self.tokens[self.at].text
        unit = _ALIASES.get(name, name)
        if unit not in LENGTH_UNITS and unit not in ("deg", "rad"):
            raise self.fail(f"unit '{name}' is not known")
        if not q.bare:
            raise self.fail(f"'{name}' follows something that has a unit already")
        self.typed = True
        end = self.tokens[self.at].end
        self.at += 1
        if unit in LENGTH_UNITS:
            return Quantity(q.value * LENGTH_UNITS[unit], 1), (begin, end)
        return Quantity(q.value if unit == "deg" else math.degrees(q.value), 0, 1), (begin, end)
