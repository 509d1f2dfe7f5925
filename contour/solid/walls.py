"""Whether places belong into walls of given thicknesses on faces: told from distances alone, to check what a kernel makes of them."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence

import numpy as np
from numpy.typing import NDArray
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex
from OCP.BRepExtrema import BRepExtrema_DistShapeShape, BRepExtrema_SupportType
from OCP.TopoDS import TopoDS_Face, TopoDS_Shape
from scipy.stats import qmc

from contour.geometry.vectors import triple
from contour.recipe.problem import ContourError, Where
from contour.solid.agreement import sides
from contour.solid.extent import bounds
from contour.solid.face_geometry import array, pnt
from contour.solid.mouths import into

__all__ = ["in_walls", "require_as_wanted"]

_PLACES = 128
_NEAR = 2e-3  # mm: places as near as this to where a wall begins or ends say nothing


def in_walls(
    p: NDArray[np.float64],
    faces: Sequence[tuple[str, TopoDS_Face]],
    walls: Mapping[str, float],
    *,
    way: float = 0.0,
    freed: Sequence[str] = (),
) -> int:
    """1 where a place (3,) lies in the wall of a face, -1 where it is clear of all of them, 0 where that cannot be told.

    walls: thicknesses by the faces' names, mm · way: 1 for walls out of the material, -1 into it, 0 either way · freed: faces that have no wall for sure.
    A place is in a wall where it is nearer to a face than that one's thickness; clear of all where the foot of it lies within its nearest face, further
    away than the thickness.
    """
    vertex = BRepBuilderAPI_MakeVertex(pnt(p)).Vertex()
    nearest, clear = np.inf, False
    for name, face in faces:
        found = BRepExtrema_DistShapeShape(vertex, face)
        if not found.IsDone() or found.NbSolution() == 0:
            return 0
        gap, t = found.Value(), walls[name]
        on_face = found.SupportTypeShape2(1) == BRepExtrema_SupportType.BRepExtrema_IsInFace
        foot = array(found.PointOnShape2(1))
        beyond = bool(way) and float((p - foot) @ into(face, foot)) * way > 0
        if gap < _NEAR or abs(gap - t) < _NEAR:
            return 0
        if gap < t and not beyond and name not in freed:
            # Beyond a border the wall ends at its neighbour's, which is another matter.
            return 1 if on_face else 0
        if gap < nearest:
            nearest, clear = gap, on_face and (beyond or gap > t)
    return -1 if clear else 0


def require_as_wanted(
    made: TopoDS_Shape, wanted: Callable[[NDArray[np.float64]], Iterable[int]], *, what: str, remedy: str
) -> None:
    """Raises ContourError (body-broken) at a place in or around a solid where there is material that should not be, or none where there should.

    wanted: of places (n, 3) 1 for material, -1 for none, 0 where it is not known · what: comes out wrong, as it is said.
    """
    low, high = bounds(made)
    places = low + qmc.Sobol(3, seed=22).random(_PLACES) * (high - low)
    found = sides(made, places)
    places, found = places[found != 0], found[found != 0]
    for p, got, want in zip(places, found, wanted(places), strict=True):
        if want and want != got:
            raise ContourError(
                "body-broken",
                f"{what} wrong in a place",
                where=Where(point=triple(p)),
                got="material where there should be none" if want < 0 else "no material where there should be some",
                need="what is asked for, everywhere",
                remedy=remedy,
            )
