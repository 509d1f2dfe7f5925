"""Points made from other places."""

from __future__ import annotations

import numpy as np

from contour.construct.place import Place
from contour.geometry.vectors import triple
from contour.recipe.problem import ContourError, Where

__all__ = ["of_axes", "of_axis_and_plane", "of_planes"]


def of_planes(a: Place, b: Place, c: Place) -> Place:
    """Where three planes meet."""
    rows = np.array([a.along, b.along, c.along])
    if abs(np.linalg.det(rows)) < 1e-3:
        raise ContourError(
            "degenerate",
            "the three planes meet in no single point",
            where=Where(param="third_plane"),
            got="two of them are parallel, or all three share a line",
            need="three planes that make a corner",
            remedy="choose planes that make a corner",
        )
    return Place("point", triple(np.linalg.solve(rows, [p.along @ p.at for p in (a, b, c)])))


def of_axis_and_plane(axis: Place, plane: Place) -> Place:
    """Where an axis goes through a plane."""
    slope = float(axis.along @ plane.along)
    if abs(slope) < np.sin(np.radians(0.5)):
        raise ContourError(
            "degenerate",
            "the axis runs along the plane",
            where=Where(param="plane"),
            got=f"{np.degrees(np.arcsin(abs(slope))):.3f} deg between them",
            need="more than 0.5 deg",
            remedy="choose a plane that the axis goes through",
        )
    t = float((plane.at - axis.at) @ plane.along) / slope
    return Place("point", triple(axis.at + t * axis.along))


def nearest_on_axes(a: Place, b: Place) -> tuple[Place, Place] | None:
    """The points of two axes nearest to each other; None when they are parallel."""
    across = np.cross(a.along, b.along)
    if np.linalg.norm(across) < 1e-9:
        return None
    between = b.at - a.at
    rows = np.column_stack([a.along, -b.along])
    t, s = np.linalg.lstsq(rows, between, rcond=None)[0]
    return Place("point", triple(a.at + t * a.along)), Place("point", triple(b.at + s * b.along))


def of_axes(a: Place, b: Place) -> Place:
    """Halfway between two axes where they are nearest to each other."""
    found = nearest_on_axes(a, b)
    if found is None or np.linalg.norm(np.cross(a.along, b.along)) < np.sin(np.radians(0.5)):
        raise ContourError(
            "degenerate",
            "the two axes are parallel",
            where=Where(param="other_axis"),
            got="parallel axes",
            need="axes that cross, or pass each other at an angle",
            remedy="choose axes that cross",
        )
    return Place("point", triple((found[0].at + found[1].at) / 2))
