"""A part's own axes from what is found on its scan: primary plane, secondary direction, origin. Reference: ISO 5459."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from scipy.spatial.transform import Rotation

from contour.geometry.rigid import moved, placement
from contour.geometry.surfaces import Surface
from contour.recipe.problem import ContourError, Where

__all__ = [
    "Direction",
    "Residuals",
    "datum_frame",
    "meeting_point",
    "principal_frame",
    "reflected_frame",
    "typed_motion",
]

Array = NDArray[np.float64]
_PARALLEL = 9e-3  # surfaces within half a degree of parallel say the same thing twice
Direction = Literal["+x", "-x", "+y", "-y", "+z", "-z"]


@dataclass(frozen=True, slots=True)
class Residuals:
    """What the scan does not agree to: tilt_deg of the other surfaces from square or parallel to the primary, offset_mm of
    the origin from the surfaces that give it (the largest of each)."""

    tilt_deg: float
    offset_mm: float


def _axis(direction: Direction) -> Array:
    out = np.zeros(3)
    out["xyz".index(direction[1])] = 1.0 if direction[0] == "+" else -1.0
    return out


def _line_between(a: Surface, b: Surface, normal: Array) -> Array:
    """From one bore to another, across the primary's normal."""
    d = np.subtract(b.origin, a.origin)
    return d - (d @ normal) * normal


def secondary_direction(found: Sequence[Surface], normal: Array) -> Array:
    """A plane's normal, a cylinder's axis, or the line between two cylinders. Raises ContourError (bad-params).

    Unit vector (3,).
    """
    if len(found) == 2 and all(s.kind == "cylinder" for s in found):
        d = _line_between(found[0], found[1], normal)
        if np.linalg.norm(d) < 1e-6:
            raise ContourError(
                "bad-params",
                "the two holes lie on one line along the primary's normal",
                where=Where(param="secondary"),
                got="one line",
                need="some way between them, across the normal",
                remedy="choose holes that lie apart",
            )
        return d / np.linalg.norm(d)
    if len(found) != 1:
        raise ContourError(
            "bad-params",
            "a secondary direction is one plane, one cylinder, or two holes",
            where=Where(param="secondary"),
            got=", ".join(s.kind for s in found) or "nothing",
            need="one plane, one cylinder or two holes",
            remedy="pick one plane or cylinder, or two holes",
        )
    return np.array(found[0].axis)


def meeting_point(surfaces: Sequence[Surface], near: Array) -> tuple[Array, Array, NDArray[np.bool_]]:
    """(Where planes and cylinder axes meet (3,), how far that is off each (n,) mm, which of them it hangs on (n,)).

    In the order of a datum system: each surface holds what those before it leave open, and nothing more (ISO 5459); a plane along a bore's axis turns
    the part about it and moves nothing. What all leave open is nearest to `near` (3,), mm.
    """
    rows = [np.array([s.axis]) if s.kind == "plane" else np.linalg.svd(np.array([s.axis]))[2][1:] for s in surfaces]
    right = [a @ np.subtract(s.origin, near) for a, s in zip(rows, surfaces, strict=True)]
    x, free = np.zeros(3), np.eye(3)
    held = np.zeros(len(surfaces), bool)
    for k, (a, b) in enumerate(zip(rows, right, strict=True)):
        u, sines, v = np.linalg.svd(a @ free)
        told = int((sines > _PARALLEL).sum())
        held[k] = told > 0
        x = x + free @ (v[:told].T @ ((u.T @ (b - a @ x))[:told] / sines[:told]))
        free = free @ v[told:].T
    off = np.array([np.linalg.norm(a @ x - b) for a, b in zip(rows, right, strict=True)])
    return near + x, off, held


def datum_frame(
    primary: Surface,
    secondary: Sequence[Surface],
    *,
    also: Sequence[Surface] = (),
    up: Direction,
    along: Direction,
    origin: Array,
) -> tuple[Array, Residuals]:
    """Placement that turns the primary's normal (or axis) to `up`, the secondary's direction to `along`, and takes the
    origin to 0; `also` are only looked at for how true they stand. Raises ContourError (bad-params) when the two directions are one.

    T_part_scan (4, 4), mm.
    """
    n = np.array(primary.axis) / np.linalg.norm(primary.axis)
    to_n, to_d = _axis(up), _axis(along)
    if abs(to_n @ to_d) > 0.5:
        raise ContourError(
            "bad-params",
            "primary and secondary are to lie along one axis",
            where=Where(param="along"),
            got=f"{up} and {along}",
            need="two different axes",
            remedy="choose two different axes",
        )
    tilt = 0.0
    for s in (*secondary, *also):
        off = float(np.degrees(np.arccos(min(1.0, abs(float(np.array(s.axis) @ n))))))
        off = min(off, 90 - off)
        # Surfaces that are askew by design say nothing about the scan.
        tilt = max(tilt, off) if off < 10 else tilt
    if secondary:
        d = secondary_direction(secondary, n)
        square = d - (d @ n) * n
        if np.linalg.norm(square) < 0.2:
            raise ContourError(
                "bad-params",
                "the secondary direction runs along the primary's",
                where=Where(param="secondary"),
                got=f"{np.degrees(np.arccos(min(1.0, abs(float(d @ n))))):.1f} deg between them",
                need="about 90 deg",
                remedy="pick a second hole: the line from one to the other then is the direction"
                if len(secondary) == 1 and secondary[0].kind == "cylinder"
                else "pick a surface across it",
            )
        d = square / np.linalg.norm(square)
    else:
        # Nothing given: turn as little as possible.
        turn = _shortest(n, to_n)
        d = turn.T @ to_d
    here = np.column_stack([n, d, np.cross(n, d)])
    there = np.column_stack([to_n, to_d, np.cross(to_n, to_d)])
    rotation = there @ here.T
    return placement(rotation, -rotation @ origin), Residuals(tilt, 0.0)


def _shortest(a: Array, b: Array) -> Array:
    """The least rotation that takes a to b."""
    axis = np.cross(a, b)
    size = float(np.linalg.norm(axis))
    if size < 1e-12:
        if a @ b > 0:
            return np.eye(3)
        axis, size = np.cross(a, np.eye(3)[int(np.argmin(np.abs(a)))]), 1.0
        axis /= np.linalg.norm(axis)
        return np.asarray(Rotation.from_rotvec(np.pi * axis).as_matrix())
    return np.asarray(Rotation.from_rotvec(axis / size * np.arctan2(size, a @ b)).as_matrix())


def principal_frame(points: Array, weights: Array) -> Array:
    """The longest extent to x, the shortest to z, the middle of mass to the origin; turned no more than needed among
    the four ways that allows.

    points (n, 3) mm, weights (n,); (4, 4).
    """
    w = weights / weights.sum()
    middle = w @ points
    spread = (points - middle).T @ ((points - middle) * w[:, None])
    _, axes = np.linalg.eigh(spread)
    best = None
    for sx in (1.0, -1.0):
        for sz in (1.0, -1.0):
            x, z = sx * axes[:, 2], sz * axes[:, 0]
            rotation = np.vstack([x, np.cross(z, x), z])
            if best is None or np.trace(rotation) > np.trace(best):
                best = rotation
    assert best is not None
    return placement(best, -best @ middle)


def reflected_frame(point: Array, normal: Array, direction: Direction, points: Array, weights: Array) -> Array:
    """The symmetry plane through 0 across `direction`; the rest as the principal axes have it, the origin at the middle of
    mass dropped onto the plane.

    point (3,), points (n, 3) mm, weights (n,); (4, 4).
    """
    n = normal / np.linalg.norm(normal)
    target = _axis(direction)
    if (n @ target) < 0:
        n = -n
    w = weights / weights.sum()
    middle = w @ points
    middle = middle - ((middle - point) @ n) * n
    flat = points - middle
    flat = flat - (flat @ n)[:, None] * n
    _, axes = np.linalg.eigh(flat.T @ (flat * w[:, None]))
    long = axes[:, 2]
    to_long = np.eye(3)[0 if direction[1] != "x" else 1]
    if long @ to_long < 0:
        long = -long
    here = np.column_stack([n, long, np.cross(n, long)])
    there = np.column_stack([target, to_long, np.cross(target, to_long)])
    rotation = there @ here.T
    return placement(rotation, -rotation @ middle)


def typed_motion(turn_deg: Sequence[float], shift_mm: Sequence[float]) -> Array:
    """Rotation about x, y, z of the part (in this order, about fixed axes), then a shift.

    (4, 4); three degrees, three mm.
    """
    return placement(np.asarray(Rotation.from_euler("xyz", turn_deg, degrees=True).as_matrix()), np.array(shift_mm))


def box_corner(matrix: Array, points: Array, *, centre: bool) -> Array:
    """`matrix` with the least corner (or the middle) of the box about the placed points taken to the origin."""
    p = moved(matrix, points)
    low, high = p.min(axis=0), p.max(axis=0)
    return placement(np.eye(3), -((low + high) / 2 if centre else low)) @ matrix
