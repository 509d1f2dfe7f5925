"""The line protocol of a caliper: one value with its unit per line of ASCII text, such as ``12.03 mm`` or ``0.4735 inch``.

A line may carry a point or a comma, a sign, spaces, and CR before its LF. Anything else is damage and says so; a device
that sends more than a person can read is stopped.
"""

from __future__ import annotations

import re

from contour.recipe.evidence.reading import Take
from contour.recipe.formula import LENGTH_UNITS
from contour.recipe.problem import ContourError, Where

__all__ = ["LONGEST_LINE", "MOST_LINES", "take_of_line", "takes_of_text", "typed_takes"]

LONGEST_LINE = 64
MOST_LINES = 50
_LINE = re.compile(r"\s*([+-]?\d{1,6}(?:[.,]\d{1,6})?)\s*(mm|cm|m|inch|in|\"|deg|°)\s*")
_BARE = re.compile(r"\s*([+-]?\d{1,6}(?:[.,]\d{1,6})?)\s*")
_UNITS = {"in": "inch", '"': "inch", "°": "deg"}


def _damaged(line: str, number: int | None, why: str) -> ContourError:
    return ContourError(
        "bad-line",
        f"a line of the caliper cannot be used: {why}",
        where=Where(file="caliper", line=number),
        got=repr(line[:LONGEST_LINE]),
        need="one value with its unit, such as 12.03 mm",
        remedy="send that reading again",
    )


def take_of_line(line: str, *, number: int | None = None) -> Take:
    """Raises ContourError (bad-line) with the line and its number.

    >>> take_of_line("0.4735 in").unit
    'inch'
    """
    if len(line) > LONGEST_LINE:
        raise _damaged(line, number, f"longer than {LONGEST_LINE} characters")
    match = _LINE.fullmatch(line)
    if match is None:
        raise _damaged(line, number, "no unit" if _BARE.fullmatch(line) else "not a value with a unit")
    unit = _UNITS.get(match[2], match[2])
    return Take(value=float(match[1].replace(",", ".")), unit=unit)  # type: ignore[arg-type]


def takes_of_text(data: bytes) -> list[Take]:
    """All lines of a message. Raises ContourError (flood) for too many, (bad-line) for the first damaged one."""
    if len(data) > MOST_LINES * (LONGEST_LINE + 2):
        raise ContourError(
            "flood",
            "a caliper sends a value at a time, not this much",
            got=f"{len(data):,} bytes",
            need=f"up to {MOST_LINES} lines",
            remedy="check what is connected to this address",
        )
    try:
        text = data.decode("ascii")
    except UnicodeDecodeError as error:
        raise _damaged(repr(data[error.start : error.start + 8]), None, "not plain text") from None
    lines = [(n, line) for n, line in enumerate(text.splitlines(), 1) if line.strip()]
    if len(lines) > MOST_LINES:
        raise ContourError(
            "flood",
            "a caliper sends a value at a time, not this much",
            got=f"{len(lines):,} lines",
            need=f"up to {MOST_LINES} lines",
            remedy="check what is connected to this address",
        )
    return [take_of_line(line, number=n) for n, line in lines]


def typed_takes(text: str) -> list[Take]:
    """Takes as a person types them: values with spaces, commas or semicolons between, units beside them or one at the end.

    A value without a unit takes the next unit that follows. Raises ContourError (unit-unknown) when none does, (bad-line)
    for anything that is no value.

    >>> [t.value for t in typed_takes("12.03 12.05; 12.04 mm")]
    [12.03, 12.05, 12.04]
    """
    parts = re.findall(r"[+-]?\d+(?:\.\d+)?|[A-Za-z\"°]+|[^\s,;]", text)
    values: list[tuple[float, str | None]] = []
    open_from = 0
    for part in parts:
        if re.fullmatch(r"[+-]?\d+(?:\.\d+)?", part):
            values.append((float(part), None))
            continue
        unit = _UNITS.get(part, part)
        if unit not in (*LENGTH_UNITS, "deg") or open_from == len(values):
            raise ContourError(
                "bad-line",
                f"'{part}' is no value and no unit that follows one",
                got=text[:80],
                need="takes with a unit, such as 12.03 12.05 mm",
                remedy="check the takes",
            )
        values[open_from:] = [(v, unit) for v, _ in values[open_from:]]
        open_from = len(values)
    if not values:
        raise ContourError(
            "bad-line",
            "there is no take",
            got=text[:80],
            need="takes with a unit, such as 12.03 12.05 mm",
            remedy="write a number on the line",
        )
    if open_from < len(values):
        raise ContourError(
            "unit-unknown",
            "the takes have no unit",
            got=text[:80],
            need="mm, cm, m, inch or deg at the end",
            remedy="write the unit after the takes",
        )
    if len({u == "deg" for _, u in values}) > 1:
        raise ContourError(
            "mixed-dimensions",
            "these takes are lengths and angles",
            got=text[:80],
            need="takes of one kind",
            where=Where(param="takes"),
            remedy="keep two readings",
        )
    return [Take(value=v, unit=u) for v, u in values]  # type: ignore[arg-type]
