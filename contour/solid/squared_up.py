"""A solid squared up to another one where both nearly agree: axes that miss each other by less than anybody can measure are what the kernel finds hardest."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray
from scipy.spatial.transform import Rotation

from contour.geometry.rigid import moved, placement, turned
from contour.geometry.surfaces import Surface
from contour.geometry.vectors import unit
from contour.solid.extent import bounds
from contour.solid.face_geometry import face_surface
from contour.solid.placed import placed
from contour.solid.shape import NamedShape, faces

__all__ = ["squared_up"]

Array = NDArray[np.float64]
_MOST_MM = 1e-3  # no part of it goes farther
_EXACT = 1e-15  # radians, and mm: what is nearer is one already
_MOST_FACES = 400


def squared_up(tool: NamedShape, body: NamedShape) -> NamedShape | None:
    """The tool moved as a whole so that an axis of it, else a flat face, lies exactly in one of the body's that it nearly lies in; and along that axis so
    that flat faces across it do. None where nothing nearly lies in anything, or all does exactly."""
    if max(len(tool.names), len(body.names)) > _MOST_FACES:
        return None
    box = bounds(tool.shape)
    corners = np.array([[box[i, 0], box[j, 1], box[k, 2]] for i in (0, 1) for j in (0, 1) for k in (0, 1)])
    own, other = ([g for f in faces(s.shape) if (g := face_surface(f)) is not None] for s in (tool, body))
    for kind in ("cylinder", "plane"):
        for a, b in _pairs(own, other, kind):
            motion = _onto(a, b, corners)
            motion = _settled_along(motion, b.along, own, other) @ motion if kind == "cylinder" else motion
            far = float(np.linalg.norm(moved(motion, corners) - corners, axis=1).max())
            if _EXACT < far <= _MOST_MM:
                return placed(tool, motion)
    return None


def _pairs(own: list[Surface], other: list[Surface], kind: str) -> Iterator[tuple[Surface, Surface]]:
    """Surfaces of a kind, the largest first, that might be meant to be one."""
    some = sorted((g for g in own if g.kind == kind), key=lambda g: -g.radius)
    for a in some:
        for b in other:
            if b.kind == kind and float(np.linalg.norm(np.cross(a.along, b.along))) < _MOST_MM:
                yield a, b


def _onto(a: Surface, b: Surface, corners: Array) -> Array:
    """(4, 4): the smallest turn about the middle of what is moved that makes both directions one, then the shift that lays one surface in the other, or makes their
    axes one."""
    way = b.along * (1.0 if float(a.along @ b.along) > 0 else -1.0)
    axis = np.cross(a.along, way)
    turn = np.asarray(Rotation.from_rotvec(axis).as_matrix()) if np.linalg.norm(axis) > _EXACT else np.eye(3)
    middle = corners.mean(axis=0)
    motion = placement(turn, middle - turn @ middle)
    off = b.at - moved(motion, a.at)
    along = float(off @ b.along) * b.along
    motion[:3, 3] += along if a.kind == "plane" else off - along
    return motion


def _settled_along(motion: Array, axis: Array, own: list[Surface], other: list[Surface]) -> Array:
    """(4, 4): the shift along an axis that lays a flat face across it in one of the other's."""
    shifts = [
        float((b.at - moved(motion, a.at)) @ axis)
        for a in own
        for b in other
        if a.kind == b.kind == "plane"
        and abs(float(unit(turned(motion, a.along)) @ axis)) > 1 - 1e-12
        and abs(float(b.along @ axis)) > 1 - 1e-12
    ]
    least = min(shifts, key=abs, default=0.0)
    return placement(np.eye(3), least * axis if abs(least) <= _MOST_MM else np.zeros(3))
