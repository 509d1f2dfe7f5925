"""First guesses of planes, cylinders, cones, spheres and tori from normals, and Levenberg-Marquardt on them.

While it is fitted a surface is the nine numbers of :mod:`contour.geometry.surface_rows`.
Fitting is orthogonal distance regression with Huber weights (Lukács, Martin & Marshall, Faithful least-squares fitting of
spheres, cylinders, cones and tori, ECCV 1998).
"""

from __future__ import annotations

import numba as nb
import numpy as np

from contour.geometry.surface_rows import across_axis, gap

__all__ = ["NOISY", "UNKNOWNS", "face_side", "guess", "jacobian", "moved", "plausible", "refine"]

UNKNOWNS = (0, 3, 5, 6, 4, 7)  # by the surface's code
NOISY = 1e-6  # how far noise alone takes the normals of anything out of a common plane (squared)

_jit = nb.njit(cache=True, nogil=True, fastmath=True)


@_jit
def _row(code, p, x, u, v, row):  # type: ignore[no-untyped-def]
    """Signed distance and its derivatives by the unknowns: plane (along, tilt u, tilt v); cylinder (shift u, v, tilt u, v,
    radius); cone the same and half angle; sphere (x, y, z, radius); torus (shift u, v, tilt u, v, minor, major, along)."""
    w0, w1, w2 = x[0] - p[0], x[1] - p[1], x[2] - p[2]
    if code == 4:
        far = np.sqrt(w0 * w0 + w1 * w1 + w2 * w2) + 1e-12
        row[0], row[1], row[2], row[3] = -w0 / far, -w1 / far, -w2 / far, -1.0
        return far - p[6]
    h = w0 * p[3] + w1 * p[4] + w2 * p[5]
    xu = w0 * u[0] + w1 * u[1] + w2 * u[2]
    xv = w0 * v[0] + w1 * v[1] + w2 * v[2]
    if code == 1:
        row[0], row[1], row[2] = -1.0, xu, xv
        return h
    rho = np.sqrt(xu * xu + xv * xv) + 1e-12
    a, b = xu / rho, xv / rho
    if code == 2:
        row[0], row[1], row[2], row[3], row[4] = -a, -b, -h * a, -h * b, -1.0
        return rho - p[6]
    if code == 3:
        c, s = np.cos(p[7]), np.sin(p[7])
        tilt = -(c * h + s * rho)
        row[0], row[1], row[2], row[3], row[4], row[5] = -c * a, -c * b, tilt * a, tilt * b, -1.0, -rho * s - h * c
        return rho * c - h * s - p[6]
    q = np.sqrt((rho - p[6]) ** 2 + h * h) + 1e-12
    c, s = (rho - p[6]) / q, h / q
    tilt = s * rho - c * h
    row[0], row[1], row[2], row[3], row[4], row[5], row[6] = -c * a, -c * b, tilt * a, tilt * b, -1.0, -c, -s
    return q - p[7]


@_jit
def moved(code, p, step, u, v, q):  # type: ignore[no-untyped-def]
    """q becomes p moved by the unknowns that `_row` differentiates by; u, v from `across_axis`."""
    q[:] = p
    if code == 4:
        for d in range(3):
            q[d] += step[d]
        q[6] += step[3]
        return
    if code == 1:
        for d in range(3):
            q[d] += step[0] * p[3 + d]
            q[3 + d] += step[1] * u[d] + step[2] * v[d]
    else:
        for d in range(3):
            q[d] += step[0] * u[d] + step[1] * v[d]
            q[3 + d] += step[2] * u[d] + step[3] * v[d]
        if code == 5:
            q[7] += step[4]
            q[6] += step[5]
            for d in range(3):
                q[d] += step[6] * p[3 + d]
        else:
            q[6] += step[4]
            if code == 3:
                q[7] += step[5]
    length = np.sqrt(q[3] * q[3] + q[4] * q[4] + q[5] * q[5])
    for d in range(3):
        q[3 + d] /= length


@_jit
def _line_of_normals(points, normals, ids, n, centre, mean, axis, out):  # type: ignore[no-untyped-def]
    """Radius (signed) by how normals turn with points across an axis, and a point on that axis to out."""
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
        out[d] = centre[d] - radius * flat_mean[d]
    return radius


@_jit
def _guess_torus(p, points, normals, ids, n, centre, mean, radius):  # type: ignore[no-untyped-def]
    """Spine points x - r n lie on the torus's middle circle."""
    middle = centre - radius * mean
    spread = np.zeros((3, 3))
    d = np.zeros(3)
    for i in range(n):
        for k in range(3):
            d[k] = points[ids[i], k] - radius * normals[ids[i], k] - middle[k]
        for a in range(3):
            for b in range(3):
                spread[a, b] += d[a] * d[b]
    _, axes = np.linalg.eigh(spread)
    axis, u, v = axes[:, 0].copy(), axes[:, 2].copy(), axes[:, 1].copy()
    normal = np.zeros((3, 3))
    right = np.zeros(3)
    row = np.zeros(3)
    for i in range(n):
        for k in range(3):
            d[k] = points[ids[i], k] - radius * normals[ids[i], k] - middle[k]
        row[0], row[1], row[2] = np.dot(d, u), np.dot(d, v), 1.0
        size = row[0] * row[0] + row[1] * row[1]
        for a in range(3):
            right[a] += row[a] * size
            for b in range(3):
                normal[a, b] += row[a] * row[b]
    for k in range(3):
        normal[k, k] += 1e-9 * n
    s = np.linalg.solve(normal, right)
    squared = s[2] + s[0] * s[0] / 4 + s[1] * s[1] / 4
    if squared <= 0 or squared > 1e6:
        return False
    p[:3] = middle + 0.5 * s[0] * u + 0.5 * s[1] * v
    p[3:6] = axis
    p[6] = np.sqrt(squared)
    p[7] = abs(radius)
    return True


@_jit
def _guess_cone(p, points, normals, ids, n, centre, mean, moment, least):  # type: ignore[no-untyped-def]
    """Tangent planes meet in the apex; the normals lie at one angle to the axis."""
    about = moment.copy()
    for a in range(3):
        for b in range(3):
            about[a, b] -= n * mean[a] * mean[b]
    _, axes = np.linalg.eigh(about)
    axis = axes[:, 0].copy()
    values, _ = np.linalg.eigh(moment)
    if values[0] < least * n:
        return False
    right = np.zeros(3)
    for i in range(n):
        h = 0.0
        for d in range(3):
            h += normals[ids[i], d] * points[ids[i], d]
        for d in range(3):
            right[d] += normals[ids[i], d] * h
    apex = np.linalg.solve(moment, right)
    if np.dot(centre - apex, axis) < 0:
        axis = -axis
    angle = 0.0
    for i in range(n):
        h, far = 0.0, 0.0
        for d in range(3):
            away = points[ids[i], d] - apex[d]
            h += away * axis[d]
            far += away * away
        angle += np.arctan2(np.sqrt(max(0.0, far - h * h)), abs(h))
    p[:3] = apex
    p[3:6] = axis
    p[7] = angle / n
    return True


@_jit
def guess(code, p, points, normals, ids, n, least):  # type: ignore[no-untyped-def]
    """First values from points and normals; False when they cannot be a surface of that kind. least: how far a cone's normals have to leave
    their common plane (squared): more than NOISY, where exact ones need less."""
    p[:] = 0.0
    p[5] = 1.0
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
    if code == 4:
        top, bottom = 0.0, 1e-12
        for i in range(n):
            for d in range(3):
                turn = normals[ids[i], d] - mean[d]
                top += (points[ids[i], d] - centre[d]) * turn
                bottom += turn * turn
        radius = top / bottom
        for d in range(3):
            p[d] = centre[d] - radius * mean[d]
        p[6] = abs(radius)
        return 1e-3 < p[6] < 1e4
    moment = np.zeros((3, 3))
    for i in range(n):
        for a in range(3):
            for b in range(3):
                moment[a, b] += normals[ids[i], a] * normals[ids[i], b]
    if code == 3:
        return _guess_cone(p, points, normals, ids, n, centre, mean, moment, least)
    _, axes = np.linalg.eigh(moment)
    axis = axes[:, 0].copy()
    place = np.zeros(3)
    radius = _line_of_normals(points, normals, ids, n, centre, mean, axis, place)
    if code == 5:
        return abs(radius) < 1e3 and _guess_torus(p, points, normals, ids, n, centre, mean, radius)
    p[:3] = place
    p[3:6] = axis
    p[6] = abs(radius)
    return 1e-3 < p[6] < 1e4


@_jit
def plausible(code, p, smallest, largest):  # type: ignore[no-untyped-def]
    """Whether fitted values are a surface that facets of this size can show."""
    if code == 2 or code == 4:
        return smallest < p[6] < largest
    if code == 5:
        return smallest < p[7] < largest and 0.3 * p[7] < p[6] < largest
    if code == 3:
        return 0.035 < abs(p[7]) < 1.5
    return True


@_jit
def _keep_abreast(code, p, points, ids, n):  # type: ignore[no-untyped-def]
    """Slides the point along the axis to the middle of the data, or the axis would tilt about a far point."""
    shift = 0.0
    for i in range(n):
        for d in range(3):
            shift += (points[ids[i], d] - p[d]) * p[3 + d] / n
    for d in range(3):
        p[d] += shift * p[3 + d]
    if code == 3:
        p[6] += shift * np.sin(p[7])


@_jit
def refine(code, p, points, ids, n, rounds, huber):  # type: ignore[no-untyped-def]
    """Levenberg-Marquardt in place; returns the rms distance. `huber` 0 means plain least squares."""
    m = (0, 3, 5, 6, 4, 7)[code]
    u, v = np.zeros(3), np.zeros(3)
    q = p.copy()
    normal = np.zeros((m, m))
    right = np.zeros(m)
    row = np.zeros(7)
    damping = 1e-4
    rms = 0.0
    cost = -1.0
    g = np.zeros(3)
    for _ in range(rounds):
        if code == 2 or code == 3:
            _keep_abreast(code, p, points, ids, n)
        across_axis(p[3:6].copy(), u, v)
        normal[:] = 0.0
        right[:] = 0.0
        total = 0.0
        squares = 0.0
        for i in range(n):
            f = _row(code, p, points[ids[i]], u, v, row)
            size = abs(f)
            w = 1.0
            if huber > 0 and size > huber:
                w = huber / size
                total += huber * (2 * size - huber)
            else:
                total += f * f
            squares += f * f
            for a in range(m):
                right[a] -= w * row[a] * f
                for b in range(a + 1):
                    normal[a, b] += w * row[a] * row[b]
        for a in range(m):
            for b in range(a + 1, m):
                normal[a, b] = normal[b, a]
        if cost < 0:
            cost = total
            rms = np.sqrt(squares / n)
        better = False
        trial = cost
        for _try in range(5):
            damped = normal.copy()
            for d in range(m):
                damped[d, d] = damped[d, d] * (1 + damping) + 1e-12 * n
            moved(code, p, np.linalg.solve(damped, right), u, v, q)
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
def jacobian(code, p, points):  # type: ignore[no-untyped-def]
    """(distances (n,), derivatives (n, unknowns)) in the order that `_row` says."""
    m = (0, 3, 5, 6, 4, 7)[code]
    u, v = np.zeros(3), np.zeros(3)
    across_axis(p[3:6].copy(), u, v)
    row = np.zeros(7)
    f = np.empty(len(points))
    out = np.empty((len(points), m))
    for i in range(len(points)):
        f[i] = _row(code, p, points[i], u, v, row)
        out[i] = row[:m]
    return f, out
