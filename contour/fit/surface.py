"""Planes and cylinders: distance, and robust least-squares fitting to points.

A surface is nine numbers while it is being fitted: point (3), axis (3), radius, spare, side (+1 when the facets'
normals point the way the distance grows). Fitting is Levenberg-Marquardt on the geometric distance with Huber weights.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numba as nb
import numpy as np
from numpy.typing import NDArray

__all__ = ["CYLINDER", "PLANE", "Surface", "SurfaceKind", "distances", "fit_surface"]

PLANE, CYLINDER = 1, 2
SurfaceKind = Literal["plane", "cylinder"]
_CODES: dict[str, int] = {"plane": PLANE, "cylinder": CYLINDER}

_jit = nb.njit(cache=True, nogil=True, fastmath=True)


@dataclass(frozen=True, slots=True)
class Surface:
    """A fitted surface, mm, scan frame.

    plane: `origin` on it, `axis` its normal pointing out of the material. cylinder: `origin` on the axis, unit `axis`,
    `radius`; `outward` is +1 for a shaft (material inside) and -1 for a bore.
    """

    kind: SurfaceKind
    origin: tuple[float, float, float]
    axis: tuple[float, float, float]
    radius: float
    outward: int

    def packed(self) -> NDArray[np.float64]:
        side = 1.0 if self.kind == "plane" else float(self.outward)
        return np.array([*self.origin, *self.axis, self.radius, 0.0, side])

    @staticmethod
    def unpacked(code: int, p: NDArray[np.float64]) -> Surface:
        axis = p[3:6] * (p[8] if code == PLANE else 1.0)
        if code == CYLINDER and axis[np.argmax(np.abs(axis))] < 0:
            axis = -axis  # an axis has no direction: keep one, so that equal fits read equal
        return Surface(
            "plane" if code == PLANE else "cylinder",
            (float(p[0]), float(p[1]), float(p[2])),
            (float(axis[0]), float(axis[1]), float(axis[2])),
            float(p[6]) if code == CYLINDER else 0.0,
            int(p[8]) if code == CYLINDER else 1,
        )


@_jit
def gap(code, p, x, g):  # type: ignore[no-untyped-def]
    """Signed distance of point x; the unit gradient is written to g."""
    w0, w1, w2 = x[0] - p[0], x[1] - p[1], x[2] - p[2]
    h = w0 * p[3] + w1 * p[4] + w2 * p[5]
    if code == 1:
        g[0], g[1], g[2] = p[3], p[4], p[5]
        return h
    w0 -= h * p[3]
    w1 -= h * p[4]
    w2 -= h * p[5]
    rho = np.sqrt(w0 * w0 + w1 * w1 + w2 * w2) + 1e-12
    g[0], g[1], g[2] = w0 / rho, w1 / rho, w2 / rho
    return rho - p[6]


@_jit
def _across(axis, u, v):  # type: ignore[no-untyped-def]
    k = 0
    if abs(axis[1]) < abs(axis[k]):
        k = 1
    if abs(axis[2]) < abs(axis[k]):
        k = 2
    e = np.zeros(3)
    e[k] = 1.0
    u[:] = np.cross(axis, e)
    u /= np.sqrt(np.dot(u, u))
    v[:] = np.cross(axis, u)


@_jit
def guess(code, p, points, normals, ids, n):  # type: ignore[no-untyped-def]
    """First values from points and normals; False when they cannot be a surface of that kind."""
    p[:] = 0.0
    p[8] = 1.0
    centre = np.zeros(3)
    mean = np.zeros(3)
    for i in range(n):
        for d in range(3):
            centre[d] += points[ids[i], d] / n
            mean[d] += normals[ids[i], d] / n
    if code == 1:
        length = np.sqrt(np.dot(mean, mean))
        if length < 1e-6:
            return False
        for d in range(3):
            p[d] = centre[d]
            p[3 + d] = mean[d] / length
        return True
    spread = np.zeros((3, 3))
    for i in range(n):
        for a in range(3):
            for b in range(3):
                spread[a, b] += normals[ids[i], a] * normals[ids[i], b]
    _, axes = np.linalg.eigh(spread)
    axis = axes[:, 0].copy()
    flat_mean = mean - np.dot(mean, axis) * axis
    top, bottom = 0.0, 1e-12
    turn = np.zeros(3)
    for i in range(n):
        h = 0.0
        for d in range(3):
            h += normals[ids[i], d] * axis[d]
        for d in range(3):
            turn[d] = normals[ids[i], d] - h * axis[d] - flat_mean[d]
            top += (points[ids[i], d] - centre[d]) * turn[d]
            bottom += turn[d] * turn[d]
    radius = top / bottom
    for d in range(3):
        p[d] = centre[d] - radius * flat_mean[d]
        p[3 + d] = axis[d]
    p[6] = abs(radius)
    return 1e-3 < p[6] < 1e4


@_jit
def refine(code, p, points, ids, n, rounds, huber):  # type: ignore[no-untyped-def]
    """Levenberg-Marquardt in place; returns the rms distance. `huber` 0 means plain least squares."""
    m = 3 if code == 1 else 5
    u, v = np.zeros(3), np.zeros(3)
    q = p.copy()
    normal = np.zeros((m, m))
    right = np.zeros(m)
    row = np.zeros(5)
    damping = 1e-4
    rms = 0.0
    cost = -1.0
    g = np.zeros(3)
    for _ in range(rounds):
        shift = 0.0
        for i in range(n):  # keep the point on the axis abreast of the data, or the axis tilts about a far point
            for d in range(3):
                shift += (points[ids[i], d] - p[d]) * p[3 + d] / n
        if code == 2:
            for d in range(3):
                p[d] += shift * p[3 + d]
        _across(p[3:6].copy(), u, v)
        normal[:] = 0.0
        right[:] = 0.0
        total = 0.0
        squares = 0.0
        for i in range(n):
            x = points[ids[i]]
            w0, w1, w2 = x[0] - p[0], x[1] - p[1], x[2] - p[2]
            h = w0 * p[3] + w1 * p[4] + w2 * p[5]
            xu = w0 * u[0] + w1 * u[1] + w2 * u[2]
            xv = w0 * v[0] + w1 * v[1] + w2 * v[2]
            if code == 1:
                f = h
                row[0], row[1], row[2] = -1.0, xu, xv
            else:
                rho = np.sqrt(xu * xu + xv * xv) + 1e-12
                f = rho - p[6]
                a, b = xu / rho, xv / rho
                row[0], row[1], row[2], row[3], row[4] = -a, -b, -h * a, -h * b, -1.0
            size = abs(f)
            w = 1.0
            if huber > 0 and size > huber:
                w = huber / size
                total += huber * (2 * size - huber)
            else:
                total += f * f
            squares += f * f
            for a1 in range(m):
                right[a1] -= w * row[a1] * f
                for b1 in range(m):
                    normal[a1, b1] += w * row[a1] * row[b1]
        if cost < 0:
            cost = total
            rms = np.sqrt(squares / n)
        better = False
        for _try in range(5):
            damped = normal.copy()
            for d in range(m):
                damped[d, d] = damped[d, d] * (1 + damping) + 1e-12 * n
            step = np.linalg.solve(damped, right)
            q[:] = p
            if code == 1:
                for d in range(3):
                    q[d] += step[0] * p[3 + d]
                    q[3 + d] += step[1] * u[d] + step[2] * v[d]
            else:
                for d in range(3):
                    q[d] += step[0] * u[d] + step[1] * v[d]
                    q[3 + d] += step[2] * u[d] + step[3] * v[d]
                q[6] += step[4]
            length = np.sqrt(q[3] * q[3] + q[4] * q[4] + q[5] * q[5])
            for d in range(3):
                q[3 + d] /= length
            trial, squares = 0.0, 0.0
            for i in range(n):
                size = abs(gap(code, q, points[ids[i]], g))
                squares += size * size
                if huber > 0 and size > huber:
                    trial += huber * (2 * size - huber)
                else:
                    trial += size * size
            if trial <= cost * (1 + 1e-15):
                better = True
                break
            damping *= 10
        if not better:
            break
        damping = max(damping * 0.1, 1e-9)
        done = cost - trial < 1e-7 * cost
        p[:] = q
        cost = trial
        rms = np.sqrt(squares / n)
        if done:
            break
    return rms


@_jit
def face_side(code, p, points, normals, ids, n):  # type: ignore[no-untyped-def]
    """Sets which way the facets look: p[8] = +1 along the gradient, -1 against it."""
    g = np.zeros(3)
    total = 0.0
    for i in range(n):
        gap(code, p, points[ids[i]], g)
        for d in range(3):
            total += g[d] * normals[ids[i], d]
    p[8] = 1.0 if total >= 0 else -1.0


@_jit
def _distances(code, p, points):  # type: ignore[no-untyped-def]
    g = np.zeros(3)
    out = np.empty(len(points))
    for i in range(len(points)):
        out[i] = gap(code, p, points[i], g)
    return out


def distances(surface: Surface, points: NDArray[np.float64]) -> NDArray[np.float64]:
    """Signed distances (n,), mm; positive outside the material."""
    p = surface.packed()
    return _distances(_CODES[surface.kind], p, np.ascontiguousarray(points)) * p[8]


def fit_surface(
    points: NDArray[np.float64], normals: NDArray[np.float64], *, kind: SurfaceKind, huber_mm: float = 0.0
) -> tuple[Surface, float] | None:
    """Fit one surface to points (n, 3) with their normals; returns it with the rms, or None when none fits."""
    code = _CODES[kind]
    ids = np.arange(len(points))
    p = np.zeros(9)
    points, normals = np.ascontiguousarray(points), np.ascontiguousarray(normals)
    if len(points) < 6 or not guess(code, p, points, normals, ids, len(ids)):
        return None
    rms = refine(code, p, points, ids, len(ids), 30, 0.0)
    if huber_mm > 0:
        rms = refine(code, p, points, ids, len(ids), 20, huber_mm)
    face_side(code, p, points, normals, ids, len(ids))
    return Surface.unpacked(code, p), float(rms)
