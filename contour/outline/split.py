"""Splitting a polyline into lines, arcs and free pieces by dynamic programming over break points.

The cheapest split wins: misfit in units of noise plus a price per piece. Between two pieces a few points may be left
to the corner: scanners round corners off, and without that a softened corner would become a small arc of its own.
"""

from __future__ import annotations

import numba as nb
import numpy as np
from numpy.typing import NDArray

__all__ = ["ARC", "ELLIPSE", "FREE", "LINE", "PRICES", "fit_circle", "split_chain"]

LINE, ARC, FREE, ELLIPSE = 1, 2, 3, 4  # the last is never split off: it takes the place of arcs and free pieces
_PRICE_LINE, _PRICE_ARC, _PRICE_FREE = 25.0, 29.0, 45.0
PRICES = {LINE: _PRICE_LINE, ARC: _PRICE_ARC, FREE: _PRICE_FREE, ELLIPSE: 37.0}
_FREE_PER_POINT = 1.35  # a free piece spends a parameter on every point or so, on top of its misfit
# A side between two corners that a scan has rounded looks a little bowed: arcs this shallow and wide, in facet sides, must be worth more.
_PRICE_SHALLOW, _SHALLOW, _WIDE = 12.0, 0.35, 9.0
_SKIP = 3.0  # a point left to a corner costs as much as three that fit

_jit = nb.njit(cache=True, nogil=True)


@_jit
def _sums(points, weights):  # type: ignore[no-untyped-def]
    n = len(points)
    out = np.zeros((n + 1, 9))
    for i in range(n):
        x, y, w = points[i, 0], points[i, 1], weights[i]
        z = x * x + y * y
        row = (w, w * x, w * y, w * x * x, w * x * y, w * y * y, w * x * z, w * y * z, w * z * z)
        for k in range(9):
            out[i + 1, k] = out[i, k] + row[k]
    return out


@_jit
def _line_misfit(sums, i, j):  # type: ignore[no-untyped-def]
    """Weighted sum of squared distances of points i..j to their best line."""
    w = sums[j + 1, 0] - sums[i, 0]
    mx, my = (sums[j + 1, 1] - sums[i, 1]) / w, (sums[j + 1, 2] - sums[i, 2]) / w
    a = (sums[j + 1, 3] - sums[i, 3]) / w - mx * mx
    b = (sums[j + 1, 4] - sums[i, 4]) / w - mx * my
    c = (sums[j + 1, 5] - sums[i, 5]) / w - my * my
    half = (a + c) / 2
    root = np.sqrt(((a - c) / 2) ** 2 + b * b)
    return max(half - root, 0.0) * w


@_jit
def _circle(sums, i, j, out):  # type: ignore[no-untyped-def]
    """Least-squares circle of points i..j (Kasa 1976): centre and radius in out[0:3], weighted sum of squared
    distances (to first order in distance over radius) in out[3]. False when they are straight."""
    w = sums[j + 1, 0] - sums[i, 0]
    mx, my = (sums[j + 1, 1] - sums[i, 1]) / w, (sums[j + 1, 2] - sums[i, 2]) / w
    xx, xy, yy = (sums[j + 1, 3] - sums[i, 3]) / w, (sums[j + 1, 4] - sums[i, 4]) / w, (sums[j + 1, 5] - sums[i, 5]) / w
    xz, yz = (sums[j + 1, 6] - sums[i, 6]) / w, (sums[j + 1, 7] - sums[i, 7]) / w
    zz = (sums[j + 1, 8] - sums[i, 8]) / w
    m2 = mx * mx + my * my
    z = xx + yy - m2
    a, b, c = xx - mx * mx, xy - mx * my, yy - my * my
    ex = xz - 2 * mx * xx - 2 * my * xy + m2 * mx - mx * z
    ey = yz - 2 * mx * xy - 2 * my * yy + m2 * my - my * z
    det = a * c - b * b
    if det < 1e-14 * (a + c) ** 2 or det <= 0:
        return False
    cx, cy = (ex * c - ey * b) / det / 2, (ey * a - ex * b) / det / 2
    r2 = cx * cx + cy * cy + a + c
    out[0], out[1], out[2] = mx + cx, my + cy, np.sqrt(r2)
    # Every point speaks: a sample of them would let the search pick pieces whose sample happens to fit.
    spread = zz + 4 * (mx * mx * xx + my * my * yy + 2 * mx * my * xy) - 3 * m2 * m2
    spread += -4 * (mx * xz + my * yz) + 2 * m2 * (xx + yy) - z * z
    out[3] = max(spread - 2 * (cx * ex + cy * ey), 0.0) / (4 * r2) * w
    return True


@_jit
def _rough(points, along, reach, closed):  # type: ignore[no-untyped-def]
    """Mean squared distance of the points around each point to their own cubic: large where a curve has a corner."""
    n = len(points)
    out = np.zeros(n)
    length = along[n - 1]
    for i in range(n):
        rows = np.zeros((4, 4))
        right = np.zeros((4, 2))
        squares = 0.0
        count = 0
        for turn in range(2):  # walk both ways from i, round the seam of a closed chain
            k, base = i, 0.0
            while True:
                t = (along[k] + base - along[i]) / reach
                if abs(t) > 1:
                    break
                if turn == 0 or k != i or base != 0.0:
                    power = (1.0, t, t * t, t * t * t)
                    for a in range(4):
                        for d in range(2):
                            right[a, d] += power[a] * (points[k, d] - points[i, d])
                        for b in range(4):
                            rows[a, b] += power[a] * power[b]
                    for d in range(2):
                        squares += (points[k, d] - points[i, d]) ** 2
                    count += 1
                k += 1 if turn == 0 else -1
                if k == n or k < 0:
                    if not closed:
                        break
                    base += length if k == n else -length
                    k = 1 if k == n else n - 2
        if count < 7:
            out[i] = 1e300  # too few to tell a smooth curve from a corner: not a free piece
            continue
        for a in range(4):
            rows[a, a] += 1e-9 * count
        c = np.linalg.solve(rows, right)
        rest = squares
        for a in range(4):
            for d in range(2):
                rest -= c[a, d] * right[a, d]
        out[i] = max(rest, 0.0) / (count - 4)
    return out


@_jit
def _split(points, weights, along, sigma, corner, smallest, largest, end_skip, reach, closed, edge):  # type: ignore[no-untyped-def]
    n = len(points)
    sums = _sums(points, weights)
    rough = np.zeros(n + 1)
    for i, r in enumerate(_rough(points, along, reach, closed)):
        rough[i + 1] = rough[i] + weights[i] * min(r / (sigma * sigma) + _FREE_PER_POINT, 1e6)
    best_end = np.full(n, 1e300)  # cheapest cover of 0..b that ends a piece at b
    from_start = np.full(n, -1, np.int64)
    kind_at = np.zeros(n, np.int64)
    best_start = np.full(n, 1e300)  # cheapest cover before a piece that starts at a
    prev_end = np.full(n, -1, np.int64)
    circle = np.empty(4)
    scale = 1.0 / (sigma * sigma)
    for b in range(n):
        # More points never fit better: once a line (an arc) over a..b costs more than all of 0..b need, none over more will do.
        line, arc = True, True
        for a in range(b - 1, -1, -1):
            base = best_start[a]
            if base > 1e299 or base + _PRICE_LINE >= best_end[b]:
                continue
            if line:
                misfit = _PRICE_LINE + _line_misfit(sums, a, b) * scale
                if base + misfit < best_end[b]:
                    best_end[b], from_start[b], kind_at[b] = base + misfit, a, LINE
                line = misfit < best_end[b]
            if arc and b - a >= 3 and base + _PRICE_ARC < best_end[b] and _circle(sums, a, b, circle):
                long = along[b] - along[a]
                if smallest <= circle[2] <= largest and long < 6.2 * circle[2]:
                    cost = base + _PRICE_ARC + circle[3] * scale
                    if circle[2] > _WIDE * edge and long * long < 8 * circle[2] * _SHALLOW * edge:
                        cost += _PRICE_SHALLOW
                    if cost < best_end[b]:
                        best_end[b], from_start[b], kind_at[b] = cost, a, ARC
                arc = circle[3] * scale < 2 * best_end[b]
            if b - a >= 24:
                cost = base + _PRICE_FREE + rough[b + 1] - rough[a]
                if cost < best_end[b]:
                    best_end[b], from_start[b], kind_at[b] = cost, a, FREE
        # a piece may start at b: straight on from a piece that ends here, or after a corner
        if along[b] - along[0] <= end_skip:
            best_start[b] = _SKIP * (sums[b, 0] - sums[0, 0])
            prev_end[b] = -1
        for e in range(b, -1, -1):
            if along[b] - along[e] > corner:
                break
            if best_end[e] > 1e299:
                continue
            skipped = sums[b, 0] - sums[e + 1, 0] if b > e else 0.0
            cost = best_end[e] + _SKIP * max(skipped, 0.0)
            if cost < best_start[b]:
                best_start[b] = cost
                prev_end[b] = e
    last, whole = n - 1, 1e300
    for e in range(n - 1, -1, -1):
        if along[n - 1] - along[e] > end_skip:
            break
        cost = best_end[e] + _SKIP * (sums[n, 0] - sums[e + 1, 0])
        if cost < whole:
            whole, last = cost, e
    pieces = np.empty((n, 3), np.int64)
    count = 0
    e = last
    while e >= 0 and whole < 1e299:
        a = from_start[e]
        pieces[count, 0], pieces[count, 1], pieces[count, 2] = kind_at[e], a, e
        count += 1
        e = prev_end[a]
    return pieces[:count][::-1].copy(), whole


def split_chain(
    points: NDArray[np.float64],
    weights: NDArray[np.float64],
    *,
    sigma_mm: float,
    corner_mm: float,
    smallest_mm: float,
    largest_mm: float,
    end_skip_mm: float,
    edge_mm: float,
    closed: bool,
) -> tuple[list[tuple[int, int, int]], float]:
    """Pieces (kind, first point, last point) of an open chain of points (n, 2), and what the split costs.

    corner_mm: how much of the chain a corner may swallow · smallest_mm, largest_mm: radii of arcs · end_skip_mm: how
    much may be left out at either end of the chain · closed: the last point is the first again.
    """
    centred = np.ascontiguousarray(points - points.mean(axis=0))
    chords = np.linalg.norm(np.diff(points, axis=0), axis=1)
    along = np.concatenate([[0.0], np.cumsum(chords)])
    reach = max(4 * edge_mm, 5 * float(np.median(chords)))
    pieces, cost = _split(
        centred, weights, along, sigma_mm, corner_mm, smallest_mm, largest_mm, end_skip_mm, reach, closed, edge_mm
    )
    return [(int(k), int(a), int(b)) for k, a, b in pieces], float(cost)


@_jit
def _settle_circle(points, p):  # type: ignore[no-untyped-def]
    """Gauss-Newton on the distance (the algebraic circle comes out small on short noisy arcs); p is changed, rms returned."""
    n = len(points)
    squares = 0.0
    for turn in range(9):
        h = np.zeros((3, 3))
        g = np.zeros(3)
        squares = 0.0
        for i in range(n):
            dx, dy = points[i, 0] - p[0], points[i, 1] - p[1]
            rho = np.sqrt(dx * dx + dy * dy) + 1e-300
            f = rho - p[2]
            row = (-dx / rho, -dy / rho, -1.0)
            squares += f * f
            for a in range(3):
                g[a] += row[a] * f
                for b in range(3):
                    h[a, b] += row[a] * row[b]
        if turn == 8:
            break
        for a in range(3):
            h[a, a] += 1e-13 * n
        step = np.linalg.solve(h, -g)
        p += step
        if np.abs(step).max() < 1e-10 * (1.0 + np.abs(p[2])):
            break
    return np.sqrt(squares / n)


def fit_circle(points: NDArray[np.float64]) -> tuple[NDArray[np.float64], float, float] | None:
    """Geometric least-squares circle of (n, 2) points: centre, radius, rms. None when they are straight."""
    shift = points.mean(axis=0)
    local = np.ascontiguousarray(points - shift)
    out = np.empty(4)
    if len(points) < 3 or not _circle(_sums(local, np.ones(len(local))), 0, len(local) - 1, out):
        return None
    p = out[:3].copy()
    rms = _settle_circle(local, p)
    if not np.isfinite(p).all() or p[2] <= 0:
        return None
    return p[:2] + shift, float(p[2]), float(rms)
