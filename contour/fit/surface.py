"""Fitted surfaces: plane, cylinder, cone, sphere and torus, their distance to points, and robust fits to points."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from contour.fit.primitives import CODES, CONE, KINDS, PLANE, SPHERE, TORUS, face_side, gap_all, guess, refine

__all__ = ["Surface", "SurfaceKind", "distances", "fit_surface", "gradients"]

SurfaceKind = Literal["plane", "cylinder", "cone", "sphere", "torus"]
Array = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Surface:
    """A fitted surface, mm, scan frame; angles in radians.

    plane: `origin` on it, `axis` its normal pointing out of the material. cylinder: `origin` on the axis, unit `axis`,
    `radius`. cone: the same, `radius` at the origin, growing along the axis by `half_angle`. sphere: `origin` its centre,
    `radius`. torus: `origin` its centre, `radius` of the middle circle, `minor` of the tube. `outward` is +1 where the
    material lies inside (a shaft), -1 where it lies outside (a bore).
    """

    kind: SurfaceKind
    origin: tuple[float, float, float]
    axis: tuple[float, float, float]
    radius: float
    outward: int
    half_angle: float = 0.0
    minor: float = 0.0

    @property
    def code(self) -> int:
        return CODES[self.kind]

    @property
    def round(self) -> bool:
        """Whether it turns about its axis."""
        return self.kind in ("cylinder", "cone", "torus")

    def packed(self) -> Array:
        """The nine numbers of :mod:`contour.fit.primitives`."""
        side = 1.0 if self.kind == "plane" else float(self.outward)
        first = self.radius * np.cos(self.half_angle) if self.kind == "cone" else self.radius
        second = self.half_angle if self.kind == "cone" else self.minor
        return np.array([*self.origin, *self.axis, first, second, side])

    @staticmethod
    def unpacked(code: int, p: Array) -> Surface:
        origin, axis, angle, first = p[:3].copy(), p[3:6].copy(), float(p[7]), float(p[6])
        if code == PLANE:
            axis = axis * p[8]
        elif code == SPHERE:
            axis = np.array([0.0, 0.0, 1.0])
        elif code == CONE:
            if angle < 0:  # the axis points where it opens
                axis, angle = -axis, -angle
            first = first / np.cos(angle)
        elif axis[np.argmax(np.abs(axis))] < 0:
            axis = -axis  # an axis has no direction: keep one, so that equal fits read equal
        return Surface(
            KINDS[code - 1],  # type: ignore[arg-type]
            (float(origin[0]), float(origin[1]), float(origin[2])),
            (float(axis[0]), float(axis[1]), float(axis[2])),
            0.0 if code == PLANE else first,
            1 if code == PLANE else int(p[8]),
            angle if code == CONE else 0.0,
            float(p[7]) if code == TORUS else 0.0,
        )


def distances(surface: Surface, points: Array) -> Array:
    """Signed distances (n,), mm; positive outside the material."""
    p = surface.packed()
    return np.asarray(gap_all(surface.code, p, np.ascontiguousarray(points))[0] * p[8])


def gradients(surface: Surface, points: Array) -> Array:
    """Outward unit normals (n, 3) of the surface nearest to the points."""
    p = surface.packed()
    return np.asarray(gap_all(surface.code, p, np.ascontiguousarray(points))[1] * p[8])


def fit_surface(
    points: Array, normals: Array, *, kind: SurfaceKind, huber_mm: float = 0.0
) -> tuple[Surface, float] | None:
    """Fit one surface to points (n, 3) with their normals; returns it with the rms, or None when none fits."""
    code = CODES[kind]
    ids = np.arange(len(points))
    p = np.zeros(9)
    points, normals = np.ascontiguousarray(points), np.ascontiguousarray(normals)
    if len(points) < 6 or not guess(code, p, points, normals, ids, len(ids)):
        return None
    rms = refine(code, p, points, ids, len(ids), 30, 0.0)
    if huber_mm > 0:
        rms = refine(code, p, points, ids, len(ids), 20, huber_mm)
    face_side(code, p, points, normals, ids, len(ids))
    return Surface.unpacked(code, p), float(rms)
