"""A body put elsewhere or made larger as a whole; its faces keep their names."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
from OCP.gp import gp_Trsf
from OCP.TopoDS import TopoDS, TopoDS_Face

from contour.recipe.problem import ContourError, Where
from contour.solid.gate import require_solid
from contour.solid.shape import NamedShape
from contour.solid.topology.history import OperationHistory
from contour.solid.topology.names import inherit_names

__all__ = ["moved_face", "placed"]

Array = NDArray[np.float64]


def placed(body: NamedShape, matrix: Array) -> NamedShape:
    """The body taken along by a placement that may scale alike in all directions, or mirror. matrix (4, 4), mm.

    Surfaces are carried as what they are (a cylinder stays one). Raises ContourError (bad-params) for a scale of nothing, (body-broken).
    """
    scale = float(np.cbrt(np.linalg.det(matrix[:3, :3])))
    if not abs(scale) > 1e-6:
        raise ContourError(
            "bad-params",
            "the factor is too small",
            where=Where(param="factor"),
            got=f"{scale:g}",
            need="more than 0.000001",
            remedy="type a larger factor",
        )
    made = BRepBuilderAPI_Transform(body.shape, _motion(matrix), True)
    require_solid(made.Shape(), doing="placing the body")
    return inherit_names([(OperationHistory(made), made.Shape())], [body])


def moved_face(face: TopoDS_Face, matrix: Array) -> TopoDS_Face:
    """A copy of a face taken along by a placement, (4, 4), mm."""
    return TopoDS.Face(BRepBuilderAPI_Transform(face, _motion(matrix), True).Shape())


def _motion(matrix: Array) -> gp_Trsf:
    out = gp_Trsf()
    out.SetValues(*map(float, matrix[:3].ravel()))
    return out
