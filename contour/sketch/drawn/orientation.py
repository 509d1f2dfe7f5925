"""Whether a solution has turned something over: a loop inside out, an arc the other way round, a line to nothing, a radius to less than that."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from contour.sketch.drawn.text import Arc, Line
from contour.sketch.drawn.unknowns import Unknowns

__all__ = ["Orientation", "loops_of"]

Array = NDArray[np.float64]
_JUMP_DEG = 180.0
_COLLAPSED = 1e-6  # of what was drawn


class Orientation:
    """The sense of a drawing's loops, the sweeps of its arcs, that lines have a length and sizes are more than nothing, as drawn."""

    def __init__(self, unknowns: Unknowns) -> None:
        u = unknowns
        arcs = [e for e in u.drawing.entities.values() if isinstance(e, Arc)]
        self._arcs = np.array(
            [[*u.points[e.centre], *u.points[e.start], *u.points[e.end]] for e in arcs], np.int64
        ).reshape(-1, 6)
        self._sizes = np.array(list(u.sizes.values()), np.int64)
        self._loops = [np.array([u.points[p] for p in loop]) for loop in loops_of(u)]
        drawn = np.array(u.start)
        self._sweeps = self._sweep(drawn)
        self._lines = np.array(
            [[*u.points[e.start], *u.points[e.end]] for e in u.drawing.entities.values() if isinstance(e, Line)],
            np.int64,
        ).reshape(-1, 4)
        self._lengths = self._length(drawn)
        self._areas = [_area(drawn[slots]) for slots in self._loops]
        self._nothing = 1e-9 * u.extent() ** 2

    def kept(self, x: Array) -> bool:
        """Whether a solution x (n,) has it all the same way."""
        if not self.real(x) or (np.abs(self._sweep(x) - self._sweeps) > _JUMP_DEG).any():
            return False
        if self.collapsed(x):
            return False
        for old, slots in zip(self._areas, self._loops, strict=True):
            new = _area(x[slots])
            if abs(old) > self._nothing and (np.sign(old) != np.sign(new) or abs(new) < _COLLAPSED * abs(old)):
                return False
        return True

    def real(self, x: Array) -> bool:
        """Whether no radius or half axis of a solution x (n,) is less than nothing: what it says is drawn nowhere."""
        return bool((x[self._sizes] > 0).all())

    def collapsed(self, x: Array) -> list[tuple[tuple[int, ...], float]]:
        """Slots and drawn lengths (mm) of lines that a solution x (n,) has brought to nothing."""
        gone = np.flatnonzero(self._length(x) < _COLLAPSED * self._lengths)
        return [(tuple(int(s) for s in self._lines[k]), float(self._lengths[k])) for k in gone]

    def _length(self, x: Array) -> Array:
        p = x[self._lines]
        return np.asarray(np.hypot(p[:, 2] - p[:, 0], p[:, 3] - p[:, 1]))

    def _sweep(self, x: Array) -> Array:
        p = x[self._arcs]
        first, last = (np.arctan2(p[:, k + 1] - p[:, 1], p[:, k] - p[:, 0]) for k in (2, 4))
        return np.asarray(360 - np.degrees(first - last) % 360)


def _area(p: Array) -> float:
    return 0.5 * float(np.sum(p[:, 0] * np.roll(p[:, 1], -1) - np.roll(p[:, 0], -1) * p[:, 1]))


def loops_of(unknowns: Unknowns) -> list[list[str]]:
    """Closed chains of entities by their corners, at which no third entity ends."""
    u = unknowns
    at: dict[str, list[tuple[str, str]]] = {}
    for name, e in u.drawing.entities.items():
        ends = [u.root(p) for p in u.ends(name)]
        if len(ends) == 2 and ends[0] != ends[1] and not e.construction:
            for p, other in (ends, ends[::-1]):
                at.setdefault(p, []).append((name, other))
    loops, seen = [], set[str]()
    for begin, there in at.items():
        if begin in seen or len(there) != 2:
            continue
        chain, came, here = {begin: None}, "", begin
        while True:
            name, further = next((step for step in at[here] if step[0] != came), ("", ""))
            if not name or len(at[further]) != 2 or (further in chain and further != begin):
                break
            came, here = name, further
            if here == begin:
                loops.append(list(chain))
                break
            chain[here] = None
        seen.update(chain)
    return loops
