"""Which ends belong to which beginnings: an assignment of least cost (Crouse 2016, SciPy's).

Taken one after the other, the cheapest pairs leave others with nobody near.
"""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from scipy.optimize import linear_sum_assignment

__all__ = ["least_pairing"]

_ALONE = 10.0  # times all that there are: nobody is left alone for being dear


def least_pairing(costs: Mapping[tuple[int, int], float]) -> list[tuple[int, int]]:
    """The pairs of (one of these, one of those) that cost least: each of both in one pair at the most, and as few left alone as can be.

    costs: of the pairs there may be, positive, without a unit.
    """
    if not costs:
        return []
    ones, others = (sorted({pair[k] for pair in costs}) for k in (0, 1))
    table = np.full((len(ones), len(others)), _ALONE * sum(costs.values()))
    for (one, other), cost in costs.items():
        table[ones.index(one), others.index(other)] = cost
    pairs = ((ones[i], others[j]) for i, j in zip(*linear_sum_assignment(table), strict=True))
    return [pair for pair in pairs if pair in costs]
