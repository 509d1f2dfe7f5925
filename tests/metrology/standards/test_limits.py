"""Spot values as printed in ISO 286-2:2010 (tables of limit deviations, micrometres)."""

from __future__ import annotations

from itertools import pairwise

import pytest

from contour.metrology.standards.limits import COMMON_HOLES, COMMON_SHAFTS, fit_of, limits_of
from contour.recipe.problem import ContourError

# (nominal, class, lower, upper)
PRINTED = [
    (2, "H7", 0, 10),
    (3, "H7", 0, 10),
    (3.01, "H7", 0, 12),
    (10, "H7", 0, 15),
    (18, "H7", 0, 18),
    (25, "H7", 0, 21),
    (50, "H8", 0, 39),
    (80, "H7", 0, 30),
    (120, "H9", 0, 87),
    (200, "H11", 0, 290),
    (400, "H7", 0, 57),
    (500, "H8", 0, 97),
    (315, "H6", 0, 32),
    (25, "G7", 7, 28),
    (40, "F8", 25, 64),
    (60, "E9", 60, 134),
    (100, "D10", 120, 260),
    (16, "C11", 95, 205),
    (45, "C11", 130, 290),
    (25, "JS7", -10.5, 10.5),
    (8, "J7", -7, 8),
    (40, "J8", -15, 24),
    (25, "K7", -15, 6),
    (25, "K6", -11, 2),
    (25, "M7", -21, 0),
    (25, "N7", -28, -7),
    (25, "P7", -35, -14),
    (25, "R7", -41, -20),
    (25, "S7", -48, -27),
    (50, "K7", -18, 7),
    (50, "N7", -33, -8),
    (50, "P7", -42, -17),
    (2, "K7", -10, 0),
    (2, "N7", -14, -4),
    (2, "N9", -29, -4),
    (40, "N9", -62, 0),
    (100, "P9", -124, -37),
    (60, "R7", -60, -30),
    (70, "R7", -62, -32),
    (100, "S7", -93, -58),
    (300, "M6", -41, -9),
    (300, "M7", -52, 0),
    (450, "P7", -108, -45),
    (6, "P7", -20, -8),
    (12, "U7", -44, -26),
    (25, "h6", -13, 0),
    (25, "g6", -20, -7),
    (25, "f7", -41, -20),
    (60, "e8", -106, -60),
    (100, "d9", -207, -120),
    (45, "c11", -290, -130),
    (70, "b11", -390, -200),
    (30, "a11", -430, -300),
    (25, "k6", 2, 15),
    (25, "m6", 8, 21),
    (25, "n6", 15, 28),
    (25, "p6", 22, 35),
    (60, "r6", 41, 60),
    (70, "r6", 43, 62),
    (130, "s6", 92, 117),
    (25, "t6", 41, 54),
    (20, "u6", 41, 54),
    (28, "u6", 48, 61),
    (50, "js6", -8, 8),
    (25, "j6", -4, 9),
    (40, "j7", -10, 15),
    (40, "k8", 0, 39),
    (480, "h7", -63, 0),
    (480, "u6", 540, 580),
    (5, "cd9", -76, -46),
    (8, "ef7", -33, -18),
    (2, "fg6", -10, -4),
    (16, "v6", 39, 50),
    (22, "y6", 63, 76),
    (12, "z7", 50, 68),
    (130, "h13", -630, 0),
    (130, "H14", 0, 1000),
    (260, "x8", 475, 556),
]


@pytest.mark.parametrize(("nominal", "name", "lower", "upper"), PRINTED)
def test_printed_values(nominal: float, name: str, lower: float, upper: float) -> None:
    found = limits_of(nominal, name)
    assert (found.lower * 1000, found.upper * 1000) == pytest.approx((lower, upper), abs=1e-6)


def test_every_common_class_grows_with_size_and_has_its_grades_width() -> None:
    """Independent of the deviations' figures: the width is the grade, and a coarser size range is never tighter."""
    sizes = [2, 5, 8, 12, 20, 28, 35, 45, 60, 70, 90, 110, 130, 150, 170, 190, 210, 240, 260, 300, 340, 380, 420, 480]
    for name in (*COMMON_HOLES, *COMMON_SHAFTS):
        widths = [limits_of(s, name).upper - limits_of(s, name).lower for s in sizes]
        grade = "".join(c for c in name if c.isdigit())
        assert widths == pytest.approx([limits_of(s, f"H{grade}").upper for s in sizes])
        assert all(a <= b + 1e-9 for a, b in pairwise(widths))


def test_a_hole_of_the_fine_grades_gives_the_fit_of_the_shaft_basis() -> None:
    """H7/p6 and P7/h6 are the same fit: that is what the standard's Delta is for."""
    for size in (5, 8, 14, 25, 40, 60, 100, 150, 200, 300, 350, 450):
        a, b = fit_of(size, "H7/p6"), fit_of(size, "P7/h6")
        assert a.least_clearance == pytest.approx(b.least_clearance)
        assert a.greatest_clearance == pytest.approx(b.greatest_clearance)


def test_fits_are_named() -> None:
    assert [fit_of(40, f).kind for f in ("H7/g6", "H7/k6", "H7/p6")] == ["clearance", "transition", "interference"]
    assert fit_of(25, "H7/g6").least_clearance == pytest.approx(0.007)
    assert fit_of(25, "H7/g6").greatest_clearance == pytest.approx(0.041)


@pytest.mark.parametrize(
    ("nominal", "name"),
    [
        (0, "H7"),
        (-5, "H7"),
        (501, "H7"),
        (25, "Q7"),
        (25, "H19"),
        (25, "Hg7"),
        (25, ""),
        (20, "t6"),
        (12, "cd8"),
        (25, "j9"),
        (20, "K9"),
        (float("nan"), "H7"),
    ],
)
def test_what_the_standard_does_not_have_is_refused(nominal: float, name: str) -> None:
    with pytest.raises(ContourError) as error:
        limits_of(nominal, name)
    assert error.value.problem.code == "bad-params" and error.value.problem.remedy


@pytest.mark.parametrize("text", ["H7", "g6/H7", "H7/H7", "H7/g6/k6"])
def test_a_fit_needs_a_hole_and_a_shaft(text: str) -> None:
    with pytest.raises(ContourError):
        fit_of(25, text)
