"""Figures of a print beside the sizes they state: by value, by place, halves of diameters, tolerances, and those that state none of them."""

from __future__ import annotations

import pytest

from contour.sketch.drawn.figures import Figure, beside_sizes
from contour.sketch.drawn.solution import solved
from contour.sketch.drawn.text import Drawing
from tests.sketch.drawn.kit import circle, drawing, line, point

SIZES = "length l1 = 40 mm; length l2 = 20.3 mm; radius k = 4 mm; radius m = 4.1 mm; angle l1 l2 = 91"


@pytest.fixture
def drawn() -> Drawing:
    entities = {"a": point(0, 0), "b": point(40, 0), "c": point(40, 20.3), "p": point(10, 10), "q": point(30, 10)}
    entities |= {"l1": line("a", "b"), "l2": line("b", "c"), "k": circle("p", 4), "m": circle("q", 4.1)}
    return solved(drawing(entities, sizes=SIZES)).drawing


def by_size(drawn: Drawing, *figures: Figure) -> dict[int, tuple[str, str]]:
    return {b.size: (figures[b.figure].name, b.text) for b in beside_sizes(drawn, figures)}


def test_a_figure_stands_beside_the_size_it_is_nearest_to_in_value(drawn):
    found = by_size(
        drawn,
        Figure("tall", 20.0, False, (20, -5), tolerance=0.2),
        Figure("long", 40.1, False, (44, 10)),
        Figure("other", 73.0, False, (20, 0)),
    )
    assert found == {0: ("long", "long"), 1: ("tall", "tall")}


def test_of_two_alike_the_place_decides_and_a_diameter_is_halved_for_a_radius(drawn):
    left, right = Figure("left", 8.1, False, (6, 10)), Figure("right", 8.1, False, (34, 10))
    assert by_size(drawn, right, left) == {2: ("left", "left / 2"), 3: ("right", "right / 2")}
    (one,) = [b for b in beside_sizes(drawn, [left]) if b.size == 2]
    assert one.value == pytest.approx(4.05) and one.off == pytest.approx(-0.05)


def test_a_tolerance_is_held_against_what_the_size_reads(drawn):
    wide, tight = (beside_sizes(drawn, [Figure("tall", 20.0, False, (44, 10), t)])[0] for t in (0.5, 0.1))
    assert (wide.allowed, tight.allowed) == (True, False) and wide.off == pytest.approx(0.3)
    assert beside_sizes(drawn, [Figure("tall", 20.0, False, (44, 10))])[0].allowed is None


def test_angles_stand_beside_angles_only(drawn):
    assert by_size(drawn, Figure("square", 90.0, True, (40, 0))) == {4: ("square", "square")}
    assert by_size(drawn, Figure("right", 40.0, True, (40, 0))) == {}


def test_nothing_stands_beside_nothing(drawn):
    assert beside_sizes(drawn, []) == ()
    assert beside_sizes(drawn.model_copy(update={"dimensions": ()}), [Figure("x", 40, False, (0, 0))]) == ()
