"""What is told of faces and edges is told again of the same ones in another body, and of no others."""

from __future__ import annotations

import pytest
from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCylinder
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt, gp_Trsf, gp_Vec
from OCP.TopLoc import TopLoc_Location

from contour.solid import same_parts
from contour.solid.facts import face_facts
from contour.solid.mass import area, face_mass
from contour.solid.same_parts import fingerprint, told_of_parts
from contour.solid.shape import NamedShape, edges, faces, read_shape, write_shape
from contour.solid.tessellate import mesh
from contour.solid.topology.rows import topology_rows


@pytest.fixture
def asked():
    return []


@pytest.fixture
def size(asked):
    @told_of_parts
    def size(face):
        asked.append(face)
        return face_mass(face)[0]

    return size


def box(x=0.0):
    return BRepPrimAPI_MakeBox(gp_Pnt(x, 0, 0), 2, 3, 4).Shape()


def moved(shape, x):
    way = gp_Trsf()
    way.SetTranslation(gp_Vec(x, 0, 0))
    return shape.Moved(TopLoc_Location(way))


def test_the_same_faces_of_another_body_are_not_worked_out_again(size, asked):
    first = [size(f) for f in faces(box())]
    assert len(asked) == 6
    again = read_shape(write_shape(box()))
    assert [size(f) for f in faces(again)] == first and len(asked) == 6


def test_a_step_leaves_most_faces_as_they_were(size, asked):
    body = BRepPrimAPI_MakeBox(20, 20, 5).Shape()
    for f in faces(body):
        size(f)
    hole = BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(10, 10, -1), gp_Dir(0, 0, 1)), 3, 9).Shape()
    drilled = read_shape(write_shape(BRepAlgoAPI_Cut(body, hole).Shape()))
    sizes = [size(f) for f in faces(drilled)]
    # The four walls are as they were; both ends got a hole, and its wall is new.
    assert len(asked) == 6 + 3
    assert sum(sizes) == pytest.approx(4 * 100 + 2 * (400 - 9 * 3.141592653589793) + 6 * 3.141592653589793 * 5)


@pytest.mark.parametrize(
    "other", [box(1e-9), moved(box(), 1.0), box().Reversed()], ids=["a hair aside", "moved", "inside out"]
)
def test_faces_that_differ_in_anything_are_told_apart(other):
    own = {fingerprint(f) for f in faces(box())}
    assert len(own) == 6
    assert sum(fingerprint(f) in own for f in faces(other)) < 6


def test_triangles_made_later_do_not_count():
    plain, meshed = box(), box()
    before = [fingerprint(p) for p in (*faces(meshed), *edges(meshed))]
    mesh(meshed, chord_mm=0.1, angle_rad=0.3)
    assert before == [fingerprint(p) for p in (*faces(meshed), *edges(meshed))]
    assert before == [fingerprint(p) for p in (*faces(plain), *edges(plain))]


def test_what_was_told_longest_ago_is_forgotten_first(size, asked, monkeypatch):
    monkeypatch.setattr(same_parts, "_MOST_TOLD", 4)
    monkeypatch.setattr(same_parts, "_MOST_PRINTS", 3)
    sides = faces(box())
    for k in (0, 1, 2, 3, 0, 4):
        size(sides[k])
    assert len(asked) == 5
    size(sides[0])
    assert len(asked) == 5
    size(sides[1])
    assert len(asked) == 6


def test_rows_of_the_same_body_read_twice_do_not_share_what_may_be_changed():
    body = NamedShape(box(), tuple("abcdef"))
    first = topology_rows(body)
    first["faces"][0]["name"] = first["edges"][0]["name"] = "mine"
    first["edges"][0]["next"].append(99)
    second = topology_rows(NamedShape(read_shape(write_shape(box())), tuple("abcdef")))
    assert second["faces"][0]["name"] == "a" and 99 not in second["edges"][0]["next"]


def test_facts_of_what_was_moved_are_its_own():
    there = [moved(box(), x) for x in (0.0, 5.0)]
    rows = [face_facts(NamedShape(s, tuple("abcdef"))) for s in there]
    assert [b["centre"][0] - a["centre"][0] for a, b in zip(*rows, strict=True)] == pytest.approx([5.0] * 6)
    assert [area(s) for s in there] == pytest.approx([52.0, 52.0])
