"""Narrow flats that a round runs out into.

A round ends where the face beside it begins, and both are tangent there: a wall of a few facets' width beside a rounded corner has
hardly an inside to grow from, and the round reaches over it. But the round says what that wall can be: a plane tangent to its
cylinder at some angle. Each is held against the facets around; it becomes a region when it explains enough of them clearly better.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from contour.fit.segment.labels import depth_of
from contour.fit.segment.merging import Draft
from contour.fit.segment.narrow import FEWEST, LEAST_GAIN, cost_of, own_cost, pieces_of, unheld
from contour.geometry.surface_rows import CYLINDER, PLANE, across_axis

__all__ = ["follow_rounds", "part_run_outs"]

_GRID = np.radians(4.0)
_SWING = np.radians(np.arange(-8, 8.1, 0.5))  # how far a plane may roll around its round when both are fitted again


def _tangent(p: NDArray[np.float64], n: NDArray[np.float64]) -> NDArray[np.float64]:
    """The plane that touches a cylinder where its normal is n, facing as the cylinder does."""
    return np.array([*(p[:3] + p[6] * n), *n, 0.0, 0.0, p[8]])


def _tangent_planes(p: NDArray[np.float64], rim: NDArray[np.float64]) -> Iterator[NDArray[np.float64]]:
    """Planes that a round may run out into at the points of its rim."""
    u, v = np.zeros(3), np.zeros(3)
    across_axis(p[3:6], u, v)
    w = rim - p[:3]
    for step in np.unique(np.round(np.arctan2(w @ v, w @ u) / _GRID).astype(int)):
        yield _tangent(p, np.cos(step * _GRID) * u + np.sin(step * _GRID) * v)


def _goes_around(p: NDArray[np.float64], points: NDArray[np.float64]) -> bool:
    """A bore or a shaft, which nothing runs out of sideways."""
    u, v = np.zeros(3), np.zeros(3)
    across_axis(p[3:6], u, v)
    w = points - p[:3]
    return np.unique(np.round(np.arctan2(w @ v, w @ u) / _GRID)).size * _GRID > np.radians(330)


def _explained(
    draft: Draft, plane: NDArray[np.float64], near: NDArray[np.int64], cost: NDArray[np.float64]
) -> tuple[float, NDArray[np.int64]]:
    """(what is gained, the facets of `near` that the plane explains better than their own surfaces do)."""
    scan = draft.scan
    d = (scan.centroids[near] - plane[:3]) @ plane[3:6]
    turn = (scan.smooth_normals[near] @ plane[3:6]) * plane[8]
    gain = cost[near] - cost_of(d, turn, draft.sigma)
    mine = (gain > 0) & (np.abs(d) < draft.tolerance)
    return float(gain[mine].sum()), near[mine]


def part_run_outs(draft: Draft, least_area: float) -> int:
    """Gives narrow flats that rounds have reached over labels of their own; returns how many. least_area mm²."""
    scan, found = draft.scan, 0
    cost = own_cost(draft)
    poor = np.flatnonzero(unheld(draft) & (cost > 0.5))
    for k, facets in enumerate(draft.facets_by_label()):
        p = draft.values[k]
        if draft.codes[k] != CYLINDER or len(facets) < FEWEST or _goes_around(p, scan.centroids[facets]):
            continue
        depth = depth_of((draft.labels == k).astype(np.int64), scan.across, 2)
        rim = scan.centroids[facets[depth[facets] == 0]]
        low, high = scan.centroids[facets].min(axis=0) - p[6], scan.centroids[facets].max(axis=0) + p[6]
        near = poor[((scan.centroids[poor] > low) & (scan.centroids[poor] < high)).all(axis=1)]
        while True:
            tried = [(*_explained(draft, plane, near, cost), plane) for plane in _tangent_planes(p, rim)]
            gain, mine, plane = max(tried, key=lambda row: row[0], default=(0.0, near[:0], p))
            if gain < LEAST_GAIN or len(mine) < FEWEST:
                break
            mine, inside = pieces_of(draft, mine)[0]
            cost[mine] = 0.0  # tried once
            area, touching = float(scan.areas[mine].sum()), (draft.labels[mine] == k).mean()
            if len(mine) < FEWEST or touching < 0.25 or area < least_area or (inside >= 1).mean() < 0.4:
                continue
            new = draft.new_label(PLANE)
            draft.values[new], draft.rms[new], draft.follows[new] = plane, draft.sigma, k
            draft.labels[mine] = new
            found += 1
    return found


def follow_rounds(draft: Draft) -> None:
    """Planes that rounds run out into, after the rounds were fitted again: too narrow to say themselves how they lie."""
    for k in np.flatnonzero((draft.follows >= 0) & (draft.codes == PLANE)):
        p, n = draft.values[draft.follows[k]], draft.values[k, 3:6]
        across = n - (n @ p[3:6]) * p[3:6]
        if draft.codes[draft.follows[k]] != CYLINDER or np.linalg.norm(across) < 0.7:
            continue
        across /= np.linalg.norm(across)
        side = np.cross(p[3:6], across)
        points = draft.scan.centroids[draft.labels == k] - p[:3]
        turned = [np.cos(t) * across + np.sin(t) * side for t in _SWING]
        off = [float(np.minimum(np.abs(points @ m - p[6]), draft.sigma).sum()) for m in turned]
        draft.values[k] = _tangent(p, turned[int(np.argmin(off))])
