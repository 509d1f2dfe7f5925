"""Where a closed chain begins: nothing that spans its seam is seen by who looks at neighbours one after the other."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

__all__ = ["begun_at"]

Pieces = list[tuple[int, int, int]]


def begun_at(chain: NDArray[np.float64], pieces: Pieces, k: int) -> tuple[NDArray[np.float64], Pieces]:
    """A closed chain (n, 2), whose last point is its first, turned so that it begins with piece k: (kind, first point, last point)."""
    a = pieces[k][1]
    loop = chain[:-1]
    n = len(loop)
    turned = [(kind, p - a, q - a) for kind, p, q in pieces[k:]]
    turned += [(kind, p + n - a, q + n - a) for kind, p, q in pieces[:k]]
    return np.vstack([loop[a:], loop[:a], loop[a : a + 1]]), turned
