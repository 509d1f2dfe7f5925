"""The ends of one sector: which pieces they are, the equations that make one the other's image, and their derivatives by differences."""

from __future__ import annotations

import numpy as np
import pytest

from contour.outline.split import ARC, FREE, LINE
from contour.outline.turned import Turned, end_to_end, ends_of_sector, going_on, turned_rows
from contour.recipe.problem import ContourError


def ring(count: int, middle=(3.0, -2.0), inner: float = 5.0, outer: float = 12.0, begin: float = 0.4):
    """Ends of the pieces of one sector of a ring: out along one end, the outer arc in two, in along the other, the inner arc."""
    a, b = begin, begin + 2 * np.pi / count

    def at(r, turn):
        return np.array(middle) + r * np.array([np.cos(turn), np.sin(turn)])

    spots = [at(inner, a), at(outer, a), at(outer, (a + b) / 2), at(outer, b), at(inner, b)]
    return [(spots[k], spots[(k + 1) % 5]) for k in range(5)]


MADE = [True, False, False, True, False]


@pytest.mark.parametrize("count", [2, 3, 5, 18])
@pytest.mark.parametrize("reverse", [False, True])
def test_the_ends_are_found_and_lead_to_the_middle(count, reverse):
    pieces, made = ring(count), MADE
    if reverse:
        pieces, made = [(b, a) for a, b in pieces[::-1]], made[::-1]
    found = ends_of_sector(pieces, made)
    assert found is not None and found.off < 1e-9
    assert np.allclose(found.middle, (3, -2))
    assert {found.first, found.second} == {k for k, m in enumerate(made) if m}


def test_what_is_no_sector_has_no_ends():
    """An angle that does not go into a full turn, one end, three, parallel walls."""
    pieces = ring(5)
    wide = [(a, b) for a, b in ring(5)]
    wide[3] = (wide[3][0] + (0.5, 0), wide[3][1])
    assert ends_of_sector(wide, MADE) is None
    assert ends_of_sector(pieces, [True, False, False, False, False]) is None
    assert ends_of_sector(pieces, [True, True, False, True, False]) is None
    walls = [np.array(p, float) for p in ((0, 0), (9, 0), (9, 4), (0, 4))]
    corner = [(walls[k], walls[(k + 1) % 4]) for k in range(4)]
    alike = [(a * (4 / 9, 1), b * (4 / 9, 1)) for a, b in corner]
    assert ends_of_sector(alike, [True, True, False, False]) is None
    known = ends_of_sector(alike, [True, True, False, False], meeting=True)
    assert known is not None and np.allclose(known.middle, (4, 0)) and known.off < 1e-9
    slot = [(walls[k], walls[(k + 1) % 4]) for k in range(4)]
    assert ends_of_sector(slot, [True, False, True, False]) is None


def test_ends_that_are_not_alike_are_told_by_how_far_they_are_off():
    pieces = ring(6)
    longer = pieces[3][0] + 0.2 * (pieces[3][0] - pieces[3][1]) / 7
    pieces[2], pieces[3] = (pieces[2][0], longer), (longer, pieces[3][1])
    found = ends_of_sector(pieces, MADE)
    assert found is not None and found.off == pytest.approx(0.2)


def test_what_goes_on_over_the_seam():
    assert going_on(0, 3, 5) == [(1, 2), (4, 4)]
    assert going_on(0, 3, 4) == [(1, 2)]  # no bore: the ends meet on the axis


def test_only_straight_ends_with_one_kind_on_both_sides_can_be_held():
    pieces = ring(6)
    kinds = [LINE, ARC, ARC, LINE, ARC]
    made = end_to_end(10, 13, [LINE] * 10 + kinds, pieces, 10)
    assert made.pairs == ((11, 12), (14, 14)) and made.turn == pytest.approx(np.pi / 3)
    for wrong in ([LINE, ARC, LINE, LINE, ARC], [LINE, FREE, FREE, LINE, ARC], [ARC, ARC, ARC, LINE, ARC]):
        with pytest.raises(ContourError) as told:
            end_to_end(0, 3, wrong, pieces, 0)
        assert told.value.problem.code == "degenerate" and told.value.problem.remedy


def laid_out(kind: int, pair: tuple[int, int], rng) -> tuple[Turned, list[int], np.ndarray, list[int]]:
    """(a turn, kinds, unknowns, where each piece's begin): two ends, then the pieces of the pair."""
    size = 2 if kind == LINE else 3
    turned = Turned((0, 1), ((2 + pair[0], 2 + pair[1]),), np.array([0.7, -0.4]), 1.1)
    return turned, [LINE, LINE, kind, kind], rng.uniform(0.3, 2.0, 4 + 2 * size), [0, 2, 4, 4 + size]


@pytest.mark.parametrize("kind", [LINE, ARC])
@pytest.mark.parametrize("pair", [(0, 1), (0, 0)])
def test_derivatives_are_those_of_differences(kind, pair):
    turned, kinds, x, starts = laid_out(kind, pair, np.random.default_rng(5))

    def rows(v: np.ndarray) -> list[tuple[np.ndarray, float]]:
        values = [v[a:b] for a, b in zip(starts, [*starts[1:], len(v)], strict=True)]
        return list(turned_rows(turned, kinds, values, starts, len(v)))[4:]  # the ends' own hold them where they are

    exact = rows(x)
    assert exact
    for n in range(4, len(x)):
        step = np.zeros(len(x))
        step[n] = 1e-6
        for (row, _), (_, ahead), (_, behind) in zip(exact, rows(x + step), rows(x - step), strict=True):
            assert row[n] == pytest.approx((ahead - behind) / 2e-6, abs=1e-6)


def test_what_is_turned_leaves_nothing():
    """A line, an arc, each with its image; an arc about the middle; a line square to the bisector."""
    x, turn = np.array([0.7, -0.4]), 1.1
    spin = np.array([[np.cos(turn), -np.sin(turn)], [np.sin(turn), np.cos(turn)]])
    ends = [np.array([0.3, 0.0]), np.array([0.3 + turn, 0.0])]
    for end in ends:
        end[1] = x @ np.array([np.cos(end[0]), np.sin(end[0])])
    centre = np.array([4.0, 1.0])
    arcs = [np.array([*centre, 2.0]), np.array([*(x + spin @ (centre - x)), 2.0])]
    normal = 0.8
    off = np.array([np.cos(normal), np.sin(normal)]) @ x
    lines = [
        np.array([normal, off + 1.5]),
        np.array([normal + turn - np.pi, -1.5 - np.array([np.cos(normal + turn), np.sin(normal + turn)]) @ x]),
    ]
    bisector = 0.3 + np.pi / 2 + turn / 2
    for kind, values, pair in (
        (ARC, arcs, (2, 3)),
        (LINE, lines, (2, 3)),
        (ARC, [np.array([*x, 3.0])] * 2, (2, 2)),
        (LINE, [np.array([bisector, 7.0])] * 2, (2, 2)),
    ):
        size = len(values[0])
        turned = Turned((0, 1), (pair,), x, turn)
        starts = [0, 2, 4, 4 + size]
        rows = list(turned_rows(turned, [LINE, LINE, kind, kind], [*ends, *values], starts, 4 + 2 * size))
        assert max(abs(miss) for _, miss in rows) < 1e-12, kind
