"""Rational B-spline surfaces as flat arrays, for compiled loops: values, derivatives and the foot of a point.

A surface is a head of seven whole numbers (degrees along u and v, poles along u and v, where its numbers begin in the data, whether it
closes along u and along v) and its numbers in a row shared with others: knots along u, knots along v (each as often as it counts),
then per pole ``w x, w y, w z, w`` with v running fastest. Basis functions after Piegl & Tiller, The NURBS Book, A2.3 and A4.4.
"""

from __future__ import annotations

import numba as nb
import numpy as np
from numpy.typing import NDArray

__all__ = ["HEAD", "evaluate", "foot", "packed"]

Array = NDArray[np.float64]

HEAD = 7
_ROUNDS = 60

_jit = nb.njit(cache=True, nogil=True)


def packed(
    degrees: tuple[int, int],
    knots_u: Array,
    knots_v: Array,
    poles: Array,
    weights: Array,
    closed: tuple[bool, bool],
    begin: int,
) -> tuple[NDArray[np.int64], Array]:
    """(Head (7,) i64, numbers (k,) f64) of a surface.

    degrees (2,) · knots as often as each counts · poles (nu, nv, 3) mm · weights (nu, nv) · closed (2,) · begin: where its numbers
    will stand in the shared row.
    """
    nu, nv = weights.shape
    head = np.array([*degrees, nu, nv, begin, *(int(c) for c in closed)], np.int64)
    rows = np.concatenate([poles * weights[..., None], weights[..., None]], axis=2)
    return head, np.concatenate([knots_u, knots_v, rows.reshape(-1)])


@_jit
def _basis(data, at, degree, count, t, out):  # type: ignore[no-untyped-def]
    """Values and first two derivatives of the basis functions that are not nothing at t, into out (3, degree + 1); returns the number
    of the first of them."""
    low, high = degree, count
    if t >= data[at + count]:
        span = count - 1
        while data[at + span] >= data[at + count] and span > degree:
            span -= 1
    else:
        while high - low > 1:
            middle = (low + high) // 2
            if t < data[at + middle]:
                high = middle
            else:
                low = middle
        span = low
    table = np.zeros((degree + 1, degree + 1))
    left, right = np.zeros(degree + 1), np.zeros(degree + 1)
    table[0, 0] = 1.0
    for j in range(1, degree + 1):
        left[j] = t - data[at + span + 1 - j]
        right[j] = data[at + span + j] - t
        saved = 0.0
        for r in range(j):
            table[j, r] = right[r + 1] + left[j - r]
            term = table[r, j - 1] / table[j, r]
            table[r, j] = saved + right[r + 1] * term
            saved = left[j - r] * term
        table[j, j] = saved
    for j in range(degree + 1):
        out[0, j] = table[j, degree]
        out[1, j] = 0.0
        out[2, j] = 0.0
    a = np.zeros((2, degree + 1))
    for r in range(degree + 1):
        s1, s2 = 0, 1
        a[0, 0] = 1.0
        for k in range(1, min(2, degree) + 1):
            d = 0.0
            rk, pk = r - k, degree - k
            if r >= k:
                a[s2, 0] = a[s1, 0] / table[pk + 1, rk]
                d = a[s2, 0] * table[rk, pk]
            first = 1 if rk >= -1 else -rk
            last = k - 1 if r - 1 <= pk else degree - r
            for j in range(first, last + 1):
                a[s2, j] = (a[s1, j] - a[s1, j - 1]) / table[pk + 1, rk + j]
                d += a[s2, j] * table[rk + j, pk]
            if r <= pk:
                a[s2, k] = -a[s1, k - 1] / table[pk + 1, r]
                d += a[s2, k] * table[r, pk]
            out[k, r] = d
            s1, s2 = s2, s1
    factor = float(degree)
    for k in range(1, min(2, degree) + 1):
        for j in range(degree + 1):
            out[k, j] *= factor
        factor *= degree - k
    return span - degree


@_jit
def evaluate(head, data, u, v, out):  # type: ignore[no-untyped-def]
    """Place and derivatives along u, v, uu, uv, vv into out (6, 3); mm and mm per parameter."""
    pu, pv, nu, nv, at = head[0], head[1], head[2], head[3], head[4]
    along, across = np.empty((3, pu + 1)), np.empty((3, pv + 1))
    first_u = _basis(data, at, pu, nu, u, along)
    first_v = _basis(data, at + nu + pu + 1, pv, nv, v, across)
    poles = at + nu + pu + 1 + nv + pv + 1
    sums = np.zeros((6, 4))
    inner = np.zeros((3, 4))
    for i in range(pu + 1):
        inner[:] = 0.0
        for j in range(pv + 1):
            q = poles + 4 * ((first_u + i) * nv + first_v + j)
            for d in range(4):
                inner[0, d] += across[0, j] * data[q + d]
                inner[1, d] += across[1, j] * data[q + d]
                inner[2, d] += across[2, j] * data[q + d]
        for d in range(4):
            sums[0, d] += along[0, i] * inner[0, d]
            sums[1, d] += along[1, i] * inner[0, d]
            sums[2, d] += along[0, i] * inner[1, d]
            sums[3, d] += along[2, i] * inner[0, d]
            sums[4, d] += along[1, i] * inner[1, d]
            sums[5, d] += along[0, i] * inner[2, d]
    w = sums[0, 3]
    for d in range(3):
        out[0, d] = sums[0, d] / w
        out[1, d] = (sums[1, d] - sums[1, 3] * out[0, d]) / w
        out[2, d] = (sums[2, d] - sums[2, 3] * out[0, d]) / w
        out[3, d] = (sums[3, d] - 2 * sums[1, 3] * out[1, d] - sums[3, 3] * out[0, d]) / w
        out[4, d] = (sums[4, d] - sums[1, 3] * out[2, d] - sums[2, 3] * out[1, d] - sums[4, 3] * out[0, d]) / w
        out[5, d] = (sums[5, d] - 2 * sums[2, 3] * out[2, d] - sums[5, 3] * out[0, d]) / w


@_jit
def _within(t, first, last, closed):  # type: ignore[no-untyped-def]
    """t brought into the surface: round the seam of a closed one, else to its end."""
    if first <= t <= last:
        return t
    if closed:
        return first + (t - first) % (last - first)
    return min(max(t, first), last)


@_jit
def foot(head, data, px, py, pz, uv, out):  # type: ignore[no-untyped-def]
    """The place of the surface nearest to a point, from a place near it: parameters in uv (2,) are bettered, out (6, 3) is what
    :func:`evaluate` says there. Returns the squared distance. Newton on the distance, with steps halved until they better it."""
    pu, pv, nu, nv, at = head[0], head[1], head[2], head[3], head[4]
    first_u, last_u = data[at + pu], data[at + nu]
    other = at + nu + pu + 1
    first_v, last_v = data[other + pv], data[other + nv]
    uv[0] = _within(uv[0], first_u, last_u, head[5] > 0)
    uv[1] = _within(uv[1], first_v, last_v, head[6] > 0)
    evaluate(head, data, uv[0], uv[1], out)
    wx, wy, wz = out[0, 0] - px, out[0, 1] - py, out[0, 2] - pz
    best = wx * wx + wy * wy + wz * wz
    tried = np.empty((6, 3))
    for _ in range(_ROUNDS):
        gu = wx * out[1, 0] + wy * out[1, 1] + wz * out[1, 2]
        gv = wx * out[2, 0] + wy * out[2, 1] + wz * out[2, 2]
        e = out[1, 0] ** 2 + out[1, 1] ** 2 + out[1, 2] ** 2
        f = out[1, 0] * out[2, 0] + out[1, 1] * out[2, 1] + out[1, 2] * out[2, 2]
        g = out[2, 0] ** 2 + out[2, 1] ** 2 + out[2, 2] ** 2
        a = e + wx * out[3, 0] + wy * out[3, 1] + wz * out[3, 2]
        b = f + wx * out[4, 0] + wy * out[4, 1] + wz * out[4, 2]
        c = g + wx * out[5, 0] + wy * out[5, 1] + wz * out[5, 2]
        # At an end that the step would leave, only the other parameter is free.
        stuck_u = head[5] == 0 and ((uv[0] <= first_u and gu > 0) or (uv[0] >= last_u and gu < 0))
        stuck_v = head[6] == 0 and ((uv[1] <= first_v and gv > 0) or (uv[1] >= last_v and gv < 0))
        # Where the distance bends down instead of up, as much of the surface's own measure is added as turns it.
        add = 0.5
        while (a <= 1e-3 * e or c <= 1e-3 * g or a * c - b * b <= 1e-3 * (e * g - f * f)) and add < 1e9:
            a, b, c = a + add * e, b + add * f, c + add * g
            add *= 2
        if stuck_u and stuck_v:
            break
        if stuck_u:
            du, dv = 0.0, -gv / (c + 1e-300)
        elif stuck_v:
            du, dv = -gu / (a + 1e-300), 0.0
        else:
            whole = a * c - b * b
            if whole <= 1e-14 * a * c:
                du, dv = -gu / (a + 1e-300), -gv / (c + 1e-300)
            else:
                du, dv = (b * gv - c * gu) / whole, (b * gu - a * gv) / whole
        # What the step promises is less than the figures hold: halving it would only look for what is not there.
        if abs(gu * du + gv * dv) < 1e-14 * best + 1e-24:
            break
        share = 1.0
        bettered = False
        for _half in range(12):
            u = _within(uv[0] + share * du, first_u, last_u, head[5] > 0)
            v = _within(uv[1] + share * dv, first_v, last_v, head[6] > 0)
            evaluate(head, data, u, v, tried)
            x, y, z = tried[0, 0] - px, tried[0, 1] - py, tried[0, 2] - pz
            d2 = x * x + y * y + z * z
            if d2 < best:
                bettered = True
                break
            share *= 0.5
        if not bettered:
            break
        small = best - d2 < 1e-14 * best + 1e-24
        uv[0], uv[1], best = u, v, d2
        wx, wy, wz = x, y, z
        out[:] = tried
        if small:
            break
    return best
