"""Whether a solid that was made of two others has its material where they say: by places, not by the kernel's word."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray
from OCP.BOPTools import BOPTools_AlgoTools3D
from OCP.BRepClass3d import BRepClass3d_SolidClassifier
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.gp import gp_Pnt, gp_Pnt2d
from OCP.IntTools import IntTools_Context
from OCP.TopAbs import TopAbs_State
from OCP.TopoDS import TopoDS_Shape
from scipy.stats import qmc

from contour.geometry.vectors import Vec3, triple
from contour.solid.extent import bounds
from contour.solid.face_geometry import array, normal_at
from contour.solid.shape import faces

__all__ = ["meeting_place", "misplaced", "sides"]

Array = NDArray[np.float64]
_PLACES = 16
_FACES, _BESIDE_MM = 8, 0.02  # how many, and how far beside them
_SKIN_MM = 1e-4  # places as near as this to a face say nothing


def sides(shape: TopoDS_Shape, places: Array, *, skin_mm: float = _SKIN_MM) -> NDArray[np.int8]:
    """For places (n, 3), mm: 1 within the solid, -1 outside, 0 within `skin_mm` of a face."""
    out = np.full(len(places), -1, dtype=np.int8)
    box = bounds(shape)
    inside = ((places > box[0] - skin_mm) & (places < box[1] + skin_mm)).all(axis=1)
    if not inside.any():
        return out
    classifier = BRepClass3d_SolidClassifier(shape)
    for k in np.flatnonzero(inside):
        p = places[k]
        classifier.Perform(gp_Pnt(*map(float, p)), skin_mm)
        state = classifier.State()
        out[k] = 1 if state == TopAbs_State.TopAbs_IN else -1 if state == TopAbs_State.TopAbs_OUT else 0
    return out


def misplaced(
    a: TopoDS_Shape, b: TopoDS_Shape, made: TopoDS_Shape, operation: Literal["add", "subtract", "intersect"]
) -> Vec3 | None:
    """A place (mm) on whose side of the result it should not lie, or none: some, evenly strewn where both solids may meet, and some on both sides of
    the second one's faces: a piece of it that is missing, or too many, may be too small a share of the room to be hit by chance."""
    one, other = bounds(a), bounds(b)
    low, high = np.maximum(one[0], other[0]), np.minimum(one[1], other[1])
    margin = 0.05 * np.maximum(high - low, 0.02 * (other[1] - other[0]))
    low, high = np.minimum(low, high) - margin, np.maximum(low, high) + margin
    strewn = low + qmc.Sobol(3, seed=21).random(_PLACES) * (high - low)
    for places in (strewn, _beside_faces(b, low, high)):
        in_a, in_b = sides(a, places), sides(b, places)
        if operation == "subtract":
            in_b = (-in_b).astype(np.int8)
        want = np.maximum(in_a, in_b) if operation == "add" else np.minimum(in_a, in_b)
        got = sides(made, places)
        wrong = np.flatnonzero((in_a != 0) & (in_b != 0) & (got != 0) & (got != want))
        if len(wrong):
            return triple(places[wrong[0]])
    return None


def _beside_faces(shape: TopoDS_Shape, low: Array, high: Array) -> Array:
    """(n, 3), mm: places a little to either side of a place within each face; of many faces some, those first whose place lies in a box."""
    context = IntTools_Context()
    near: list[Array] = []
    far: list[Array] = []
    for face in faces(shape):
        spot = gp_Pnt()
        if BOPTools_AlgoTools3D.PointInFace_s(face, spot, gp_Pnt2d(), context) != 0:
            continue
        p = array(spot)
        if (n := normal_at(face, p)) is not None:
            (near if ((p >= low) & (p <= high)).all() else far).append(
                np.array([p - _BESIDE_MM * n, p + _BESIDE_MM * n])
            )
    some = [*near[:: max(1, -(-len(near) // _FACES))], *far][:_FACES]
    return np.concatenate(some) if some else np.zeros((0, 3))


def meeting_place(a: TopoDS_Shape, b: TopoDS_Shape) -> Vec3 | None:
    """Where two shapes meet, or come nearest to each other, mm."""
    found = BRepExtrema_DistShapeShape(a, b)
    if not found.IsDone() or found.NbSolution() == 0:
        return None
    return triple((array(found.PointOnShape1(1)) + array(found.PointOnShape2(1))) / 2)
