"""A torus of which only a short piece is there: a tube that bends a little.

Its centre is far off and moves far when the bend changes by little, so that a fit in centre, axis and radii creeps along a curved valley. What
a short piece tells well is where its tube lies: a place on the middle line (two unknowns across the tube), the direction there (two), the
curvature as a vector across it (two) and the tube's radius. In these the distances are nearly linear, and Gauss-Newton arrives in a few rounds.
"""

from __future__ import annotations

import numba as nb
import numpy as np

from contour.geometry.surface_rows import TORUS, across_axis, cross, gap

__all__ = ["bent"]

_jit = nb.njit(cache=True, nogil=True)

_CODE = np.int64(TORUS)  # a variable: `gap` is compiled anew for every plain constant
_ROUNDS = 14
_STEP = 1e-6  # of the size, for differences
_STRAIGHT = 1e-7  # curvature times size: a tube that bends less is a cylinder


@_jit
def _torus(q, at, along, u, v, p):  # type: ignore[no-untyped-def]
    """The torus of seven unknowns about a frame, as nine numbers to p; False where it is straight."""
    t = along + q[2] * u + q[3] * v
    t /= np.sqrt(np.dot(t, t))
    k = q[4] * u + q[5] * v
    k -= np.dot(k, t) * t
    bend = np.sqrt(np.dot(k, k))
    if not bend > 1e-12:
        return False
    k /= bend
    for d in range(3):
        p[d] = at[d] + q[0] * u[d] + q[1] * v[d] + k[d] / bend
    cross(t, k, p[3:6])
    p[6], p[7] = 1.0 / bend, q[6]
    return True


@_jit
def bent(p, xyz, points, count):  # type: ignore[no-untyped-def]
    """Turns the nine numbers of a cylinder through points (of xyz (m, 3), mm) into those of the torus it is a short piece of, by least
    squares; False where there is none. Its radii have to differ from those of a straight tube."""
    along = p[3:6].copy()
    u, v = np.zeros(3), np.zeros(3)
    across_axis(along, u, v)
    low, high, middle = 1e300, -1e300, 0.0
    for i in range(count):
        h = 0.0
        for d in range(3):
            h += (xyz[points[i], d] - p[d]) * along[d]
        low, high = min(low, h), max(high, h)
    middle = 0.5 * (low + high)
    at = p[:3] + middle * along
    size = max(high - low, p[6])
    q, trial = np.zeros(7), np.zeros(7)
    q[6] = p[6]
    # The first bend: the middle line sinks with half the square of the way along.
    normal3, right3, row3 = np.zeros((3, 3)), np.zeros(3), np.zeros(3)
    off = np.zeros(3)
    for i in range(count):
        for d in range(3):
            off[d] = xyz[points[i], d] - at[d]
        h, x, y = np.dot(off, along), np.dot(off, u), np.dot(off, v)
        far = np.sqrt(x * x + y * y)
        if far < 1e-12:
            return False
        row3[0], row3[1], row3[2] = 0.5 * h * h * x / far, 0.5 * h * h * y / far, 1.0
        for a in range(3):
            right3[a] += row3[a] * (far - p[6])
            for b in range(3):
                normal3[a, b] += row3[a] * row3[b]
    for a in range(3):
        normal3[a, a] = normal3[a, a] * (1 + 1e-12) + 1e-30
    first = np.linalg.solve(normal3, right3)
    q[4], q[5] = first[0], first[1]
    steps = np.array([size, size, 1.0, 1.0, 1.0 / size, 1.0 / size, size]) * _STEP
    g = np.zeros(3)
    here, there = np.zeros(count), np.zeros(count)
    jacobian = np.zeros((count, 7))
    damping = 1e-6
    cost = -1.0
    for _ in range(_ROUNDS):
        if not _torus(q, at, along, u, v, p):
            return False
        if cost < 0:
            cost = 0.0
            for i in range(count):
                here[i] = gap(_CODE, p, xyz[points[i]], g)
                cost += here[i] * here[i]
        for k in range(7):
            trial[:] = q
            trial[k] += steps[k]
            if not _torus(trial, at, along, u, v, p):
                return False
            for i in range(count):
                jacobian[i, k] = (gap(_CODE, p, xyz[points[i]], g) - here[i]) / steps[k]
        normal = jacobian.T @ jacobian
        right = -(jacobian.T @ here)
        better = False
        for _try in range(5):
            damped = normal.copy()
            for k in range(7):
                damped[k, k] = damped[k, k] * (1 + damping) + 1e-300
            trial[:] = q + np.linalg.solve(damped, right)
            total = 0.0
            if trial[6] > 0 and _torus(trial, at, along, u, v, p):
                for i in range(count):
                    there[i] = gap(_CODE, p, xyz[points[i]], g)
                    total += there[i] * there[i]
                if total < cost:
                    better = True
                    break
            damping *= 30
        if not better:
            break
        done = cost - total < 1e-3 * cost
        q[:], here[:], cost = trial, there, total
        damping = max(damping * 0.03, 1e-12)
        if done:
            break
    if not np.sqrt(q[4] * q[4] + q[5] * q[5]) * size > _STRAIGHT:
        return False
    return _torus(q, at, along, u, v, p) and p[6] < 1e5
