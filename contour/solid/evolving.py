"""Fillets whose radius changes evenly from one end of a run of edges to the other."""

from __future__ import annotations

from typing import Any

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.collections import Array1_gp_Pnt2d
from OCP.GCPnts import GCPnts_AbscissaPoint
from OCP.gp import gp_Pnt2d
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopoDS import TopoDS, TopoDS_Edge

from contour.geometry.vectors import triple
from contour.recipe.problem import ContourError, Where
from contour.solid.face_geometry import array
from contour.solid.shape import NamedShape, shape_map
from contour.solid.topology.edges import corner_names

__all__ = ["begins_at_first", "set_evenly"]

_STEPS = 17


def begins_at_first(named: NamedShape, maker: Any, contour: int) -> bool:
    """Whether the kernel runs along a contour from the end whose corner's lasting name comes first: which end that is must not hang
    on how the kernel happens to turn an edge. Raises ContourError (ref-ambiguous) where both ends are called the same."""
    names, place = corner_names(named), shape_map(named.shape, TopAbs_ShapeEnum.TopAbs_VERTEX)
    ends = maker.FirstVertex(contour), maker.LastVertex(contour)
    first, last = (names[place.FindIndex(v) - 1] for v in ends)
    if first == last:
        raise ContourError(
            "ref-ambiguous",
            "both ends of these edges lie between the same faces: which has which radius would be chance",
            where=Where(point=triple(array(BRep_Tool.Pnt_s(ends[0])))),
            got="two ends of one name",
            need="ends that can be told apart",
            remedy="take the other radius out, or cut the body between the two ends first",
        )
    return first < last


def set_evenly(maker: Any, contour: int, first_mm: float, last_mm: float) -> None:
    """Radii along a contour of a fillet maker, changing by its length from the end the kernel begins at to the other."""
    edges: list[TopoDS_Edge] = [TopoDS.Edge(maker.Edge(contour, k)) for k in range(1, maker.NbEdges(contour) + 1)]
    lengths = [float(GCPnts_AbscissaPoint.Length_s(BRepAdaptor_Curve(e))) for e in edges]
    shares = np.concatenate([[0.0], np.cumsum(lengths) / sum(lengths)])
    radii = first_mm + (last_mm - first_mm) * shares
    for k in range(len(edges)):
        maker.SetRadius(_evenly(float(radii[k]), float(radii[k + 1])), contour, k + 1)


def _evenly(first_mm: float, last_mm: float) -> Array1_gp_Pnt2d:
    """(share of the edge, radius) in even steps. Between two given ends alone the kernel eases in and out; through so many it cannot."""
    law = Array1_gp_Pnt2d(1, _STEPS)
    for k, share in enumerate(np.linspace(0.0, 1.0, _STEPS), 1):
        law.SetValue(k, gp_Pnt2d(float(share), first_mm + (last_mm - first_mm) * float(share)))
    return law
