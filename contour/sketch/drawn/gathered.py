"""Measured places by the entities they belong to: distances and derivatives of all lines at once, of all circles and arcs, and of each other curve."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_array, csc_array

from contour.sketch.drawn.nearness import off
from contour.sketch.drawn.text import Arc, Circle, Line
from contour.sketch.drawn.unknowns import Unknowns

__all__ = ["Gathered", "Told"]

Array = NDArray[np.float64]
Ints = NDArray[np.int64]


@dataclass(frozen=True, slots=True, eq=False)
class _Group:
    """Entities of one form. rows (m,): their places, one entity after the other · first (e,): where each begins · slots (e, k) of the unknowns."""

    rows: Ints
    first: Ints
    slots: Ints


@dataclass(frozen=True, slots=True, eq=False)
class Told:
    """residuals (n,), mm, not a number of places that belong to nothing · slopes: by group, derivatives (m, k) by its slots."""

    residuals: Array
    slopes: tuple[Array, ...]


class Gathered:
    """rows: places (n, 2) by the entity, by its place in names, that they belong to."""

    def __init__(self, unknowns: Unknowns, names: Sequence[str], rows: Mapping[int, Ints], points: Array) -> None:
        self._u, self._points = unknowns, points
        self._names = names
        entities = unknowns.drawing.entities
        lines = [k for k in rows if isinstance(entities[names[k]], Line)]
        rounds = [k for k in rows if isinstance(entities[names[k]], Circle | Arc)]
        self._others = [k for k in rows if k not in {*lines, *rounds}]
        self._lines = _group(rows, lines, [self._line_slots(names[k]) for k in lines])
        self._rounds = _group(rows, rounds, [self._round_slots(names[k]) for k in rounds])
        # How many unknowns another curve hangs on is known once it is evaluated.
        self._alone = [
            _group(rows, [k], [off(unknowns, np.array(unknowns.start), names[k], points[:1])[1]]) for k in self._others
        ]
        self._groups = [g for g in (self._lines, self._rounds) if len(g.rows)] + self._alone
        order = np.concatenate([g.rows for g in self._groups] or [np.zeros(0, np.int64)])
        counts = np.concatenate([np.diff([*g.first, len(g.rows)]) for g in self._groups] or [np.zeros(0, np.int64)])
        self._order, self._counts = order, counts.astype(np.int64)
        self._which = np.repeat(np.arange(len(counts)), self._counts)
        self._first = np.cumsum(self._counts) - self._counts

    def _line_slots(self, name: str) -> list[int]:
        e = self._u.drawing.entities[name]
        assert isinstance(e, Line)
        return [*self._u.points[e.start], *self._u.points[e.end]]

    def _round_slots(self, name: str) -> list[int]:
        e = self._u.drawing.entities[name]
        assert isinstance(e, Circle | Arc)
        return [*self._u.points[e.centre], self._u.sizes[name]]

    def told(self, x: Array) -> Told:
        r = np.full(len(self._points), np.nan)
        slopes = []
        if len(self._lines.rows):
            r[self._lines.rows], slope = self._off_lines(x)
            slopes.append(slope)
        if len(self._rounds.rows):
            r[self._rounds.rows], slope = self._off_rounds(x)
            slopes.append(slope)
        for k, g in zip(self._others, self._alone, strict=True):
            r[g.rows], _, slope = off(self._u, x, self._names[k], self._points[g.rows])
            slopes.append(slope)
        return Told(r, tuple(slopes))

    def _off_lines(self, x: Array) -> tuple[Array, Array]:
        g = self._lines
        ends = x[g.slots]
        d = ends[:, 2:] - ends[:, :2]
        long = np.maximum(np.linalg.norm(d, axis=1), 1e-12)
        which = _which(g)
        n = (np.stack([-d[:, 1], d[:, 0]], axis=1) / long[:, None])[which]
        away = self._points[g.rows] - ends[which, :2]
        along = (np.einsum("md,md->m", away, d[which]) / long[which] ** 2)[:, None]
        return np.einsum("md,md->m", away, n), np.hstack([-(1 - along) * n, -along * n])

    def _off_rounds(self, x: Array) -> tuple[Array, Array]:
        g = self._rounds
        own = x[g.slots][_which(g)]
        away = self._points[g.rows] - own[:, :2]
        far = np.maximum(np.linalg.norm(away, axis=1), 1e-12)
        return far - own[:, 2], np.hstack([-away / far[:, None], np.full((len(far), 1), -1.0)])

    def normal(self, told: Told, weights: Array, count: int) -> tuple[csc_array, Array]:
        """(JᵀWJ, JᵀWr) of the residuals, in all `count` unknowns."""
        at, columns, values = [], [], []
        slope = np.zeros(count)
        for g, jacobian in zip(self._groups, told.slopes, strict=True):
            w = weights[g.rows]
            weighed = jacobian * w[:, None]
            own = np.add.reduceat(weighed * told.residuals[g.rows][:, None], g.first, axis=0)
            np.add.at(slope, g.slots, own)
            wide = g.slots.shape[1]
            square = np.add.reduceat((weighed[:, :, None] * jacobian[:, None, :]).reshape(len(w), -1), g.first, axis=0)
            at.append(np.repeat(g.slots, wide, axis=1).ravel())
            columns.append(np.tile(g.slots, wide).ravel())
            values.append(square.ravel())
        where = (np.concatenate(at), np.concatenate(columns))
        return coo_array((np.concatenate(values), where), shape=(count, count)).tocsc(), slope

    def medians(self, values: Array) -> Array:
        """(n,) of each place the median of its entity's values (n,); not a number of places that belong to nothing."""
        own = values[self._order]
        least = float(own.min(initial=0.0))
        span = max(float(own.max(initial=0.0)) - least, 1e-300) * 1.001
        # One sort for all entities: each has its own whole number.
        keys = np.sort(self._which + (own - least) / span)
        low, high = self._first + (self._counts - 1) // 2, self._first + self._counts // 2
        middle = ((keys[low] + keys[high]) / 2 - np.arange(len(low))) * span + least
        out = np.full(len(values), np.nan)
        out[self._order] = middle[self._which]
        return out


def _which(g: _Group) -> Ints:
    return np.repeat(np.arange(len(g.first)), np.diff([*g.first, len(g.rows)]))


def _group(rows: Mapping[int, Ints], entities: Sequence[int], slots: Sequence[Sequence[int]]) -> _Group:
    counts = np.array([len(rows[k]) for k in entities], np.int64)
    together = np.concatenate([rows[k] for k in entities]) if entities else np.zeros(0, np.int64)
    return _Group(
        together, np.cumsum(counts) - counts, np.array(slots, np.int64) if slots else np.zeros((0, 1), np.int64)
    )
