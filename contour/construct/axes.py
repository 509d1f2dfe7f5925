"""Axes made from other places."""

from __future__ import annotations

import numpy as np

from contour.construct.place import Place
from contour.geometry.vectors import triple, unit
from contour.recipe.problem import ContourError, Where

__all__ = ["of_planes", "through", "through_points"]


def of_planes(a: Place, b: Place) -> Place:
    """Where two planes meet; its origin is the point of it nearest to both planes' middles."""
    d = np.cross(a.along, b.along)
    if np.linalg.norm(d) < np.sin(np.radians(0.5)):
        raise ContourError(
            "degenerate",
            "the two planes are parallel",
            where=Where(param="other_plane"),
            got=f"{np.degrees(np.arcsin(min(1.0, float(np.linalg.norm(d))))):.3f} deg between them",
            need="more than 0.5 deg",
            remedy="choose planes that meet",
        )
    d = unit(d)
    middle = (a.at + b.at) / 2
    rows = np.array([a.along, b.along, d])
    origin = np.linalg.solve(rows, [a.along @ a.at, b.along @ b.at, d @ middle])
    return Place("axis", triple(origin), triple(d), reach=max(a.reach, b.reach))


def through_points(a: Place, b: Place) -> Place:
    """From one point to another."""
    d = b.at - a.at
    length = float(np.linalg.norm(d))
    if length < 1e-6:
        raise ContourError(
            "degenerate",
            "the two points are one",
            where=Where(param="other_point", point=triple(a.at)),
            got=f"{length:.2g} mm apart",
            need="some way between them",
            remedy="choose points that lie apart",
        )
    return Place("axis", triple((a.at + b.at) / 2), triple(d / length), reach=0.6 * length)


def through(point: Place, direction: Place) -> Place:
    """Through a point, along an axis or a plane's normal."""
    return Place("axis", point.origin, direction.direction, reach=direction.reach)
