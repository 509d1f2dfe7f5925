"""The smoothest surface through places: a bicubic B-spline whose bending changes least.

Least squares to the places with the integral of its squared third derivatives as a weight: an arc between few rows of places stays an arc,
where a thin plate (second derivatives) would lose its curvature towards the border. Reference: Eilers and Marx, Flexible smoothing with
B-splines and penalties, 1996; Piegl and Tiller, The NURBS Book, 1997, 9.4.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from math import comb

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import BSpline
from scipy.sparse import csr_matrix, eye, kron
from scipy.sparse.linalg import splu

__all__ = ["DEGREE", "Patch", "patches_through"]

Array = NDArray[np.float64]

DEGREE = 3
_CHANGE = 3  # order of the derivatives that are kept small
_SPANS = (12, 24, 48)  # along the longer side
_STIFF = (1e-9, 1e-10, 1e-11, 1e-12, 1e-13)  # of the places' own weight, over a domain of size one
_MARGIN = 0.04  # of the longer side, that the surface goes on for beyond the places
_ROUNDS = 6  # of finding what is nearest: from a tenth of a span away the last moves by nothing
_MOVES = 2  # rounds in which parameters that are not given are put where the surface is nearest


@dataclass(frozen=True, slots=True, eq=False)
class Patch:
    """knots (n + 4,) and (m + 4,) of a bicubic surface, mm, each end four times; poles (n, m, 3) mm; uv (k, 2), off (k,): where on
    it each place is, and how far from it, mm."""

    knots: tuple[Array, Array]
    poles: Array
    uv: Array
    off: Array

    def at(self, uv: Array, order: tuple[int, int] = (0, 0)) -> Array:
        """Places, or derivatives of this order, (k, 3) at parameters (k, 2)."""
        return np.asarray(_rows(self.knots, uv, order) @ self.poles.reshape(-1, 3))

    def nearest(self, uv: Array, places: Array) -> Array:
        """Parameters (k, 2) of what is nearest to places (k, 3), from where that is about; those may lie beyond the surface's end."""
        uv = _within(self, uv)
        for _ in range(_ROUNDS):
            uv = _nearer(self, uv, places)
        return uv


def _along(knots: Array, x: Array, order: int) -> tuple[Array, NDArray[np.int32]]:
    """Values (k, 4) of the four basis functions that are not zero at places (k,), and which they are."""
    if not order:
        rows = BSpline.design_matrix(x, knots, DEGREE)
        return rows.data.reshape(-1, DEGREE + 1), rows.indices.reshape(-1, DEGREE + 1)
    first = np.clip(np.searchsorted(knots, x, side="right") - 1, DEGREE, len(knots) - DEGREE - 2) - DEGREE
    index = first[:, None] + np.arange(DEGREE + 1)
    every = BSpline(knots, np.eye(len(knots) - DEGREE - 1), DEGREE).derivative(order)(x)
    return np.take_along_axis(every, index, axis=1), index.astype(np.int32)


def _rows(knots: tuple[Array, Array], uv: Array, order: tuple[int, int] = (0, 0)) -> csr_matrix:
    """(k, n m): what each pole counts at parameters (k, 2)."""
    (a, i), (b, j) = (_along(t, x, d) for t, x, d in zip(knots, uv.T, order, strict=True))
    across = len(knots[1]) - DEGREE - 1
    index = (i[:, :, None] * across + j[:, None, :]).reshape(len(uv), -1)
    values = (a[:, :, None] * b[:, None, :]).reshape(len(uv), -1)
    at = np.arange(len(uv) + 1) * values.shape[1]
    return csr_matrix((values.ravel(), index.ravel(), at), shape=(len(uv), (len(knots[0]) - DEGREE - 1) * across))


def _gram(knots: Array, order: int) -> csr_matrix:
    """Integrals of products of derivatives of the basis functions."""
    x, w = np.polynomial.legendre.leggauss(DEGREE + 1)
    breaks = np.unique(knots)
    half = np.diff(breaks) / 2
    at = ((breaks[:-1] + half)[:, None] + half[:, None] * x).ravel()
    values, index = _along(knots, at, order)
    start = np.arange(len(at) + 1) * (DEGREE + 1)
    rows = csr_matrix((values.ravel(), index.ravel(), start), shape=(len(at), len(knots) - DEGREE - 1))
    return (rows.T @ rows.multiply((half[:, None] * w).ravel()[:, None])).tocsr()


def _fitted(knots: tuple[Array, Array], uv: Array, places: Array, bending: csr_matrix) -> Patch:
    rows = _rows(knots, uv)
    system = rows.T @ rows / len(uv) + bending + 1e-14 * eye(rows.shape[1])
    # Symmetric and positive: no pivots, and an order for that.
    solved = splu(system.tocsc(), permc_spec="MMD_AT_PLUS_A", diag_pivot_thresh=0.0, options={"SymmetricMode": True})
    poles = solved.solve(rows.T @ places / len(uv))
    shape = tuple(len(t) - DEGREE - 1 for t in knots)
    return Patch(knots, poles.reshape(*shape, 3), uv, np.linalg.norm(rows @ poles - places, axis=1))


def _knots(low: float, high: float, spans: int) -> Array:
    return np.concatenate([[low] * DEGREE, np.linspace(low, high, spans + 1), [high] * DEGREE])


def _nearer(patch: Patch, uv: Array, places: Array) -> Array:
    """Parameters (k, 2) moved towards where the surface is nearest to their places (k, 3) (Gauss-Newton)."""
    du, dv, off = patch.at(uv, (1, 0)), patch.at(uv, (0, 1)), places - patch.at(uv)
    uu, uw, ww = (np.einsum("ij,ij->i", a, b) for a, b in ((du, du), (du, dv), (dv, dv)))
    a, b = np.einsum("ij,ij->i", du, off), np.einsum("ij,ij->i", dv, off)
    whole = np.maximum(uu * ww - uw * uw, 1e-30)
    moved = uv + np.stack([(ww * a - uw * b) / whole, (uu * b - uw * a) / whole], axis=1)
    return _within(patch, moved)


def _within(patch: Patch, uv: Array) -> Array:
    low, high = (np.array([t[end] for t in patch.knots]) for end in (0, -1))
    return np.clip(uv, low, high)


def patches_through(uv: Array, places: Array, loose: NDArray[np.bool_]) -> Iterator[Patch]:
    """Surfaces through places (k, 3), mm, by how many poles they have, of each count the smoothest first.

    uv (k, 2): their parameters, about as long as the way between them, mm · loose (k,): those whose parameters are only about right.
    """
    low, high = uv.min(axis=0), uv.max(axis=0)
    size = float((high - low).max())
    beyond = _MARGIN * size
    for spans in _SPANS:
        each = np.maximum(np.ceil(spans * (high - low) / size), 4).astype(int)
        u, v = (_knots(low[k] - beyond, high[k] + beyond, int(each[k])) for k in range(2))
        change = sum(comb(_CHANGE, k) * kron(_gram(u, _CHANGE - k), _gram(v, k)) for k in range(_CHANGE + 1))
        for stiff in _STIFF:
            bending = (stiff * size**4 * change).tocsr()
            at = uv.copy()
            made = _fitted((u, v), at, places, bending)
            for _ in range(_MOVES if loose.any() else 0):
                at[loose] = _nearer(made, at[loose], places[loose])
                made = _fitted((u, v), at, places, bending)
            yield made
