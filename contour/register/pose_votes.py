"""Where a scan lies on a model, from any starting pose: point pairs vote for placements.

Reference: Drost et al., "Model globally, match locally", 2010. A scan that lacks parts is no hindrance, because every
scan point has its place on the model; pairs that many places on the model share (two points of one plane) count little.
"""

from __future__ import annotations

import numba as nb
import numpy as np
from numpy.typing import NDArray

from contour.geometry.rigid import placement

__all__ = ["vote_poses"]

Array = NDArray[np.float64]
_DISTANCES, _ANGLES, _TURNS = 24, 15, 30

_inline = nb.njit(nogil=True, inline="always")


@_inline
def _key(p, n, q, m, step):  # type: ignore[no-untyped-def]
    """Cell of a pair: distance, both normals' angles to the line, angle between the normals; -1 when too near."""
    dx, dy, dz = q[0] - p[0], q[1] - p[1], q[2] - p[2]
    length = np.sqrt(dx * dx + dy * dy + dz * dz)
    cell = int(length / step)
    if cell < 1 or cell >= _DISTANCES:
        return -1
    a = (n[0] * dx + n[1] * dy + n[2] * dz) / length
    b = (m[0] * dx + m[1] * dy + m[2] * dz) / length
    c = n[0] * m[0] + n[1] * m[1] + n[2] * m[2]
    scale = _ANGLES / np.pi * 0.999999
    i = int(np.arccos(min(1.0, max(-1.0, a))) * scale)
    j = int(np.arccos(min(1.0, max(-1.0, b))) * scale)
    k = int(np.arccos(min(1.0, max(-1.0, c))) * scale)
    return ((cell * _ANGLES + i) * _ANGLES + j) * _ANGLES + k


@nb.njit(cache=True, nogil=True)
def _frame(n):  # type: ignore[no-untyped-def]
    """Rotation whose first row is the normal: it turns the normal onto x."""
    out = np.empty((3, 3))
    out[0] = n
    k = 0
    if abs(n[1]) < abs(n[k]):
        k = 1
    if abs(n[2]) < abs(n[k]):
        k = 2
    e = np.zeros(3)
    e[k] = 1.0
    v = e - (e @ n) * n
    v /= np.sqrt(v @ v)
    out[1] = v
    out[2, 0] = n[1] * v[2] - n[2] * v[1]
    out[2, 1] = n[2] * v[0] - n[0] * v[2]
    out[2, 2] = n[0] * v[1] - n[1] * v[0]
    return out


@nb.njit(cache=True, nogil=True)
def _turn(frame, p, q):  # type: ignore[no-untyped-def]
    """Angle of q about the normal at p, in p's frame."""
    y = frame[1, 0] * (q[0] - p[0]) + frame[1, 1] * (q[1] - p[1]) + frame[1, 2] * (q[2] - p[2])
    z = frame[2, 0] * (q[0] - p[0]) + frame[2, 1] * (q[1] - p[1]) + frame[2, 2] * (q[2] - p[2])
    return np.arctan2(z, y)


@nb.njit(cache=True, nogil=True)
def _table(points, normals, step):  # type: ignore[no-untyped-def]
    """All model pairs by cell: offsets, first point, turn."""
    n = len(points)
    cells = _DISTANCES * _ANGLES**3
    offsets = np.zeros(cells + 1, np.int64)
    for i in range(n):
        for j in range(n):
            if i != j:
                key = _key(points[i], normals[i], points[j], normals[j], step)
                if key >= 0:
                    offsets[key + 1] += 1
    for c in range(cells):
        offsets[c + 1] += offsets[c]
    fill = offsets[:-1].copy()
    first = np.empty(offsets[-1], np.int32)
    turn = np.empty(offsets[-1], np.float32)
    for i in range(n):
        frame = _frame(normals[i])
        for j in range(n):
            if i != j:
                key = _key(points[i], normals[i], points[j], normals[j], step)
                if key >= 0:
                    first[fill[key]] = i
                    turn[fill[key]] = _turn(frame, points[i], points[j])
                    fill[key] += 1
    return offsets, first, turn


@nb.njit(cache=True, nogil=True)
def _vote(points, normals, references, offsets, first, turn, model_count, step, most, peaks):  # type: ignore[no-untyped-def]
    """For each reference its best cells: rows of reference, model point, angle, votes."""
    out = np.zeros((len(references) * peaks, 4))
    votes = np.empty((model_count, _TURNS))
    for r in range(len(references)):
        s = references[r]
        frame = _frame(normals[s])
        votes[:] = 0
        for j in range(len(points)):
            if j == s:
                continue
            key = _key(points[s], normals[s], points[j], normals[j], step)
            if key < 0:
                continue
            a, b = offsets[key], offsets[key + 1]
            if b == a or b - a > most:
                continue
            weight = 1.0 / np.sqrt(b - a)
            own = _turn(frame, points[s], points[j])
            for k in range(a, b):
                angle = turn[k] - own
                bin_ = int((angle / (2 * np.pi) + 2.0) * _TURNS) % _TURNS
                votes[first[k], bin_] += weight
        for p in range(peaks):
            best, bi, bj = 0.0, 0, 0
            for i in range(model_count):
                for j in range(_TURNS):
                    v = votes[i, j] + 0.5 * (votes[i, (j + 1) % _TURNS] + votes[i, j - 1])
                    if v > best:
                        best, bi, bj = v, i, j
            row = r * peaks + p
            out[row, 0], out[row, 1], out[row, 2], out[row, 3] = s, bi, (bj + 0.5) / _TURNS * 2 * np.pi, best
            for j in range(-2, 3):
                votes[bi, (bj + j) % _TURNS] = 0
    return out


def vote_poses(
    points: Array, normals: Array, model_points: Array, model_normals: Array, *, references: int = 60, seed: int = 3
) -> list[Array]:
    """Placements T_model_scan by falling votes.

    points, normals (n, 3): samples of the scan, outward; model_points, model_normals (m, 3): even samples of the model.
    """
    size = float(np.linalg.norm(np.ptp(model_points, axis=0)))
    step = size / _DISTANCES
    offsets, first, turn = _table(model_points, model_normals, step)
    rng = np.random.default_rng(seed)
    chosen = rng.choice(len(points), min(references, len(points)), replace=False)
    rows = _vote(points, normals, chosen, offsets, first, turn, len(model_points), step, 20_000, 4)
    out = []
    for s, m, angle, votes in rows[np.argsort(-rows[:, 3])]:
        if votes <= 0:
            continue
        # Both points to the origin, both normals onto x, and the turn between them.
        a, b = _frame(normals[int(s)]), _frame(model_normals[int(m)])
        c, d = np.cos(angle), np.sin(angle)
        about = np.array([[1, 0, 0], [0, c, -d], [0, d, c]])
        rotation = b.T @ about @ a
        out.append(placement(rotation, model_points[int(m)] - rotation @ points[int(s)]))
    return out
