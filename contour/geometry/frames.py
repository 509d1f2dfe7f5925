"""Planes with axes of their own."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

__all__ = ["PlaneFrame", "plane_frame"]


@dataclass(frozen=True, slots=True)
class PlaneFrame:
    """A plane with its own axes: origin, unit u, v and normal, each (3,) float64, mm, scan frame."""

    origin: NDArray[np.float64]
    u: NDArray[np.float64]
    v: NDArray[np.float64]
    normal: NDArray[np.float64]

    def to_plane(self, points: NDArray[np.float64]) -> NDArray[np.float64]:
        """(n, 3) -> (n, 2)"""
        d = np.asarray(points) - self.origin
        return np.stack([d @ self.u, d @ self.v], axis=-1)

    def to_space(self, points: NDArray[np.float64]) -> NDArray[np.float64]:
        """(n, 2) -> (n, 3)"""
        p = np.asarray(points, dtype=np.float64)
        return self.origin + p[..., :1] * self.u + p[..., 1:2] * self.v


def plane_frame(
    origin: NDArray[np.float64], normal: NDArray[np.float64], u_hint: NDArray[np.float64] | None = None
) -> PlaneFrame:
    """Axes on a plane; u follows `u_hint`, else the world axis that lies flattest in the plane.

    origin (3,) mm; normal, u_hint (3,) of any length.
    """
    n = np.asarray(normal, dtype=np.float64)
    n = n / np.linalg.norm(n)
    hint = (
        np.asarray(u_hint, dtype=np.float64)
        if u_hint is not None
        else np.eye(3)[np.argmin(np.abs(n) + [0, 1e-6, 2e-6])]
    )
    u = hint - (hint @ n) * n
    if np.linalg.norm(u) < 1e-6:
        u = np.eye(3)[np.argmin(np.abs(n))] - n[np.argmin(np.abs(n))] * n
    u = u / np.linalg.norm(u)
    return PlaneFrame(np.asarray(origin, dtype=np.float64), u, np.cross(n, u), n)
