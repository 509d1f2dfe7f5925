"""The curve that two surfaces share along a border of the mesh: a line, a circle or an ellipse where one goes through, else a free curve
through points that lie on both."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from OCP.collections import HArray1_gp_Pnt
from OCP.Geom import Geom_Circle, Geom_Curve, Geom_Ellipse, Geom_Line
from OCP.GeomAPI import GeomAPI_Interpolate
from OCP.gp import gp_Ax2, gp_Circ, gp_Elips
from scipy.interpolate import make_lsq_spline

from contour.geometry.surfaces import Surface, distances, gradients
from contour.solid.face_geometry import direction, pnt

__all__ = ["Run", "corner_of", "faired", "places_on", "run_along"]

Array = NDArray[np.float64]

_BETWEEN = 3  # places between two vertices at which a curve is held against the surfaces
_TO_FAIR, _MOST_SPANS = 6, 4  # points for each span of a way that is made smooth; spans
_SHARP = 0.05  # sine of the least angle between surfaces whose intersection can be computed


@dataclass(frozen=True, slots=True)
class Run:
    """A curve with the parameters it is used between; off: how far it is from both surfaces at most, mm."""

    curve: Geom_Curve
    begin: float
    end: float
    off: float


def _pulled(points: Array, surfaces: list[Surface], rounds: int = 12) -> Array:
    """Points moved the shortest way onto all surfaces (Gauss-Newton); along directions that the surfaces hardly tell they stay."""
    out = points.copy()
    for _ in range(rounds):
        d = np.stack([distances(s, out) for s in surfaces], axis=1)
        if np.abs(d).max() < 1e-12:
            break
        g = np.stack([gradients(s, out) for s in surfaces], axis=1)
        out -= np.einsum("nij,nj->ni", np.linalg.pinv(g, rcond=_SHARP), d)
    return out


def corner_of(point: Array, surfaces: list[Surface], most_mm: float) -> Array:
    """Where surfaces meet near a vertex (3,); the vertex itself where that is farther off than the mesh can be."""
    moved = _pulled(point[None], surfaces)[0]
    return moved if np.isfinite(moved).all() and np.linalg.norm(moved - point) <= most_mm else point


def faired(points: Array) -> Array:
    """Points (k, 3) moved onto a smooth way among them with the same ends: a cubic of few spans, by least squares."""
    if len(points) < _TO_FAIR:
        return points
    passed = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1))])
    spans = min(len(points) // _TO_FAIR, _MOST_SPANS)
    # As many points in each span: however they lie, it is determined.
    between = np.quantile(passed, np.linspace(0, 1, spans + 1))
    knots = np.concatenate([[0.0] * 3, between, [passed[-1]] * 3])
    weights = np.ones(len(points))
    weights[[0, -1]] = 1e3
    out = make_lsq_spline(passed, points, knots, w=weights)(passed)
    out[0], out[-1] = points[0], points[-1]
    return np.asarray(out)


def _off(points: Array, surfaces: list[Surface]) -> float:
    return max((float(np.abs(distances(s, points)).max()) for s in surfaces), default=0.0)


def _turns(angles: Array) -> Array:
    """Angles along a way, without jumps."""
    return np.unwrap(angles)


def _circle(points: Array, centre: Array, axis: Array, ring: bool) -> tuple[gp_Ax2, float, Array] | None:
    """(Frame with its x axis at the first point and turning along the way, radius, the angles of the points)."""
    off = points - centre
    off -= np.outer(off @ axis, axis)
    radius = float(np.linalg.norm(off, axis=1).mean())
    if radius < 1e-9 or np.linalg.norm(off[0]) < 1e-9:
        return None
    x = off[0] / np.linalg.norm(off[0])
    y = np.cross(axis, x)
    angles = _turns(np.arctan2(off @ y, off @ x))
    if angles[-1] < 0 or (ring and angles[len(angles) // 2] < 0):
        axis, y, angles = -axis, -y, -angles
    if ring:
        angles[-1] = 2 * np.pi
    if not 1e-9 < angles[-1] <= 2 * np.pi + 1e-9 or np.any(np.diff(angles) <= 0):
        return None
    return gp_Ax2(pnt(centre), direction(axis), direction(x)), radius, angles


def _centres(points: Array, surfaces: list[Surface]) -> Iterator[tuple[Array, Array]]:
    """(A place on the axis, its direction) of circles that the surfaces offer, and of the one through the points."""
    for s in surfaces:
        origin, axis = np.array(s.origin), np.array(s.axis)
        if s.round:
            yield origin, axis
        if s.kind == "torus":
            # Around the tube, across its middle circle.
            away = points[0] - origin
            away -= (away @ axis) * axis
            if np.linalg.norm(away) > 1e-9:
                away /= np.linalg.norm(away)
                yield origin + s.radius * away, np.cross(axis, away)
        if s.kind == "sphere":
            for other in surfaces:
                if other.kind == "plane":
                    yield origin, np.array(other.axis)
                elif other is not s and other.round:
                    yield origin, np.array(other.axis)
                elif other is not s and np.linalg.norm(np.array(other.origin) - origin) > 1e-9:
                    between = np.array(other.origin) - origin
                    yield origin, between / np.linalg.norm(between)
    if len(points) >= 4:
        middle = points.mean(axis=0)
        _, sizes, rows = np.linalg.svd(points - middle, full_matrices=False)
        if sizes[1] > 1e-9:
            u, v = (points - middle) @ rows[0], (points - middle) @ rows[1]
            system = np.column_stack([2 * u, 2 * v, np.ones(len(u))])
            (a, b, _), *_ = np.linalg.lstsq(system, u * u + v * v, rcond=None)
            yield middle + a * rows[0] + b * rows[1], rows[2]


def _ellipse_frame(plane: Surface, cylinder: Surface) -> tuple[Array, Array, Array, float, float] | None:
    """(Centre, long direction, normal, long and short radius) of a cylinder cut by a plane aslant."""
    n, a = np.array(plane.axis), np.array(cylinder.axis)
    slope = float(n @ a)
    if abs(slope) < 1e-4 or abs(slope) > 1 - 1e-12:
        return None
    origin = np.array(cylinder.origin)
    centre = origin + ((np.array(plane.origin) - origin) @ n / slope) * a
    along = a - slope * n
    return centre, along / np.linalg.norm(along), n, cylinder.radius / abs(slope), cylinder.radius


def _ellipse(points: Array, surfaces: list[Surface], ring: bool) -> Run | None:
    kinds = {s.kind: s for s in surfaces}
    if len(surfaces) != 2 or set(kinds) != {"plane", "cylinder"}:
        return None
    found = _ellipse_frame(kinds["plane"], kinds["cylinder"])
    if found is None:
        return None
    centre, x, normal, long, short = found
    y = np.cross(normal, x)
    off = points - centre
    angles = _turns(np.arctan2(off @ y / short, off @ x / long))
    if angles[-1] < angles[0] or (ring and angles[len(angles) // 2] < angles[0]):
        normal, y = -normal, -y
        angles = _turns(np.arctan2(off @ y / short, off @ x / long))
    begin, end = float(angles[0]), float(angles[0] + 2 * np.pi if ring else angles[-1])
    if not 1e-9 < end - begin <= 2 * np.pi + 1e-9:
        return None
    curve = Geom_Ellipse(gp_Elips(gp_Ax2(pnt(centre), direction(normal), direction(x)), long, short))
    return Run(curve, begin, end, _off(_places(curve, begin, end, len(points)), surfaces))


def _places(curve: Geom_Curve, begin: float, end: float, count: int) -> Array:
    at = np.linspace(begin, end, min((count - 1) * (_BETWEEN + 1) + 1, 400))
    return np.array([(p.X(), p.Y(), p.Z()) for p in (curve.Value(float(t)) for t in at)])


def places_on(run: Run, count: int) -> Array:
    """Places (n, 3) along a curve, several between each two of so many vertices."""
    return _places(run.curve, run.begin, run.end, count)


def _line(points: Array, surfaces: list[Surface]) -> Run | None:
    way = points[-1] - points[0]
    length = float(np.linalg.norm(way))
    if length < 1e-9:
        return None
    curve = Geom_Line(pnt(points[0]), direction(way))
    return Run(curve, 0.0, length, _off(_places(curve, 0.0, length, len(points)), surfaces))


def _free(points: Array, surfaces: list[Surface], ring: bool) -> Run:
    """Interpolated through the vertices, and through places between them where the surfaces tell where those are."""
    g = [gradients(s, points) for s in surfaces]
    sharp = len(g) == 2 and float(np.linalg.norm(np.cross(g[0], g[1]), axis=1).min()) > _SHARP
    if sharp:
        share = np.linspace(0, 1, _BETWEEN + 2)[:-1]
        dense = (points[:-1, None] * (1 - share)[None, :, None] + points[1:, None] * share[None, :, None]).reshape(
            -1, 3
        )
        pulled = _pulled(dense, surfaces)
        pulled[:: _BETWEEN + 1] = points[:-1]
        points = np.vstack([pulled, points[-1:]])
    elif len(surfaces) == 1 and surfaces[0].kind != "plane" and len(points) > 2:
        # Beside a patch only one side tells where the places between are.
        first = _through(points, ring)
        dense = _places(first, first.FirstParameter(), first.LastParameter(), len(points))
        points = np.vstack([points[:1], _pulled(dense[1:-1], surfaces), points[-1:]])
    curve = _through(points, ring)
    begin, end = curve.FirstParameter(), curve.LastParameter()
    return Run(curve, begin, end, _off(_places(curve, begin, end, len(points)), surfaces))


def _through(points: Array, ring: bool) -> Geom_Curve:
    """The kernel's curve through places (k, 3), of a ring the first again at its end."""
    if ring:
        points = points[:-1]
    keep = np.ones(len(points), bool)
    keep[1:] = np.linalg.norm(np.diff(points, axis=0), axis=1) > 1e-7
    points = points[keep]
    listed = HArray1_gp_Pnt(1, len(points))
    for i, p in enumerate(points):
        listed.SetValue(i + 1, pnt(p))
    made = GeomAPI_Interpolate(listed, ring, 1e-9)
    made.Perform()
    return made.Curve()


def run_along(points: Array, surfaces: list[Surface], ring: bool, tolerance_mm: float, flat: bool = False) -> Run:
    """The curve along a border through points (k, 3), from the first to the last; of a ring the last repeats the first.

    surfaces: on its sides, one or two. flat: a side of a flat facet, that stays straight whatever lies beside it.
    """
    if len(points) == 2 and flat:
        line = _line(points, surfaces)
        if line:
            return line
    straight = None if ring else _line(points, surfaces)
    if straight and straight.off <= tolerance_mm and _near_line(points, tolerance_mm):
        return straight
    for centre, axis in _centres(points, surfaces):
        found = _circle(points, centre, axis, ring)
        if found is None:
            continue
        frame, radius, angles = found
        # The height of the circle along its axis is that of the points.
        height = float(((points - centre) @ axis).mean())
        lifted = centre + height * axis
        frame.SetLocation(pnt(lifted))
        curve = Geom_Circle(gp_Circ(frame, radius))
        run = Run(curve, 0.0, float(angles[-1]), 0.0)
        places = _places(curve, run.begin, run.end, len(points))
        through = np.array([(p.X(), p.Y(), p.Z()) for p in (curve.Value(float(t)) for t in angles)])
        off = max(_off(places, surfaces), float(np.linalg.norm(through - points, axis=1).max()))
        if off <= tolerance_mm:
            return Run(curve, run.begin, run.end, off)
    ellipse = _ellipse(points, surfaces, ring)
    if ellipse and ellipse.off <= tolerance_mm:
        return ellipse
    return _free(points, surfaces, ring)


def _near_line(points: Array, tolerance_mm: float) -> bool:
    way = points[-1] - points[0]
    way = way / np.linalg.norm(way)
    off = points - points[0]
    off = off - np.outer(off @ way, way)
    return bool(np.linalg.norm(off, axis=1).max() <= tolerance_mm)
