"""Mirror symmetry of a loop: which pieces answer each other, about which line, and the equations that hold them to it.

A reflection of a closed chain of n pieces takes piece i to piece k - i (mod n) for one k, and the joint behind i to the joint before
k - i. The line is (angle of its normal, distance from the origin), two unknowns of their own while the loop is fitted.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from contour.outline.split import ARC, LINE
from contour.recipe.problem import ContourError, Where

__all__ = ["Mirrored", "answers", "best_mirror", "line_between", "mirror_rows", "mirrored"]

Array = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Mirrored:
    """A loop held to its mirror image: (i, j) of pieces that answer each other, and the line to begin with."""

    pairs: tuple[tuple[int, int], ...]
    axis: Array


def mirrored(first: int, second: int, begin: int, near: Sequence[Array | None]) -> Mirrored:
    """The reflection of the closed loop of pieces begin to begin + len(near) that takes one piece to another.

    near: each (2,), mm.
    """
    n = len(near)
    k = (first - begin + second - begin) % n
    joints = np.array([p for p in near if p is not None])
    if len(joints) != n or n < 2:
        raise ContourError(
            "degenerate",
            "an open outline has no mirror image to be held to",
            where=Where(param="relations"),
            got="open ends",
            need="a closed outline, or one that is its own mirror image",
            remedy="take it back",
        )
    axis, _ = line_between(joints, k)
    return Mirrored(tuple((begin + i, begin + (k - i) % n) for i in range(n) if i <= (k - i) % n), axis)


def answers(count: int, k: int) -> list[tuple[int, int]]:
    """Pairs (i, j), i <= j, of pieces that a reflection takes to each other; i == j crosses the line."""
    return [(i, (k - i) % count) for i in range(count) if i <= (k - i) % count]


def line_between(joints: Array, k: int) -> tuple[Array, float]:
    """((angle of the normal, distance), rms of what joints are off, mm). joints (n, 2): joint i lies behind piece i."""
    n = len(joints)
    other = joints[(k - 1 - np.arange(n)) % n]
    apart = other - joints
    _, axes = np.linalg.eigh(apart.T @ apart)
    normal = axes[:, 1]
    middle = float(((joints + other) / 2 @ normal).mean())
    mirrored = joints - 2 * (joints @ normal - middle)[:, None] * normal
    rms = float(np.sqrt(np.mean(((mirrored - other) ** 2).sum(axis=1))))
    return np.array([np.arctan2(normal[1], normal[0]), middle]), rms


def best_mirror(kinds: Sequence[str], joints: Array, near_mm: float) -> tuple[int, float] | None:
    """(k, how far off: mm) of the reflection that a closed chain comes nearest to; none within near_mm."""
    n = len(kinds)
    found = []
    for k in range(n):
        if all(kinds[i] == kinds[j] for i, j in answers(n, k)):
            found.append((line_between(joints, k)[1], k))
    if not found or min(found)[0] > near_mm:
        return None
    off, k = min(found)
    return k, off


def mirror_rows(
    pairs: Sequence[tuple[int, int]],
    kinds: Sequence[int],
    values: Sequence[Array],
    starts: Sequence[int],
    count: int,
    axis_at: int,
    axis: Array,
) -> Iterator[tuple[Array, float]]:
    """Derivatives of each equation by all unknowns, and what is left of it.

    values: (angle, distance) of lines, (x, y, radius) of arcs; starts: where they begin among the unknowns; the line's own two are at
    axis_at. Ellipses and free pieces are let be.
    """
    n, across = np.array([np.cos(axis[0]), np.sin(axis[0])]), np.array([-np.sin(axis[0]), np.cos(axis[0])])
    o = float(axis[1])
    for i, j in pairs:
        if kinds[i] != kinds[j] or kinds[i] not in (LINE, ARC):
            continue
        p, q, a, b = values[i], values[j], starts[i], starts[j]
        if kinds[i] == LINE and i == j:
            row = np.zeros(count)
            row[a], row[axis_at] = 1, -1
            turn = p[0] - axis[0] - np.pi / 2
            yield row, float(turn - np.pi * np.round(turn / np.pi))
        elif kinds[i] == LINE:
            row = np.zeros(count)
            row[a] = row[b] = 1
            row[axis_at] = -2
            turn = q[0] + p[0] - 2 * axis[0] - np.pi
            half_turns = np.round(turn / np.pi)
            yield row, float(turn - np.pi * half_turns)
            sign = 1.0 if int(half_turns) % 2 == 0 else -1.0
            own, own_across = np.array([np.cos(p[0]), np.sin(p[0])]), np.array([-np.sin(p[0]), np.cos(p[0])])
            row = np.zeros(count)
            row[b + 1], row[a + 1], row[a] = sign, -1, 2 * o * (n @ own_across)
            row[axis_at], row[axis_at + 1] = 2 * o * (across @ own), 2 * (n @ own)
            yield row, float(sign * q[1] - p[1] + 2 * o * (n @ own))
        elif i == j:
            row = np.zeros(count)
            row[a : a + 2], row[axis_at], row[axis_at + 1] = n, across @ p[:2], -1
            yield row, float(n @ p[:2] - o)
        else:
            row = np.zeros(count)
            row[a + 2], row[b + 2] = 1, -1
            yield row, float(p[2] - q[2])
            h = float(n @ p[:2] - o)
            back = np.eye(2) - 2 * np.outer(n, n)
            for d in (0, 1):
                row = np.zeros(count)
                row[b + d] = 1
                row[a : a + 2] -= back[d]
                row[axis_at] = 2 * ((across @ p[:2]) * n[d] + h * across[d])
                row[axis_at + 1] = -2 * n[d]
                yield row, float(q[d] - (p[d] - 2 * h * n[d]))
