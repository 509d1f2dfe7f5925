"""Cut against closed forms: planes, round surfaces and outlines, sides, names, and refusals."""

import math

import numpy as np
import pytest

from contour.construct.place import Place
from contour.geometry.surfaces import Surface
from contour.products.region import RegionProduct
from contour.recipe.problem import ContourError
from contour.sketch.entities import Entity
from contour.solid.boolean import combine
from contour.solid.extent import bounds
from contour.solid.gate import check_solid
from tests.conftest import circle, prism, rectangle
from tests.steps.helpers import body, cylinder_region, plane_region, run, shape_of, sketch, volume_of

BLOCK = prism([*rectangle(40, 30), circle(15, 15, 6)], 10, prefix="old")
WHOLE = 12000 - 360 * math.pi


def cut(keep: str = "back", offset: str = "0 mm", region=None, **more):
    params = {"body": {"id": "b"}, "plane": {"id": "r"}, "offset": {"text": offset}, "keep": keep}
    return run("cut", params, {"body": body(BLOCK), "plane": region or plane_region((25, 0, 0), (1, 0, 0))}, **more)


def test_back_and_front_are_the_two_sides_of_the_normal():
    back, front = cut("back"), cut("front")
    assert bounds(shape_of(back, "b").shape)[1, 0] == pytest.approx(25, abs=1e-6)
    assert bounds(shape_of(front, "b").shape)[0, 0] == pytest.approx(25, abs=1e-6)
    assert volume_of(front, "b") == pytest.approx(15 * 30 * 10)


def test_both_sides_are_two_bodies_that_make_the_whole():
    both = cut("both")
    assert list(both.puts) == ["b", "newstep0"]
    assert volume_of(both, "b") + volume_of(both, "newstep0") == pytest.approx(volume_of(cut("back"), "b") + 4500)
    for id in both.puts:
        shape = shape_of(both, id)
        assert check_solid(shape.shape).valid
        assert sum(n == "newstep0.cut" for n in shape.names) == 1


def test_a_cut_through_a_bore_keeps_the_names_of_the_rest():
    made = shape_of(cut("back", "-10 mm"), "b")
    assert "old.side[c1]" in made.names
    assert sum(n.startswith("newstep0.cut") for n in made.names) == 2


def test_the_offset_goes_along_the_normal():
    assert volume_of(cut("front", "5 mm"), "b") == pytest.approx(10 * 30 * 10)
    assert volume_of(cut("front", "-0.5 inch + 2.7 mm"), "b") == pytest.approx(
        25 * 30 * 10 - 36 * 3.14159265 * 10 * 0.5, rel=1e-4
    )


def test_a_tilted_plane():
    made = cut("back", region=plane_region((30, 15, 5), (1, 0, 0.2)))
    assert volume_of(made, "b") == pytest.approx(30 * 30 * 10 - 36 * 3.14159265 * 10, rel=1e-6)


@pytest.mark.parametrize(("offset", "code"), [("30 mm", "no-section"), ("-30 mm", "no-section")])
def test_a_plane_that_misses_is_refused(offset, code):
    with pytest.raises(ContourError) as caught:
        cut("back", offset)
    assert caught.value.problem.code == code


def test_round_surfaces_part_it_inside_is_the_back():
    ball = RegionProduct(np.array([0]), Surface("sphere", (40, 0, 0), (0, 0, 1), 9, 1), 0.0)
    inside, outside = cut("back", region=ball), cut("front", region=ball)
    eighth = 4 / 3 * math.pi * 9**3 / 8
    assert volume_of(inside, "b") == pytest.approx(eighth, rel=1e-9)
    assert volume_of(outside, "b") == pytest.approx(WHOLE - eighth, rel=1e-9)
    bar = cut("back", region=cylinder_region((40, 30, 0), (0, 0, 1), 5))
    assert volume_of(bar, "b") == pytest.approx(25 * math.pi / 4 * 10, rel=1e-9)
    assert "newstep0.cut" in shape_of(bar, "b").names
    wider = cut("back", "1 mm", region=cylinder_region((40, 30, 0), (0, 0, 1), 5))
    assert volume_of(wider, "b") == pytest.approx(36 * math.pi / 4 * 10, rel=1e-9)


def test_a_cone_and_a_torus_part_it():
    cone = RegionProduct(np.array([0]), Surface("cone", (40, 30, 10), (0, 0, -1), 8, 1, math.atan(0.5)), 0.0)
    # Radius 8 at the top, 13 at the bottom, a quarter of it within the block.
    assert volume_of(cut("back", region=cone), "b") == pytest.approx(math.pi / 12 * 10 * (64 + 169 + 8 * 13), rel=1e-9)
    further = volume_of(cut("back", f"{math.sqrt(1.25)} mm", region=cone), "b")
    assert further == pytest.approx(math.pi / 12 * 10 * (9.25**2 + 14.25**2 + 9.25 * 14.25), rel=1e-9)
    torus = RegionProduct(np.array([0]), Surface("torus", (40, 30, 10), (0, 0, 1), 8, 1, minor=2), 0.0)
    assert volume_of(cut("back", region=torus), "b") == pytest.approx(2 * math.pi**2 * 8 * 4 / 8, rel=1e-6)


def by_sketch(entities, keep="back", z=-20.0):
    params = {"body": {"id": "b"}, "by": "sketch", "sketch": {"id": "s"}, "keep": keep}
    return run("cut", params, {"body": body(BLOCK), "sketch": sketch(entities, z)})


def test_a_closed_outline_parts_what_is_within_it():
    made = by_sketch(rectangle(8, 5, tag="k", at=(30, 2)), "both")
    assert volume_of(made, "b") == pytest.approx(400, rel=1e-9)
    assert volume_of(made, "newstep0") == pytest.approx(WHOLE - 400, rel=1e-9)
    assert {f"newstep0.cut.side[k{n}]" for n in (1, 2, 3, 4)} <= set(shape_of(made, "newstep0").names)


def test_an_open_outline_runs_on_from_its_ends_and_its_left_is_the_front():
    line = [Entity("a", "line", (25, 8), (25, 12))]
    assert volume_of(by_sketch(line, "back"), "b") == pytest.approx(15 * 30 * 10, rel=1e-9)
    assert volume_of(by_sketch(line, "front"), "b") == pytest.approx(WHOLE - 15 * 30 * 10, rel=1e-9)
    step = [
        Entity("a", "line", (28, 8), (28, 15)),
        Entity("c", "line", (34, 15), (28, 15)),
        Entity("b", "line", (34, 15), (34, 21)),
    ]
    made = by_sketch(step, "both")
    assert volume_of(made, "b") == pytest.approx((12 * 15 + 6 * 15) * 10, rel=1e-9)
    assert volume_of(made, "b") + volume_of(made, "newstep0") == pytest.approx(WHOLE, rel=1e-9)


def test_an_open_outline_of_arcs_runs_on_along_its_tangents():
    # A half circle from (25, 10) up to (25, 20), bulging to the right: its tangents run to the left at both ends.
    made = by_sketch([Entity("a", "arc", (28, 10), (28, 20), mid=(33, 15))], "front")
    assert volume_of(made, "b") == pytest.approx((28 * 10 + math.pi * 12.5) * 10 - 360 * math.pi + rest(), rel=1e-6)


def rest() -> float:
    """Of the bore (radius 6 about (15, 15)), what lies more than 5 mm from its middle line: not within the strip."""
    segment = 36 * math.acos(5 / 6) - 5 * math.sqrt(11)
    return 2 * segment * 10


@pytest.mark.parametrize(
    ("entities", "code"),
    [
        ([Entity("a", "line", (25, 8), (25, 12)), Entity("b", "line", (30, 8), (30, 12))], "open-end"),
        (rectangle(5, 5, at=(100, 100)), "no-section"),
        ([Entity("a", "line", (100, 8), (100, 12))], "no-section"),
        ([], "no-profile"),
    ],
)
def test_outlines_that_part_nothing_are_refused_with_what_to_do(entities, code):
    with pytest.raises(ContourError) as caught:
        by_sketch(entities)
    assert caught.value.problem.code == code and caught.value.problem.remedy


def test_an_offset_that_leaves_nothing_is_refused():
    with pytest.raises(ContourError) as caught:
        cut("back", "-6 mm", region=cylinder_region((40, 30, 0), (0, 0, 1), 5))
    assert (caught.value.problem.code, caught.value.problem.where.param) == ("bad-params", "offset")


HORNS = combine(
    prism(rectangle(40, 30), 10, prefix="old"), prism(rectangle(16, 40, at=(12, 15)), 10, prefix="notch"), "subtract"
)


def horns(keep, *points):
    """Two horns 12 mm wide on a foot that is 15 mm deep, cut 5 mm above the foot."""
    params = {
        "body": {"id": "b"},
        "plane": {"id": "r"},
        "keep": keep,
        "pieces": [{"id": f"p{k}"} for k in range(len(points))],
    }
    products = {"body": body(HORNS), "plane": plane_region((20, 20, 5), (0, 1, 0))}
    products |= {f"pieces[{k}]": Place("point", p, (0.0, 0.0, 1.0)) for k, p in enumerate(points)}
    return run("cut", params, products)


@pytest.mark.parametrize(
    ("points", "volume"),
    [((), 2400), (((0, 30, 0),), 1200), (((40, 20, 10),), 1200), (((0, 30, 0), (40, 30, 0)), 2400)],
)
def test_of_a_side_that_falls_apart_the_pieces_that_points_lie_on_stay(points, volume):
    made = horns("front", *points)
    assert volume_of(made, "b") == pytest.approx(volume, rel=1e-9)
    assert made.facts.pieces == 2


def test_a_side_that_no_point_lies_on_stays_whole():
    made = horns("both", (0, 30, 0))
    assert volume_of(made, "b") == pytest.approx(40 * 20 * 10 - 16 * 5 * 10)
    assert volume_of(made, "newstep0") == pytest.approx(1200)
    assert made.facts.pieces == 3


def test_a_point_on_no_piece_is_said():
    with pytest.raises(ContourError) as caught:
        horns("front", (20, 25, 5))
    assert caught.value.problem.where.param == "pieces[0]"
