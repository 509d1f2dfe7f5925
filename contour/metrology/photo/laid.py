"""A flat picture laid on a plane: from its pixels to millimetres there, and back."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

__all__ = ["Laid", "by_two_places"]

Array = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Laid:
    """The flat pixel `px` lies at `at` (mm in the plane), rows of the picture turned by `turn_deg` from the plane's first axis
    · mirrored: it is seen from behind."""

    px: tuple[float, float]
    at: tuple[float, float]
    turn_deg: float
    mm_per_px: float
    mirrored: bool = False

    @property
    def matrix(self) -> Array:
        """(2, 2) mm in the plane by pixel. A picture's y goes down, a plane's up."""
        a = math.radians(self.turn_deg)
        turn = np.array([[math.cos(a), -math.sin(a)], [math.sin(a), math.cos(a)]])
        return np.asarray(self.mm_per_px * turn @ np.diag([-1.0 if self.mirrored else 1.0, -1.0]))

    def to_plane(self, px: Array) -> Array:
        """(n, 2) pixels -> (n, 2) mm."""
        return np.asarray(self.at + (np.asarray(px, float) - self.px) @ self.matrix.T)

    def to_picture(self, mm: Array) -> Array:
        """(n, 2) mm -> (n, 2) pixels."""
        return np.asarray(self.px + (np.asarray(mm, float) - self.at) @ np.linalg.inv(self.matrix).T)

    def ways(self, mm: Array) -> Array:
        """(n, 2) unit vectors in the picture for directions (n, 2) in the plane."""
        return np.asarray(mm @ np.linalg.inv(self.matrix).T * self.mm_per_px)

    def moved(self, by: Array, turn_deg: float, about: Array) -> Laid:
        """Turned about a place of the plane (2,), then moved by (2,), mm."""
        a = math.radians(turn_deg)
        turn = np.array([[math.cos(a), -math.sin(a)], [math.sin(a), math.cos(a)]])
        x, y = about + turn @ (np.array(self.at) - about) + by
        return Laid(self.px, (float(x), float(y)), self.turn_deg + turn_deg, self.mm_per_px, self.mirrored)


def by_two_places(laid: Laid, seen: Array, meant: Array) -> tuple[Laid, float]:
    """(the picture moved and turned so that two places of the plane (2, 2), mm, at which something is seen, come to where they are meant to be;
    how many times as far these lie apart). Its scale stays: what is left of a difference is halved between the two."""
    a, b = seen[1] - seen[0], meant[1] - meant[0]
    turn = math.degrees(math.atan2(b[1], b[0]) - math.atan2(a[1], a[0]))
    turn = (turn + 180) % 360 - 180
    middle = seen.mean(axis=0)
    apart = float(np.linalg.norm(b)) / max(float(np.linalg.norm(a)), 1e-12)
    return laid.moved(meant.mean(axis=0) - middle, turn, middle), apart
