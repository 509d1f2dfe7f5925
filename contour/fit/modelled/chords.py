"""Chords: groups of facets in one plane, with their vertices and with the groups that they bend softly into."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from contour.fit.modelled.faces import sides_of
from contour.fit.modelled.flat import flat_groups
from contour.mesh.prepare import PreparedScan

__all__ = ["Chords", "chords_of"]

Array = NDArray[np.float64]
Ints = NDArray[np.int64]

SOFT_DEG = 50.0  # between chords of one round surface: a cylinder of eight sides turns by 45


@dataclass(frozen=True, slots=True)
class Chords:
    """group (n,): of each facet · facets, vertices: of the groups one after the other, group k from its offset to the next one ·
    area (g,) mm² · normal, middle (g, 3): of a group of many facets the middle of its largest · near: groups beside a group, the gentlest bend
    first; those that it bends softly into end before soft_end (g,)."""

    group: Ints
    count: int
    facets: Ints
    facet_at: Ints
    vertices: Ints
    vertex_at: Ints
    area: Array
    normal: Array
    middle: Array
    near: Ints
    near_at: Ints
    soft_end: Ints

    def facets_of(self, k: int) -> Ints:
        return self.facets[self.facet_at[k] : self.facet_at[k + 1]]

    def vertices_of(self, k: int) -> Ints:
        return self.vertices[self.vertex_at[k] : self.vertex_at[k + 1]]

    def near_of(self, k: int) -> Ints:
        return self.near[self.near_at[k] : self.near_at[k + 1]]

    @property
    def soft(self) -> NDArray[np.bool_]:
        """Of each of `near`, whether it is a soft bend."""
        return np.arange(len(self.near)) < np.repeat(self.soft_end, np.diff(self.near_at))


def _offsets(keys: Ints, count: int) -> Ints:
    return np.concatenate([[0], np.cumsum(np.bincount(keys, minlength=count))]).astype(np.int64)


def chords_of(scan: PreparedScan, tolerance_mm: float) -> Chords:
    group, count = flat_groups(scan, tolerance_mm)
    facets = np.argsort(group, kind="stable")
    facet_at = _offsets(group, count)
    area = np.asarray(np.bincount(group, scan.areas, count), np.float64)
    total = np.stack([np.bincount(group, scan.areas * scan.normals[:, k], count) for k in range(3)], axis=1)
    normal = np.asarray(total / np.maximum(np.linalg.norm(total, axis=1), 1e-30)[:, None], np.float64)
    moment = np.stack([np.bincount(group, scan.areas * scan.centroids[:, k], count) for k in range(3)], axis=1)
    middle = np.asarray(moment / np.maximum(area, 1e-30)[:, None], np.float64)
    # The middle of a ring is not on it: of larger groups that of the largest facet.
    largest = np.lexsort((-scan.areas, group))[facet_at[:-1]]
    many = (np.diff(facet_at) > 4) | (area <= 1e-30)
    middle[many] = scan.centroids[largest[many]]
    pairs = np.unique(np.repeat(group, 3) * len(scan.vertices) + scan.facets.ravel())
    vertices, owner = pairs % len(scan.vertices), pairs // len(scan.vertices)
    sides = sides_of(scan)
    ga, gb = group[sides.a], group[sides.b]
    apart = ga != gb
    links = np.unique(np.concatenate([ga[apart] * count + gb[apart], gb[apart] * count + ga[apart]]))
    x, y = links // count, links % count
    cosine = np.clip(np.einsum("ij,ij->i", normal[x], normal[y]), -1, 1)
    sine = np.linalg.norm(np.cross(normal[x], normal[y]), axis=1)
    turn = np.degrees(np.arctan2(sine, cosine))
    # The gentlest bend first.
    order = np.lexsort((y, turn, x))
    near_at = _offsets(x, count)
    soft_end = near_at[:-1] + np.bincount(x[turn < SOFT_DEG], minlength=count)
    return Chords(
        group,
        count,
        facets,
        facet_at,
        vertices,
        _offsets(owner, count),
        area,
        normal,
        middle,
        y[order],
        near_at,
        soft_end,
    )
