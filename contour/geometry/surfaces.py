"""The analytic surfaces: plane, cylinder, cone, sphere and torus, with what can be asked of each, once for all.

Parameters of a place: plane (x, y), both mm · cylinder and cone (angle about the axis, height along it) · sphere (longitude,
latitude) · torus (angle about the axis, angle about the tube). Angles in radians; directions across the axis as
:func:`contour.geometry.vectors.square_to` gives them.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from contour.geometry import rigid
from contour.geometry.surface_rows import CODES, CONE, KINDS, PLANE, SPHERE, TORUS, gap_all
from contour.geometry.vectors import square_to, triple

__all__ = [
    "Surface",
    "SurfaceKind",
    "bounds",
    "distances",
    "feet",
    "gradients",
    "moved",
    "offset",
    "parameters",
    "places",
]

SurfaceKind = Literal["plane", "cylinder", "cone", "sphere", "torus"]
Array = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Surface:
    """A surface, mm; angles in radians.

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
    def at(self) -> Array:
        return np.array(self.origin)

    @property
    def along(self) -> Array:
        return np.array(self.axis)

    @property
    def round(self) -> bool:
        """Whether it turns about its axis."""
        return self.kind in ("cylinder", "cone", "torus")

    def packed(self) -> Array:
        """The nine numbers of :mod:`contour.geometry.surface_rows`."""
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
            triple(origin),
            triple(axis),
            0.0 if code == PLANE else first,
            1 if code == PLANE else int(p[8]),
            angle if code == CONE else 0.0,
            float(p[7]) if code == TORUS else 0.0,
        )


def distances(surface: Surface, points: Array) -> Array:
    """Signed distances (n,), mm; positive outside the material. Past its tip a cone goes on as its mirror image."""
    p = surface.packed()
    return np.asarray(gap_all(surface.code, p, np.ascontiguousarray(points))[0] * p[8])


def gradients(surface: Surface, points: Array) -> Array:
    """Outward unit normals (n, 3) of the surface nearest to the points."""
    p = surface.packed()
    return np.asarray(gap_all(surface.code, p, np.ascontiguousarray(points))[1] * p[8])


def feet(surface: Surface, points: Array) -> Array:
    """The places (n, 3) of the surface nearest to points (n, 3); mm."""
    d, g = gap_all(surface.code, surface.packed(), np.ascontiguousarray(points))
    return np.asarray(points - d[:, None] * g)


def parameters(surface: Surface, points: Array) -> Array:
    """(n, 2) parameters of the places nearest to points (n, 3), as the module says; angles from -pi to pi."""
    w, axis = np.asarray(points) - surface.at, surface.along
    u, v = square_to(axis)
    x, y, h = w @ u, w @ v, w @ axis
    if surface.kind == "plane":
        return np.stack([x, y], axis=1)
    rho = np.hypot(x, y)
    if surface.kind == "cylinder":
        second = h
    elif surface.kind == "cone":
        c, s = np.cos(surface.half_angle), np.sin(surface.half_angle)
        second = ((rho - surface.radius) * s + h * c) * c
    elif surface.kind == "sphere":
        second = np.arctan2(h, rho)
    else:
        second = np.arctan2(h, rho - surface.radius)
    return np.stack([np.arctan2(y, x), second], axis=1)


def _profile(surface: Surface) -> tuple[Callable[[Array], Array], Callable[[Array], Array]]:
    """Distance from the axis and height along it, by the second parameter."""
    if surface.kind == "cylinder":
        return lambda v: np.full_like(v, surface.radius), lambda v: v
    if surface.kind == "cone":
        return lambda v: surface.radius + v * np.tan(surface.half_angle), lambda v: v
    ring, tube = (0.0, surface.radius) if surface.kind == "sphere" else (surface.radius, surface.minor)
    return lambda v: ring + tube * np.cos(v), lambda v: tube * np.sin(v)


def places(surface: Surface, uv: Array) -> Array:
    """The places (n, 3), mm, of parameters (n, 2)."""
    uv = np.asarray(uv, np.float64)
    u, v = square_to(surface.along)
    if surface.kind == "plane":
        return np.asarray(surface.at + uv[:, :1] * u + uv[:, 1:] * v)
    rho, height = (of(uv[:, 1:]) for of in _profile(surface))
    out = np.cos(uv[:, :1]) * u + np.sin(uv[:, :1]) * v
    return np.asarray(surface.at + rho * out + height * surface.along)


def offset(surface: Surface, by_mm: float) -> Surface:
    """The surface `by_mm` further out of the material. Raises ValueError where nothing is left of it."""
    if surface.kind == "plane":
        return replace(surface, origin=triple(surface.at + by_mm * surface.along))
    grown = by_mm * surface.outward
    if surface.kind == "cone":
        return replace(surface, radius=surface.radius + grown / float(np.cos(surface.half_angle)))
    size = surface.minor if surface.kind == "torus" else surface.radius
    if size + grown <= 0:
        raise ValueError(f"nothing is left of a {surface.kind} of {size:g} mm offset by {grown:g} mm")
    return replace(surface, minor=size + grown) if surface.kind == "torus" else replace(surface, radius=size + grown)


def moved(surface: Surface, matrix: Array) -> Surface:
    """Taken along by a rigid placement (4, 4)."""
    return replace(
        surface, origin=triple(rigid.moved(matrix, surface.at)), axis=triple(rigid.turned(matrix, surface.along))
    )


def _between(first: float, last: float, angle: float) -> list[float]:
    """The angle, by as many turns as it takes to lie between two others; none where it does not."""
    turned = first + (angle - first) % (2 * np.pi)
    return [turned] if turned <= last else []


def bounds(surface: Surface, first: tuple[float, float], last: tuple[float, float]) -> Array:
    """Lowest and highest corner (2, 3), mm, of the patch between two pairs of parameters, exactly: its ends and the places where
    the surface turns back along an axis of the frame."""
    u, v = square_to(surface.along)
    low, high = [], []
    rho, height = _profile(surface) if surface.kind != "plane" else (None, None)
    for k in range(3):
        seconds = (first[1], last[1])
        if rho is None or height is None:
            at = [surface.at[k] + a * u[k] + b * v[k] for a in (first[0], last[0]) for b in seconds]
        else:
            peak = float(np.arctan2(v[k], u[k]))
            firsts = [first[0], last[0]]
            firsts += _between(first[0], last[0], peak) + _between(first[0], last[0], peak + np.pi)
            at = []
            for a in firsts:
                out = float(np.cos(a) * u[k] + np.sin(a) * v[k])
                turning = list(seconds)
                if surface.kind in ("sphere", "torus"):
                    crest = float(np.arctan2(surface.along[k], out))
                    turning += _between(*seconds, crest) + _between(*seconds, crest + np.pi)
                b = np.array(turning)
                at += list(surface.at[k] + rho(b) * out + height(b) * surface.along[k])
        low.append(min(at))
        high.append(max(at))
    return np.array([low, high])
