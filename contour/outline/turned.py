"""One sector of what repeats around an axis: its two ends, and the equations that make one end the other's image when it is turned.

Its outline has two straight ends along the radius. What comes before the first end and behind the second goes on over the seam when the
sector is laid beside itself, and so does what comes behind the first and before the second: each of these is one curve, turned.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from contour.outline.split import ARC, LINE
from contour.recipe.problem import ContourError, Where

__all__ = ["SectorEnds", "Turned", "end_to_end", "ends_of_sector", "going_on", "turned_rows"]

Array = NDArray[np.float64]
_WHOLE = 2e-3  # how far the count of sectors in a full turn may be off a whole number


@dataclass(frozen=True, slots=True)
class Turned:
    """ends: places of both straight ends · pairs: of what meets the first, and what goes on from it beyond the second · middle (2,): mm, where
    both ends lead · turn: radians from the first to the second."""

    ends: tuple[int, int]
    pairs: tuple[tuple[int, int], ...]
    middle: Array
    turn: float


def _rotation(turn: float) -> Array:
    return np.array([[np.cos(turn), -np.sin(turn)], [np.sin(turn), np.cos(turn)]])


def _middle_and_turn(first: tuple[Array, Array], second: tuple[Array, Array]) -> tuple[Array, float] | None:
    """((2,) mm where two straight ends lead, radians from the first to the second); None where they do not lead anywhere.

    first, second: the ends' own ends in the order of the loop, so that one leads away from the middle and the other back to it.
    """
    a, b = first[1] - first[0], second[0] - second[1]
    turn = float(np.arctan2(a[0] * b[1] - a[1] * b[0], a @ b))
    if abs(np.sin(turn)) < 1e-6:  # two halves: both ends lie on one line
        return (np.array([*first, *second]).mean(axis=0), turn) if a @ b < 0 else None
    normals = np.array([[-a[1], a[0]], [-b[1], b[0]]])
    return np.linalg.solve(normals, np.array([normals[0] @ first[0], normals[1] @ second[0]])), turn


@dataclass(frozen=True, slots=True)
class SectorEnds:
    """first, second: places of both ends · middle (2,): where they lead, mm · off: how far the first is off the second when it is turned, mm."""

    first: int
    second: int
    middle: Array
    off: float


def ends_of_sector(
    ends: Sequence[tuple[Array, Array]], made: Sequence[bool], *, meeting: bool = False
) -> SectorEnds | None:
    """The ends of a closed outline of one sector; None of any other.

    ends: where each piece begins and ends, (2,), mm · made: straight pieces that were not scanned, for that is where a sector was cut out ·
    meeting: they may meet on the axis, where there is no bore. Two walls of a corner that were not seen look the same.
    """
    straight = [k for k, m in enumerate(made) if m]
    if len(straight) != 2 or len(ends) < 3:
        return None
    i, j = straight
    found = _middle_and_turn(ends[i], ends[j])
    if found is None or not (meeting or len(going_on(i, j, len(ends))) == 2):
        return None
    middle, turn = found
    count = 2 * np.pi / max(abs(turn), 1e-9)
    if round(count) < 2 or abs(count - round(count)) > _WHOLE * count:
        return None
    image = (np.array(ends[i]) - middle) @ _rotation(turn).T + middle
    return SectorEnds(i, j, middle, float(np.linalg.norm(image[::-1] - np.array(ends[j]), axis=1).max()))


def going_on(first: int, second: int, count: int) -> list[tuple[int, int]]:
    """Of a closed loop of so many pieces: what meets the first end, and what goes on from it beyond the second; a piece from end to end goes on from itself."""
    beside = {((first + 1) % count, (second - 1) % count), ((first - 1) % count, (second + 1) % count)}
    return sorted(beside - {(second, first)})


def end_to_end(
    first: int, second: int, kinds: Sequence[int], ends: Sequence[tuple[Array, Array]], begin: int
) -> Turned:
    """The turn that takes one end of a closed loop to another. Places count from `begin`. Raises ContourError (degenerate).

    ends: where each piece begins and ends, (2,), mm.
    """
    n, kinds = len(ends), kinds[begin : begin + len(ends)]
    i, j = first - begin, second - begin
    found = _middle_and_turn(ends[i], ends[j]) if i != j and kinds[i] == kinds[j] == LINE else None
    pairs = going_on(i, j, n)
    if found is None or any(kinds[a] != kinds[b] or kinds[a] not in (LINE, ARC) for a, b in pairs):
        raise ContourError(
            "degenerate",
            "these are not the two ends of one sector",
            where=Where(param="relations"),
            got="pieces that do not go on from one end to the other",
            need="two straight ends that lead to one middle, with lines or arcs of one kind on both sides of the seam",
            remedy="take it back, or make the pieces that meet the ends of one kind",
        )
    return Turned((first, second), tuple((begin + a, begin + b) for a, b in pairs), *found)


def turned_rows(
    turned: Turned, kinds: Sequence[int], values: Sequence[Array], starts: Sequence[int], count: int
) -> Iterator[tuple[Array, float]]:
    """Derivatives of each equation by all unknowns, and what is left of it.

    values: (angle, distance) of lines (2,), (x, y, radius) of arcs (3,), mm and radians; starts: where they begin among the unknowns. The ends stay as they are: they lie in the
    planes that the sector was cut by.
    """
    x, spin = turned.middle, _rotation(turned.turn)
    for end in turned.ends:
        yield from _held(values[end], _through(x, values[end]), starts[end], count)
    for i, j in turned.pairs:
        p, q, a, b = values[i], values[j], starts[i], starts[j]
        if kinds[i] == ARC and i == j:
            for d in (0, 1):
                row = np.zeros(count)
                row[a + d] = 1
                yield row, float(p[d] - x[d])
        elif kinds[i] == ARC:
            row = np.zeros(count)
            row[a + 2], row[b + 2] = -1, 1
            yield row, float(q[2] - p[2])
            off = q[:2] - x - spin @ (p[:2] - x)
            for d in (0, 1):
                row = np.zeros(count)
                row[b + d] = 1
                row[a : a + 2] -= spin[d]
                yield row, float(off[d])
        elif i == j:  # one line from end to end runs square to the middle between them
            row = np.zeros(count)
            row[a] = 1
            lean = p[0] - values[turned.ends[0]][0] - np.pi / 2 - turned.turn / 2
            yield row, float(lean - np.pi * np.round(lean / np.pi))
        else:
            lean = q[0] - p[0] - turned.turn
            half_turns = np.round(lean / np.pi)
            row = np.zeros(count)
            row[a], row[b] = -1, 1
            yield row, float(lean - np.pi * half_turns)
            sign = 1.0 if int(half_turns) % 2 == 0 else -1.0
            row = np.zeros(count)
            row[a], row[a + 1] = sign * (_across(p[0]) @ x), -sign
            row[b], row[b + 1] = -(_across(q[0]) @ x), 1
            yield row, float(q[1] - _normal(q[0]) @ x - sign * (p[1] - _normal(p[0]) @ x))


def _normal(angle: float) -> Array:
    return np.array([np.cos(angle), np.sin(angle)])


def _across(angle: float) -> Array:
    return np.array([-np.sin(angle), np.cos(angle)])


def _through(x: Array, p: Array) -> Array:
    """A line's (angle, distance), led through a place: it misses it by what rounding leaves."""
    return np.array([p[0], x @ _normal(p[0])])


def _held(now: Array, at: Array, start: int, count: int) -> Iterator[tuple[Array, float]]:
    for d in (0, 1):
        row = np.zeros(count)
        row[start + d] = 1
        yield row, float(now[d] - at[d])
