"""Labels on facets: which touch, how deep a facet lies inside its region, pieces, and the contest for facets at borders."""

from __future__ import annotations

import numba as nb
import numpy as np
from numpy.typing import NDArray

from contour.geometry.surface_rows import gap

__all__ = ["FREE", "borders", "depth_of", "flood", "pieces", "relabel"]

FREE = 6  # code of a freeform region: no surface of its own

_jit = nb.njit(cache=True, nogil=True, fastmath=True)


@_jit
def depth_of(labels, across, most):  # type: ignore[no-untyped-def]
    """(n,) rings between a facet and the border of its region or of the scan, up to `most`."""
    n = len(labels)
    depth = np.full(n, most, np.int32)
    queue = np.empty(n, np.int64)
    tail = 0
    for f in range(n):
        for k in range(3):
            if across[f, k] < 0 or labels[across[f, k] // 3] != labels[f]:
                depth[f] = 0
                queue[tail] = f
                tail += 1
                break
    head = 0
    while head < tail:
        f = queue[head]
        head += 1
        if depth[f] + 1 >= most:
            continue
        for k in range(3):
            if across[f, k] >= 0:
                g = across[f, k] // 3
                if depth[g] > depth[f] + 1:
                    depth[g] = depth[f] + 1
                    queue[tail] = g
                    tail += 1
    return depth


@_jit
def pieces(labels, across):  # type: ignore[no-untyped-def]
    """(n,) number of the connected piece of equal labels that each facet lies in, and how many there are."""
    n = len(labels)
    out = np.full(n, -1, np.int64)
    stack = np.empty(n, np.int64)
    count = 0
    for i in range(n):
        if out[i] >= 0:
            continue
        out[i] = count
        stack[0] = i
        m = 1
        while m > 0:
            m -= 1
            f = stack[m]
            for k in range(3):
                if across[f, k] >= 0:
                    g = across[f, k] // 3
                    if out[g] < 0 and labels[g] == labels[f]:
                        out[g] = count
                        stack[m] = g
                        m += 1
        count += 1
    return out, count


@_jit
def flood(labels, across, codes):  # type: ignore[no-untyped-def]
    """Grows labels into facets that have none, ring by ring; surfaces go before freeform regions."""
    n = len(labels)
    while True:
        found = np.empty(n, np.int64)
        given = np.empty(n, np.int64)
        m = 0
        for f in range(n):
            if labels[f] >= 0:
                continue
            best = -1
            for k in range(3):
                if across[f, k] >= 0:
                    q = labels[across[f, k] // 3]
                    if q >= 0 and (best < 0 or (codes[best] == 6 and codes[q] != 6)):
                        best = q
            if best >= 0:
                found[m] = f
                given[m] = best
                m += 1
        if m == 0:
            return
        for i in range(m):
            labels[found[i]] = given[i]


def borders(labels: NDArray[np.int64], across: NDArray[np.int32]) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """(a, b): facets on either side of every side at which labels differ, each side seen from both."""
    a = np.repeat(np.arange(len(labels)), 3)
    b = across.ravel().astype(np.int64) // 3
    keep = across.ravel() >= 0
    a, b = a[keep], b[keep]
    differ = labels[a] != labels[b]
    return a[differ], b[differ]


@_jit
def relabel(  # type: ignore[no-untyped-def]
    labels, across, centroids, normals, codes, values, misfit, fixed, sigmas, sigma_normal, weight, cap, rounds
):
    """Iterated conditional modes (Besag 1986): a facet at a border takes the neighbour's label that costs less.

    sigmas (n,): of each facet, mm. Cost: d²/2σ² + θ²/2σn², capped softly so that inside rounded edges the nearer surface still wins, and a price for every side
    at which labels differ, small where the scan itself turns. A freeform region costs what its surroundings' misfit says.
    """
    n = len(labels)
    g = np.zeros(3)
    for it in range(rounds):
        changed = 0
        for step in range(n):
            f = step if it % 2 == 0 else n - 1 - step
            own = labels[f]
            if fixed[f]:
                continue
            differs = own < 0
            for k in range(3):
                if across[f, k] >= 0 and labels[across[f, k] // 3] != own:
                    differs = True
            if not differs:
                continue
            best, chosen = 1e300, own
            for c in range(4):
                label = own
                if c < 3:
                    label = labels[across[f, c] // 3] if across[f, c] >= 0 else -1
                if label < 0:
                    continue
                if codes[label] == 6:
                    cost = min(2.0 + 1.5 * (misfit[f] / 0.06) ** 2, 1.5 * cap)
                else:
                    d = gap(codes[label], values[label], centroids[f], g)
                    turn = (g[0] * normals[f, 0] + g[1] * normals[f, 1] + g[2] * normals[f, 2]) * values[label, 8]
                    cost = d * d / (2 * sigmas[f] * sigmas[f]) + (2 - 2 * turn) / (2 * sigma_normal * sigma_normal)
                    if cost > cap:
                        cost = cap + 0.02 * cost
                for k in range(3):
                    if across[f, k] < 0:
                        continue
                    q = across[f, k] // 3
                    if labels[q] != label:
                        bend = 1.0
                        for d2 in range(3):
                            bend -= normals[f, d2] * normals[q, d2]
                        cost += weight * (np.exp(-bend / 0.03) + 0.05)
                if cost < best:
                    best, chosen = cost, label
            if chosen != own:
                labels[f] = chosen
                changed += 1
        if changed == 0:
            break
