"""Sharp corner or small fillet: which of the two, rounded off by the scanner, the points around a corner speak for.

A scanner that averages over its surroundings turns a corner of two lines into a curve of known shape; a fillet likewise. Both are
laid through the points of the corner and their misfits compared. How far the scanner averages is taken from the loop itself: its
sharp corners are all rounded alike.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

import numba as nb
import numpy as np
from numpy.typing import NDArray

__all__ = ["Corner", "averaging_of", "corner_of_lines", "cut_straight", "fillet_radius"]

Array = NDArray[np.float64]
_STEP = 0.4  # of the averaging length, between the samples of a rounded corner
_WINDOW_EDGES = 5.0
_USUAL = 0.6  # facet sides that scanners average over (standard deviation), where the loop does not tell
_TRIED = (0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 1.0, 1.15)
_FINE = 1.02  # by what factor a size is settled
_CLEAR = 40.0  # in units of noise: where an even cut differs by so much from a fillet, an uneven one says the same
_ONE_SIZE = 4.0  # what a size more has to gain
_EXPLAINED = 2.0  # times the noise's square: what a corner may miss its points by
_PRICE = 32.0  # what a fillet has to gain: a piece and its radius, and that it is one of many corners looked at

# A fillet smaller than so many facet sides looks much like a corner: it has to gain so many times what it still misses.
_SMALL, _PLAIN = 2.4, 4.0

Corner = tuple[Array, Array, Array, Array]  # place, direction towards it, direction away from it, points around it

_jit = nb.njit(cache=True, nogil=True)


@_jit
def _averaged(raw, h, blur):  # type: ignore[no-untyped-def]
    """Points (n, 2) spaced h apart along a path, each the mean of those around it (a bell of standard deviation blur)."""
    n = len(raw)
    half = int(np.ceil(3.5 * blur / h))
    kernel = np.empty(2 * half + 1)
    for k in range(2 * half + 1):
        kernel[k] = np.exp(-0.5 * ((k - half) * h / blur) ** 2)
    kernel /= kernel.sum()
    out = np.zeros((n - 2 * half, 2))
    for i in range(n - 2 * half):
        for k in range(2 * half + 1):
            out[i, 0] += kernel[k] * raw[i + k, 0]
            out[i, 1] += kernel[k] * raw[i + k, 1]
    return out


@_jit
def _rounded(turn, radius, blur, reach):  # type: ignore[no-untyped-def]
    """Path of a corner at 0 that comes along +x and turns by `turn`, filleted, then averaged over `blur`: (n, 2)."""
    cut = radius * np.tan(abs(turn) / 2)
    arc = radius * abs(turn)
    span = reach + 4 * blur
    h = _STEP * blur
    n = int(np.ceil(2 * span / h)) + 1
    raw = np.empty((n, 2))
    c, s = np.cos(turn), np.sin(turn)
    way = 1.0 if turn > 0 else -1.0
    for i in range(n):
        t = -span + i * h  # along the path, 0 in the middle of the fillet
        if t <= -arc / 2:
            raw[i, 0], raw[i, 1] = t + arc / 2 - cut, 0.0
        elif t > arc / 2:
            rest = t - arc / 2 + cut
            raw[i, 0], raw[i, 1] = rest * c, rest * s
        else:
            a = (t + arc / 2) / radius
            raw[i, 0], raw[i, 1] = -cut + radius * np.sin(a), way * radius * (1 - np.cos(a))
    return _averaged(raw, h, blur)


@_jit
def _bevelled(turn, first, second, blur, reach):  # type: ignore[no-untyped-def]
    """The same for a corner that is cut off straight, from `first` before it to `second` after it: (n, 2)."""
    c, s = np.cos(turn), np.sin(turn)
    across = np.array([first + second * c, second * s])
    long = np.sqrt(across[0] ** 2 + across[1] ** 2)
    span = reach + 4 * blur
    h = _STEP * blur
    n = int(np.ceil(2 * span / h)) + 1
    raw = np.empty((n, 2))
    for i in range(n):
        t = -span + i * h + long / 2  # along the path, 0 where the cut begins
        if t <= 0:
            raw[i, 0], raw[i, 1] = t - first, 0.0
        elif t >= long:
            rest = t - long + second
            raw[i, 0], raw[i, 1] = rest * c, rest * s
        else:
            raw[i, 0], raw[i, 1] = -first + across[0] * t / long, across[1] * t / long
    return _averaged(raw, h, blur)


@_jit
def _misfit(local, path, cap):  # type: ignore[no-untyped-def]
    """Sum of squared distances of points to a path, each no more than the cap."""
    total = 0.0
    for i in range(len(local)):
        best = 1e300
        for k in range(len(path) - 1):
            ax, ay = path[k]
            dx, dy = path[k + 1, 0] - ax, path[k + 1, 1] - ay
            px, py = local[i, 0] - ax, local[i, 1] - ay
            t = min(max((px * dx + py * dy) / (dx * dx + dy * dy + 1e-300), 0.0), 1.0)
            gx, gy = px - t * dx, py - t * dy
            best = min(best, gx * gx + gy * gy)
        total += min(best, cap)
    return total


def corner_of_lines(
    place: Array, before: Array, after: Array, chain: Array, low: int, high: int, edge: float, size: float = 0.0
) -> Corner | None:
    """A corner with the points of the chain around it (places low to high); None where too few are near.

    Points (2,) and chain (n, 2), edge (the mean length of a facet's side), size (how far the corner itself reaches): mm.
    """
    part = chain[max(0, low) : high + 1]
    near = part[np.linalg.norm(part - place, axis=1) < size + _WINDOW_EDGES * edge]
    return (place, before, after, near) if len(near) >= 6 else None


def _local(corner: Corner) -> tuple[Array, float]:
    place, before, after, points = corner
    side = np.array([-before[1], before[0]])
    d = points - place
    return np.column_stack([d @ before, d @ side]), float(np.arctan2(after @ side, after @ before))


def averaging_of(corners: list[Corner], edge: float, sigma: float) -> float:
    """Standard deviation (mm) that the scanner averages over, as the corners of a loop tell it together."""
    if len(corners) < 3:
        return _USUAL * edge
    rows = np.empty((len(corners), len(_TRIED)))
    for i, corner in enumerate(corners):
        local, turn = _local(corner)
        for k, b in enumerate(_TRIED):
            rows[i, k] = _misfit(local, _rounded(turn, 0.0, b * edge, _WINDOW_EDGES * edge), 25 * sigma**2) / len(local)
    # Some of the corners may be fillets: the better half speaks.
    best = np.sort(rows.min(axis=1))[: max(2, (len(corners) + 1) // 2)]
    use = rows[rows.min(axis=1) <= best[-1] + 1e-300]
    # Towards the usual where few corners say little.
    prior = ((np.array(_TRIED) - _USUAL) / 0.15) ** 2 * sigma**2 / 8
    return float(_TRIED[int(np.argmin(use.sum(axis=0) + prior))] * edge)


def fillet_radius(corner: Corner, blur: float, edge: float, sigma: float, longest: float) -> tuple[float, float]:
    """(radius that explains the corner best, 0 for a sharp one; how much better it does than a sharp corner, in units of noise).

    longest: mm, how far a fillet may reach back along either side.
    """
    local, turn = _local(corner)
    cap = 25 * sigma**2
    reach = _WINDOW_EDGES * edge
    sharp = _misfit(local, _rounded(turn, 0.0, blur, reach), cap)
    best, radius = sharp, 0.0
    most = min(longest / max(np.tan(abs(turn) / 2), 1e-6), 12 * edge)
    for r in np.geomspace(1.2 * edge, max(most, 1.3 * edge), 12):
        cost = _misfit(local, _rounded(turn, float(r), blur, reach), cap)
        if cost < best:
            best, radius = cost, float(r)
    gain = (sharp - best) / sigma**2
    plain = radius >= _SMALL * edge or gain * sigma**2 > _PLAIN * best
    return (radius, gain) if gain > _PRICE and plain else (0.0, gain)


def _least(cost: Callable[[float], float], start: float, ratio: float) -> tuple[float, float]:
    """Where a function of a size is least near a start, and what it is there; looked for by factors that become finer."""
    best, at = cost(start), start
    while ratio > _FINE:
        moved = min((cost(at * f), at * f) for f in (1 / ratio, ratio))
        if moved[0] < best:
            best, at = moved
        else:
            ratio = float(np.sqrt(ratio))
    return at, best


def cut_straight(corner: Corner, blur: float, edge: float, sigma: float, size: float) -> float:
    """By how much (in units of noise) a corner is better explained by a straight cut than by a fillet; below 0 the other way round, and 0 where
    neither explains it.

    size: mm, about how far the cut reaches back along either side.
    """
    local, turn = _local(corner)
    cap, reach = 25 * sigma**2, size + _WINDOW_EDGES * edge

    def filleted(radius: float) -> float:
        return float(_misfit(local, _rounded(turn, radius, blur, reach), cap))

    def bevelled(first: float, second: float) -> float:
        return float(_misfit(local, _bevelled(turn, first, second, blur, reach), cap))

    _, fillet = _least(filleted, size / float(np.tan(abs(turn) / 2)), 1.3)
    first, straight = _least(lambda both: bevelled(both, both), size, 1.2)
    second, before = first, np.inf
    while abs(fillet - straight) < _CLEAR * sigma**2 and straight < before - sigma**2:
        before = straight
        first, _ = _least(partial(bevelled, second=second), first, 1.2)
        second, straight = _least(partial(bevelled, first), second, 1.2)
    if min(fillet, straight) > _EXPLAINED * sigma**2 * len(local):
        return 0.0
    # A fillet is one size, a cut two.
    return (fillet - straight) / sigma**2 - _ONE_SIZE
