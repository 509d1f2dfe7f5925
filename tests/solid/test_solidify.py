"""From a modelled mesh to a solid: the truth parts exported and made again, held against the solids that they came from."""

from __future__ import annotations

from collections import Counter

import numpy as np
import pytest

from benchmarks.random_parts import random_part
from contour.mesh.prepare import prepare_scan
from contour.recipe.problem import ContourError
from contour.solid.face_geometry import face_kinds
from contour.solid.mass import volume
from contour.solid.shape import faces, free_edges, is_valid, read_shape, solids, write_shape
from contour.solid.solidify import solidify
from demo.bracket import bracket
from demo.pump_cover import pump_cover
from demo.truth_parts import TRUTH_PARTS
from tests.conftest import circle, cube, prism, raw_scan, rectangle
from tests.fit.test_modelled import exported

PARTS = {**TRUTH_PARTS, "bracket": lambda: bracket().shape, "pump cover": lambda: pump_cover().shape}
# Two cylinders of the davit foot are one surface, and touch: no mesh tells them apart.
JOINED = {"davit foot": 1}


@pytest.mark.parametrize("chord_mm", [0.5, 0.05])
@pytest.mark.parametrize("part", PARTS)
def test_an_exported_part_is_made_again_face_for_face(part, chord_mm):
    shape = PARTS[part]()
    true = volume(shape)
    made = solidify(exported(shape, chord_mm)[0])
    assert (made.solids, made.closed, made.valid, made.flat, made.open) == (1, True, True, 0, ())
    assert made.volume == pytest.approx(true, rel=5e-6)
    assert len(faces(made.body.shape)) == len(faces(shape)) - JOINED.get(part, 0)
    lost = Counter(face_kinds(shape)) - Counter(face_kinds(made.body.shape))
    assert sum(lost.values()) == JOINED.get(part, 0)
    assert made.kinds == dict(sorted(Counter(face_kinds(made.body.shape)).items()))


def test_a_box_of_twelve_facets_is_a_box():
    made = solidify(prepare_scan(raw_scan(cube((30, 20, 10))), 1.0))
    assert made.kinds == {"plane": 6} and made.valid and made.closed
    assert made.volume == pytest.approx(6000, rel=1e-9)


def test_a_mesh_without_a_border_anywhere_is_a_whole_ball():
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeSphere

    made = solidify(exported(BRepPrimAPI_MakeSphere(7.5).Shape(), 0.02)[0])
    assert made.kinds == {"sphere": 1} and made.closed and made.valid
    assert made.volume == pytest.approx(4 / 3 * np.pi * 7.5**3, rel=1e-6)


def tube_cut_aslant():
    """A bar with an oblique end: an ellipse, which no circle and no line is."""
    from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut
    from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCylinder
    from OCP.gp import gp_Ax1, gp_Dir, gp_Pnt, gp_Trsf

    turn = gp_Trsf()
    turn.SetRotation(gp_Ax1(gp_Pnt(0, 0, 30), gp_Dir(0, 1, 0)), 0.4)
    knife = BRepPrimAPI_MakeBox(gp_Pnt(-40, -40, 30), 80.0, 80.0, 40.0).Shape()
    bar = BRepPrimAPI_MakeCylinder(9.0, 50.0).Shape()
    return BRepAlgoAPI_Cut(bar, BRepBuilderAPI_Transform(knife, turn).Shape()).Shape()


def test_an_oblique_end_of_a_bar_is_bounded_by_an_ellipse():
    made = solidify(exported(tube_cut_aslant(), 0.05)[0])
    assert made.kinds == {"cylinder": 1, "plane": 2} and made.valid and made.closed
    assert made.volume == pytest.approx(np.pi * 81 * 30, rel=1e-6)  # the cut goes through the axis at 30


def test_hollows_stay_hollow_and_pieces_stay_apart():
    outer, inner, beside = cube((30, 30, 30)), cube((10, 10, 10)) + 8.0, cube((5, 5, 5)) + 60.0
    made = solidify(prepare_scan(raw_scan(np.vstack([outer, inner[:, ::-1], beside])), 1.0))
    assert made.solids == 2 and made.valid and made.closed
    assert made.volume == pytest.approx(27000 - 1000 + 125, rel=1e-9)


def test_corners_on_a_side_and_vertices_beside_each_other_are_sewn():
    """One side of a box is of four facets whose middle vertex lies on the edge of its neighbour; another is a whisker away."""
    box = cube((30, 20, 10))
    top = np.abs(box[:, :, 2] - 10).max(axis=1) < 1e-9
    corners = np.array([[0, 0, 10], [30, 0, 10], [30, 20, 10], [0, 20, 10]], float)
    middle = np.array([15.0, 0.0, 10.0])
    fan = [[corners[0], middle, corners[3]], [middle, corners[2], corners[3]], [middle, corners[1], corners[2]]]
    split = np.vstack([box[~top], np.array(fan)])
    split[-1] += 1e-6
    made = solidify(prepare_scan(raw_scan(split), 1.0))
    assert made.closed and made.valid and made.open == ()
    assert made.volume == pytest.approx(6000, rel=1e-6)


def test_a_hole_in_the_mesh_is_told_with_its_place():
    box = cube((30, 20, 10))
    top = np.abs(box[:, :, 2] - 10).max(axis=1) < 1e-9
    made = solidify(prepare_scan(raw_scan(box[~top]), 1.0))
    assert not made.closed and made.kinds == {"plane": 5}
    (hole,) = made.open
    assert hole.width == pytest.approx(100)
    assert hole.place[2] == pytest.approx(10)


def test_each_hole_is_told_once_whatever_faces_are_about_it():
    box = cube((30, 20, 10))
    height = box[:, :, 2]
    top, bottom = (np.abs(height - z).max(axis=1) < 1e-9 for z in (10, 0))
    left = np.abs(box[:, :, 0]).max(axis=1) < 1e-9
    one_side_of_the_bottom = np.flatnonzero(bottom)[:1]
    made = solidify(
        prepare_scan(raw_scan(np.delete(box, [*np.flatnonzero(top), *one_side_of_the_bottom], axis=0)), 1.0)
    )
    assert [o.place[2] for o in made.open] == [pytest.approx(10), pytest.approx(0)]
    # Top and left side missing is one hole round a corner.
    made = solidify(prepare_scan(raw_scan(box[~(top | left)]), 1.0))
    (hole,) = made.open
    assert hole.width == pytest.approx(2 * 30 + 20 + 2 * 10 + 20)


def _meshed(scan) -> float:
    a, b, c = (scan.vertices[scan.facets[:, k]] for k in range(3))
    return float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum() / 6)


def test_what_no_surface_explains_stays_flat_and_the_solid_is_closed_all_the_same():
    block = prism([*rectangle(40, 30), circle(20, 15, 6)], 12).shape
    scan, _ = exported(block, 0.1)
    corners = scan.vertices[scan.facets].copy()
    # A dent: the corner of the block pushed in, so that its facets lie in new planes of one facet each.
    at = np.linalg.norm(corners - np.array([0.0, 0.0, 12.0]), axis=2) < 1e-6
    corners[at] += np.array([6.0, 5.0, -7.0])
    made = solidify(prepare_scan(raw_scan(corners), 1.0))
    assert made.closed and made.valid and made.kinds["cylinder"] == 1
    a, b, c = (corners[:, k] for k in range(3))
    dented = float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum() / 6)
    bore = volume(block) - float(_meshed(scan))  # what the chords of the bore leave of it
    # Round where the bore still is, straight where the dent has cut into its rim.
    assert dented + bore - 1e-3 < made.volume < dented + 1e-3


def test_a_scan_is_refused_with_what_to_do_instead(block_scan):
    with pytest.raises(ContourError) as caught:
        solidify(block_scan)
    assert caught.value.problem.code == "wrong-kind" and "sections" in caught.value.problem.remedy


def test_another_tolerance_keeps_the_names_of_faces():
    scan, _ = exported(bracket().shape, 0.1)
    fine, coarse = solidify(scan), solidify(scan, tolerance_mm=5e-4)
    assert fine.body.names == coarse.body.names and len(set(fine.body.names)) == 31
    assert coarse.tolerance == 5e-4 and coarse.valid


def test_a_kernel_reads_it_again(tmp_path):
    from contour.exchange.step import write_step
    from contour.solid.from_file import read_shape_file

    made = solidify(exported(pump_cover().shape, 0.2)[0])
    path = tmp_path / "cover.step"
    write_step(path, [("cover", made.body.shape, None)], unit="mm")
    again = read_shape_file(path)
    assert len(solids(again)) == 1 and is_valid(again)
    assert volume(again) == pytest.approx(volume(pump_cover().shape), rel=1e-6)


@pytest.mark.parametrize("seed", [38, 165])
def test_faces_that_the_kernel_refuses_become_facets_and_the_solid_closes_around_them(seed):
    """A sliver of a plane that crosses its neighbour's border, and a cylinder that does not meet its own."""
    part = random_part(seed)
    scan, *_ = exported(part, 0.1)
    made = solidify(scan)
    assert (made.solids, made.closed, made.valid, made.open) == (1, True, True, ())
    assert made.volume == pytest.approx(volume(part), rel=1e-4)
    assert made.flat < 0.05 * len(scan.facets) and made.kinds["cylinder"] >= 3
    assert not free_edges(read_shape(write_shape(made.body.shape)))


def test_a_single_facet_that_is_refused_does_not_take_the_cylinder_beside_it_along():
    """The cylinder was 75 flat facets, because the kernel refused it together with a sliver of a plane at its border."""
    part = random_part(25)
    made = solidify(exported(part, 0.5)[0])
    assert made.closed and made.valid and made.flat <= 2
    assert len(faces(made.body.shape)) <= len(faces(part)) + 1 and made.kinds["cylinder"] >= 5
    assert made.volume == pytest.approx(volume(part), rel=1e-2)
