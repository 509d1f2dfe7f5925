"""Squaring up by a rectangle that is roughly marked: its sides are found, the lens from their bend, its corners where they meet."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from contour.metrology.photo.edges import Picture, snap_bowed
from contour.metrology.photo.flat import Flat, lens_of
from contour.recipe.problem import ContourError

__all__ = ["Squared", "squared_up"]

Array = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Squared:
    """corners (4, 2) of the rectangle in the photo; the lens's term; what is left of the sides' bend, pixels."""

    corners: Array
    bend: float
    rms: float


def _line(p: Array) -> tuple[Array, Array]:
    middle = p.mean(axis=0)
    return middle, np.linalg.svd(p - middle)[2][0]


def _meet(a: tuple[Array, Array], b: tuple[Array, Array]) -> Array:
    t = np.linalg.solve(np.column_stack([a[1], -b[1]]), b[0] - a[0])
    return np.asarray(a[0] + t[0] * a[1])


def squared_up(picture: Picture, corners: Array, *, reach: float = 6.0) -> Squared:
    """Exact corners of a rectangle near four picked ones (top left, then clockwise, photo pixels).

    Raises ContourError (fit-failed) where a side shows no edge: the picked corners are then all there is.
    corners (4, 2), reach: pixels.
    """
    photo = (picture.shape[1], picture.shape[0])
    c = np.asarray(corners, float)
    sides = []
    for k in range(4):
        try:
            sides.append(snap_bowed(picture, c[k], c[(k + 1) % 4], reach=reach))
        except ContourError as error:
            name = ("upper", "right", "lower", "left")[k]
            raise ContourError(
                "fit-failed",
                f"the {name} side shows no edge",
                got=error.problem.got,
                need="four sides to be seen",
                remedy="drag the corners closer, or keep them as they are",
            ) from None
    bend = lens_of(sides, photo)
    lens = Flat(photo, bend, np.eye(3), photo)
    lines = [_line(lens.straight(s)) for s in sides]
    straight = np.array([_meet(lines[k - 1], lines[k]) for k in range(4)])
    rest = []
    for side in sides:
        p = lens.straight(side)
        rest.append(np.linalg.svd(p - p.mean(axis=0), compute_uv=False)[1] ** 2 / len(p))
    return Squared(lens.bent(straight), bend, float(np.sqrt(np.mean(rest))))
