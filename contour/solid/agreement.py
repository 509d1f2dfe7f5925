"""Whether a solid that was made of two others has its material where they say: by places, not by the kernel's word."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray
from OCP.BRepClass3d import BRepClass3d_SolidClassifier
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.gp import gp_Pnt
from OCP.TopAbs import TopAbs_State
from OCP.TopoDS import TopoDS_Shape
from scipy.stats import qmc

from contour.geometry.vectors import Vec3, triple
from contour.solid.extent import bounds
from contour.solid.face_geometry import array

__all__ = ["meeting_place", "misplaced", "sides"]

Array = NDArray[np.float64]
_PLACES = 16
_SKIN_MM = 1e-4  # places as near as this to a face say nothing


def sides(shape: TopoDS_Shape, places: Array, *, skin_mm: float = _SKIN_MM) -> NDArray[np.int8]:
    """For places (n, 3), mm: 1 within the solid, -1 outside, 0 within `skin_mm` of a face."""
    classifier = BRepClass3d_SolidClassifier(shape)
    out = np.zeros(len(places), dtype=np.int8)
    for k, p in enumerate(places):
        classifier.Perform(gp_Pnt(*map(float, p)), skin_mm)
        state = classifier.State()
        out[k] = 1 if state == TopAbs_State.TopAbs_IN else -1 if state == TopAbs_State.TopAbs_OUT else 0
    return out


def misplaced(
    a: TopoDS_Shape, b: TopoDS_Shape, made: TopoDS_Shape, operation: Literal["add", "subtract", "intersect"]
) -> Vec3 | None:
    """A place (mm) on whose side of the result it should not lie, or none: a few of them, evenly strewn where both solids may meet."""
    one, other = bounds(a), bounds(b)
    low, high = np.maximum(one[0], other[0]), np.minimum(one[1], other[1])
    margin = 0.05 * np.maximum(high - low, 0.02 * (other[1] - other[0]))
    low, high = np.minimum(low, high) - margin, np.maximum(low, high) + margin
    places = low + qmc.Sobol(3, seed=21).random(_PLACES) * (high - low)
    in_a, in_b = sides(a, places), sides(b, places)
    if operation == "subtract":
        in_b = (-in_b).astype(np.int8)
    want = np.maximum(in_a, in_b) if operation == "add" else np.minimum(in_a, in_b)
    got = sides(made, places)
    wrong = np.flatnonzero((in_a != 0) & (in_b != 0) & (got != 0) & (got != want))
    return triple(places[wrong[0]]) if len(wrong) else None


def meeting_place(a: TopoDS_Shape, b: TopoDS_Shape) -> Vec3 | None:
    """Where two shapes meet, or come nearest to each other, mm."""
    found = BRepExtrema_DistShapeShape(a, b)
    if not found.IsDone() or found.NbSolution() == 0:
        return None
    return triple((array(found.PointOnShape1(1)) + array(found.PointOnShape2(1))) / 2)
