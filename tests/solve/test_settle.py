"""Systems whose answers are known in closed form."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from contour.solve.freedom import freedom
from contour.solve.settle import settle
from contour.solve.system import Equation, System


def circle(v: Any, c: Any) -> Any:
    return v[0] * v[0] + v[1] * v[1] - c[0]


def diagonal(v: Any, c: Any) -> Any:
    return v[0] - v[1]


def waves(v: Any, c: Any) -> Any:
    return np.sin(c[0] * v[0]) * np.exp(v[1]) - c[1] * v[0] / v[1]


def test_derivatives_are_those_of_the_formula() -> None:
    x = np.array([0.7, 1.3])
    system = System(2, [Equation(waves, (0, 1), (2.0, 0.4))])
    by_hand = [2 * np.cos(1.4) * np.exp(1.3) - 0.4 / 1.3, np.sin(1.4) * np.exp(1.3) + 0.4 * 0.7 / 1.69]
    assert system.jacobian(x).toarray()[0] == pytest.approx(by_hand, rel=1e-14)


def test_an_unknown_named_twice_counts_once_for_both() -> None:
    system = System(1, [Equation(diagonal, (0, 0))])
    assert system.jacobian(np.array([3.0])).toarray() == pytest.approx(0.0)
    assert freedom(system.jacobian(np.array([3.0]))).redundant == (0,)


def test_a_circle_and_its_diagonal_meet_where_they_do() -> None:
    system = System(2, [Equation(circle, (0, 1), (2.0,)), Equation(diagonal, (0, 1))])
    found = settle(system, np.array([0.4, 0.9]), size=1.0)
    assert found.solved
    assert found.x == pytest.approx([1.0, 1.0], abs=1e-12)


def test_what_is_free_moves_least() -> None:
    """To a line: the foot of the perpendicular. To a circle: along the ray."""
    line = settle(System(2, [Equation(diagonal, (0, 1))]), np.array([4.0, 0.0]), size=4.0)
    assert line.x == pytest.approx([2.0, 2.0])
    ring = settle(System(2, [Equation(circle, (0, 1), (25.0,))]), np.array([3.3, 4.4]), size=5.0)
    assert ring.x == pytest.approx([3.0, 4.0], abs=1e-9)


def test_an_unwilling_unknown_stays() -> None:
    weights = np.array([1e6, 1.0])
    found = settle(System(2, [Equation(diagonal, (0, 1))]), np.array([4.0, 0.0]), size=4.0, weights=weights)
    assert found.x == pytest.approx([4.0, 4.0], abs=1e-4)


def test_what_cannot_hold_ends_where_it_is_least_wrong() -> None:
    both = [Equation(circle, (0, 1), (1.0,)), Equation(circle, (0, 1), (2.0,))]
    found = settle(System(2, both), np.array([1.0, 0.2]), size=2.0)
    assert not found.solved
    assert float(found.x @ found.x) == pytest.approx(1.5, abs=0.1)
    assert found.residual == pytest.approx(0.5, abs=0.1)


def test_no_equations_are_no_trouble() -> None:
    found = settle(System(2, []), np.array([1.0, 2.0]), size=1.0)
    assert found.solved and found.x.tolist() == [1.0, 2.0]


@pytest.mark.parametrize("seed", range(6))
def test_rank_is_that_of_a_singular_value_decomposition(seed: int) -> None:
    rng = np.random.default_rng(seed)
    rows, columns, rank = 14, 20, int(rng.integers(3, 12))
    A = rng.normal(size=(rows, rank)) @ rng.normal(size=(rank, columns))

    def flat(v: Any, c: Any) -> Any:
        return sum(a * x for a, x in zip(c, v, strict=True))

    system = System(columns, [Equation(flat, tuple(range(columns)), tuple(row)) for row in A])
    left = freedom(system.jacobian(np.zeros(columns)))
    assert left.dof == columns - rank
    assert len(left.redundant) == rows - rank
    assert left.redundant == tuple(range(rank, rows))  # later rows repeat earlier ones


def test_freedom_of_some_unknowns_is_told_part_by_part() -> None:
    system = System(5, [Equation(diagonal, (0, 1)), Equation(diagonal, (2, 3)), Equation(circle, (2, 3), (2.0,))])
    left = freedom(system.jacobian(np.array([0.3, 0.3, 1.0, 1.0, 7.0])))
    assert left.dof == 2
    assert left.of([[0, 1], [0], [2, 3], [4], [0, 2, 4], [4, 4]]) == [1, 1, 0, 1, 2, 1]
    assert left.loose.tolist() == [True, True, False, False, True]


def test_equal_unknowns_in_a_circle_are_said_once_too_often() -> None:
    ring = [Equation(diagonal, (0, 1)), Equation(diagonal, (1, 2)), Equation(diagonal, (2, 0))]
    left = freedom(System(3, ring).jacobian(np.zeros(3)))
    assert (left.dof, left.redundant) == (1, (2,))
