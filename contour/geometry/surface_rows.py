"""The five analytic surfaces as rows of nine numbers, for compiled loops: distance, direction and foot, once for all.

A row is point (3), axis (3), radius, second value, side. Its code says what it is: a plane lies at the point across the
axis; a cylinder has its axis through the point; a cone opens along the axis by the second value (half angle, radians) and its
"radius" is its distance term, ``rho cos(a) - h sin(a) - p[6]`` with h along the axis from the point; a sphere has its centre in
the point; a torus its middle circle of that radius about the point, and the second value is its tube's radius. The side is
+1 where the material's outside lies the way the distance grows.
"""

from __future__ import annotations

import numba as nb
import numpy as np

__all__ = ["CODES", "CONE", "CYLINDER", "KINDS", "PLANE", "SPHERE", "TORUS", "across_axis", "cross", "gap", "gap_all"]

PLANE, CYLINDER, CONE, SPHERE, TORUS = 1, 2, 3, 4, 5
KINDS = ("plane", "cylinder", "cone", "sphere", "torus")
CODES: dict[str, int] = {name: k + 1 for k, name in enumerate(KINDS)}

_ON_AXIS = 1e-12  # mm: as near as that every direction across the axis is as good as another

_jit = nb.njit(cache=True, nogil=True, fastmath=True)


@_jit
def gap(code, p, x, g):  # type: ignore[no-untyped-def]
    """Signed distance (mm) of point x (3,); the unit gradient is written to g (3,). The foot is ``x - distance * g``.

    On the axis and in a centre the gradient is one of the many that lead to the nearest places.
    """
    w0, w1, w2 = x[0] - p[0], x[1] - p[1], x[2] - p[2]
    if code == SPHERE:
        far = np.sqrt(w0 * w0 + w1 * w1 + w2 * w2)
        if far > _ON_AXIS:
            g[0], g[1], g[2] = w0 / far, w1 / far, w2 / far
        else:
            g[0], g[1], g[2] = p[3], p[4], p[5]
        return far - p[6]
    h = w0 * p[3] + w1 * p[4] + w2 * p[5]
    if code == PLANE:
        g[0], g[1], g[2] = p[3], p[4], p[5]
        return h
    w0 -= h * p[3]
    w1 -= h * p[4]
    w2 -= h * p[5]
    rho = np.sqrt(w0 * w0 + w1 * w1 + w2 * w2)
    if rho > _ON_AXIS:
        w0, w1, w2 = w0 / rho, w1 / rho, w2 / rho
    elif abs(p[5]) < 0.9:
        far = np.sqrt(p[3] * p[3] + p[4] * p[4])
        w0, w1, w2 = p[4] / far, -p[3] / far, 0.0
    else:
        far = np.sqrt(p[4] * p[4] + p[5] * p[5])
        w0, w1, w2 = 0.0, p[5] / far, -p[4] / far
    if code == CYLINDER:
        g[0], g[1], g[2] = w0, w1, w2
        return rho - p[6]
    if code == CONE:
        c, s = np.cos(p[7]), np.sin(p[7])
        g[0], g[1], g[2] = c * w0 - s * p[3], c * w1 - s * p[4], c * w2 - s * p[5]
        return rho * c - h * s - p[6]
    q = np.sqrt((rho - p[6]) ** 2 + h * h)
    if q > _ON_AXIS:
        c, s = (rho - p[6]) / q, h / q
    else:
        c, s = 1.0, 0.0
    g[0], g[1], g[2] = c * w0 + s * p[3], c * w1 + s * p[4], c * w2 + s * p[5]
    return q - p[7]


@_jit
def cross(a, b, out):  # type: ignore[no-untyped-def]
    """The cross product of two vectors (3,), written into out, which is neither: NumPy's takes seconds to compile."""
    out[0] = a[1] * b[2] - a[2] * b[1]
    out[1] = a[2] * b[0] - a[0] * b[2]
    out[2] = a[0] * b[1] - a[1] * b[0]


@_jit
def across_axis(axis, u, v):  # type: ignore[no-untyped-def]
    """Two unit vectors (3,) across an axis (3,), written into u and v."""
    k = 0
    if abs(axis[1]) < abs(axis[k]):
        k = 1
    if abs(axis[2]) < abs(axis[k]):
        k = 2
    e = np.zeros(3)
    e[k] = 1.0
    cross(axis, e, u)
    u /= np.sqrt(np.dot(u, u))
    cross(axis, u, v)


@_jit
def gap_all(code, p, points):  # type: ignore[no-untyped-def]
    """(signed distances (n,), unit gradients (n, 3))."""
    out = np.empty(len(points))
    g = np.empty((len(points), 3))
    for i in range(len(points)):
        out[i] = gap(code, p, points[i], g[i])
    return out, g
