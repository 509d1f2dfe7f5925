"""All regions fitted together under what was agreed between them.

Least squares with equality constraints: in each round every region gives the normal equations of its own orthogonal distances
(Huber weights), the relations are linearised, and both are solved together by the null-space method (Nocedal & Wright, Numerical
Optimization, 2nd ed., 16.2). What relations say twice does no harm; what contradicts is found by what stays unmet.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from contour.fit.primitives import UNKNOWNS, jacobian, moved
from contour.geometry.surface_rows import CONE, PLANE, across_axis, gap_all
from contour.geometry.surfaces import Surface
from contour.intent.relation import Relation, sense_of, start_of, unmet
from contour.recipe.problem import ContourError, Where

__all__ = ["Refitted", "refit_together"]

Array = NDArray[np.float64]
_MOST_POINTS = 4000
_ROUNDS = 25
_MET_MM = 1e-7


@dataclass(frozen=True, slots=True)
class Refitted:
    """One region after the joint fit. rms_before, rms: mm, robust at the same points · shift: mm, the farthest any of its points' own
    surface has moved."""

    surface: Surface
    rms_before: float
    rms: float
    shift: float


def _thinned(points: Array) -> Array:
    if len(points) <= _MOST_POINTS:
        return np.ascontiguousarray(points)
    keep = np.random.default_rng(11).choice(len(points), _MOST_POINTS, replace=False)
    return np.ascontiguousarray(points[np.sort(keep)])


def _stepped(code: int, p: Array, step: Array) -> Array:
    u, v, q = np.zeros(3), np.zeros(3), p.copy()
    across_axis(p[3:6].copy(), u, v)
    full = np.zeros(7)
    full[: len(step)] = step
    moved(code, p, full, u, v, q)
    return q


def _rms(code: int, p: Array, points: Array) -> float:
    f = gap_all(code, p, points)[0]
    scale = 1.4826 * float(np.median(np.abs(f))) + 1e-12
    near = np.abs(f) <= 4 * scale
    return float(np.sqrt(np.mean(f[near] ** 2)))


def _normal_equations(code: int, p: Array, points: Array, weight: float) -> tuple[Array, Array]:
    f, rows = jacobian(code, p, points)
    scale = 1.4826 * float(np.median(np.abs(f))) + 1e-9
    w = weight * np.minimum(1.0, 2 * scale / np.maximum(np.abs(f), 1e-12))
    return rows.T @ (rows * w[:, None]), rows.T @ (f * w)


def _null_space(c: Array) -> tuple[Array, Array]:
    """(pseudo-inverse, null space) of the linearised relations; what is said twice counts once."""
    u, s, vt = np.linalg.svd(c, full_matrices=True)
    rank = int((s > 1e-9 * max(s[0], 1e-12)).sum()) if len(s) else 0
    pinv = vt[:rank].T @ ((u[:, :rank] / s[:rank]).T) if rank else np.zeros((c.shape[1], c.shape[0]))
    return pinv, vt[rank:].T


def refit_together(
    surfaces: Sequence[Surface],
    points: Sequence[Array],
    relations: Sequence[Relation],
    *,
    held: frozenset[int] = frozenset(),
) -> list[Refitted]:
    """points: of each surface (n, 3), those that have a say in its fit · held: places of surfaces that do not move.

    Raises ContourError (degenerate, wrong-kind) with the number of the relation that cannot be met together with the others.
    """
    codes = [s.code for s in surfaces]
    p = [s.packed() for s in surfaces]
    for k, s in enumerate(surfaces):
        # Planes and axes have no place along themselves: take it amidst the points, where tilts mean least.
        middle = points[k].mean(axis=0)
        axis = p[k][3:6]
        if s.kind == "plane":
            p[k][:3] = middle - ((middle - p[k][:3]) @ axis) * axis
        elif s.kind == "cylinder":
            p[k][:3] += ((middle - p[k][:3]) @ axis) * axis
    first = [q.copy() for q in p]
    sets = [_thinned(x) for x in points]
    weights = [len(x) / len(t) for x, t in zip(points, sets, strict=True)]
    aux: list[Array] = []
    for i, r in enumerate(relations):
        try:
            aux.append(start_of(r, codes, p, sense_of(r, p)))
        except ContourError as error:
            raise error.at(param=f"relations[{i}]") from None
    senses = [sense_of(r, p) for r in relations]
    # What is held has no unknowns.
    sizes = [0 if k in held else UNKNOWNS[c] for k, c in enumerate(codes)]
    at = np.concatenate([[0], np.cumsum([*sizes, *(len(a) for a in aux)])])
    total = int(at[-1])
    n = len(surfaces)

    def rest(i: int) -> Array:
        return unmet(relations[i], codes, p, aux[i], senses[i])

    for _ in range(_ROUNDS):
        h, g = np.zeros((total, total)), np.zeros(total)
        for k in range(n):
            a, b = int(at[k]), int(at[k + 1])
            if k in held:
                continue
            h[a:b, a:b], g[a:b] = _normal_equations(codes[k], p[k], sets[k], weights[k])
            h[a:b, a:b] += 1e-9 * np.diag(np.diag(h[a:b, a:b]) + 1e-9)
        blocks, right = [], []
        for i, r in enumerate(relations):
            c0 = rest(i)
            rows = np.zeros((len(c0), total))
            for k in dict.fromkeys(r.members):
                old = p[k]
                for d in range(sizes[k]):
                    step = np.zeros(sizes[k])
                    step[d] = 1e-6
                    p[k] = _stepped(codes[k], old, step)
                    rows[:, int(at[k]) + d] = (rest(i) - c0) / 1e-6
                p[k] = old
            for d in range(len(aux[i])):
                aux[i][d] += 1e-6
                rows[:, int(at[n + i]) + d] = (rest(i) - c0) / 1e-6
                aux[i][d] -= 1e-6
            blocks.append(rows)
            right.append(-c0)
        c, b0 = np.vstack(blocks), np.concatenate(right)
        pinv, free = _null_space(c)
        onto = pinv @ b0
        step = onto
        if free.shape[1]:
            hz = free.T @ h @ free
            hz += 1e-12 * np.trace(hz) / max(len(hz), 1) * np.eye(len(hz))
            step = onto + free @ np.linalg.lstsq(hz, -free.T @ (g + h @ onto), rcond=None)[0]
        for k in range(n):
            if k not in held:
                p[k] = _stepped(codes[k], p[k], step[int(at[k]) : int(at[k + 1])])
        for i in range(len(relations)):
            aux[i] = aux[i] + step[int(at[n + i]) : int(at[n + i + 1])]
        if np.abs(step[: int(at[n])]).max(initial=0) < 1e-10:
            break
    _require_met(relations, [rest(i) for i in range(len(relations))])
    out = []
    for k, s in enumerate(surfaces):
        made = Surface.unpacked(codes[k], p[k])
        made = replace(made, outward=s.outward)
        before, after = gap_all(codes[k], first[k], sets[k])[0], gap_all(codes[k], p[k], sets[k])[0]
        shift = float(np.abs(after - before).max())
        out.append(
            Refitted(_kept_side(s, made), _rms(codes[k], first[k], sets[k]), _rms(codes[k], p[k], sets[k]), shift)
        )
    return out


def _kept_side(old: Surface, new: Surface) -> Surface:
    """A plane's normal, an axis or a cone's opening points where it did."""
    if old.code in (PLANE, CONE) or np.dot(old.axis, new.axis) >= 0:
        return new
    x, y, z = new.axis
    return replace(new, axis=(-x, -y, -z))


def _require_met(relations: Sequence[Relation], left: Sequence[Array]) -> None:
    worst = [float(np.abs(x).max(initial=0)) for x in left]
    if max(worst, default=0.0) > _MET_MM:
        i = int(np.argmax(worst))
        raise ContourError(
            "degenerate",
            "this cannot hold together with what else was agreed",
            where=Where(param=f"relations[{i}]"),
            got=f"'{relations[i].kind}' stays off by {worst[i]:.3g}",
            need="every relation held",
            remedy="take this or one that speaks of the same regions back",
        )
