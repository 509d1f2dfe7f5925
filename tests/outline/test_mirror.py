"""Mirror symmetry of loops: the equations' derivatives by differences, and what is symmetric or not."""

from __future__ import annotations

import numpy as np
import pytest

from contour.outline.mirror import answers, best_mirror, line_between, mirror_rows
from contour.outline.offers import nearly_held
from contour.outline.pieces import Outline, Piece
from contour.outline.split import ARC, FREE, LINE


def test_a_reflection_answers_every_piece_once():
    for n in (3, 4, 7):
        for k in range(n):
            both = [x for pair in answers(n, k) for x in set(pair)]
            assert sorted(both) == list(range(n))


@pytest.mark.parametrize("kind", [LINE, ARC])
@pytest.mark.parametrize("pair", [(0, 1), (0, 0)])
def test_derivatives_are_those_of_differences(kind, pair):
    rng = np.random.default_rng(3)
    size = 2 if kind == LINE else 3
    x = np.concatenate([rng.uniform(0.3, 2.0, 2 * size), [0.7, 1.3]])
    starts, count, axis_at = [0, size], 2 * size + 2, 2 * size

    def rows(v: np.ndarray) -> list[tuple[np.ndarray, float]]:
        values = [v[:size], v[size : 2 * size]]
        return list(mirror_rows([pair], [kind, kind], values, starts, count, axis_at, v[axis_at:]))

    exact = rows(x)
    assert exact
    for n in range(count):
        step = np.zeros(count)
        step[n] = 1e-6
        ahead, behind = rows(x + step), rows(x - step)
        for (row, _), (_, a), (_, b) in zip(exact, ahead, behind, strict=True):
            assert row[n] == pytest.approx((a - b) / 2e-6, abs=1e-6)


def test_what_is_symmetric_leaves_nothing_and_free_pieces_are_let_be():
    """A line and its image about a tilted axis, and two circles."""
    axis = np.array([0.4, 2.0])
    n = np.array([np.cos(0.4), np.sin(0.4)])
    centre = np.array([5.0, 1.0])
    image = centre - 2 * (n @ centre - 2.0) * n
    rows = list(
        mirror_rows([(0, 1)], [ARC, ARC], [np.array([*centre, 3.0]), np.array([*image, 3.0])], [0, 3], 8, 6, axis)
    )
    assert max(abs(miss) for _, miss in rows) < 1e-12
    assert list(mirror_rows([(0, 1)], [FREE, FREE], [np.empty(0), np.empty(0)], [0, 0], 2, 0, axis)) == []
    assert list(mirror_rows([(0, 1)], [LINE, ARC], [np.zeros(2), np.zeros(3)], [0, 2], 7, 5, axis)) == []


def test_the_best_mirror_of_a_kite_is_its_long_axis_and_a_scalene_triangle_has_none():
    kite = np.array([[0.0, -10], [4, 0], [0, 5], [-4, 0]])  # ends of the pieces
    k, off = best_mirror(["line"] * 4, kite, 0.5) or (0, 9.0)
    assert off < 1e-12
    (angle, distance), _ = line_between(kite, k)
    assert abs(np.cos(angle)) == pytest.approx(1) and distance == pytest.approx(0, abs=1e-12)
    assert best_mirror(["line"] * 3, np.array([[0.0, 0], [10, 0], [2, 5]]), 0.5) is None
    assert best_mirror(["line", "line", "arc", "line"], kite, 0.5) is None


def circle_at(x: float, r: float) -> Outline:
    return Outline((Piece("arc", (x + r, 0.0), (x + r, 0.0), 0.0, (x - r, 0.0), (x, 0.0), r),), True)


def rectangle_of(turn_deg: float, x: float) -> Outline:
    c, s = np.cos(np.radians(turn_deg)), np.sin(np.radians(turn_deg))
    at = [(float(x + c * u - s * v), float(s * u + c * v)) for u, v in ((0, 0), (30, 0), (30, 10), (0, 10))]
    return Outline(tuple(Piece("line", at[k], at[(k + 1) % 4], 0.0) for k in range(4)), True)


def test_what_follows_from_a_nearer_relation_is_not_offered_again():
    holes = [circle_at(20 * k, 4 + 0.01 * k) for k in range(4)]
    offers = nearly_held(holes, near_mm=0.2)
    assert [(h.kind, h.first, h.second) for h, _ in offers] == [("equal radius", k, k + 1) for k in range(3)]
    # Two rectangles, each square in itself: one relation turns one of them.
    offers = nearly_held([rectangle_of(0, 0), rectangle_of(0.6, 60)], near_mm=0.2)
    assert len(offers) == 1
    held, off = offers[0]
    assert held.kind in ("parallel", "square") and off == pytest.approx(0.6, abs=1e-6)
    assert nearly_held([rectangle_of(0, 0)], near_mm=0.2) == []
