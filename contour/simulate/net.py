"""Even facets of anything whose inside is known at the nodes of a grid: what the virtual scanner delivers before it adds its faults."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csr_matrix

__all__ = ["averaging", "split_quads", "surface_net"]

Array = NDArray[np.float64]


def surface_net(inside: NDArray[np.bool_]) -> tuple[Array, NDArray[np.int64]]:
    """Quads around every grid edge that crosses the surface, a vertex per mixed cell: points (n, 3) in grid steps, quads (k, 4).

    inside (a, b, c). Source: Gibson, Constrained Elastic Surface Nets (1998).
    """
    corners = [
        inside[i : i - 1 or None, j : j - 1 or None, k : k - 1 or None] for i in (0, 1) for j in (0, 1) for k in (0, 1)
    ]
    total = np.sum(corners, axis=0)
    mixed = (total > 0) & (total < 8)
    index = np.full(mixed.shape, -1, np.int64)
    index[mixed] = np.arange(mixed.sum())
    vertices = np.argwhere(mixed) + 0.5
    quads = []
    for axis in range(3):
        b, c = (axis + 1) % 3, (axis + 2) % 3
        low = np.moveaxis(inside, (axis, b, c), (0, 1, 2))
        cell = np.moveaxis(index, (axis, b, c), (0, 1, 2))
        a0, a1 = low[:-1, 1:-1, 1:-1], low[1:, 1:-1, 1:-1]
        ring = [cell[:, :-1, :-1], cell[:, 1:, :-1], cell[:, 1:, 1:], cell[:, :-1, 1:]]
        for leaving in (True, False):
            hit = (a0 & ~a1) if leaving else (~a0 & a1)
            quad = np.stack([r[hit] for r in ring], axis=1)
            quads.append(quad if leaving else quad[:, ::-1])
    return vertices.astype(np.float64), np.vstack(quads)


def averaging(facets: NDArray[np.int32], count: int) -> csr_matrix:
    """(count, count): applied to points it gives the mean of each one's neighbours. facets (m, 3)."""
    i = np.concatenate([facets[:, 0], facets[:, 1], facets[:, 2], facets[:, 1], facets[:, 2], facets[:, 0]])
    j = np.concatenate([facets[:, 1], facets[:, 2], facets[:, 0], facets[:, 0], facets[:, 1], facets[:, 2]])
    ring = csr_matrix((np.ones(len(i)), (i, j)), (count, count))
    ring.data[:] = 1.0
    degree = np.asarray(ring.sum(axis=1)).ravel()
    return csr_matrix(ring.multiply(1.0 / np.maximum(degree, 1)[:, None]))


def split_quads(points: Array, quads: NDArray[np.int64]) -> NDArray[np.int32]:
    """(2k, 3) facets of quads (k, 4), each parted along its shorter diagonal. points (n, 3)."""
    short = np.linalg.norm(points[quads[:, 0]] - points[quads[:, 2]], axis=1) <= np.linalg.norm(
        points[quads[:, 1]] - points[quads[:, 3]], axis=1
    )
    q, r = quads[short], quads[~short]
    return np.vstack([q[:, [0, 1, 2]], q[:, [0, 2, 3]], r[:, [0, 1, 3]], r[:, [1, 2, 3]]]).astype(np.int32)
