"""What a system of equations leaves free at a point: rank, which equations say nothing new, which unknowns can still move.

Rows are normalised, so that a diagonal entry of R in JᵀP = QR is the sine of the angle between an equation's gradient and the span
of those before it (Golub and Van Loan, Matrix Computations, 5.4). Parts that share no unknown are looked at one by one, and
equations that only say that two unknowns are equal are put in first: what is left is small.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.linalg import qr
from scipy.sparse import bmat, csr_array
from scipy.sparse.csgraph import connected_components

__all__ = ["Freedom", "freedom"]

Array = NDArray[np.float64]
_DEPENDENT = 1e-7  # sine of the angle to what the others say
_LOOSE = 1e-10  # squared share of an unknown in what can still move


@dataclass(frozen=True, slots=True)
class Freedom:
    """dof: count of independent motions that are left · redundant (k,): rows that earlier ones already say · loose (n,): unknowns that
    can still move."""

    dof: int
    redundant: tuple[int, ...]
    loose: NDArray[np.bool_]
    # By part: its unknowns (u,) and the (u, d) orthonormal motions left to them; unknowns of no equation are in none.
    _parts: tuple[tuple[NDArray[np.int64], Array], ...]
    _part_of: NDArray[np.int64]
    _place: NDArray[np.int64]

    def of(self, unknowns: Sequence[Sequence[int]]) -> list[int]:
        """How many independent motions each of some lists of unknowns can make."""
        out = [0] * len(unknowns)
        alike: dict[tuple[int, int], list[tuple[int, NDArray[np.int64]]]] = {}
        for k, own in enumerate(unknowns):
            slots = np.unique(np.array(own, np.int64))
            parts = self._part_of[slots]
            for p in set(parts.tolist()):
                mine = slots[parts == p]
                if p < 0:
                    out[k] += len(mine)
                else:
                    alike.setdefault((p, len(mine)), []).append((k, self._place[mine]))
        for (p, _), members in alike.items():
            rows = self._parts[p][1][np.array([places for _, places in members])]
            squares = np.linalg.eigvalsh(rows @ rows.transpose(0, 2, 1))
            for (k, _), values in zip(members, squares, strict=True):
                out[k] += int((values > _LOOSE).sum())
        return out


def freedom(jacobian: csr_array) -> Freedom:
    """Freedom at a point, from the Jacobian (m, n) there. Earlier rows are taken for what is said, later ones for what repeats it."""
    m, n = jacobian.shape
    norms = np.sqrt(np.asarray(jacobian.multiply(jacobian).sum(axis=1)).ravel())
    scaled = csr_array(jacobian.multiply(1 / np.maximum(norms, 1e-300)[:, None]))
    empty = norms < 1e-12
    graph = bmat([[None, abs(scaled) > 0], [(abs(scaled) > 0).T, None]]) if m and n else None
    if graph is None:
        return Freedom(n, tuple(range(m)), np.ones(n, np.bool_), (), np.full(n, -1), np.full(n, -1))
    number = connected_components(graph, directed=False)[1]
    rows_in = _members(number[:m])
    columns_in = _members(number[m:])
    part_of, place = np.full(n, -1, np.int64), np.full(n, -1, np.int64)
    loose = np.ones(n, np.bool_)
    parts: list[tuple[NDArray[np.int64], Array]] = []
    redundant = [int(k) for k in np.flatnonzero(empty)]
    rank = 0
    for c, rows in rows_in.items():
        rows = rows[~empty[rows]]
        columns = columns_in.get(c, np.zeros(0, np.int64))
        if not len(rows) or not len(columns):
            continue
        left, over = _of_part(scaled[rows][:, columns].toarray())
        rank += len(columns) - left.shape[1]
        redundant += [int(rows[k]) for k in over]
        part_of[columns], place[columns] = len(parts), np.arange(len(columns))
        loose[columns] = (left**2).sum(axis=1) > _LOOSE
        parts.append((columns, left))
    return Freedom(n - rank, tuple(sorted(redundant)), loose, tuple(parts), part_of, place)


def _members(number: NDArray[np.int32]) -> dict[int, NDArray[np.int64]]:
    order = np.argsort(number, kind="stable")
    cuts = np.flatnonzero(np.diff(number[order])) + 1
    return {int(number[g[0]]): g for g in np.split(order, cuts) if len(g)}


def _of_part(A: Array) -> tuple[Array, list[int]]:
    """((n, d) orthonormal null space, rows that say nothing new) of one part (m, n), its rows of length 1."""
    shared = _equal_unknowns(A)
    if shared is not None:
        gather, rest = shared
        B = A[rest] @ gather  # columns of `gather` are orthonormal, so lengths and angles hold
        lengths = np.linalg.norm(B, axis=1)
        if (lengths > _DEPENDENT).all():
            null = _null_if_independent(B / lengths[:, None])
            if null is not None:
                return gather @ null, []
    return _null_and_repeats(A)


def _equal_unknowns(A: Array) -> tuple[Array, NDArray[np.int64]] | None:
    """((n, g) orthonormal columns that spread g unknowns over those equal to them, rows (k,) that say anything else); none where
    equalities close a circle."""
    count = (A != 0).sum(axis=1)
    simple = (count == 1) | ((count == 2) & (np.abs(A.sum(axis=1)) < 1e-12))
    group = list(range(A.shape[1]))
    still: set[int] = set()

    def root(i: int) -> int:
        while group[i] != i:
            group[i] = group[group[i]]
            i = group[i]
        return i

    for row in np.flatnonzero(simple):
        ends = [root(int(i)) for i in np.flatnonzero(A[row])]
        if len(ends) == 1:
            if ends[0] in still:
                return None
            still.add(ends[0])
        elif ends[0] == ends[1] or (ends[0] in still and ends[1] in still):
            return None
        else:
            group[ends[1]] = ends[0]
            if ends[1] in still:
                still.add(ends[0])
    roots = np.array([root(i) for i in range(A.shape[1])])
    moving = [r for r in np.unique(roots) if r not in still]
    gather = (roots[:, None] == np.array(moving, np.int64)[None, :]).astype(float)
    return gather / np.sqrt(np.maximum(gather.sum(axis=0), 1.0)), np.flatnonzero(~simple)


def _null_if_independent(B: Array) -> Array | None:
    m, n = B.shape
    if m == 0:
        return np.eye(n)
    if m > n:
        return None
    Q, R = qr(B.T, mode="full", check_finite=False)
    return Q[:, m:] if (np.abs(np.diag(R)) > _DEPENDENT).all() else None


def _null_and_repeats(A: Array) -> tuple[Array, list[int]]:
    m, n = A.shape
    Q, R, order = qr(A.T, mode="full", pivoting=True, check_finite=False)
    size = np.abs(np.diag(R))
    rank = int((size > _DEPENDENT).sum())
    if rank == m:
        return Q[:, rank:], []
    # Combinations of rows that vanish, (m - rank, m): what the dependent rows are made of.
    made_of = np.linalg.lstsq(R[:rank, :rank], R[:rank, rank:], rcond=None)[0]
    vanish = np.zeros((m - rank, m))
    vanish[:, order[:rank]] = made_of.T
    vanish[np.arange(m - rank), order[rank:]] = -1.0
    repeats, left = [], vanish
    for column in range(m - 1, -1, -1):  # the last row of each combination repeats what the others say
        if not len(left):
            break
        k = int(np.abs(left[:, column]).argmax())
        if abs(left[k, column]) <= 1e-6 * max(1.0, np.abs(left[k]).max()):
            continue
        pivot = left[k] / left[k, column]
        left = np.delete(left, k, axis=0)
        left = left - left[:, column : column + 1] * pivot
        repeats.append(column)
    return Q[:, rank:], sorted(repeats)
