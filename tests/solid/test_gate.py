"""The gate names a place, whatever is wrong."""

from __future__ import annotations

import pytest
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakePolygon
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism
from OCP.gp import gp_Pnt, gp_Vec

from contour.recipe.problem import ContourError
from contour.solid.gate import check_solid, require_solid


def test_a_closed_solid_whose_outline_crosses_itself_is_refused_with_a_place_on_it():
    outline = BRepBuilderAPI_MakePolygon()
    for x, y in ((0, 0), (10, 0), (2, 8), (9, 8)):
        outline.Add(gp_Pnt(x, y, 0))
    outline.Close()
    crossed = BRepPrimAPI_MakePrism(BRepBuilderAPI_MakeFace(outline.Wire(), True).Face(), gp_Vec(0, 0, 5)).Shape()
    facts = check_solid(crossed)
    assert facts.free_edges == 0 and not facts.valid and facts.volume > 0
    with pytest.raises(ContourError) as refused:
        require_solid(crossed, doing="the extrusion")
    at = refused.value.problem.where.point
    assert at is not None and 0 <= at[0] <= 10 and 0 <= at[1] <= 8 and 0 <= at[2] <= 5
