"""Which demands contradict each other: minimal sets, found where least squares cannot bring the error to nothing.

Where the error is least, what is left of it is a combination of gradients that vanishes: only demands that take part in a contradiction
have any of it. A deletion filter over these (Chinneck 2008, ch. 6) makes the set minimal; each trial is a solve of its own.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csr_array
from scipy.sparse.csgraph import connected_components

from contour.solve.settle import Settled, settle
from contour.solve.system import System

__all__ = ["Demands", "minimal_conflict"]

Array = NDArray[np.float64]
_TAKES_PART = 1e-5  # of the largest error that is left
_SHAKEN = 0.02  # of the size: one more start, so that a saddle is not taken for a contradiction


@dataclass(frozen=True, slots=True)
class Demands:
    """A system whose equations belong to demands. owner (m,): the demand of each, -1 for what always holds · size: of the drawing,
    in the unknowns' unit."""

    system: System
    owner: NDArray[np.int64]
    size: float

    def rows(self, demands: Sequence[int]) -> list[int]:
        """Rows of some demands, and of what always holds for the unknowns they touch or lead to."""
        own = np.isin(self.owner, np.array(demands, np.int64))
        always = np.flatnonzero(self.owner < 0)
        touched = np.zeros(self.system.count, np.bool_)
        for r in np.flatnonzero(own):
            touched[list(self.system.equations[r].slots)] = True
        kept: set[int] = set()
        while True:
            more = [r for r in always if r not in kept and touched[list(self.system.equations[r].slots)].any()]
            if not more:
                return sorted([*(int(r) for r in np.flatnonzero(own)), *kept])
            for r in more:
                kept.add(int(r))
                touched[list(self.system.equations[r].slots)] = True

    def agree(self, demands: Sequence[int], starts: Sequence[Array]) -> bool:
        """Whether some demands can hold together, seen from any of the starts."""
        system, slots = self.system.part(self.rows(demands))
        return any(settle(system, x[slots], size=self.size).solved for x in starts)


def minimal_conflict(demands: Demands, drawn: Array, least: Settled) -> tuple[int, ...]:
    """A minimal set of demands that cannot hold together; `least` is where all of them are least wrong. Empty if no set is found.

    drawn: the start (count,).
    """
    error = np.abs(demands.system.residuals(least.x))
    rng = np.random.default_rng(0)
    shaken = drawn + rng.normal(0, _SHAKEN * demands.size, len(drawn))
    starts = [least.x, drawn, shaken]
    suspects = _of_rows(demands, np.flatnonzero(error > _TAKES_PART * error.max()))
    if not suspects or demands.agree(suspects, starts):
        suspects = _in_part_with(demands, int(error.argmax()))
        if demands.agree(suspects, starts):
            return ()
    step = max(len(suspects) // 2, 1)
    while True:  # large bites first: most of a large part has nothing to do with it
        k = len(suspects)
        while k > 0:
            rest = suspects[: max(k - step, 0)] + suspects[k:]
            if rest and not demands.agree(rest, starts):
                suspects = rest
            k = max(k - step, 0)
        if step == 1:
            return tuple(suspects)
        step = max(step // 2, 1)


def _of_rows(demands: Demands, rows: NDArray[np.int64]) -> list[int]:
    owners = np.unique(demands.owner[rows])
    return [int(d) for d in owners if d >= 0]


def _in_part_with(demands: Demands, row: int) -> list[int]:
    """All demands that are linked to a row by shared unknowns."""
    system = demands.system
    at = np.concatenate([np.full(len(e.slots), r) for r, e in enumerate(system.equations)])
    slots = np.concatenate([np.array(e.slots) for e in system.equations])
    touch = csr_array((np.ones(len(at)), (at, slots)), shape=(len(system), system.count))
    number = connected_components(touch @ touch.T, directed=False)[1]
    return _of_rows(demands, np.flatnonzero(number == number[row]))
