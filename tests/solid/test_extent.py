"""How far shapes reach: by closed forms, and freeform faces by their own poles."""

from __future__ import annotations

import math

import numpy as np
import pytest
from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace, BRepBuilderAPI_Transform
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeSphere, BRepPrimAPI_MakeTorus
from OCP.collections import Array2_gp_Pnt
from OCP.Geom import Geom_BezierSurface
from OCP.gp import gp_Ax1, gp_Dir, gp_Pnt, gp_Trsf, gp_Vec
from OCP.TopoDS import TopoDS_Shape

from contour.solid.extent import bounds
from contour.solid.primitives import cone
from contour.solid.threaded import Ridge, stretch_of, threaded

_TOPS = {1: 40.0, 3: -60.0, 5: 70.0}  # heights of the middle poles of a face that has two


def turned(shape: TopoDS_Shape, about: tuple[float, float, float], angle: float) -> TopoDS_Shape:
    way = gp_Trsf()
    way.SetRotation(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(*about)), angle)
    return BRepBuilderAPI_Transform(shape, way, True).Shape()


def bump(height: float) -> TopoDS_Shape:
    """A square freeform face from -10 to 10, whose highest place is in its middle: a quarter of its middle pole's height."""
    poles = Array2_gp_Pnt(1, 3, 1, 3)
    for i in range(3):
        for j in range(3):
            z = height if i == j == 1 else 0.0
            poles.SetValue(i + 1, j + 1, gp_Pnt(10.0 * (i - 1), 10.0 * (j - 1), z))
    return BRepBuilderAPI_MakeFace(Geom_BezierSurface(poles), 1e-7).Face()


def test_a_ball_and_a_ring_that_lean_reach_as_far_as_their_closed_forms_say():
    ball = turned(BRepPrimAPI_MakeSphere(gp_Pnt(1, 2, 3), 5.0).Shape(), (0, 0, 1), 0.0)
    np.testing.assert_allclose(bounds(ball), [[-4, -3, -2], [6, 7, 8]], atol=1e-6)
    lean = 0.4
    ring = turned(BRepPrimAPI_MakeTorus(10.0, 2.0).Shape(), (1, 0, 0), lean)
    y, z = 10 * math.cos(lean) + 2, 10 * math.sin(lean) + 2
    np.testing.assert_allclose(bounds(ring), [[-12, -y, -z], [12, y, z]], atol=1e-6)


@pytest.mark.parametrize("height", [8.0, -8.0])
def test_a_freeform_face_reaches_as_far_as_its_highest_place(height):
    low, high = bounds(bump(height))
    np.testing.assert_allclose([low[:2], high[:2]], [[-10, -10], [10, 10]], atol=1e-6)
    assert (high[2] if height > 0 else low[2]) == pytest.approx(height / 4, abs=1e-6)


def test_what_has_been_trimmed_away_does_not_count():
    """A hole takes the highest place: what is left is as high as the hole's border in the middle of its sides."""
    lost = BRepPrimAPI_MakeBox(gp_Pnt(-4, -4, -1), gp_Pnt(4, 4, 9)).Shape()
    left = BRepAlgoAPI_Cut(bump(8.0), lost).Shape()
    t = (10 + 4) / 20
    border = 8.0 * 2 * t * (1 - t) * 2 * 0.5 * 0.5
    assert bounds(left)[1, 2] == pytest.approx(border, abs=1e-5)


def test_of_a_face_whose_top_has_gone_the_highest_place_left_may_lie_inside_it():
    """The hole takes the one of two tops that is higher, with a slanting face: its border is lower than the other top."""
    poles = Array2_gp_Pnt(1, 7, 1, 3)
    for i in range(7):
        for j in range(3):
            z = _TOPS.get(i, 0.0) if j == 1 else 0.0
            poles.SetValue(i + 1, j + 1, gp_Pnt(10.0 * (i - 3), 10.0 * (j - 1), z))
    face = BRepBuilderAPI_MakeFace(Geom_BezierSurface(poles), 1e-7).Face()

    def height(x):
        t = (x + 30) / 60
        return 0.5 * sum(z * math.comb(6, k) * t**k * (1 - t) ** (6 - k) for k, z in _TOPS.items())

    left = BRepAlgoAPI_Cut(face, BRepPrimAPI_MakeBox(gp_Pnt(-1, -40, -50), gp_Pnt(40, 40, 90)).Shape()).Shape()
    x = np.linspace(-30, -1, 200001)
    assert np.argmax(height(x)) not in (0, len(x) - 1)
    assert bounds(left)[1, 2] == pytest.approx(height(x).max(), abs=1e-6)


def test_a_shape_that_is_moved_takes_its_extent_along():
    way = gp_Trsf()
    way.SetTranslation(gp_Vec(100, 0, -50))
    moved = BRepBuilderAPI_Transform(bump(8.0), way, True).Shape()
    np.testing.assert_allclose(bounds(moved) - bounds(bump(8.0)), [[100, 0, -50]] * 2, atol=1e-9)


def test_a_thread_reaches_to_its_crests_and_no_farther():
    shaft = cone(np.zeros(3), np.array([0, 0, 1.0]), (0.0, 24.0), (8.0, 8.0), prefix="b")
    on = stretch_of(shaft, "b.side[wall]")
    made = threaded(
        shaft,
        on,
        Ridge(8.0, 6.77, 2.0),
        low=on.low,
        high=on.high,
        fades=("in", "none"),
        fade_mm=2.0,
        built=False,
        prefix="t",
    )
    np.testing.assert_allclose(bounds(made.shape), [[-8, -8, 0], [8, 8, 24]], atol=2e-5)
