"""Block, cylinder, cone, sphere and torus as solids whose faces are named for what they are."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from contour.geometry.frames import PlaneFrame, plane_frame
from contour.geometry.vectors import square_to
from contour.recipe.problem import ContourError, Where
from contour.sketch.entities import Entity, Point2, Sketch, find_profiles
from contour.solid.extrude import extrude
from contour.solid.revolve import axis_in_plane, revolve
from contour.solid.shape import NamedShape

__all__ = ["block", "cone", "sphere", "torus", "turned"]

Array = NDArray[np.float64]
Span = tuple[float, float]


def block(frame: PlaneFrame, x: Span, y: Span, z: Span, *, prefix: str) -> NamedShape:
    """Between heights over a frame, mm; sides ``prefix.side[front]``, right, back and left, ends start and end."""
    corners = [(x[0], y[0]), (x[1], y[0]), (x[1], y[1]), (x[0], y[1])]
    sides = [(n, corners[k], corners[(k + 1) % 4]) for k, n in enumerate(("front", "right", "back", "left"))]
    sketch = Sketch(frame, tuple(_lines(sides)))
    return extrude(find_profiles(sketch), frame, start_mm=z[0], end_mm=z[1], prefix=prefix)


def cone(at: Array, way: Array, heights: Span, radii: Span, *, prefix: str) -> NamedShape:
    """Between two heights along an axis, with a radius at each, mm; equal ones make a cylinder, one of nothing a point. Faces bottom, wall and top. at, way (3,)."""
    (low, high), (below, above) = heights, radii
    outline: list[tuple[str, Point2, Point2]] = [
        ("bottom", (0.0, low), (below, low)),
        ("wall", (below, low), (above, high)),
        ("top", (above, high), (0.0, high)),
        ("axis", (0.0, high), (0.0, low)),
    ]
    return turned(outline, at, way, prefix=prefix)


def sphere(at: Array, radius: float, *, prefix: str) -> NamedShape:
    """About a centre (3,), mm; its face is the wall."""
    r = radius
    half = [Entity("axis", "line", (0, r), (0, -r)), Entity("wall", "arc", (0, -r), (0, r), mid=(r, 0))]
    return _turned(half, at, np.array([0.0, 0.0, 1.0]), prefix)


def torus(at: Array, way: Array, radius: float, tube: float, *, prefix: str) -> NamedShape:
    """About a centre and an axis (3,), radii of the middle circle and of the tube, mm. Raises ContourError (self-crossing) where the tube meets itself."""
    if tube >= radius:
        raise ContourError(
            "self-crossing",
            "the tube of the torus meets itself",
            where=Where(param="tube"),
            got=f"a tube of {2 * tube:g} mm on a circle of {2 * radius:g} mm",
            need="a tube thinner than the circle is wide",
            remedy="type a thinner tube, or a larger diameter",
        )
    ring = Entity("wall", "arc", (radius + tube, 0), (radius + tube, 0), mid=(radius - tube, 0))
    return _turned([ring], at, way, prefix)


def turned(outline: Sequence[tuple[str, Point2, Point2]], at: Array, way: Array, *, prefix: str) -> NamedShape:
    """Named lines head to tail, turned once round an axis: x away from it, y along it. at, way (3,), mm; faces ``prefix.side[name]``."""
    return _turned(_lines(outline), at, way, prefix)


def _lines(named: Sequence[tuple[str, Point2, Point2]]) -> list[Entity]:
    return [Entity(name, "line", a, b) for name, a, b in named if a != b]


def _turned(outline: list[Entity], at: Array, way: Array, prefix: str) -> NamedShape:
    """An outline turned once round the axis: x away from it, y along it."""
    across = square_to(way)[0]
    frame = plane_frame(at, np.cross(across, way), across)
    profiles = find_profiles(Sketch(frame, tuple(outline)))
    return revolve(profiles, frame, axis_in_plane(frame, at, way), start_deg=0.0, end_deg=360.0, prefix=prefix)
