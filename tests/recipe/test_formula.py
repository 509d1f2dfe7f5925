import pytest
from hypothesis import given
from hypothesis import strategies as st

from contour.recipe.formula import LENGTH_UNITS, evaluate, format_length
from contour.recipe.problem import ContourError


@pytest.mark.parametrize(
    ("text", "unit", "mm"),
    [
        ("12.5", "mm", 12.5), ("12.5", "inch", 317.5), ("1/2 inch", "mm", 12.7), ("1/2 inch + 0.1 mm", "mm", 12.8),
        ("-(3 + 2) * 2 mm", "mm", -10), ("10 mm / 4", "mm", 2.5), ('2"', "mm", 50.8), ("1 cm - 2", "mm", 8),
        ("2 * 3 mm + 1", "inch", 31.4), ("0.003 m", "mm", 3),
    ],
)  # fmt: skip
def test_lengths(text, unit, mm):
    assert evaluate(text, dimension="length", unit=unit) == pytest.approx(mm, abs=1e-12)


@pytest.mark.parametrize(
    ("text", "code", "quoted"),
    [
        ("", "bad-formula", "nothing typed"), ("3 +", "bad-formula", "number is missing"), ("(3", "bad-formula", "')'"),
        ("3 furlong", "bad-formula", "furlong"), ("bore_d", "bad-formula", "bore_d"), ("3 4", "bad-formula", "not expected"),
        ("1/0 mm", "bad-formula", "zero"), ("3 deg", "mixed-dimensions", "angle"), ("3 mm * 2 mm", "mixed-dimensions", "length^2"),
        ("3 mm + 2 deg", "mixed-dimensions", "adds"), ("3 mm mm", "bad-formula", "mm"),
    ],
)  # fmt: skip
def test_refusals_say_what_and_where(text, code, quoted):
    with pytest.raises(ContourError) as caught:
        evaluate(text, dimension="length")
    assert caught.value.problem.code == code
    assert quoted in caught.value.problem.line()


def test_angles_and_numbers_never_become_lengths():
    assert evaluate("90", dimension="angle") == 90
    assert evaluate("0.5 rad", dimension="angle") == pytest.approx(28.64788976)
    with pytest.raises(ContourError):
        evaluate("5 mm", dimension="number")


@given(st.floats(-1e4, 1e4), st.sampled_from(sorted(LENGTH_UNITS)))
def test_what_is_written_reads_back(mm, unit):
    text = format_length(mm, unit, digits=12)
    assert evaluate(text, dimension="length") == pytest.approx(mm, abs=1e-6)


@given(st.text(max_size=20))
def test_any_text_gives_a_value_or_a_problem(text):
    value: float | None = None
    code = ""
    try:
        value = evaluate(text, dimension="length")
    except ContourError as error:
        code = error.problem.code
    assert isinstance(value, float) or code in ("bad-formula", "mixed-dimensions")
