"""Growing one surface over facets: a small patch says what it may be, then growing alternates with refitting while the region
doubles. Numba kernels, shared by the click on the scan and by the whole-scan segmentation."""

from __future__ import annotations

import numba as nb
import numpy as np

from contour.fit.primitives import NOISY, face_side, guess, plausible, refine
from contour.geometry.surface_rows import CONE, CYLINDER, gap

__all__ = ["MOST_SAMPLED", "grow", "patch", "spread"]

MOST_SAMPLED = 1500
# A function is compiled anew for every plain constant that it is called with; what is of NumPy is a variable to it.
_CYLINDER, _CONE = np.int64(CYLINDER), np.int64(CONE)
_FIRST, _OF_CONE, _AGAIN = np.int64(12), np.int64(15), np.int64(6)  # rounds

_jit = nb.njit(cache=True, nogil=True, fastmath=True)


@_jit
def patch(seed, size, across, normals, barred, stamp, mark, out):  # type: ignore[no-untyped-def]
    """Connected facets around a seed that turn less than 41 degrees from it; how many were found."""
    out[0] = seed
    stamp[seed] = mark
    n, head = 1, 0
    while head < n and n < size:
        f = out[head]
        head += 1
        for k in range(3):
            if across[f, k] < 0:
                continue
            g = across[f, k] // 3
            if stamp[g] != mark and n < size and barred[g] == 0:
                stamp[g] = mark
                turn = 0.0
                for d in range(3):
                    turn += normals[g, d] * normals[seed, d]
                if turn > 0.75:
                    out[n] = g
                    n += 1
    return n


@_jit
def spread(starts, count, code, p, across, centroids, normals, tolerance, cosine, most, stamp, mark, barred, out):  # type: ignore[no-untyped-def]
    """Facets connected to the starts that lie on the surface and face its way; how many, up to `most`."""
    g = np.zeros(3)
    n = 0
    for i in range(count):
        f = starts[i]
        if stamp[f] != mark and barred[f] == 0:
            stamp[f] = mark
            out[n] = f
            n += 1
    head = 0
    while head < n and n < most:
        f = out[head]
        head += 1
        for k in range(3):
            if across[f, k] < 0:
                continue
            q = across[f, k] // 3
            if stamp[q] != mark and barred[q] == 0:
                stamp[q] = mark
                d = gap(code, p, centroids[q], g)
                if abs(d) < tolerance:
                    turn = (g[0] * normals[q, 0] + g[1] * normals[q, 1] + g[2] * normals[q, 2]) * p[8]
                    if turn > cosine:
                        out[n] = q
                        n += 1
    return n


@_jit
def _first_fit(code, p, centroids, normals, ids, n):  # type: ignore[no-untyped-def]
    """Guess and fit; a cone also begins from the cylinder nearest to it and keeps the better of the two."""
    found = guess(code, p, centroids, normals, ids, n, NOISY)
    if code != CONE:
        if found:
            refine(code, p, centroids, ids, n, _FIRST, 0.0)
        return found
    rms = 1e300
    if found:
        rms = refine(_CONE, p, centroids, ids, n, _OF_CONE, 0.0)
    other = np.zeros(9)
    if guess(_CYLINDER, other, centroids, normals, ids, n, NOISY):
        other[7] = 0.0
        if refine(_CONE, other, centroids, ids, n, _OF_CONE, 0.0) < rms:
            p[:] = other
        return True
    return found


@_jit
def grow(  # type: ignore[no-untyped-def]
    seeds,
    code,
    patch_size,
    across,
    centroids,
    normals,
    tolerance,
    sigma,
    cosine,
    smallest,
    largest,
    stamp,
    mark,
    barred,
    p,
    out,
):
    """Grow one kind from the seeds, the first of which decides. Returns (facets found, 0 when it cannot be this kind; rms; the
    last mark used on `stamp`, whose marks must be smaller than `mark` before)."""
    start = np.empty(patch_size, np.int64)
    first = patch(seeds[0], patch_size, across, normals, barred, stamp, mark, start)
    if first < 6 or not _first_fit(code, p, centroids, normals, start, first):
        return 0, 0.0, mark
    if not plausible(code, p, smallest, largest):
        return 0, 0.0, mark
    face_side(code, p, centroids, normals, start, first)
    most, last, rms, n = 2 * first, 0, 0.0, 0
    sample = np.empty(MOST_SAMPLED, np.int64)
    for _ in range(24):
        mark += 1
        n = spread(
            seeds, len(seeds), code, p, across, centroids, normals, tolerance, cosine, most, stamp, mark, barred, out
        )
        if n < 6:
            return 0, 0.0, mark
        m = min(n, MOST_SAMPLED)
        for i in range(m):
            sample[i] = out[(i * n) // m]
        rms = refine(code, p, centroids, sample, m, _AGAIN, 2 * sigma)
        if not plausible(code, p, smallest, largest):
            return 0, 0.0, mark
        face_side(code, p, centroids, normals, sample, m)
        if n < most and abs(n - last) <= 0.01 * n:
            break
        last = n
        if n >= most:
            most = 2 * n
    return n, rms, mark
