"""Sets of facets changed by hand: rings added and taken away, parts on either side of a plane."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

__all__ = ["ringed", "sides_of"]

Facets = NDArray[np.int64]


def ringed(across: NDArray[np.int32], facets: Facets, rings: int) -> Facets:
    """Facets with `rings` rings of neighbours more, or fewer where it is negative. across (n, 3) as
    :func:`contour.mesh.topology.neighbours` gives it.

    >>> strip = np.array([[-1, 3, -1], [0, 6, -1], [3, 9, -1], [6, -1, -1]], np.int32)
    >>> ringed(strip, np.array([1]), 1).tolist(), ringed(strip, np.array([0, 1, 2]), -1).tolist()
    ([0, 1, 2], [0, 1])
    """
    inside = np.zeros(len(across) + 1, np.bool_)
    inside[facets] = True
    grow = rings > 0
    other = across // 3
    for _ in range(abs(rings)):
        beside = inside[other] & (across >= 0)
        if grow:
            inside[:-1] |= beside.any(axis=1)
        else:
            # At the scan's own border there is nothing to draw back from.
            inside[:-1] &= (beside | (across < 0)).all(axis=1)
    return np.flatnonzero(inside[:-1])


def sides_of(
    centroids: NDArray[np.float64], facets: Facets, origin: NDArray[np.float64], normal: NDArray[np.float64]
) -> tuple[Facets, Facets]:
    """(in front of the plane, behind it)."""
    front = (centroids[facets] - origin) @ normal > 0
    return facets[front], facets[~front]
