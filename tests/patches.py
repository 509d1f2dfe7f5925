"""Random trimmed patches of analytic and freeform surfaces, with the kernel's own projection as their truth."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray
from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakeVertex
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.BRepPrimAPI import BRepPrimAPI_MakeCylinder
from OCP.collections import Array1_double, Array1_gp_Pnt, Array1_int, Array2_double, Array2_gp_Pnt
from OCP.Geom import (
    Geom_BSplineCurve,
    Geom_BSplineSurface,
    Geom_ConicalSurface,
    Geom_CylindricalSurface,
    Geom_Plane,
    Geom_SphericalSurface,
    Geom_Surface,
    Geom_SurfaceOfLinearExtrusion,
    Geom_SurfaceOfRevolution,
    Geom_ToroidalSurface,
)
from OCP.GeomAPI import GeomAPI_PointsToBSpline
from OCP.gp import gp_Ax2, gp_Ax3, gp_Dir, gp_Pnt, gp_Trsf, gp_Vec
from OCP.TopoDS import TopoDS_Shape

from contour.check.exact_arrays import exact_arrays
from contour.check.exact_distance import signed_distances
from contour.solid.shape import faces

__all__ = ["PATCHES", "disagreement", "points_about", "random_patch"]

Range = tuple[float, float]
HALF, TURN = np.pi / 2, 2 * np.pi


def _part(rng: np.random.Generator, low: float, high: float, least: float = 0.15) -> Range:
    """A random stretch of a range; one in three reaches an end of it."""
    a, b = np.sort(rng.uniform(low, high, 2))
    if b - a < least * (high - low):
        b = min(a + least * (high - low), high)
    return (low if rng.random() < 0.17 else float(a)), (high if rng.random() < 0.17 else float(b))


def _plane(frame: gp_Ax3, rng: np.random.Generator) -> tuple[Geom_Surface, Range, Range]:
    return Geom_Plane(frame), _part(rng, -20, 20), _part(rng, -20, 20)


def _cylinder(frame: gp_Ax3, rng: np.random.Generator) -> tuple[Geom_Surface, Range, Range]:
    return Geom_CylindricalSurface(frame, rng.uniform(2, 15)), _part(rng, 0, TURN), _part(rng, -15, 15)


def _cone(frame: gp_Ax3, rng: np.random.Generator) -> tuple[Geom_Surface, Range, Range]:
    """On either nappe, its tip included one time in six."""
    half = rng.uniform(0.2, 1.2) * rng.choice([-1, 1])
    radius = rng.uniform(0, 10)
    tip = -radius / np.sin(half)
    side = rng.choice([-1, 1])
    near, far = _part(rng, 0, 20)
    return (
        Geom_ConicalSurface(frame, half, radius),
        _part(rng, 0, TURN),
        tuple(sorted((tip + side * near, tip + side * far))),
    )  # type: ignore[return-value]


def _sphere(frame: gp_Ax3, rng: np.random.Generator) -> tuple[Geom_Surface, Range, Range]:
    return Geom_SphericalSurface(frame, rng.uniform(3, 15)), _part(rng, 0, TURN), _part(rng, -HALF, HALF)


def _torus(ring: Range) -> Callable[[gp_Ax3, np.random.Generator], tuple[Geom_Surface, Range, Range]]:
    """With the ring's radius as a share of the tube's. Below one it is a spindle: its patches lie on one sheet of it."""

    def made(frame: gp_Ax3, rng: np.random.Generator) -> tuple[Geom_Surface, Range, Range]:
        tube = rng.uniform(3, 15)
        major = tube * rng.uniform(*ring)
        v = (0.0, TURN)
        if major <= tube * (1 + 1e-9):
            meeting = float(np.arccos(-min(major / tube, 1.0)))  # where the sheets meet on the axis
            v = (-meeting, meeting) if rng.random() < 0.5 or major > 0.999 * tube else (meeting, TURN - meeting)
        low, high = _part(rng, *v)
        if high - low > TURN - 1e-6:  # all of a horn, tip to tip: the kernel's mesher gives up on it
            high -= 1.0
        return Geom_ToroidalSurface(frame, major, tube), _part(rng, 0, TURN), (low, high)

    return made


def _spline(rational: bool) -> Callable[[gp_Ax3, np.random.Generator], tuple[Geom_Surface, Range, Range]]:
    """A wavy sheet of 4 to 8 poles each way, of degrees 2 to 4, with uneven knots."""

    def made(frame: gp_Ax3, rng: np.random.Generator) -> tuple[Geom_Surface, Range, Range]:
        counts, degrees = rng.integers(5, 9, 2), rng.integers(2, 5, 2)
        poles, weights = (
            Array2_gp_Pnt(1, int(counts[0]), 1, int(counts[1])),
            Array2_double(1, int(counts[0]), 1, int(counts[1])),
        )
        x, y = (np.linspace(-15, 15, c) for c in counts)
        for i in range(counts[0]):
            for j in range(counts[1]):
                spot = gp_Pnt(x[i] + rng.normal(0, 0.6), y[j] + rng.normal(0, 0.6), rng.normal(0, 3))
                poles.SetValue(i + 1, j + 1, spot.Transformed(_placed(frame)))
                weights.SetValue(i + 1, j + 1, float(rng.uniform(0.6, 1.8)) if rational else 1.0)
        knots = []
        for count, degree in zip(counts, degrees, strict=True):
            inner = np.sort(rng.uniform(0.1, 0.9, count - degree - 1))
            values = Array1_double(1, len(inner) + 2)
            times = Array1_int(1, len(inner) + 2)
            for k, t in enumerate([0.0, *inner, 1.0]):
                values.SetValue(k + 1, float(t))
                times.SetValue(k + 1, int(degree) + 1 if k in (0, len(inner) + 1) else 1)
            knots.append((values, times))
        surface = Geom_BSplineSurface(
            poles, weights, knots[0][0], knots[1][0], knots[0][1], knots[1][1], int(degrees[0]), int(degrees[1])
        )
        return surface, _part(rng, 0, 1), _part(rng, 0, 1)

    return made


def _placed(frame: gp_Ax3) -> gp_Trsf:
    move = gp_Trsf()
    move.SetTransformation(frame, gp_Ax3())
    return move


def _wave(frame: gp_Ax3, rng: np.random.Generator) -> Geom_BSplineCurve:
    """Of seven places in the frame's first and third direction, off its axis."""
    spots = Array1_gp_Pnt(1, 7)
    for k in range(7):
        spots.SetValue(k + 1, gp_Pnt(8 + rng.normal(0, 1.2), 0, 4.0 * k - 12).Transformed(_placed(frame)))
    return GeomAPI_PointsToBSpline(spots).Curve()


def _revolved(frame: gp_Ax3, rng: np.random.Generator) -> tuple[Geom_Surface, Range, Range]:
    if not frame.Direct():
        frame.YReverse()
    return Geom_SurfaceOfRevolution(_wave(frame, rng), frame.Axis()), _part(rng, 0, TURN), (0.1, 0.9)


def _extruded(frame: gp_Ax3, rng: np.random.Generator) -> tuple[Geom_Surface, Range, Range]:
    return Geom_SurfaceOfLinearExtrusion(_wave(frame, rng), frame.YDirection()), (0.05, 0.95), _part(rng, -10, 10)


PATCHES = {
    "plane": _plane,
    "cylinder": _cylinder,
    "cone": _cone,
    "sphere": _sphere,
    "ring torus": _torus((1.2, 4)),
    "horn torus": _torus((1.0, 1.0)),
    "spindle torus": _torus((0.05, 0.95)),
    "spline": _spline(False),
    "rational spline": _spline(True),
    "revolved wave": _revolved,
    "extruded wave": _extruded,
}


def random_patch(kind: str, rng: np.random.Generator) -> TopoDS_Shape:
    """A face of the kind: anywhere, any way round, every other one in a left-handed frame, every third with a hole."""
    frame = gp_Ax3(gp_Pnt(*rng.uniform(-20, 20, 3)), gp_Dir(*rng.normal(0, 1, 3)))
    if rng.random() < 0.5:
        frame.YReverse()
    surface, u, v = PATCHES[kind](frame, rng)
    face = BRepBuilderAPI_MakeFace(surface, *u, *v, 1e-7).Face()
    return _holed(face, surface, u, v) if rng.random() < 0.34 else face


def _holed(face: TopoDS_Shape, surface: Geom_Surface, u: Range, v: Range) -> TopoDS_Shape:
    at, du, dv = gp_Pnt(), gp_Vec(), gp_Vec()
    surface.D1(sum(u) / 2, sum(v) / 2, at, du, dv)
    normal = du.Crossed(dv)
    reach = 0.2 * min(du.Magnitude() * (u[1] - u[0]), dv.Magnitude() * (v[1] - v[0]))
    if normal.Magnitude() < 1e-9 or reach < 0.05:
        return face
    way = gp_Dir(normal)
    drill = BRepPrimAPI_MakeCylinder(
        gp_Ax2(at.Translated(gp_Vec(way) * -reach), way), min(reach, 4.0), 2 * reach
    ).Shape()
    cut = BRepAlgoAPI_Cut(face, drill).Shape()
    return cut if len(faces(cut)) == 1 else face


def points_about(shape: TopoDS_Shape, count: int, rng: np.random.Generator) -> NDArray[np.float64]:
    """(count, 3): on the patch, close to it, about its borders and far away."""
    solid = exact_arrays(shape)
    pick = rng.integers(0, len(solid.triangles), count)
    w = rng.dirichlet([0.4] * 3, count)
    points = np.einsum("nk,nkd->nd", w, solid.vertices[solid.triangles[pick]])
    return points + rng.normal(0, 1, (count, 3)) * rng.choice([0.01, 0.3, 3, 20], count)[:, None]


def _kernel_distance(shape: TopoDS_Shape, p: NDArray[np.float64]) -> float:
    vertex = BRepBuilderAPI_MakeVertex(gp_Pnt(*map(float, p))).Vertex()
    return float(BRepExtrema_DistShapeShape(vertex, shape).Value())


def disagreement(shape: TopoDS_Shape, points: NDArray[np.float64]) -> NDArray[np.float64]:
    """(n,) mm: our distance less that of the kernel's projection. Of freeform faces that misses the nearest place now and then: where
    ours is nearer, the place we name has to lie on the patch, and then we are right."""
    signed, _, feet = signed_distances(exact_arrays(shape), points)
    out = np.empty(len(points))
    for i, p in enumerate(points):
        out[i] = abs(signed[i]) - _kernel_distance(shape, p)
        if out[i] < -1e-6:
            away = abs(abs(signed[i]) - float(np.linalg.norm(feet[i] - p)))
            out[i] = max(_kernel_distance(shape, feet[i]), away)
    return out
