"""What a caliper sends, what a person types, and tables of readings."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from contour.metrology.lines import LONGEST_LINE, MOST_LINES, take_of_line, takes_of_text, typed_takes
from contour.metrology.table import readings_from_csv, readings_to_csv
from contour.recipe.evidence.reading import Reading, Take
from contour.recipe.problem import ContourError
from contour.recipe.recipe import Recipe
from contour.simulate.caliper import Caliper, closed, line_of, measured, zeroed


@pytest.mark.parametrize(
    ("line", "value", "unit"),
    [
        ("12.03 mm", 12.03, "mm"),
        ("-0,02mm\r", -0.02, "mm"),
        ("0.4735 in", 0.4735, "inch"),
        ('.5"'.replace(".5", "0.5"), 0.5, "inch"),
        ("30.5 °".replace("°", "deg"), 30.5, "deg"),
    ],
)
def test_lines(line: str, value: float, unit: str) -> None:
    take = take_of_line(line)
    assert (take.value, take.unit) == (value, unit)


@pytest.mark.parametrize(
    "line",
    [
        "",
        "mm",
        "12.03",
        "12.03 furlong",
        "1e5 mm",
        "12.0.3 mm",
        "12 mm 13 mm",
        "nan mm",
        "1" * LONGEST_LINE + " mm",
        "12\x0003 mm",
    ],
)
def test_damaged_lines_say_where(line: str) -> None:
    with pytest.raises(ContourError) as error:
        take_of_line(line, number=3)
    assert error.value.problem.code == "bad-line" and error.value.problem.where.line == 3


def test_a_message_of_many_lines_is_read_and_a_flood_is_not() -> None:
    assert [t.value for t in takes_of_text(b"1.00 mm\r\n\r\n2.00 mm\n")] == [1.0, 2.0]
    for data in (b"1.00 mm\n" * (MOST_LINES + 1), b"x" * 100_000):
        with pytest.raises(ContourError) as error:
            takes_of_text(data)
        assert error.value.problem.code == "flood"
    with pytest.raises(ContourError) as error:
        takes_of_text(b"\xff\xfe1\x00")
    assert error.value.problem.code == "bad-line"


@given(st.binary(max_size=300))
def test_any_bytes_are_read_or_refused(data: bytes) -> None:
    takes, code = [], ""
    try:
        takes = takes_of_text(data)
    except ContourError as error:
        code = error.problem.code
    assert code in ("", "bad-line", "flood") and len(takes) <= MOST_LINES


def test_typed_takes_share_the_unit_that_follows() -> None:
    takes = typed_takes("12.03 12.05; 12.04 mm, 0.474 0.475 inch")
    assert [(t.value, t.unit) for t in takes] == [
        (12.03, "mm"),
        (12.05, "mm"),
        (12.04, "mm"),
        (0.474, "inch"),
        (0.475, "inch"),
    ]


@pytest.mark.parametrize(
    ("text", "code"),
    [
        ("12.03 12.05", "unit-unknown"),
        ("", "bad-line"),
        ("mm 12", "bad-line"),
        ("12 mm 13", "unit-unknown"),
        ("12 mm 30 deg", "mixed-dimensions"),
        ("12 parsec", "bad-line"),
    ],
)
def test_takes_that_cannot_be_read(text: str, code: str) -> None:
    with pytest.raises(ContourError) as error:
        typed_takes(text)
    assert error.value.problem.code == code


def test_the_simulated_caliper_shows_steps_and_carries_its_zero() -> None:
    c = Caliper(repeat_mm=0.0, zero_mm=0.05)
    assert line_of(closed(c)) == "0.05 mm"
    assert line_of(measured(c, 12.034)) == "12.08 mm"
    assert line_of(measured(zeroed(c), 12.034)) == "12.03 mm"
    inch = measured(Caliper(repeat_mm=0.0, unit="inch"), 12.7)
    assert line_of(inch) == "0.5000 inch"
    shown = [measured(Caliper(taken=k), 20.0).shown_mm for k in range(200)]
    assert 0.006 < float(np.std(shown)) < 0.012
    assert take_of_line(line_of(inch)).unit == "inch"
    with pytest.raises(ContourError):
        measured(c, -1.0)


def recipe() -> Recipe:
    takes = (
        Take(value=12.03),
        Take(value=0.474, unit="inch", method="depth rod", note="left, at the rim"),
        Take(value=12.9, struck='burr, "big"'),
    )
    return Recipe(
        name="x",
        evidence=(
            Reading(id="a", name="rim_d", takes=takes, measures="outside", note="two, jaws"),
            Reading(id="b", name="empty"),
        ),
    )


def test_a_table_comes_back_as_it_went() -> None:
    job = recipe()
    back = readings_from_csv(readings_to_csv(job), job)
    assert tuple(back) == job.readings


def test_a_table_from_elsewhere_makes_new_readings() -> None:
    made = readings_from_csv("name,value,unit\nslot_w,8.02,mm\nslot_w,8.01,mm\n", recipe())
    assert [(r.name, len(r.takes), r.measures) for r in made] == [("slot_w", 2, "other")]
    assert made[0].id not in ("a", "b")


@pytest.mark.parametrize(
    ("text", "code", "line"),
    [
        ("", "bad-line", 1),
        ("a,b\n1,2\n", "bad-line", 1),
        ("name,value,unit\nw,abc,mm\n", "bad-line", 2),
        ("name,value,unit\nw,8,\n", "unit-unknown", 2),
        ("name,value,unit\nw,8,mm\nw,inf,mm\n", "bad-line", 3),
        ("name,value,unit\nw,8,yard\n", "bad-line", 2),
        ("name,value,unit\n2 w,8,mm\n", "bad-line", None),
        ("name,value,unit\nw,8,mm\nw,8,deg\n", "bad-line", None),
        ("name,over,value,unit\nw,0,8,mm\n", "bad-line", 2),
    ],
)
def test_rows_that_cannot_be_read_say_where(text: str, code: str, line: int | None) -> None:
    with pytest.raises(ContourError) as error:
        readings_from_csv(text, recipe())
    assert error.value.problem.code == code and error.value.problem.where.line == line
