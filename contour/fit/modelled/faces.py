"""Faces as they come out of a modelled mesh, each a surface and the facets that are its own; and the sides at which facets meet."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

from contour.geometry.surfaces import Surface
from contour.mesh.prepare import PreparedScan

__all__ = ["Face", "Sides", "hanging_together", "labels_of", "sides_of"]

Ints = NDArray[np.int64]
Face = tuple[Surface | None, Ints]  # none: freeform


@dataclass(frozen=True, slots=True)
class Sides:
    """Sides that two facets share, each once. a, b (k,): the facets · ends (k, 2): the vertices, in the order of the first facet."""

    a: Ints
    b: Ints
    ends: Ints

    def __getitem__(self, which: NDArray[np.bool_]) -> Sides:
        return Sides(self.a[which], self.b[which], self.ends[which])


def sides_of(scan: PreparedScan) -> Sides:
    """The sides at which facets of a mesh meet."""
    inner = scan.across >= 0
    b = np.where(inner, scan.across // 3, -1).astype(np.int64)
    a, side = np.nonzero(inner & (np.arange(len(scan.facets))[:, None] < b))
    ends = np.stack([scan.facets[a, side], scan.facets[a, (side + 1) % 3]], axis=1).astype(np.int64)
    return Sides(a.astype(np.int64), b[a, side], ends)


def hanging_together(ends: Ints) -> Ints:
    """(k,): alike for sides, by their vertices (k, 2), that hang together, counted from 0."""
    used, at = np.unique(ends, return_inverse=True)
    x, y = at.reshape(-1, 2).T
    graph = coo_matrix((np.ones(len(x)), (x, y)), shape=(len(used),) * 2)
    return np.asarray(connected_components(graph, directed=False)[1][x], np.int64)


def labels_of(scan: PreparedScan, faces: Sequence[Face]) -> Ints:
    """(n,): the face of each facet of a mesh, -1 where it is none's."""
    labels = np.full(len(scan.facets), -1, np.int64)
    for k, (_, own) in enumerate(faces):
        labels[own] = k
    return labels
