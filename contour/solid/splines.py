"""Freeform faces as B-spline surfaces in plain arrays, and knots as the kernel takes them."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.collections import Array1_double, Array1_int, Array2_gp_Pnt
from OCP.Geom import Geom_BSplineSurface, Geom_RectangularTrimmedSurface
from OCP.GeomAbs import GeomAbs_SurfaceType
from OCP.GeomConvert import GeomConvert
from OCP.TopoDS import TopoDS_Face

from contour.geometry.bspline_rows import packed
from contour.solid.face_geometry import array, pnt

__all__ = ["kernel_knots", "kernel_spline", "spline_rows"]

Array = NDArray[np.float64]

# Told by a rational B-spline without any loss; an offset surface, for one, is not.
_EXACT = (
    GeomAbs_SurfaceType.GeomAbs_BSplineSurface,
    GeomAbs_SurfaceType.GeomAbs_BezierSurface,
    GeomAbs_SurfaceType.GeomAbs_SurfaceOfExtrusion,
    GeomAbs_SurfaceType.GeomAbs_SurfaceOfRevolution,
)


def _spline_of(face: TopoDS_Face) -> Geom_BSplineSurface | None:
    adaptor = BRepAdaptor_Surface(face)
    kind = adaptor.GetType()
    if kind not in _EXACT:
        return None
    surface = BRep_Tool.Surface_s(face)
    if kind not in (GeomAbs_SurfaceType.GeomAbs_BSplineSurface, GeomAbs_SurfaceType.GeomAbs_BezierSurface):
        ends = (
            adaptor.FirstUParameter(),
            adaptor.LastUParameter(),
            adaptor.FirstVParameter(),
            adaptor.LastVParameter(),
        )
        surface = Geom_RectangularTrimmedSurface(surface, *ends)
    made = GeomConvert.SurfaceToBSplineSurface_s(surface)
    if made.IsUPeriodic():
        made.SetUNotPeriodic()
    if made.IsVPeriodic():
        made.SetVNotPeriodic()
    return made


def spline_rows(face: TopoDS_Face, begin: int) -> tuple[NDArray[np.int64], Array] | None:
    """Head and numbers of a freeform face's surface as :mod:`contour.geometry.bspline_rows` has them, mm; none where no B-spline is
    exactly that surface. begin: where its numbers will stand."""
    made = _spline_of(face)
    if made is None:
        return None
    nu, nv = made.NbUPoles(), made.NbVPoles()
    poles = np.array([[array(made.Pole(i, j)) for j in range(1, nv + 1)] for i in range(1, nu + 1)])
    weights = np.array([[made.Weight(i, j) for j in range(1, nv + 1)] for i in range(1, nu + 1)])
    knots_u = np.repeat(*_knots(made.NbUKnots(), made.UKnot, made.UMultiplicity))
    knots_v = np.repeat(*_knots(made.NbVKnots(), made.VKnot, made.VMultiplicity))
    degrees, closed = (made.UDegree(), made.VDegree()), (made.IsUClosed(), made.IsVClosed())
    return packed(degrees, knots_u, knots_v, poles, weights, closed, begin)


def _knots(count, value, times) -> tuple[list[float], list[int]]:  # type: ignore[no-untyped-def]
    places = range(1, count + 1)
    return [value(i) for i in places], [times(i) for i in places]


def kernel_knots(t: Array) -> tuple[Array1_double, Array1_int]:
    """Knots (n,) with each as often as it counts, as the kernel takes them: each once, and how often."""
    values, times = np.unique(t, return_counts=True)
    knots, mults = Array1_double(1, len(values)), Array1_int(1, len(values))
    for i, (v, c) in enumerate(zip(values, times, strict=True), 1):
        knots.SetValue(i, float(v))
        mults.SetValue(i, int(c))
    return knots, mults


def kernel_spline(poles: Array, knots: tuple[Array, Array], degrees: tuple[int, int]) -> Geom_BSplineSurface:
    """The kernel's surface of poles (n, m, 3), mm, with knots in both directions, each as often as it counts."""
    n, m, _ = poles.shape
    net = Array2_gp_Pnt(1, n, 1, m)
    for i, row in enumerate(poles, 1):
        for j, p in enumerate(row, 1):
            net.SetValue(i, j, pnt(p))
    (uk, um), (vk, vm) = (kernel_knots(t) for t in knots)
    return Geom_BSplineSurface(net, uk, vk, um, vm, *degrees, False, False)
