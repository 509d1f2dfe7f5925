import itertools

import numpy as np
import pytest

from contour.outline.pairing import least_pairing


@pytest.mark.parametrize("seed", range(6))
def test_it_costs_as_little_as_the_best_of_all(seed: int) -> None:
    rng = np.random.default_rng(seed)
    costs = {p: float(rng.uniform(1, 9)) for p in itertools.product(range(5), range(10, 14)) if rng.uniform() < 0.5}
    ways = [
        w
        for n in range(5)
        for w in itertools.combinations(costs, n)
        if len({a for a, _ in w}) == n == len({b for _, b in w})
    ]
    most = max(len(w) for w in ways)
    best = min(sum(costs[p] for p in w) for w in ways if len(w) == most)
    found = least_pairing(costs)
    assert len(found) == most and len({i for p in found for i in p}) == 2 * most
    assert sum(costs[p] for p in found) == pytest.approx(best)


def test_nobody_is_left_alone_because_others_were_cheap() -> None:
    """A row of twelve of which every second neighbourhood is cheap, and leaves the ends of the row with nobody."""
    costs = {}
    for k in range(11):
        costs[(k, k + 1) if k % 2 == 0 else (k + 1, k)] = 1.0 if k % 2 else 2.0
    assert sorted(least_pairing(costs)) == [(k, k + 1) for k in range(0, 12, 2)]


def test_where_nothing_may_be_paired_nothing_is() -> None:
    assert least_pairing({}) == []
