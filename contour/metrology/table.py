"""Readings as a CSV table: one row a take, so that a spreadsheet can hold what the desk holds."""

from __future__ import annotations

import csv
import io
import math
import uuid
from typing import get_args

from contour.recipe.evidence.reading import Measures, Method, Reading, Take
from contour.recipe.formula import LENGTH_UNITS
from contour.recipe.problem import ContourError, Where
from contour.recipe.recipe import Recipe

__all__ = ["COLUMNS", "readings_from_csv", "readings_to_csv"]

COLUMNS = ("name", "measures", "over", "value", "unit", "method", "struck", "note", "reading_note", "session")
_MOST = 5000
_ACTIVE = ("=", "+", "-", "@", "\t", "\r")  # a spreadsheet takes a cell that begins so for a formula, and runs it


def readings_to_csv(recipe: Recipe) -> str:
    """Every take of every reading; a reading without takes has one row without a value."""
    sessions = {s.id: s.name for s in recipe.sessions}
    out = io.StringIO()
    write = csv.writer(out, lineterminator="\n")
    write.writerow(COLUMNS)
    for r in recipe.readings:
        head, note = [r.name, r.measures, r.over], _still(r.note)
        for t in r.takes:
            session = _still(sessions.get(t.session or "", ""))
            write.writerow([*head, repr(t.value), t.unit, t.method, _still(t.struck), _still(t.note), note, session])
        if not r.takes:
            write.writerow([*head, "", "", "", "", "", note, ""])
    return out.getvalue()


def _still(text: str) -> str:
    """What somebody typed, as a text for every spreadsheet: with an apostrophe before it where it could be a formula."""
    return f"'{text}" if text.startswith(_ACTIVE) else text


def _typed(text: str) -> str:
    """Back again: without the apostrophe that :func:`_still` has put there."""
    return text[1:] if text.startswith("'") and text[1:].startswith(_ACTIVE) else text


def _bad(line: int, column: str, got: str, need: str) -> ContourError:
    return ContourError(
        "bad-line",
        f"the column '{column}' cannot be read",
        where=Where(file="readings.csv", line=line),
        got=got[:60],
        need=need,
        remedy="mend that row and bring the table in again",
    )


def _chosen(row: dict[str, str], line: int, column: str, allowed: tuple[str, ...], usual: str) -> str:
    text = (row.get(column) or "").strip() or usual
    if text not in allowed:
        raise _bad(line, column, text, ", ".join(allowed))
    return text


def readings_from_csv(text: str, recipe: Recipe) -> list[Reading]:
    """Readings of a table, in its order. Rows of one name are takes of one reading; names the job has keep their id and
    get these takes instead. Raises ContourError (bad-line, unit-unknown, flood) with the row."""
    sessions = {s.name: s.id for s in recipe.sessions}
    known = {r.name: r for r in recipe.readings}
    rows = csv.DictReader(io.StringIO(text.lstrip("﻿")))
    if not rows.fieldnames or not {"name", "value", "unit"} <= set(rows.fieldnames):
        raise ContourError(
            "bad-line",
            "the table's first row does not name its columns",
            where=Where(file="readings.csv", line=1),
            got=text.splitlines()[0][:80] if text else "nothing",
            need="name, value, unit",
            remedy="save one from here to see how it looks",
        )
    fields: dict[str, dict[str, object]] = {}
    takes: dict[str, list[Take]] = {}
    for count, row in enumerate(rows):
        line = rows.line_num
        if count >= _MOST:
            raise ContourError(
                "flood",
                "more rows than a desk holds",
                need=f"up to {_MOST:,} rows",
                got=f"over {_MOST:,} rows",
                where=Where(file="readings.csv", line=line),
                remedy="split the table",
            )
        name = (row.get("name") or "").strip()
        over = (row.get("over") or "1").strip() or "1"
        if not over.isdigit() or not 1 <= int(over) <= 10_000:
            raise _bad(line, "over", over, "a count from 1")
        fields.setdefault(
            name,
            {
                "name": name,
                "measures": _chosen(row, line, "measures", get_args(Measures), "other"),
                "over": int(over),
                "note": _typed(row.get("reading_note") or "")[:500],
            },
        )
        takes.setdefault(name, [])
        value = (row.get("value") or "").strip()
        if not value:
            continue
        try:
            number = float(value.replace(",", ".") if value.count(",") == 1 and "." not in value else value)
        except ValueError:
            raise _bad(line, "value", value, "a number") from None
        if not math.isfinite(number) or abs(number) >= 1e6:
            raise _bad(line, "value", value, "a number below 1,000,000")
        if not (row.get("unit") or "").strip():
            raise ContourError(
                "unit-unknown",
                "a take without a unit",
                where=Where(file="readings.csv", line=line),
                got=value,
                need="mm, cm, m, inch or deg",
                remedy="write its unit",
            )
        takes[name].append(
            Take(
                value=number,
                unit=_chosen(row, line, "unit", (*LENGTH_UNITS, "deg"), "mm"),  # type: ignore[arg-type]
                method=_chosen(row, line, "method", get_args(Method), "jaws"),  # type: ignore[arg-type]
                struck=_typed(row.get("struck") or "")[:300],
                note=_typed(row.get("note") or "")[:300],
                session=sessions.get(_typed((row.get("session") or "").strip())),
            )
        )
    out = []
    for name, given in fields.items():
        old = known.get(name)
        base = old.model_dump() if old else {"id": str(uuid.uuid4())}
        try:
            out.append(Reading.model_validate({**base, **given, "takes": tuple(takes[name])}))
        except ValueError as error:
            said = str(error).split("Value error, ")[-1].split(" [")[0]
            raise ContourError(
                "bad-line",
                said,
                where=Where(file="readings.csv", value=name or "(no name)"),
                got=name or "(no name)",
                need="rows as the desk writes them",
                remedy="mend that row and bring the table in again",
            ) from None
    return out
