"""Closed shells: which one the material lies within, and which ones are hollows in it."""

from __future__ import annotations

import math

import pytest
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeSphere
from OCP.gp import gp_Pnt
from OCP.TopoDS import TopoDS

from contour.recipe.problem import ContourError
from contour.solid.gate import require_solid
from contour.solid.mass import volume
from contour.solid.shells import filled, shells, within

BOX = BRepPrimAPI_MakeBox(10.0, 20.0, 30.0).Shape()
BALL = BRepPrimAPI_MakeSphere(gp_Pnt(5, 10, 15), 3.0).Shape()
OUT = BRepPrimAPI_MakeSphere(gp_Pnt(50, 10, 15), 3.0).Shape()
ROUND = 4 / 3 * math.pi * 27


@pytest.mark.parametrize("turned", [False, True])
def test_a_shell_is_filled_whichever_way_it_is_turned(turned):
    (own,) = shells(BALL)
    made = filled(TopoDS.Shell(own.Reversed()) if turned else own)
    assert volume(made) == pytest.approx(ROUND, rel=1e-9)


@pytest.mark.parametrize("order", [(BOX, BALL), (BALL, BOX)])
def test_the_smaller_shell_is_a_hollow_in_the_larger_one(order):
    made = within([s for shape in order for s in shells(shape)])
    facts = require_solid(made, doing="hollowing", pieces=1)
    assert facts.volume == pytest.approx(6000 - ROUND, rel=1e-9) and facts.faces == 7


def test_a_shell_that_lies_outside_is_no_hollow_and_does_not_pass_the_gate():
    with pytest.raises(ContourError, match="invalid"):
        require_solid(within([*shells(BOX), *shells(OUT)]), doing="hollowing", pieces=1)
