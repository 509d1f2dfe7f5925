"""The threaded walls of a scan, found before its surfaces are: no plane, cylinder or cone explains them, and what is tried is in vain.

A thread is rough at the scale of its pitch: normals there spread far about their mean, all over one connected wall. Such walls are
gathered at several scales, finest first, so that holes close to each other stay apart; each is asked whether it winds about an axis
(:mod:`contour.fit.thread.form`), and the facets along the thread that was found are its own.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

from contour.fit.thread.axes import FEWEST
from contour.fit.thread.form import ThreadForm, refitted, thread_form, wall_residuals
from contour.mesh.prepare import PreparedScan

__all__ = ["ThreadedWall", "threaded_walls"]

Ids = NDArray[np.int64]
_SCALES = (2.6, 4.0, 7.0, 12.0, 20.0, 34.0)  # facet sides
_EVEN = 0.92  # length of the mean normal: above it a place is not rough
_NOISIEST = 0.8
_MOST_WALLS = 400


@dataclass(frozen=True, slots=True)
class ThreadedWall:
    """facets (n,) of the prepared scan, sorted; and the thread they are the wall of."""

    facets: Ids
    form: ThreadForm


def _evenness(points: NDArray[np.float64], vectors: NDArray[np.float64], scale: float) -> NDArray[np.float64]:
    """(n,) length of the mean normal around each facet, over cubes of one and a half times the scale. vectors: normal times area."""
    side = scale / 2
    cell = np.floor((points - points.min(axis=0)) / side).astype(np.int64) + 1
    shape = cell.max(axis=0) + 2
    code = (cell[:, 0] * shape[1] + cell[:, 1]) * shape[2] + cell[:, 2]
    known, place = np.unique(code, return_inverse=True)
    area = np.linalg.norm(vectors, axis=1)
    sums = np.column_stack([np.bincount(place, column, len(known)) for column in (*vectors.T, area)])
    around = np.zeros_like(sums)
    for i in (-1, 0, 1):
        for j in (-1, 0, 1):
            for k in (-1, 0, 1):
                beside = known + (i * shape[1] + j) * shape[2] + k
                at = np.minimum(np.searchsorted(known, beside), len(known) - 1)
                there = known[at] == beside
                around[there] += sums[at[there]]
    return np.asarray((np.linalg.norm(around[:, :3], axis=1) / np.maximum(around[:, 3], 1e-300))[place])


def _pieces(scan: PreparedScan, chosen: NDArray[np.bool_]) -> list[Ids]:
    """Connected facets among the chosen ones, largest first."""
    ids = np.flatnonzero(chosen)
    if len(ids) == 0:
        return []
    place = np.full(len(scan.facets) + 1, -1, np.int64)
    place[ids] = np.arange(len(ids))
    other = place[np.where(scan.across[ids] < 0, -1, scan.across[ids] // 3)]
    rows = np.repeat(np.arange(len(ids)), 3)
    kept = other.ravel() >= 0
    links = coo_matrix((np.ones(int(kept.sum()), np.int8), (rows[kept], other.ravel()[kept])), (len(ids), len(ids)))
    count, piece = connected_components(links, directed=False)
    order = np.argsort(piece, kind="stable")
    parts = np.split(ids[order], np.cumsum(np.bincount(piece, minlength=count))[:-1])
    return sorted((p for p in parts if len(p) >= FEWEST), key=lambda p: -len(p))[:_MOST_WALLS]


def _along(scan: PreparedScan, form: ThreadForm, taken: NDArray[np.bool_], seeds: Ids) -> Ids:
    """The facets of a thread's wall: near its form, as far along the axis as it goes, and connected."""
    points = scan.centroids
    d = points - form.point
    z = d @ form.axis
    near = np.flatnonzero((z > form.low - form.pitch) & (z < form.high + form.pitch) & ~taken)
    rest, _ = wall_residuals(form, points[near])
    own = near[np.abs(rest) < 0.35 * form.pitch]
    mark = np.zeros(len(points), np.bool_)
    mark[own] = True
    pieces = _pieces(scan, mark)
    seed = np.zeros(len(points), np.bool_)
    seed[seeds] = True
    return np.sort(np.concatenate([p for p in pieces if seed[p].any()] or [np.zeros(0, np.int64)]))


def _wall(scan: PreparedScan, piece: Ids, taken: NDArray[np.bool_]) -> ThreadedWall | None:
    """The thread of a rough piece with all facets along it, which have to bear it out."""
    told = {"edge_mm": scan.edge_mm, "noise_mm": scan.noise_mm}
    form = thread_form(scan.centroids[piece], scan.normals[piece], scan.areas[piece], **told)
    facets = piece[:0]
    for _ in range(2):
        if form is None:
            return None
        facets = _along(scan, form, taken, piece)
        if len(facets) < FEWEST:
            return None
        form = refitted(form, scan.centroids[facets], scan.normals[facets], scan.areas[facets], **told)
    return None if form is None else ThreadedWall(facets, form)


def threaded_walls(scan: PreparedScan, report: Callable[[float], None] = lambda _: None) -> list[ThreadedWall]:
    """Every threaded hole and stud whose pitch is some three facets or more, largest first. report(share) may raise to stop."""
    vectors = scan.normals * scan.areas[:, None]
    taken = np.zeros(len(scan.facets), np.bool_)
    found: list[ThreadedWall] = []
    size = float(np.linalg.norm(np.ptp(scan.vertices, axis=0)))
    for k, sides in enumerate(_SCALES):
        scale = sides * scan.edge_mm
        if scale > 0.3 * size:
            break
        report(k / len(_SCALES))
        even = _evenness(scan.centroids, vectors, scale)
        calm = float(np.clip(np.percentile(even, 95), _NOISIEST, 1.0))  # noise alone spreads normals too
        rough = (even < _EVEN * calm) & ~taken
        for piece in _pieces(scan, rough):
            wall = _wall(scan, piece, taken)
            if wall is not None:
                taken[wall.facets] = True
                found.append(wall)
    return sorted(found, key=lambda w: -len(w.facets))
