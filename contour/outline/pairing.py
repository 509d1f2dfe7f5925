"""Which of many belong together, two by two: a matching of least weight in a general graph, by integer programming.

Taken one after the other, the cheapest pairs leave others with nobody near (Schrijver 2003, ch. 26, on matchings).
"""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from scipy.optimize import Bounds, LinearConstraint, milp
from scipy.sparse import csr_array

__all__ = ["least_pairing"]

_MOST_S = 1.0
_ALONE = 10.0  # times the dearest pair


def least_pairing(costs: Mapping[tuple[int, int], float], count: int) -> list[tuple[int, int]]:
    """The pairing of 0 … count - 1 that costs least: each in one pair at the most, and as few left alone as can be.

    costs: of the pairs there may be, positive, without a unit.
    """
    if not costs:
        return []
    pairs, cost = np.array(list(costs)), np.array(list(costs.values()))
    n = len(pairs)
    of = csr_array((np.ones(2 * n), (pairs.T.ravel(), np.tile(np.arange(n), 2))), (count, n))
    found = milp(
        cost - 2 * _ALONE * cost.max(),
        integrality=np.ones(n),
        bounds=Bounds(0, 1),
        constraints=LinearConstraint(of, ub=1),
        options={"time_limit": _MOST_S},
    )
    return [] if found.x is None else [(int(a), int(b)) for a, b in pairs[found.x > 0.5]]
