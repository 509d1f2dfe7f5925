"""A traced outline put onto its edges: every straight or round side finds the edge along it, and corners are where sides meet."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from contour.metrology.photo.edges import Picture, edge_along, snap_circle, snap_line
from contour.outline.arcs import circle_through
from contour.outline.bends import sides_of
from contour.recipe.problem import ContourError

__all__ = ["ends_on_edges", "traced"]

Array = NDArray[np.float64]


def ends_on_edges(
    picture: Picture, a: Array, b: Array, *, reach: float = 8.0, drawn: bool = False
) -> tuple[Array, Array]:
    """Both ends of a distance moved along it onto the edges they mean.

    Raises ContourError (fit-failed) where an end has no edge near it. a, b (2,), reach: pixels.
    """
    way = (b - a) / max(float(np.linalg.norm(b - a)), 1e-9)
    found = []
    for name, p in (("first", a), ("second", b)):
        off = edge_along(picture, p, way, reach=reach, width=5, drawn=drawn)
        if off is None:
            raise ContourError(
                "fit-failed",
                f"no edge is to be seen near the {name} end",
                got="no step from light to dark",
                need="an edge close to the click",
                remedy="click closer to it, or measure without edges",
            )
        found.append(p + off * way)
    return found[0], found[1]


@dataclass(frozen=True, slots=True)
class _Line:
    point: Array
    normal: Array
    rms: float

    def off(self, p: Array) -> tuple[float, Array]:
        """Signed distance of a point, and which way it grows."""
        return float((p - self.point) @ self.normal), self.normal


@dataclass(frozen=True, slots=True)
class _Round:
    centre: Array
    radius: float
    rms: float

    def off(self, p: Array) -> tuple[float, Array]:
        away = p - self.centre
        far = max(float(np.linalg.norm(away)), 1e-9)
        return far - self.radius, away / far


def _side(picture: Picture, a: Array, via: Array | None, b: Array, reach: float, drawn: bool) -> _Line | _Round | None:
    """The edge along one drawn side; none where there is none, and the side stays as drawn."""
    try:
        if via is None:
            line = snap_line(picture, a, b, reach=reach, drawn=drawn)
            way = line.b - line.a
            normal = np.array([-way[1], way[0]]) / float(np.linalg.norm(way))
            return _Line(line.a, normal, line.rms)
        centre, radius = circle_through(tuple(a), tuple(via), tuple(b))
        arc = snap_circle(picture, centre, radius, reach=min(reach, 0.4 * radius), within=(a, via, b), drawn=drawn)
        return _Round(arc.centre, arc.radius, arc.rms)
    except (ContourError, np.linalg.LinAlgError):
        return None


def _meeting(drawn: Array, sides: list[_Line | _Round], reach: float) -> Array:
    """Where the sides meet near a drawn corner, or the nearest place to both where they only touch or pass.

    Damped least squares on the distances to the sides: tangent sides have no crossing that noise leaves in place.
    """
    p = drawn.copy()
    for _ in range(12):
        rows = [s.off(p) for s in sides]
        gap = np.array([r[0] for r in rows])
        slope = np.array([r[1] for r in rows])
        p = p - np.linalg.solve(slope.T @ slope + 1e-4 * np.eye(2), slope.T @ gap)
    return p if np.linalg.norm(p - drawn) < 3 * reach else drawn.copy()


def traced(
    picture: Picture,
    points: Array,
    *,
    bends: tuple[int, ...] = (),
    closed: bool,
    reach: float = 6.0,
    drawn: bool = False,
) -> tuple[Array, float]:
    """(points (n, 2), largest scatter of a side) of an outline drawn by hand.

    bends: places of points that are not corners but lie on the arc between the corners beside them. A side without an edge
    stays as it came; `drawn` is a line drawing. Raises ContourError (bad-params) for a bend without a corner on either side of it.
    All in pixels.
    """
    sides = sides_of(len(points), bends, closed=closed)
    found = [_side(picture, points[a], None if v is None else points[v], points[b], reach, drawn) for a, v, b in sides]
    out = np.array(points, float)
    for k in range(len(points)):
        if k in bends:
            continue
        mine = [f for (a, _, b), f in zip(sides, found, strict=True) if k in (a, b) and f is not None]
        if mine:
            out[k] = _meeting(points[k], mine, reach)
    for (_, via, _), side in zip(sides, found, strict=True):
        if via is not None and isinstance(side, _Round):
            away = points[via] - side.centre
            out[via] = side.centre + side.radius * away / max(float(np.linalg.norm(away)), 1e-9)
    return out, max((f.rms for f in found if f is not None), default=0.0)
