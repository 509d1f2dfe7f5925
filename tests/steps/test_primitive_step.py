"""Primitives against closed forms: by values, between points, on planes and axes, both ways, as tools, names, and refusals."""

from __future__ import annotations

import math

import numpy as np
import pytest

from contour.construct.place import Place
from contour.recipe.problem import ContourError
from contour.solid.extent import bounds
from contour.solid.gate import check_solid
from contour.solid.mass import volume
from tests.conftest import circle, prism, rectangle
from tests.steps.helpers import body, cylinder_region, plane_region, run, shape_of, volume_of

NEW = "newstep0"


def point(x: float, y: float, z: float) -> Place:
    return Place("point", (x, y, z), (0.0, 0.0, 1.0))


def primitive(form: str, products=None, **more):
    refs = {n: {"id": n} for n in (products or {}) if "[" not in n}
    sizes = {k: {"text": v} if isinstance(v, str) and k not in ("operation",) else v for k, v in more.items()}
    return run("primitive", {"form": form, **refs, **sizes}, products or {})


CASES = [
    ("block", {"width": "20 mm", "depth": "12 mm", "height": "5 mm"}, 1200.0, 6),
    ("cylinder", {"diameter": "10 mm", "height": "8 mm"}, math.pi * 25 * 8, 3),
    ("cone", {"diameter": "12 mm", "height": "9 mm"}, math.pi * 36 * 9 / 3, 2),
    ("cone", {"diameter": "12 mm", "top": "6 mm", "height": "9 mm"}, math.pi * 9 / 3 * (36 + 18 + 9), 3),
    ("cone", {"diameter": "6 mm", "top": "12 mm", "height": "-9 mm"}, math.pi * 9 / 3 * (36 + 18 + 9), 3),
    ("sphere", {"diameter": "14 mm"}, 4 / 3 * math.pi * 343, 1),
    ("torus", {"diameter": "30 mm", "tube": "8 mm"}, 2 * math.pi**2 * 15 * 16, 1),
]


@pytest.mark.parametrize(("form", "sizes", "expected", "faces"), CASES)
def test_each_has_the_volume_of_its_closed_form(form, sizes, expected, faces):
    made = primitive(form, **sizes)
    found = check_solid(shape_of(made, NEW).shape)
    assert found.volume == pytest.approx(expected, rel=1e-9)
    assert found.closed and found.valid and (found.solids, found.faces) == (1, faces)
    assert made.facts.form == form


@pytest.mark.parametrize(
    ("height", "centred", "low", "high"), [("8 mm", False, 0, 8), ("-8 mm", False, -8, 0), ("8 mm", True, -4, 4)]
)
def test_it_stands_on_its_place_goes_the_other_way_or_lies_about_it(height, centred, low, high):
    for form in ("block", "cylinder", "cone"):
        box = bounds(shape_of(primitive(form, height=height, centred=centred), NEW).shape)
        assert box[:, 2] == pytest.approx([low, high], abs=1e-5)


def test_a_plane_and_a_point_say_where_it_stands_and_which_way():
    tilted = plane_region((0, 0, 10), (1, 0, 1))
    made = primitive("cylinder", {"plane": tilted, "at": point(5, 3, 40)}, diameter="4 mm", height="6 mm")
    shape = shape_of(made, NEW).shape
    assert volume(shape) == pytest.approx(math.pi * 4 * 6, rel=1e-9)
    # The foot of the point on the plane, and half the height further: the middle of its bounds.
    n = np.array([1, 0, 1]) / math.sqrt(2)
    foot = np.array([5, 3, 40]) - (np.array([5, 3, 30]) @ n) * n
    assert bounds(shape).mean(axis=0) == pytest.approx(foot + 3 * n, abs=1e-5)


def test_it_stands_on_the_axis_of_what_is_round():
    bore = cylinder_region((7, -2, 0), (0, 1, 0), 3.0, -1)
    made = primitive("cylinder", {"axis": bore, "at": point(0, 11, 0)}, diameter="6 mm", height="5 mm")
    assert bounds(shape_of(made, NEW).shape) == pytest.approx(np.array([[4, 11, -3], [10, 16, 3]]), abs=1e-5)


@pytest.mark.parametrize(
    ("form", "expected"),
    [
        ("block", 3 * 4 * 12),
        ("cylinder", math.pi * 25 * 13),
        ("cone", math.pi * 25 * 13 / 3),
        ("sphere", 4 / 3 * math.pi * 13**3),
    ],
)
def test_between_two_points(form, expected):
    made = primitive(form, {"at": point(1, 1, 1), "to": point(4, 5, 13)}, diameter="10 mm")
    assert volume_of(made, NEW) == pytest.approx(expected, rel=1e-9)


def test_corners_may_be_said_in_any_order():
    one, other = ({"at": point(*a), "to": point(*b)} for a, b in (((0, 0, 0), (3, -4, 5)), ((3, -4, 5), (0, 0, 0))))
    a, b = (bounds(shape_of(primitive("block", p), NEW).shape) for p in (one, other))
    assert a == pytest.approx(b) and a == pytest.approx(np.array([[0, -4, 0], [3, 0, 5]]), abs=1e-6)


def test_it_serves_as_a_tool():
    block = body(prism(rectangle(30, 30, at=(-15, -15)), 30, z=-15, prefix="old"))
    made = primitive("sphere", {"bodies[0]": block}, diameter="20 mm", operation="subtract", bodies=[{"id": "b"}])
    assert volume_of(made, "b") == pytest.approx(27_000 - 4 / 3 * math.pi * 1000, rel=1e-9)
    assert f"{NEW}.side[wall]" in shape_of(made, "b").names


def test_its_faces_are_named_for_what_they_are_whatever_its_sizes():
    for sizes in ({}, {"height": "-3 mm"}, {"diameter": "2 mm", "centred": True}):
        names = set(shape_of(primitive("cylinder", **sizes), NEW).names)
        assert names == {f"{NEW}.side[{n}]" for n in ("bottom", "wall", "top")}
    sides = {f"{NEW}.side[{n}]" for n in ("front", "right", "back", "left")}
    assert sides < set(shape_of(primitive("block"), NEW).names)


def test_the_grip_draws_its_height_unless_points_say_it():
    (grip,) = primitive("cylinder", {"at": point(1, 2, 3)}).handles
    assert (grip.place, grip.origin, grip.direction) == ("height", (1, 2, 3), (0, 0, 1))
    assert primitive("cylinder", {"at": point(1, 2, 3), "to": point(1, 2, 9)}).handles == ()


@pytest.mark.parametrize(
    ("form", "products", "sizes", "code", "param"),
    [
        ("cylinder", {}, {"diameter": "0 mm"}, "bad-params", "diameter"),
        ("cylinder", {}, {"height": "0 mm"}, "bad-params", "height"),
        ("cone", {}, {"top": "-1 mm"}, "bad-params", "top"),
        ("torus", {}, {"diameter": "10 mm", "tube": "10 mm"}, "self-crossing", "tube"),
        ("block", {}, {"width": "-3 mm"}, "bad-params", "width"),
        ("block", {"at": point(0, 0, 0), "to": point(4, 0, 4)}, {}, "bad-params", "to"),
        ("sphere", {"at": point(1, 1, 1), "to": point(1, 1, 1)}, {}, "degenerate", "to"),
        ("cylinder", {}, {"operation": "subtract"}, "no-body", "bodies"),
    ],
)
def test_what_has_no_size_is_refused_with_its_place(form, products, sizes, code, param):
    with pytest.raises(ContourError) as refused:
        primitive(form, products, **sizes)
    problem = refused.value.problem
    assert (problem.code, problem.where.param) == (code, param) and problem.remedy


def test_a_cylinder_takes_its_size_and_reach_of_what_it_stands_on():
    """A fitted bore of 6 mm radius that was seen from z = 2 to z = 14 closes with one cylinder."""
    found = Place("axis", (10.0, 0.0, 8.0), (0.0, 0.0, 1.0), radius=6.0, reach=8.0, span=(-6.0, 6.0))
    made = run("primitive", {"form": "cylinder", "axis": {"id": "r"}, "as_found": True}, {"axis": found})
    assert volume_of(made, "newstep0") == pytest.approx(math.pi * 36 * 12, rel=1e-9)
    assert bounds(shape_of(made, "newstep0").shape)[:, 2] == pytest.approx([2, 14], abs=1e-6)
    assert (made.facts.diameter, made.facts.height) == (12.0, 12.0)


def test_a_plain_axis_has_no_size_to_take():
    with pytest.raises(ContourError) as refused:
        run(
            "primitive",
            {"form": "cylinder", "axis": {"id": "r"}, "as_found": True},
            {"axis": Place("axis", (0.0, 0.0, 0.0), (0.0, 0.0, 1.0), reach=5.0)},
        )
    assert (refused.value.problem.code, refused.value.problem.where.param) == ("bad-params", "axis")


def test_a_round_face_says_how_long_it_is():
    """The bore of a plate, closed by a cylinder of its own."""
    plate = prism([*rectangle(40, 30), circle(12, 15, 4)], 9, z=3, prefix="plate")
    params = {"form": "cylinder", "axis": {"body": "b", "name": "plate.side[c1]"}, "as_found": True}
    made = run("primitive", params, {"axis": body(plate)}, axis="plate.side[c1]")
    assert volume_of(made, NEW) == pytest.approx(math.pi * 16 * 9, rel=1e-9)
    assert bounds(shape_of(made, NEW).shape)[:, 2] == pytest.approx([3, 12], abs=1e-6)
