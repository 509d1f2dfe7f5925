"""Where copies come to lie: in lines, about an axis, mirrored. Placements (4, 4), mm, the first where the thing itself is."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.spatial.transform import Rotation

from contour.geometry.rigid import placement
from contour.geometry.vectors import unit
from contour.recipe.problem import ContourError, Where

__all__ = ["around", "counted", "in_rows", "mirrored", "places_left_out"]

Array = NDArray[np.float64]


def in_rows(
    along: Array,
    pitch: float,
    count: int,
    across: Array | None = None,
    pitch_across: float = 0.0,
    count_across: int = 1,
) -> list[Array]:
    """`count` places along a way (3,), so many mm apart, and as often again across it: row by row."""
    side = np.zeros(3) if across is None else unit(across)
    steps = [(i, j) for j in range(count_across) for i in range(count)]
    return [placement(np.eye(3), i * pitch * unit(along) + j * pitch_across * side) for i, j in steps]


def around(at: Array, axis: Array, step_deg: float, count: int) -> list[Array]:
    """`count` places about an axis (3,) through `at` (3,), so many degrees apart by the right hand."""
    out = []
    for k in range(count):
        turn = Rotation.from_rotvec(np.radians(k * step_deg) * unit(axis)).as_matrix()
        out.append(placement(turn, at - turn @ at))
    return out


def mirrored(at: Array, normal: Array) -> Array:
    """The reflection in a plane, (4, 4). at, normal (3,)."""
    n = unit(normal)
    flip = np.eye(3) - 2 * np.outer(n, n)
    return placement(flip, at - flip @ at)


def counted(value: float, *, param: str, most: int) -> int:
    """What somebody has typed without a unit, as a count. Raises ContourError (bad-params) at `param` for what is no whole number from 1 to `most`."""
    if abs(value - round(value)) > 1e-9 or not 1 <= round(value) <= most:
        raise ContourError(
            "bad-params",
            "members are counted",
            where=Where(param=param),
            got=f"{value:g}",
            need=f"a whole number from 1 to {most}",
            remedy="type a whole number",
        )
    return round(value)


def places_left_out(text: str, count: int, *, what: str, first: int = 1) -> frozenset[int]:
    """Numbers that somebody has typed, such as ``2, 5``, as places from 0 on.

    what: they are places of, in a message. Raises ContourError (bad-params) at ``skip`` for what is no number from `first` to `count`.
    """
    out = set()
    for word in text.replace(",", " ").split():
        if not word.isdigit() or not first <= int(word) <= count:
            raise ContourError(
                "bad-params",
                f"no such place on {what}",
                where=Where(param="skip"),
                got=word,
                need=f"numbers from {first} to {count}",
                remedy="type the numbers of the places to leave out",
            )
        out.add(int(word) - 1)
    return frozenset(out)
