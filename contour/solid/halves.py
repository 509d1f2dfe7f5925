"""Tools that end a body at a surface: everything beyond a plane, or within a cylinder, as a solid."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCylinder
from OCP.gp import gp_Ax2

from contour.geometry.frames import plane_frame
from contour.solid.face_geometry import direction, face_kind, face_surface, pnt
from contour.solid.shape import NamedShape, bounds, faces

__all__ = ["beyond_plane", "reach_of", "within_cylinder"]

Array = NDArray[np.float64]


def reach_of(named: NamedShape, origin: Array, normal: Array) -> tuple[float, float]:
    """Lowest and highest height of a body's box over a plane, mm. origin (3,) mm, normal (3,) unit."""
    low, high = bounds(named.shape)
    corners = np.array([[x, y, z] for x in (low[0], high[0]) for y in (low[1], high[1]) for z in (low[2], high[2])])
    heights = (corners - origin) @ normal
    return float(heights.min()), float(heights.max())


def beyond_plane(origin: Array, normal: Array, size_mm: float, near: Array, name: str) -> NamedShape:
    """A block on the normal's side of a plane, `size_mm` each way around `near`; its face on the plane is `name`.

    All (3,), mm.
    """
    frame = plane_frame(origin, normal)
    u, v = frame.u, frame.v
    foot = near - ((near - origin) @ normal) * normal
    corner = foot - size_mm * (u + v)
    axes = gp_Ax2(pnt(corner), direction(normal), direction(u))
    shape = BRepPrimAPI_MakeBox(axes, 2 * size_mm, 2 * size_mm, 2 * size_mm).Solid()
    names = []
    for i, face in enumerate(faces(shape)):
        g = face_surface(face)
        on = g is not None and float(g.along @ normal) < -0.999
        names.append(name if on else f"{name}.far{i}")
    return NamedShape(shape, tuple(names))


def within_cylinder(origin: Array, axis: Array, radius: float, size_mm: float, name: str) -> NamedShape:
    """A round bar about an axis, `size_mm` long both ways; its round face is `name`.

    origin (3,), radius: mm; axis (3,) unit.
    """
    axes = gp_Ax2(pnt(origin - size_mm * axis), direction(axis))
    shape = BRepPrimAPI_MakeCylinder(axes, radius, 2 * size_mm).Solid()
    kinds = [face_kind(f) for f in faces(shape)]
    return NamedShape(shape, tuple(name if k == "cylinder" else f"{name}.far{i}" for i, k in enumerate(kinds)))
