"""Unknowns moved as little as possible until the equations hold: damped Gauss-Newton with steps of least weighted norm.

Reference: Nocedal and Wright, Numerical Optimization, ch. 10 (Levenberg-Marquardt); the step is taken in the equations' space,
W Jᵀ (J W Jᵀ + μ D)⁻¹ r, which gives the least change where equations leave freedom and bears redundant ones.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csc_array, diags_array
from scipy.sparse.linalg import splu

from contour.solve.system import System

__all__ = ["Settled", "settle"]

Array = NDArray[np.float64]
_FIRST_DAMPING = 1e-11  # of the matrix' diagonal: enough for redundant equations, nothing to the others
_MOST_DAMPING = 1e6
_STALLED = 1e-4  # of the sum of squares within `_PATIENCE` rounds
_PATIENCE = 8
_SMALL = 30_000  # entries of a matrix: below it, full ones are faster
_PARTS = (1.0, 0.5, 0.2, 0.05)  # of a step, tried one after the other
_ENOUGH = 0.3  # of what a straight form would give
_FURTHEST = 0.2  # of the size in one step
_FAR, _WARY, _WORTH = 2.0, 1e-3, 0.1  # times the error; damping; of the sum of squares
_POLISH = 1e-13  # of the size: as far as doubles go


@dataclass(frozen=True, slots=True)
class Settled:
    """x (count,) · residual: the largest that is left, in the equations' unit · solved: it is nothing."""

    x: Array
    residual: float
    solved: bool


def settle(
    system: System,
    x: Array,
    *,
    size: float,
    weights: Array | None = None,
    left: Array | None = None,
    tolerance: float = 1e-9,
    most: int = 120,
) -> Settled:
    """From x (count,) to where all equations hold, or to where they are least wrong.

    size: of the drawing, in the unknowns' unit: steps stay below it, `tolerance` is a part of it · weights (count,): how unwilling
    an unknown is to move, 1 where not given · left (m,): errors that may stay, on the way to where none may.
    """
    x = np.array(x, float)
    if len(system) == 0:
        return Settled(x, 0.0, True)
    ease = np.ones(system.count) if weights is None else 1.0 / np.asarray(weights, float)
    shift = np.zeros(len(system)) if left is None else left
    r = system.residuals(x) - shift
    small = len(system) * system.count <= _SMALL
    damping, history = _FIRST_DAMPING, [float(r @ r)]
    for _ in range(most):
        worst = float(np.abs(r).max())
        if worst <= _POLISH * size:
            break
        J = system.dense_jacobian(x) if small else system.jacobian(x)
        moved = False
        while damping < _MOST_DAMPING and not moved:
            step = _dense_step(J, r, ease, damping) if small else _step(J, r, ease, damping)
            reach = float(np.abs(step).max()) if np.isfinite(step).all() else np.inf
            if _FAR * worst < reach and damping < _WARY:
                # Equations that will say one thing at the end, but not quite yet: what they differ by is no reason to go far.
                wary = _dense_step(J, r, ease, _WARY) if small else _step(J, r, ease, _WARY)
                tried = system.residuals(x + wary) - shift
                if np.isfinite(tried).all() and tried @ tried < _WORTH * history[-1]:
                    x, r, moved = x + wary, tried, True
                    break
            # As far as it helps: the direction is right, however far the forms are from straight.
            for part in _PARTS if np.isfinite(reach) else ():
                tried_x = x + step * min(part, _FURTHEST * size / max(reach, 1e-300))
                tried = system.residuals(tried_x) - shift
                if np.isfinite(tried).all() and tried @ tried < (1 - _ENOUGH * part) * history[-1]:
                    x, r, moved = tried_x, tried, True
                    break
            damping = max(damping / 30, _FIRST_DAMPING) if moved else max(damping * 30, 1e-8)
        if not moved:
            break  # nothing near is better
        history.append(float(r @ r))
        if len(history) > _PATIENCE and history[-1] > (1 - _STALLED) * history[-1 - _PATIENCE]:
            break
        if worst <= tolerance * size and float(np.abs(r).max()) > 0.3 * worst:
            break  # rounding is all that is left
    worst = float(np.abs(r).max())
    return Settled(x, worst, worst <= tolerance * size)


def _dense_step(J: Array, r: Array, ease: Array, damping: float) -> Array:
    JW = J * ease
    A = JW @ J.T
    A[np.diag_indices_from(A)] += damping * np.maximum(A.diagonal(), 1e-12)
    try:
        return -(JW.T @ np.linalg.solve(A, r))
    except np.linalg.LinAlgError:
        return np.full(J.shape[1], np.nan)


def _step(J: csc_array, r: Array, ease: Array, damping: float) -> Array:
    JW = J * ease[None, :]
    A = csc_array(JW @ J.T)
    diagonal = np.maximum(A.diagonal(), 1e-12)
    A = csc_array(A + diags_array(damping * diagonal))
    try:
        factor = splu(A, permc_spec="MMD_AT_PLUS_A", options={"SymmetricMode": True})
    except RuntimeError:  # exactly singular: a little more damping will do
        return np.full(J.shape[1], np.nan)
    return np.asarray(-(JW.T @ factor.solve(r)))
