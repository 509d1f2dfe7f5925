"""Seams of round faces: laid so that a face stays one, on shapes whose faces are counted by hand."""

from __future__ import annotations

import numpy as np
import pytest
from OCP.BRepAlgoAPI import BRepAlgoAPI_Common, BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCone, BRepPrimAPI_MakeCylinder, BRepPrimAPI_MakeSphere
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt
from OCP.ShapeUpgrade import ShapeUpgrade_UnifySameDomain
from OCP.TopoDS import TopoDS_Shape

from contour.geometry.surfaces import Surface
from contour.solid.face_geometry import face_kinds
from contour.solid.mass import volume
from contour.solid.of_regions.seams import seam_of, turns_about
from contour.solid.shape import faces
from contour.solid.solidify import solidify
from tests.fit.test_modelled import exported


def box(x: float, y: float, z: float, a: float, b: float, c: float) -> TopoDS_Shape:
    return BRepPrimAPI_MakeBox(gp_Pnt(x, y, z), a, b, c).Shape()


def upright(x: float, y: float, z: float, radius: float, height: float) -> TopoDS_Shape:
    return BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(x, y, z), gp_Dir(0, 0, 1)), radius, height).Shape()


def cushion() -> TopoDS_Shape:
    """A bar with a spherical end: a ball's patch between four walls, both poles and every meridian through it."""
    return BRepAlgoAPI_Common(BRepPrimAPI_MakeSphere(20).Shape(), box(-6, -5, 0, 12, 10, 40)).Shape()


def castle() -> TopoDS_Shape:
    """A tube with slots across one end: a ring at the foot of its walls, a border up and down at their top."""
    tube = BRepAlgoAPI_Cut(upright(0, 0, 0, 10, 15), upright(0, 0, -1, 6, 20)).Shape()
    return BRepAlgoAPI_Cut(BRepAlgoAPI_Cut(tube, box(-20, -2, 12, 40, 4, 9)).Shape(), box(-3, -20, 8, 6, 20, 9)).Shape()


def step_down() -> TopoDS_Shape:
    """A shaft with half of its end lower by a little: the case that a seam in the higher half cut in two."""
    return BRepAlgoAPI_Cut(upright(3, 1, 0, 9, 14), box(-20, 2.7, 13.5, 60, 60, 9)).Shape()


def flat_on_a_ball() -> TopoDS_Shape:
    ball = BRepAlgoAPI_Fuse(BRepPrimAPI_MakeSphere(8).Shape(), upright(0, 0, -20, 4, 20)).Shape()
    return BRepAlgoAPI_Cut(ball, box(-9, -9, 7.9, 18, 18, 9)).Shape()


def flat_on_a_shaft() -> TopoDS_Shape:
    """The flat's four corners lie on the shaft, as those of a chord of it do."""
    return BRepAlgoAPI_Cut(upright(0, 0, 0, 9, 25), box(-20, 6, -1, 40, 9, 40)).Shape()


def crossing_bores() -> TopoDS_Shape:
    """Two bores of unequal depth and size through each other: sickles between circles that meet at a small angle."""
    block = BRepAlgoAPI_Cut(box(-20, -20, 0, 40, 40, 20), upright(0, 0, 8, 6, 30)).Shape()
    return BRepAlgoAPI_Cut(block, upright(3.5, 0, 12, 4, 30)).Shape()


def cone_in_a_wall() -> TopoDS_Shape:
    """A cone that a wall cuts along a hyperbola."""
    cone = BRepPrimAPI_MakeCone(gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), 12, 5, 15).Shape()
    return BRepAlgoAPI_Cut(cone, box(7, -20, -1, 20, 40, 40)).Shape()


def drill_point() -> TopoDS_Shape:
    """A blind hole with the cone of its drill, and a small hole through the flank of that: the tip is inside, and another border too."""
    block = BRepAlgoAPI_Cut(box(-20, -20, 0, 40, 40, 30), upright(0, 0, 18, 12, 30)).Shape()
    point = BRepPrimAPI_MakeCone(gp_Ax2(gp_Pnt(0, 0, 18), gp_Dir(0, 0, -1)), 12, 0, 7).Shape()
    return BRepAlgoAPI_Cut(BRepAlgoAPI_Cut(block, point).Shape(), upright(5, 2, -1, 2, 40)).Shape()


def spike_with_two_holes() -> TopoDS_Shape:
    """A cone with its tip, standing, drilled across twice: four borders on its flank beside the one at its foot."""
    cone = BRepPrimAPI_MakeCone(gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), 15, 0, 30).Shape()
    for z, along in ((6, gp_Dir(1, 0, 0)), (12, gp_Dir(0.3, 1, 0))):
        start = gp_Pnt(-40 * along.X(), -40 * along.Y(), z)
        cone = BRepAlgoAPI_Cut(cone, BRepPrimAPI_MakeCylinder(gp_Ax2(start, along), 1.5, 80).Shape()).Shape()
    return cone


SHAPES = [
    cushion,
    castle,
    step_down,
    flat_on_a_ball,
    flat_on_a_shaft,
    crossing_bores,
    cone_in_a_wall,
    drill_point,
    spike_with_two_holes,
]


@pytest.mark.parametrize("chord_mm", [0.2, 0.02])
@pytest.mark.parametrize("shape", SHAPES, ids=[s.__name__ for s in SHAPES])
def test_a_part_comes_back_face_for_face(shape, chord_mm: float) -> None:
    joined = ShapeUpgrade_UnifySameDomain(shape())
    joined.Build()
    true = joined.Shape()
    made = solidify(exported(true, chord_mm)[0])
    assert (made.solids, made.closed, made.valid, made.flat) == (1, True, True, 0)
    assert sorted(face_kinds(made.body.shape)) == sorted(face_kinds(true))
    assert len(faces(made.body.shape)) == len(faces(true))
    assert made.volume == pytest.approx(volume(true), rel=1e-5)


SHAFT = Surface("cylinder", (0.0, 0.0, 0.0), (0.0, 0.0, 1.0), 5.0, 1)


def around(angles: np.ndarray, heights: np.ndarray) -> np.ndarray:
    return np.column_stack([5 * np.cos(angles), 5 * np.sin(angles), heights])


def test_a_seam_stays_out_of_a_face_that_does_not_go_round() -> None:
    # A patch from -40 to 40 degrees, run with its material to the left as it is seen from outside.
    a = np.radians(40)
    loop = around(np.array([-a, 0, a, a, 0, -a, -a]), np.array([0.0, 0, 0, 6, 6, 6, 0]))
    _, across = seam_of(SHAFT, [loop], loop[[0, 2, 3, 5]], [])
    assert np.degrees(np.arccos(across[0])) > 41


def test_a_seam_goes_where_a_wavy_border_is_met_once() -> None:
    # Round below, and above a border that runs back over itself between 60 and 100 degrees.
    t = np.linspace(0, 2 * np.pi, 73)
    ring = around(t, np.zeros_like(t))
    turns = np.radians([0, 100, 60, 180, 270, 360])
    wavy = around(turns, np.array([8.0, 8, 9, 9, 8, 8]))[::-1]
    _, across = seam_of(SHAFT, [ring, wavy], np.empty((0, 3)), [])
    angle = np.degrees(np.arctan2(across[1], across[0])) % 360
    assert not 59 < angle < 101


def test_a_direction_that_has_not_done_is_kept_away_from() -> None:
    t = np.linspace(0, 2 * np.pi, 37)
    loops = [around(t, np.zeros_like(t)), around(t[::-1], np.full_like(t, 7.0))]
    first = seam_of(SHAFT, loops, np.empty((0, 3)), [])[1]
    second = seam_of(SHAFT, loops, np.empty((0, 3)), [first])[1]
    third = seam_of(SHAFT, loops, np.empty((0, 3)), [first, second])[1]
    assert first @ second < -0.7 and max(float(third @ first), float(third @ second)) < 0.75


def test_a_loop_goes_about_an_axis_or_not() -> None:
    t = np.linspace(0, 2 * np.pi, 37)
    ring = around(t, np.zeros_like(t))
    hole = around(np.sin(t) / 4, 3 + np.cos(t))
    assert [turns_about(SHAFT, loop) for loop in (ring, ring[::-1], hole)] == [1, -1, 0]
