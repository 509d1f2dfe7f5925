"""The separate solids of a body, each with its names."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.gp import gp_Pnt
from OCP.TopoDS import TopoDS_Shape

from contour.solid.shape import NamedShape, faces, solids

__all__ = ["pieces"]


def _distance(shape: TopoDS_Shape) -> Callable[[NDArray[np.float64]], float]:
    def away(p: NDArray[np.float64]) -> float:
        vertex = BRepBuilderAPI_MakeVertex(gp_Pnt(float(p[0]), float(p[1]), float(p[2]))).Vertex()
        return float(BRepExtrema_DistShapeShape(vertex, shape).Value())

    return away


def pieces(named: NamedShape) -> list[tuple[NamedShape, Callable[[NDArray[np.float64]], float]]]:
    """Each solid with its faces' names, and how far a point lies from it (mm). Points (n, 3)."""
    listed = faces(named.shape)
    out = []
    for solid in solids(named.shape):
        names = tuple(
            next(n for f, n in zip(listed, named.names, strict=True) if f.IsSame(own)) for own in faces(solid)
        )
        out.append((NamedShape(solid, names), _distance(solid)))
    return out
