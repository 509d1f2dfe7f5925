"""Volumes and areas against closed forms."""

from __future__ import annotations

import math

import numpy as np
import pytest
from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCylinder
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt, gp_Trsf, gp_Vec
from OCP.TopLoc import TopLoc_Location

from contour.solid.mass import area, face_mass, volume
from contour.solid.shape import faces
from contour.solid.skin import Wall, capped_skin

R, HEIGHT = 10.0, 30.0


def cut_aslant(tilt):
    """A cylinder of which a plane at `tilt` through its axis' place at HEIGHT leaves the lower part."""
    sine, cosine = math.sin(tilt), math.cos(tilt)
    corner = gp_Pnt(-100 * cosine, -100, HEIGHT + 100 * sine)
    above = BRepPrimAPI_MakeBox(gp_Ax2(corner, gp_Dir(sine, 0, cosine), gp_Dir(cosine, 0, -sine)), 200, 200, 200)
    return BRepAlgoAPI_Cut(BRepPrimAPI_MakeCylinder(R, 3 * HEIGHT).Shape(), above.Shape()).Shape()


@pytest.mark.parametrize("tilt", [0.0, 0.2, 0.5, 0.8])
def test_a_cylinder_cut_aslant(tilt):
    made = cut_aslant(tilt)
    assert volume(made) == pytest.approx(math.pi * R * R * HEIGHT, rel=1e-7)
    flat = math.pi * R * R
    # Its wall is as large as that of a cylinder of its mean height.
    assert area(made) == pytest.approx(2 * math.pi * R * HEIGHT + flat + flat / math.cos(tilt), rel=1e-4)


def test_two_round_bars_of_one_radius_crossing():
    upright = BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(0, 0, -50), gp_Dir(0, 0, 1)), R, 100).Shape()
    level = BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(-50, 0, 0), gp_Dir(1, 0, 0)), R, 100).Shape()
    made = BRepAlgoAPI_Fuse(upright, level).Shape()
    # What both share has the volume 16 r³/3 and the surface 16 r².
    assert volume(made) == pytest.approx(2 * math.pi * R * R * 100 - 16 * R**3 / 3, rel=1e-6)
    assert area(made) == pytest.approx(2 * 2 * math.pi * R * 100 + 4 * math.pi * R * R - 16 * R * R, rel=1e-4)


def test_walls_that_run_through_rows_of_places():
    """A round bar whose wall is one spline surface: as large as a cylinder's, and known at once, not by a mesh of millions."""
    angle, height = np.linspace(0, 2 * np.pi, 65), np.linspace(0, HEIGHT, 9)
    ring = np.column_stack([R * np.cos(angle), R * np.sin(angle)])
    places = np.stack([np.column_stack([ring, np.full(len(ring), z)]) for z in height], axis=1)
    halves = [Wall(f"w{k}", places[32 * k : 32 * k + 33], height / HEIGHT) for k in range(2)]
    made = capped_skin([halves], ("low", "high"), doing="skinning").shape
    flat = 2 * math.pi * R * R
    assert area(made) == pytest.approx(2 * math.pi * R * HEIGHT + flat, rel=1e-4)
    assert volume(made) == pytest.approx(math.pi * R * R * HEIGHT, rel=1e-7)


def test_a_shape_that_was_measured_before_counts_the_other_way_when_it_is_turned_inside_out():
    box = BRepPrimAPI_MakeBox(2, 3, 4).Shape()
    assert [volume(box), volume(box.Reversed()), volume(box)] == pytest.approx([24, -24, 24])
    # Another one that came to lie where a forgotten one was is measured by itself.
    assert [volume(BRepPrimAPI_MakeBox(k, 1, 1).Shape()) for k in range(1, 30)] == pytest.approx(list(range(1, 30)))


def test_faces_are_weighed_by_themselves_however_often_they_are_asked_for():
    sizes = {6.0, 8.0, 12.0}
    box = BRepPrimAPI_MakeBox(2, 3, 4).Shape()
    for _ in range(2):
        found = [face_mass(f) for f in faces(box)]
        assert {round(size, 9) for size, _ in found} == sizes
        assert np.mean([[c.X(), c.Y(), c.Z()] for _, c in found], axis=0) == pytest.approx([1, 1.5, 2])
    assert area(box) == pytest.approx(2 * sum(sizes))
    moved = box.Moved(TopLoc_Location(translation(10.0)))
    assert np.mean([face_mass(f)[1].X() for f in faces(moved)]) == pytest.approx(11)


def translation(x):
    way = gp_Trsf()
    way.SetTranslation(gp_Vec(x, 0, 0))
    return way
