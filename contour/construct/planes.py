"""Planes made from other places. Every function takes places as they are and says what cannot be."""

from __future__ import annotations

import numpy as np

from contour.construct.place import Array, Place
from contour.geometry.vectors import square_to, triple, unit
from contour.recipe.problem import ContourError, Where

__all__ = ["across", "midplane", "offset", "tangent", "through_axes", "through_axis", "through_points", "tilted"]

_PARALLEL = np.sin(np.radians(0.5))  # two directions within half a degree settle no third


def _plane(origin: Array, normal: Array, reach: float) -> Place:
    return Place("plane", triple(origin), triple(unit(normal)), reach=reach)


def offset(base: Place, mm: float) -> Place:
    """Parallel to another, `mm` along its normal."""
    return _plane(base.at + mm * base.along, base.along, base.reach)


def tilted(base: Place, turn_u: float, turn_v: float, u_axis: Array) -> Place:
    """Turned about the base's own axes through its origin, first about u, then about v (radians).

    u_axis (3,), a direction in the plane.
    """
    n = base.along
    u = unit(u_axis - (u_axis @ n) * n)
    v = np.cross(n, u)
    n = n * np.cos(turn_u) + np.cross(u, n) * np.sin(turn_u)
    n = n * np.cos(turn_v) + np.cross(v, n) * np.sin(turn_v) + v * (v @ n) * (1 - np.cos(turn_v))
    return _plane(base.at, n, base.reach)


def through_axis(base: Place, axis: Place, angle: float) -> Place:
    """Holds the axis; at angle 0 as parallel to the base as that allows, then turned about the axis (radians)."""
    d = axis.along
    n = base.along - (base.along @ d) * d
    if np.linalg.norm(n) < _PARALLEL:
        raise ContourError(
            "degenerate",
            "the axis runs along the plane's normal: no plane through it is like the plane",
            where=Where(param="axis"),
            got=f"{np.degrees(np.arccos(min(1.0, abs(float(base.along @ d))))):.2f} deg between them",
            need="more than 0.5 deg",
            remedy="choose a plane that the axis does not stand on",
        )
    n = unit(n)
    n = n * np.cos(angle) + np.cross(d, n) * np.sin(angle)
    return _plane(axis.at, n, max(base.reach, axis.reach))


def through_points(a: Place, b: Place, c: Place) -> Place:
    """Through three points, its normal by the right hand."""
    first, second = b.at - a.at, c.at - a.at
    n = np.cross(first, second)
    size = max(float(np.linalg.norm(first)), float(np.linalg.norm(second)), float(np.linalg.norm(c.at - b.at)))
    if size < 1e-9 or np.linalg.norm(n) < 1e-3 * size * size:
        raise ContourError(
            "degenerate",
            "the three points lie on one line",
            where=Where(param="points", point=triple(b.at)),
            got=f"the middle one lies {np.linalg.norm(n) / max(size, 1e-12):.3g} mm off the line through the others",
            need="three points that span a plane",
            remedy="move one of them off the line",
        )
    middle = (a.at + b.at + c.at) / 3
    return _plane(middle, n, 0.8 * size)


def through_axes(a: Place, b: Place, *, skew_mm: float) -> Place:
    """Through two lines that are parallel or cross; lines that pass each other by no more than `skew_mm` are taken halfway."""
    between = b.at - a.at
    n = np.cross(a.along, b.along)
    reach = max(a.reach, b.reach, 0.7 * float(np.linalg.norm(between)))
    if np.linalg.norm(n) < _PARALLEL:
        d = unit(a.along + np.copysign(1.0, a.along @ b.along) * b.along)
        n = np.cross(d, between)
        if np.linalg.norm(n) < 1e-6 + 1e-4 * np.linalg.norm(between):
            raise ContourError(
                "degenerate",
                "the two lines are one",
                where=Where(param="other_axis"),
                got="one line twice",
                need="two lines",
                remedy="choose lines that lie apart",
            )
        return _plane((a.at + b.at) / 2, n, reach)
    n = unit(n)
    gap = float(between @ n)
    if abs(gap) > skew_mm:
        raise ContourError(
            "degenerate",
            "the two lines pass each other: no plane holds both",
            where=Where(param="other_axis"),
            got=f"{abs(gap):.3f} mm apart where they are nearest",
            need=f"at most {skew_mm:.3g} mm",
            remedy="choose lines that are parallel or cross",
        )
    return _plane(a.at + between / 2, n, reach)


def midplane(a: Place, b: Place) -> Place:
    """Halfway between two planes; where they are not parallel, the one that halves the angle between them."""
    n, m = a.along, b.along
    if n @ m < 0:
        m = -m
    d = unit(n + m)
    reach = max(a.reach, b.reach)
    cross = np.cross(n, m)
    if np.linalg.norm(cross) < 1e-9:
        return _plane((a.at + b.at) / 2, d, reach)
    # Points that are as far from one as from the other: (x - a) n = -(x - b) m.
    to_mid = float((a.at @ n + b.at @ m) / np.linalg.norm(n + m))
    middle = (a.at + b.at) / 2
    return _plane(middle - (middle @ d - to_mid) * d, d, reach)


def tangent(round_: Place, base: Place, *, far: bool) -> Place:
    """Touches a cylinder on the side the base's normal points to (`far`: on the other), as parallel to the base as its axis
    allows."""
    if round_.radius <= 0:
        raise ContourError(
            "wrong-kind",
            "a tangent plane needs a cylinder",
            where=Where(param="axis"),
            got=f"radius {round_.radius:g} mm",
            need="a cylinder",
            remedy="choose a cylinder region",
        )
    n = through_axis(base, round_, 0.0).along * (-1.0 if far else 1.0)
    return _plane(round_.at + round_.radius * n, n, max(round_.reach, round_.radius))


def across(axis: Place, mm: float) -> Place:
    """Square to an axis, `mm` along it from its middle."""
    return _plane(axis.at + mm * axis.along, axis.along, max(axis.reach, 1.5 * axis.radius))


def normal_to_path(points: Array, fraction: float) -> Place:
    """Square to a path of points (n, 3) at a fraction of its length (0..1). mm."""
    steps = np.linalg.norm(np.diff(points, axis=0), axis=1)
    along = np.concatenate([[0.0], np.cumsum(steps)])
    at = float(np.clip(fraction, 0.0, 1.0)) * along[-1]
    k = int(np.clip(np.searchsorted(along, at, side="right") - 1, 0, len(steps) - 1))
    place = points[k] + (at - along[k]) / steps[k] * (points[k + 1] - points[k])
    # The direction of the chord between the middles around the place: a polyline's corner has two.
    ahead = np.array([np.interp(min(at + steps[k] / 2, along[-1]), along, points[:, d]) for d in range(3)])
    behind = np.array([np.interp(max(at - steps[k] / 2, 0.0), along, points[:, d]) for d in range(3)])
    return _plane(place, ahead - behind, 0.25 * float(along[-1]))


def u_axis_of(normal: Array) -> Array:
    """The direction a plane's own turns are counted about: the world axis that lies flattest in it.

    Unit vector (3,); normal (3,) of any length.
    """
    hint = np.eye(3)[int(np.argmin(np.abs(normal) + [0, 1e-6, 2e-6]))]
    u = hint - (hint @ normal) * normal
    return unit(u) if np.linalg.norm(u) > 1e-6 else square_to(normal)[0]
