"""The analytic curves: line, circle and ellipse, whole or a piece of one, with what can be asked of each, once for all."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from contour.geometry import rigid
from contour.geometry.vectors import Vec3, triple, unit

__all__ = [
    "Curve",
    "Line",
    "Oval",
    "bounds",
    "distances",
    "feet",
    "moved",
    "offset",
    "parameters",
    "places",
    "tangents",
]

Array = NDArray[np.float64]

_NEWTON = 40  # rounds; an ellipse's foot takes five where it is not close to its middle
_SAMPLES = 65  # of a piece of an ellipse, to begin from


@dataclass(frozen=True, slots=True)
class Line:
    """A straight piece from one place to another, mm. Its parameter is the length from the start."""

    start: Vec3
    end: Vec3

    @property
    def kind(self) -> str:
        return "line"

    @property
    def direction(self) -> Array:
        return unit(np.array(self.end) - np.array(self.start))

    @property
    def length(self) -> float:
        return float(np.linalg.norm(np.array(self.end) - np.array(self.start)))


@dataclass(frozen=True, slots=True)
class Oval:
    """A circle or an ellipse, mm, or the piece of one between two angles (radians, first < last, at most one turn apart).

    x, y: unit directions of its two radii, square to each other; it runs from x to y. Its parameter is the angle: the place is
    ``centre + long cos(t) x + short sin(t) y``.
    """

    centre: Vec3
    x: Vec3
    y: Vec3
    long: float
    short: float
    first: float = 0.0
    last: float = 2 * np.pi

    @property
    def kind(self) -> str:
        return "circle" if self.long == self.short else "ellipse"

    @property
    def axis(self) -> Array:
        return np.cross(self.x, self.y)

    @property
    def whole(self) -> bool:
        return self.last - self.first > 2 * np.pi - 1e-9


Curve = Line | Oval


def places(curve: Curve, t: Array) -> Array:
    """The places (n, 3), mm, of parameters (n,)."""
    t = np.asarray(t, np.float64)[:, None]
    if isinstance(curve, Line):
        return np.asarray(np.array(curve.start) + t * curve.direction)
    x, y = np.array(curve.x), np.array(curve.y)
    return np.asarray(np.array(curve.centre) + curve.long * np.cos(t) * x + curve.short * np.sin(t) * y)


def tangents(curve: Curve, t: Array) -> Array:
    """Unit directions (n, 3) in which the curve runs at parameters (n,)."""
    t = np.asarray(t, np.float64)[:, None]
    if isinstance(curve, Line):
        return np.repeat(curve.direction[None], len(t), axis=0)
    way = -curve.long * np.sin(t) * np.array(curve.x) + curve.short * np.cos(t) * np.array(curve.y)
    return np.asarray(way / np.linalg.norm(way, axis=1, keepdims=True))


def _foot_angles(oval: Oval, a: Array, b: Array) -> Array:
    """Of the nearest places of a whole ellipse to places (a, b) in its plane. Newton on the evolute's form, from the side of the
    long radius, in the first quadrant (Eberly, Distance from a point to an ellipse, 2013, for the sign of its ends)."""
    if oval.long == oval.short:
        return np.arctan2(b, a)
    p, q = np.abs(a), np.abs(b)
    wide, high = oval.long, oval.short
    low, top = np.zeros_like(p), np.full_like(p, np.pi / 2)
    # Not from the very end of a radius, which may be the farthest place instead of the nearest.
    t = np.clip(np.arctan2(wide * q, high * p), 1e-9, np.pi / 2 - 1e-9)
    for _ in range(_NEWTON):
        s, c = np.sin(t), np.cos(t)
        slope = (high * high - wide * wide) * s * c + wide * p * s - high * q * c
        low, top = np.where(slope < 0, t, low), np.where(slope >= 0, t, top)
        bend = (high * high - wide * wide) * (c * c - s * s) + wide * p * c + high * q * s
        with np.errstate(divide="ignore", invalid="ignore"):
            step = t - slope / bend
        inside = (step > low) & (step < top)
        t = np.where(inside, step, (low + top) / 2)
    return np.asarray(np.arctan2(np.sin(t) * np.where(b < 0, -1, 1), np.cos(t) * np.where(a < 0, -1, 1)))


def parameters(curve: Curve, points: Array) -> Array:
    """(n,) parameters of the places of the piece nearest to points (n, 3), mm."""
    points = np.asarray(points, np.float64)
    if isinstance(curve, Line):
        return np.clip((points - np.array(curve.start)) @ curve.direction, 0.0, curve.length)
    w = points - np.array(curve.centre)
    angle = _foot_angles(curve, w @ np.array(curve.x), w @ np.array(curve.y))
    turned = curve.first + (angle - curve.first) % (2 * np.pi)
    if curve.whole:
        return np.asarray(turned)
    out = np.flatnonzero(turned > curve.last)
    turned[out] = _nearest_within(curve, points[out])
    return np.asarray(turned)


def _nearest_within(oval: Oval, points: Array) -> Array:
    """Parameters of the nearest places of a piece whose whole curve is nearest elsewhere: an end, or, of an ellipse, where the piece
    comes near a second time."""
    tried = np.array([oval.first, oval.last])
    if oval.kind == "ellipse":
        tried = np.linspace(oval.first, oval.last, _SAMPLES)
    far = np.linalg.norm(points[:, None] - places(oval, tried)[None], axis=2)
    t = tried[np.argmin(far, axis=1)]
    if oval.kind == "circle" or not len(points):
        return np.asarray(t)
    w = points - np.array(oval.centre)
    a, b = w @ np.array(oval.x), w @ np.array(oval.y)
    gap = (oval.last - oval.first) / (_SAMPLES - 1)
    low, top = np.maximum(t - gap, oval.first), np.minimum(t + gap, oval.last)
    for _ in range(_NEWTON):
        t = (low + top) / 2
        s, c = np.sin(t), np.cos(t)
        slope = (oval.short**2 - oval.long**2) * s * c + oval.long * a * s - oval.short * b * c
        low, top = np.where(slope < 0, t, low), np.where(slope < 0, top, t)
    return np.asarray((low + top) / 2)


def feet(curve: Curve, points: Array) -> Array:
    """The places (n, 3) of the piece nearest to points (n, 3); mm."""
    return places(curve, parameters(curve, points))


def distances(curve: Curve, points: Array) -> Array:
    """How far points (n, 3) are from the piece, (n,), mm."""
    return np.asarray(np.linalg.norm(np.asarray(points) - feet(curve, points), axis=1))


def moved(curve: Curve, matrix: Array) -> Curve:
    """Taken along by a rigid placement (4, 4)."""

    def point(p: Vec3) -> Vec3:
        return triple(rigid.moved(matrix, np.array(p)))

    if isinstance(curve, Line):
        return Line(point(curve.start), point(curve.end))
    x, y = (triple(rigid.turned(matrix, np.array(d))) for d in (curve.x, curve.y))
    return replace(curve, centre=point(curve.centre), x=x, y=y)


def offset(curve: Curve, by_mm: float, normal: Array) -> Curve:
    """The curve `by_mm` to the right of the way it runs, seen against `normal` (3,): outwards for a circle that runs round it to the
    left. Raises ValueError for an ellipse, whose offset is none, and where nothing is left of a circle."""
    if isinstance(curve, Line):
        shift = by_mm * np.cross(curve.direction, unit(normal))
        return Line(triple(np.array(curve.start) + shift), triple(np.array(curve.end) + shift))
    if curve.kind == "ellipse":
        raise ValueError("the offset of an ellipse is no ellipse")
    radius = curve.long + by_mm * float(np.sign(curve.axis @ normal))
    if radius <= 0:
        raise ValueError(f"nothing is left of a circle of {curve.long:g} mm offset by {by_mm:g} mm")
    return replace(curve, long=radius, short=radius)


def bounds(curve: Curve) -> Array:
    """Lowest and highest corner (2, 3), mm, of the piece, exactly."""
    if isinstance(curve, Line):
        ends = np.array([curve.start, curve.end])
    else:
        found = [curve.first, curve.last]
        for k in range(3):
            peak = float(np.arctan2(curve.short * curve.y[k], curve.long * curve.x[k]))
            for angle in (peak, peak + np.pi):
                turned = curve.first + (angle - curve.first) % (2 * np.pi)
                found += [turned] if turned <= curve.last else []
        ends = places(curve, np.array(found))
    return np.array([ends.min(axis=0), ends.max(axis=0)])
