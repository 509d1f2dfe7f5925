"""A system of equations in real unknowns: many small equations of few forms, evaluated form by form.

A form is written once, as a plain expression on arrays; its derivatives are taken by complex step (Squire and Trapp 1998), which is
exact to rounding. A form must therefore be analytic: ``np.sqrt(x * x + y * y)`` and not ``np.hypot``, no ``abs``.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csr_array

__all__ = ["Equation", "Form", "System"]

Array = NDArray[np.float64]
# (v, c): unknowns and constants, each a list of arrays of one shape -> array of that shape, zero where the equation holds.
Form = Callable[[Any, Any], Any]
_STEP = 1e-30


@dataclass(frozen=True, slots=True)
class Equation:
    """form(unknowns at slots, constants) == 0."""

    form: Form
    slots: tuple[int, ...]
    constants: tuple[float, ...] = ()


class _Group:
    """All equations of one form: rows (m,), slots (k, m), constants (q, m)."""

    def __init__(self, form: Form, rows: list[int], equations: list[Equation]) -> None:
        self.form, self.rows = form, np.array(rows)
        self.slots = np.array([e.slots for e in equations], np.int64).T
        self.constants = np.array([e.constants for e in equations], float).T.reshape(-1, len(rows))
        k = len(self.slots)
        self._steps = 1j * _STEP * np.eye(k)[:, :, None]

    def values(self, x: Array) -> Array:
        return np.asarray(self.form(x[self.slots], self.constants))

    def derivatives(self, x: Array) -> Array:
        """(k, m): by each of the form's unknowns."""
        stepped = x[self.slots][:, None, :] + self._steps
        return np.asarray(self.form(stepped, self.constants[:, None, :])).imag / _STEP


class System:
    """Equations over `count` unknowns."""

    def __init__(self, count: int, equations: Sequence[Equation]) -> None:
        self.count, self.equations = count, tuple(equations)
        by_form: dict[tuple[int, int, int], tuple[list[int], list[Equation]]] = {}
        for row, e in enumerate(self.equations):
            key = (id(e.form), len(e.slots), len(e.constants))
            rows, own = by_form.setdefault(key, ([], []))
            rows.append(row)
            own.append(e)
        self._groups = [_Group(own[0].form, rows, own) for rows, own in by_form.values()]
        self._at_row = np.concatenate([np.tile(g.rows, len(g.slots)) for g in self._groups] or [np.zeros(0, np.int64)])
        self._at_slot = np.concatenate([g.slots.ravel() for g in self._groups] or [np.zeros(0, np.int64)])

    def __len__(self) -> int:
        return len(self.equations)

    def residuals(self, x: Array) -> Array:
        """(m,) in the order of the equations. x (count,)."""
        out = np.zeros(len(self))
        for g in self._groups:
            out[g.rows] = g.values(x)
        return out

    def jacobian(self, x: Array) -> csr_array:
        """(m, count) sparse. x (count,)."""
        return csr_array((self._entries(x), (self._at_row, self._at_slot)), shape=(len(self), self.count))

    def dense_jacobian(self, x: Array) -> Array:
        """(m, count), for small systems. x (count,)."""
        out = np.zeros((len(self), self.count))
        np.add.at(out, (self._at_row, self._at_slot), self._entries(x))
        return out

    def _entries(self, x: Array) -> Array:
        return np.concatenate([g.derivatives(x).ravel() for g in self._groups] or [np.zeros(0)])

    def part(self, rows: Sequence[int]) -> tuple[System, NDArray[np.int64]]:
        """The system of some equations alone, and the unknowns (k,) that it has."""
        own = [self.equations[r] for r in rows]
        slots = np.unique(np.concatenate([np.array(e.slots, np.int64) for e in own] or [np.zeros(0, np.int64)]))
        place = {int(s): k for k, s in enumerate(slots)}
        return System(len(slots), [Equation(e.form, tuple(place[s] for s in e.slots), e.constants) for e in own]), slots
