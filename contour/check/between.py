"""Distance and angle between two places, where they are nearest, and how sure both are."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from contour.construct.place import Array, Place, spread
from contour.construct.points import nearest_on_axes
from contour.geometry.vectors import triple

__all__ = ["Between", "between"]

_LEVEL = np.radians(1.0)  # up to here two planes or axes are spoken of as parallel, and their distance as one number


@dataclass(frozen=True, slots=True)
class Between:
    """distance: mm, None where there is none (planes or axes that meet) · angle: degrees between normals or directions (0 to 90),
    None for points · start, end: the places it is measured between · u, u_angle: standard uncertainties · note: in plain words what
    was measured."""

    distance: float | None
    angle: float | None
    start: tuple[float, float, float]
    end: tuple[float, float, float]
    u: float | None
    u_angle: float | None
    note: str


def _angle(a: Array, b: Array) -> float:
    return float(np.arctan2(np.linalg.norm(np.cross(a, b)), abs(float(a @ b))))


def _reach(a: Place, b: Place) -> tuple[Array, Array]:
    """Nearest (for planes: characteristic) points of two places; of what is parallel, abreast of the first one's middle."""
    if a.shape == "point" and b.shape == "point":
        return a.at, b.at
    if a.shape == "point" or b.shape == "point":
        p, other = (a, b) if a.shape == "point" else (b, a)
        d = p.at - other.at
        along = float(d @ other.along)
        foot = p.at - along * other.along if other.shape == "plane" else other.at + along * other.along
        return (p.at, foot) if p is a else (foot, p.at)
    if a.shape == "plane" and b.shape == "plane":
        # Halfway between both middles, so that neither is favoured where they are not quite parallel.
        m = (a.at + b.at) / 2
        return m - ((m - a.at) @ a.along) * a.along, m - ((m - b.at) @ b.along) * b.along
    if a.shape == "axis" and b.shape == "axis":
        if _angle(a.along, b.along) < _LEVEL:
            m = (a.at + b.at) / 2
            return a.at + ((m - a.at) @ a.along) * a.along, b.at + ((m - b.at) @ b.along) * b.along
        near = nearest_on_axes(a, b)
        assert near is not None
        return near[0].at, near[1].at
    axis, plane = (a, b) if a.shape == "axis" else (b, a)
    foot = axis.at - ((axis.at - plane.at) @ plane.along) * plane.along
    return (axis.at, foot) if axis is a else (foot, axis.at)


def _both(places: Sequence[Place], way: Array) -> Array:
    """Distance along a fixed way and angle: what uncertainties are asked of (a length has no slope at zero)."""
    a, b = places
    start, end = _reach(a, b)
    return np.array([float((end - start) @ way), _angle_of(a, b)])


def _angle_of(a: Place, b: Place) -> float:
    """Radians; between an axis and a plane the one that is 0 when it lies in the plane."""
    if a.shape == "point" or b.shape == "point":
        return 0.0
    angle = _angle(a.along, b.along)
    return angle if a.shape == b.shape else np.pi / 2 - angle


def between(a: Place, b: Place) -> Between:
    """Planes and axes that meet have an angle and no distance; what is parallel within 1 degree has both."""
    start, end = _reach(a, b)
    angle = _angle_of(a, b)
    d = end - start
    size = float(np.linalg.norm(d))
    way = d / size if size > 1e-9 else _any_way(a, b)
    u = spread(lambda p: _both(p, way), [a, b])
    shapes = {a.shape, b.shape}
    apart = "point" in shapes or angle < _LEVEL or (a.shape == "axis" and b.shape == "axis")
    words = {
        frozenset({"point"}): "from point to point",
        frozenset({"point", "plane"}): "from the point square to the plane",
        frozenset({"point", "axis"}): "from the point square to the axis",
        frozenset({"plane"}): "between the planes, halfway between their middles",
        frozenset({"axis"}): "between the axes" + ("" if angle < _LEVEL else " where they are nearest"),
        frozenset({"axis", "plane"}): "from the axis to the plane, abreast of the axis's middle",
    }
    note = words[frozenset(shapes)] if apart else "they meet: only the angle is measured"
    told = "point" not in shapes
    # Near zero an angle only ever reads too large; its uncertainty is then that of the tilt itself.
    u_angle = float(np.degrees(max(u[1], np.hypot(a.u_tilt, b.u_tilt) if angle < 3 * u[1] else 0.0))) if told else None
    return Between(
        size if apart else None,
        float(np.degrees(angle)) if told else None,
        triple(start),
        triple(end),
        (float(u[0]) or None) if apart else None,
        u_angle or None,
        note,
    )


def _any_way(a: Place, b: Place) -> Array:
    if b.shape == "plane":
        return b.along
    return a.along if a.shape == "plane" else np.array([1.0, 0.0, 0.0])
