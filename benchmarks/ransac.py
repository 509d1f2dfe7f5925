"""The usual other way to seed a segmentation: random samples, the best of many candidates, its largest connected piece.

Reference: Schnabel, Wahl & Klein, Efficient RANSAC for point-cloud shape detection, Computer Graphics Forum 26(2), 2007. Everything after the
seeds is the project's own, so that the comparison is of the seeding alone.
"""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

import numba as nb
import numpy as np
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

from contour.fit.primitives import NOISY, face_side, guess, plausible, refine
from contour.fit.segment import whole
from contour.geometry.surface_rows import gap, gap_all

__all__ = ["seeded_by_ransac"]

_PENALTY = np.array([0.0, 0.0, 0.06, 0.12, 0.06, 0.15])


@nb.njit(cache=True, nogil=True)
def _best_of(
    pool, sub, labels, across, centroids, normals, candidates, tolerance, cosine, smallest, largest, seed, best_p
):  # type: ignore[no-untyped-def]
    """Best surface through random walks of six facets; its kind, 0 where none fits."""
    np.random.seed(seed)
    best, kind = -1.0, 0
    ids = np.empty(6, np.int64)
    p, g = np.zeros(9), np.zeros(3)
    reach = (6, 15, 40, 100)
    for _ in range(candidates):
        first = pool[np.random.randint(len(pool))]
        steps = reach[np.random.randint(4)]
        ids[0] = first
        for k in range(1, 6):
            at = first
            for _w in range(steps):
                h = across[at, np.random.randint(3)]
                if h >= 0 and labels[h // 3] < 0:
                    at = h // 3
            ids[k] = at
        for code in range(1, 6):
            if not guess(code, p, centroids, normals, ids, 6, NOISY) or not plausible(code, p, smallest, largest):
                continue
            face_side(code, p, centroids, normals, ids, 6)
            good = True
            for k in range(6):
                d = gap(code, p, centroids[ids[k]], g)
                if abs(d) > 1.5 * tolerance or np.dot(g, normals[ids[k]]) * p[8] < cosine:
                    good = False
                    break
            if not good:
                continue
            count = 0
            for k in range(len(sub)):
                d = gap(code, p, centroids[sub[k]], g)
                if abs(d) < tolerance and np.dot(g, normals[sub[k]]) * p[8] > cosine:
                    count += 1
            value = count * (1 - _PENALTY[code])
            if value > best:
                best, kind = value, code
                best_p[:] = p
    return kind


class _Ransac(whole._Sowing):
    """Takes the first round of growing over; later rounds are the project's own."""

    def round(self, misfit: Any, most: float, sizes: tuple[int, ...], report: Any, span: tuple[float, float]) -> None:
        if self.found:
            return super().round(misfit, most, sizes, report, span)
        scan = self.scan
        sigma = float(np.median(self.sigmas))
        tolerance = whole._REACH * sigma
        rng = np.random.default_rng(0)
        least, failed = 40, 0
        f, k = np.nonzero(scan.across >= 0)
        other = scan.across[f, k] // 3
        for turn in range(250):
            pool = np.flatnonzero(self.labels < 0)
            if len(pool) < least or failed > 12:
                break
            sub = rng.choice(pool, min(3000, len(pool)), replace=False)
            p = np.zeros(9)
            code = _best_of(
                pool,
                sub,
                self.labels,
                scan.across,
                scan.centroids,
                scan.smooth_normals,
                250,
                tolerance,
                whole._COSINE,
                *self.limits,
                turn,
                p,
            )
            piece = np.zeros(0, np.int64)
            for _ in range(3 if code else 0):
                d, g = gap_all(code, p, scan.centroids)
                near = (
                    (np.abs(d) < tolerance)
                    & (np.einsum("ij,ij->i", g, scan.smooth_normals) * p[8] > whole._COSINE)
                    & (self.labels < 0)
                )
                on = near[f] & near[other]
                n = len(scan.facets)
                _, parts = connected_components(
                    coo_matrix((np.ones(on.sum(), np.int8), (f[on], other[on])), shape=(n, n)), directed=False
                )
                counts = np.bincount(parts[near], minlength=1) if near.any() else np.zeros(1)
                piece = np.flatnonzero(near & (parts == int(counts.argmax()))) if near.any() else piece[:0]
                if len(piece) < least:
                    break
                some = piece[np.linspace(0, len(piece) - 1, min(len(piece), 1500)).astype(np.int64)]
                refine(code, p, scan.centroids, some, len(some), 8, 2 * sigma)
                face_side(code, p, scan.centroids, scan.smooth_normals, some, len(some))
            if len(piece) < least or not plausible(code, p, *self.limits):
                failed += 1
                continue
            failed = 0
            self.labels[piece] = self.found
            self.codes[self.found], self.values[self.found] = code, p
            self.found += 1
        return None


@contextmanager
def seeded_by_ransac() -> Iterator[None]:
    """Segmentations in here begin with random samples."""
    own = whole._Sowing
    whole._Sowing = _Ransac  # type: ignore[misc]
    try:
        yield
    finally:
        whole._Sowing = own  # type: ignore[misc]
