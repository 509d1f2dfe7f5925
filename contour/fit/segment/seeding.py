"""The first pass of a segmentation: surfaces grown from the smoothest facets that no surface has taken yet."""

from __future__ import annotations

import numba as nb
import numpy as np

from contour.fit.growth import grow

__all__ = ["sow"]

_jit = nb.njit(cache=True, nogil=True, fastmath=True)


@_jit
def sow(  # type: ignore[no-untyped-def]
    order,
    begin,
    until,
    sizes,
    across,
    centroids,
    normals,
    areas,
    taken,
    tried,
    labels,
    stamp,
    mark,
    reach,
    sigmas,
    cosine,
    smallest,
    largest,
    least_area,
    penalty,
    codes,
    values,
    found,
):
    """Goes through `order[begin:until]`; writes labels, codes and values of what it accepts from number `found` on. sigmas (n,): by facet, mm; reach:
    how many of the seed's a facet may lie off the surface.

    Every plausible kind is grown from a seed, from the first of the patch sizes that lets it grow; the one that explains most facets, less its penalty and its residual, is kept when
    it is large enough. Returns (surfaces found so far, last mark).
    """
    n = len(taken)
    out = np.empty(n, np.int64)
    best_out = np.empty(n, np.int64)
    seeds = np.empty(1, np.int64)
    p, best_p = np.zeros(9), np.zeros(9)
    kinds = (1, 2, 4, 3, 5)
    for at in range(begin, until):
        seed = order[at]
        if taken[seed] or tried[seed]:
            continue
        if found >= len(codes):
            break
        seeds[0] = seed
        sigma = sigmas[seed]
        best, best_code, best_n = -1.0, 0, 0
        for code in kinds:
            if best_code == 1 and best_n >= 2000 and best > 0.96 * best_n:
                break  # so flat and so large is a plane
            for size in sizes:
                p[:] = 0.0
                m, rms, mark = grow(
                    seeds,
                    code,
                    size,
                    across,
                    centroids,
                    normals,
                    reach * sigma,
                    sigma,
                    cosine,
                    smallest,
                    largest,
                    stamp,
                    mark + 1,
                    taken,
                    p,
                    out,
                )
                if m < 12:
                    continue
                score = m * (1 - penalty[code]) * (1 - 0.05 * min(rms / sigma, 3.0))
                if score > best:
                    best, best_code, best_n = score, code, m
                    best_p[:] = p
                    best_out[:m] = out[:m]
                break
        area = 0.0
        for i in range(best_n):
            area += areas[best_out[i]]
        if best_n < 12 or area < least_area:
            # What could not grow from here will not grow from next door either.
            tried[seed] = 1
            for k in range(3):
                if across[seed, k] >= 0:
                    g = across[seed, k] // 3
                    tried[g] = 1
                    for k2 in range(3):
                        if across[g, k2] >= 0:
                            tried[across[g, k2] // 3] = 1
            continue
        for i in range(best_n):
            labels[best_out[i]] = found
            taken[best_out[i]] = 1
        codes[found] = best_code
        values[found] = best_p
        found += 1
    return found, mark
