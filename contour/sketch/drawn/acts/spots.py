"""Places that were pointed at: how far apart, on which side, and when they make nothing."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from contour.recipe.problem import ContourError
from contour.sketch.drawn.acts.pen import Spot

__all__ = ["NOTHING_MM", "apart", "cross", "moved", "nothing"]

Array = NDArray[np.float64]
NOTHING_MM = 1e-6


def nothing(what: str, remedy: str) -> ContourError:
    """The refusal of a shape whose places coincide."""
    return ContourError(
        "bad-params",
        f"{what} at this place has no size",
        got="places that coincide",
        need="places apart from one another",
        remedy=remedy,
    )


def apart(a: Array, b: Array, what: str) -> float:
    """mm between places (2,). Raises ContourError (bad-params) where they coincide."""
    length = float(np.linalg.norm(b - a))
    if length < NOTHING_MM:
        raise nothing(what, "point to another place")
    return length


def moved(spot: Spot, at: Array) -> Spot:
    """The spot with its place (2,), mm, put elsewhere, unless a point is there."""
    return spot if spot.point else spot.model_copy(update={"at": (float(at[0]), float(at[1]))})


def cross(a: Array, b: Array) -> float:
    """a × b of ways (2,), mm²: positive where b lies to the left of a."""
    return float(a[0] * b[1] - a[1] * b[0])
