"""Fewer facets for the eye: near vertices stand for each other, and every facet knows which one shows it.

Vertex clustering (Rossignac and Borrel 1993) with a vertex of the mesh as each cell's representative: one pass, no
point that the mesh does not have, and an exact relation between what is shown and what is computed with.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

__all__ = ["MOST_SHOWN", "Coarse", "coarse_mesh"]

MOST_SHOWN = 1_200_000
_AIM = 600_000
_MOST_CELLS = 2_000_000  # three of their numbers fit in one

Ids = NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class Coarse:
    """vertex_of (k,): vertex of the mesh that each shown vertex is · facets (m, 3) of shown vertices · facet_of (m,): a facet
    of the mesh that each shown one stands for · shown_by (n,): the shown facet at each facet of the mesh; m for those of
    crumbs within one cell, which are not shown."""

    vertex_of: Ids
    facets: NDArray[np.int32]
    facet_of: Ids
    shown_by: Ids


def _cells(vertices: NDArray[np.float64], side: float) -> NDArray[np.int64]:
    low = vertices.min(axis=0)
    steps = np.floor((vertices - low) / side).astype(np.int64)
    size = steps.max(axis=0) + 1
    key: NDArray[np.int64] = (steps[:, 0] * size[1] + steps[:, 1]) * size[2] + steps[:, 2]
    return key


def coarse_mesh(vertices: NDArray[np.float64], facets: NDArray[np.int32], *, aim: int = _AIM) -> Coarse:
    """About `aim` facets of a mesh with many more; mm.

    A facet with two corners in one cell is shown by one that stays at one of its corners, so that a pick on either side
    of the relation lands within a cell of where it was. vertices (n, 3), facets (m, 3).
    """
    corners = vertices[facets[:: max(len(facets) // 200_000, 1)]]
    area = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1).mean() / 2
    # A surface of so much area in cells of this side has about one vertex a cell, and two facets a vertex.
    side = float(np.sqrt(max(area, 1e-12) * len(facets) / (aim / 2) / 0.85))
    while True:
        _, first, cell = np.unique(_cells(vertices, side), return_index=True, return_inverse=True)
        if len(first) < _MOST_CELLS:
            break
        side *= 1.5  # no surface but a cloud
    cell = cell.astype(np.int32)
    count = len(first)
    # The vertex nearest to the mean of its cell: the middle of the noise, not its edge.
    inside = np.bincount(cell, minlength=count)
    mean = np.column_stack([np.bincount(cell, vertices[:, d], count) / inside for d in range(3)])
    away = ((vertices - mean[cell]) ** 2).sum(axis=1)
    order = np.lexsort((away, cell))
    starts = np.concatenate([[0], np.flatnonzero(np.diff(cell[order])) + 1])
    vertex_of = order[starts]
    shown = cell[facets]
    whole = (shown[:, 0] != shown[:, 1]) & (shown[:, 1] != shown[:, 2]) & (shown[:, 2] != shown[:, 0])
    kept = np.flatnonzero(whole)
    triple = np.sort(shown[kept].astype(np.int64), axis=1)
    key = (triple[:, 0] * count + triple[:, 1]) * count + triple[:, 2]
    _, one, same = np.unique(key, return_index=True, return_inverse=True)
    facet_of = kept[one]
    by_cell = np.full(count, len(facet_of))
    out = shown[facet_of]
    by_cell[out.ravel()] = np.repeat(np.arange(len(out)), 3)
    shown_by = by_cell[shown[:, 0]]
    shown_by[kept] = same
    return Coarse(vertex_of.astype(np.int64), out.astype(np.int32), facet_of, shown_by)
