import itertools

import numpy as np
import pytest

from contour.outline.pairing import least_pairing


def all_pairings(left: tuple[int, ...]):
    """Every way to pair some of them."""
    if not left:
        yield []
        return
    a, rest = left[0], left[1:]
    yield from all_pairings(rest)
    for k, b in enumerate(rest):
        for more in all_pairings(rest[:k] + rest[k + 1 :]):
            yield [(a, b), *more]


@pytest.mark.parametrize("seed", range(6))
def test_it_costs_as_little_as_the_best_of_all(seed: int) -> None:
    rng = np.random.default_rng(seed)
    costs = {p: float(rng.uniform(1, 9)) for p in itertools.combinations(range(7), 2) if rng.uniform() < 0.6}
    ways = [w for w in all_pairings(tuple(range(7))) if all(p in costs for p in w)]
    most = max(len(w) for w in ways)
    best = min(sum(costs[p] for p in w) for w in ways if len(w) == most)
    found = least_pairing(costs, 7)
    assert len(found) == most and len({i for p in found for i in p}) == 2 * most
    assert sum(costs[p] for p in found) == pytest.approx(best)


def test_nobody_is_left_alone_because_others_were_cheap() -> None:
    """A row of twelve of which every second neighbourhood is cheap, and leaves the ends of the row with nobody."""
    costs = {(k, k + 1): 1.0 if k % 2 else 2.0 for k in range(11)}
    assert sorted(least_pairing(costs, 12)) == [(k, k + 1) for k in range(0, 12, 2)]


def test_where_nothing_may_be_paired_nothing_is() -> None:
    assert least_pairing({}, 4) == []
