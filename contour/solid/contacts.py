"""Faces that touch smoothly: what has to hold so that they go on touching when one of them moves.

Every round is a ball rolled along something: a cylinder along its axis, a torus along its middle circle, a sphere nowhere. Two faces touch
in one of two ways. One rolls on the other: all of its middle lies at the ball's radius from it (a fillet on its walls). Or one runs on into
the other: balls of one radius, whose middles meet where the faces do (a fillet around a corner, a ball on the end of a pin).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from contour.geometry.surfaces import Surface, distances, feet, gradients
from contour.geometry.vectors import Vec3, cross, square_to, triple

__all__ = ["FOLLOWS", "Contact", "ball", "contact_of", "middle_near", "one_surface"]

Array = NDArray[np.float64]
FOLLOWS = ("torus", "sphere", "cylinder")  # kinds that roll, those that say most first
_NEAR_MM = 2e-4  # of two faces' middles and radii: less than a worn bore's arcs are apart
_AROUND = (0.0, 0.9, 2.2, 4.1)  # places on a middle circle, radians


def ball(surface: Surface) -> float:
    """Radius of the ball that a round is rolled by, mm."""
    return surface.minor if surface.kind == "torus" else surface.radius


def _middle(surface: Surface) -> Array:
    """Places (n, 3) of what a ball is rolled along."""
    if surface.kind == "sphere":
        return surface.at[None]
    if surface.kind == "cylinder":
        return np.array([surface.at, surface.at + 10.0 * surface.along])
    u, v = square_to(surface.along)
    return np.array([surface.at + surface.radius * (np.cos(t) * u + np.sin(t) * v) for t in _AROUND])


def middle_near(surface: Surface, p: Array) -> Array:
    """The place of the ball's middle when it touches p (3,)."""
    off = p - surface.at
    if surface.kind == "sphere":
        return surface.at
    height = float(off @ surface.along)
    if surface.kind == "cylinder":
        return np.asarray(surface.at + height * surface.along)
    across = off - height * surface.along
    return np.asarray(surface.at + surface.radius * across / max(float(np.linalg.norm(across)), 1e-12))


@dataclass(frozen=True, slots=True)
class Contact:
    """Faces `a` and `b` (places) that touch: a rolls on b at `side` (+1 outside its material, -1 inside), or runs on into it, `out` and `other` (unit) of
    the axes of their middle circles where they have some."""

    a: int
    b: int
    way: Literal["rolls", "runs on"]
    side: float = 0.0
    out: Vec3 = (0.0, 0.0, 0.0)
    other: Vec3 = (0.0, 0.0, 0.0)

    def misfit(self, surfaces: Sequence[Surface | None]) -> Array:
        """Nothing but zeros (k,), mm, while the two touch."""
        a, b = surfaces[self.a], surfaces[self.b]
        assert a is not None and b is not None
        if self.way == "rolls":
            return distances(b, _middle(a)) - self.side * ball(a)
        gap = _end(a, self.out) - _end(b, self.other)
        return np.append(gap if b.kind != "cylinder" else gap - (gap @ b.along) * b.along, ball(a) - ball(b))

    def row(self, surfaces: Sequence[Surface | None], p: Array) -> tuple[float, Array] | None:
        """How far p (3,) is beside the line they touch in, mm, and which way that is: being on both says nothing of it."""
        a, b = surfaces[self.a], surfaces[self.b]
        assert a is not None and b is not None
        if self.way == "runs on":
            along = b.along if b.kind == "cylinder" else cross(a.along, np.array(self.out))
            return None if a.kind == b.kind == "sphere" else (float((p - _end(a, self.out)) @ along), along)
        foot = feet(b, middle_near(a, p)[None])[0]
        normal = gradients(b, foot[None])[0]
        if a.kind == "cylinder":
            line = a.along
        else:
            line = cross((a if a.kind == "torus" else b).along, p - a.at)
        way = cross(normal, line)
        size = float(np.linalg.norm(way))
        return None if size < 1e-9 else (float((p - foot) @ way) / size, way / size)


def _end(surface: Surface, out: Vec3) -> Array:
    """Where a ball stands that is to run on into another face's; some place of the axis for a cylinder."""
    return surface.at + (surface.radius * np.array(out) if surface.kind == "torus" else 0.0)


def _out(surface: Surface, place: Array) -> Vec3:
    """Unit vector from a torus' axis to a place; nothing for other kinds."""
    if surface.kind != "torus":
        return (0.0, 0.0, 0.0)
    return triple((middle_near(surface, place) - surface.at) / surface.radius)


def one_surface(a: Surface | None, b: Surface | None) -> bool:
    """Whether two faces lie on the same surface, from the same side."""
    if a is None or b is None or a.kind != b.kind or a.outward != b.outward:
        return False
    if a.kind == "sphere":
        return _alike(a, b, a.at - b.at)
    if abs(float(a.along @ b.along)) < 1 - 1e-9:
        return False
    off = b.at - a.at
    if a.kind == "plane":
        return float(a.along @ b.along) > 0 and abs(float(off @ a.along)) < _NEAR_MM
    if a.kind == "cone":
        grown = float(off @ a.along) * float(np.tan(a.half_angle))  # the same cone, told at another place of its axis
        if (
            float(a.along @ b.along) < 0
            or abs(a.half_angle - b.half_angle) > 1e-9
            or abs(a.radius + grown - b.radius) > _NEAR_MM
        ):
            return False
        return float(np.linalg.norm(off - (off @ a.along) * a.along)) < _NEAR_MM
    return _alike(a, b, off - (off @ a.along) * a.along if a.kind == "cylinder" else off)


def _alike(a: Surface, b: Surface, off: Array) -> bool:
    return max(float(np.linalg.norm(off)), abs(a.radius - b.radius), abs(a.minor - b.minor)) < _NEAR_MM


def contact_of(a: int, b: int, surfaces: Sequence[Surface | None], place: Array) -> Contact | None:
    """How two faces touch that meet smoothly at `place` (3,), mm; none for a way that is not followed."""
    known = [(k, s) for k in (a, b) if (s := surfaces[k]) is not None]
    if len(known) < 2 or one_surface(known[0][1], known[1][1]):
        return None
    rounds = sorted((i for i in known if i[1].kind in FOLLOWS), key=lambda i: FOLLOWS.index(i[1].kind))
    if len(rounds) == 2:
        (i, one), (j, other) = rounds
        ends = Contact(i, j, "runs on", 0.0, _out(one, place), _out(other, place))
        straight = one.kind == "cylinder"  # then both are
        if not straight and np.abs(ends.misfit(surfaces)).max() < _NEAR_MM:
            return ends
    for i, one in rounds:
        j, other = next(k for k in known if k[0] != i)
        away = distances(other, _middle(one)) / ball(one)
        if np.ptp(away) < _NEAR_MM and abs(abs(float(away[0])) - 1) < _NEAR_MM:
            return Contact(i, j, "rolls", float(np.sign(away[0])))
    return None
