"""Shapes as they are drawn: what they enclose by closed forms, the motions they leave, the sizes that were typed."""

from __future__ import annotations

import math

import pytest

from contour.recipe.problem import ContourError
from tests.sketch.drawn.acts.kit import Sheet, spot


def test_a_rectangle_by_two_corners_has_four_motions_and_its_typed_sizes():
    s = Sheet()
    s.do("rectangle", by="corner", spots=[spot(0, 0), spot(31, 19)])
    assert s.solution.dof == 4 and s.area() == pytest.approx(31 * 19)
    s = Sheet()
    s.do("rectangle", by="corner", spots=[spot(10, 10), spot(-21, 30)], width="40 mm", height="2.5 cm")
    assert s.solution.dof == 2 and s.area() == pytest.approx(1000)
    # The corner it was begun at stays; it grows to the side that was pointed at.
    assert s.drawing.point(s.of("point")[0]) == pytest.approx((10, 10))
    assert min(s.drawing.point(p)[0] for p in s.of("point")) == pytest.approx(-30)


def test_a_rectangle_about_its_centre_stays_about_it():
    s = Sheet()
    s.do("rectangle", by="centre", spots=[spot(5, 5), spot(15, 10)])
    assert s.area() == pytest.approx(20 * 10)
    s.do("size", kind="length", of=[s.of("line")[0]], value="30")
    xs = [s.drawing.point(p)[0] for p in s.of("point")[:4]]
    centre = s.drawing.point(s.of("point")[4])
    assert (max(xs) + min(xs)) / 2 == pytest.approx(centre[0])


def test_a_rectangle_by_three_places_stands_askew():
    s = Sheet()
    s.do("rectangle", by="three", spots=[spot(0, 0), spot(30, 40), spot(-8, 6)])
    assert s.area() == pytest.approx(50 * 10)
    assert s.solution.dof == 5


@pytest.mark.parametrize(
    ("by", "spots", "radius"),
    [("centre", [(1, 2), (4, 6)], 5), ("two", [(-5, 0), (5, 0)], 5), ("three", [(5, 0), (0, 5), (-5, 0)], 5)],
)
def test_circles_by_their_places(by, spots, radius):
    s = Sheet()
    s.do("circle", by=by, spots=[spot(*p) for p in spots])
    assert s.area() == pytest.approx(math.pi * radius**2)
    assert s.solution.dof == 3


def triangle() -> Sheet:
    s = Sheet()
    s.do("line", start=spot(0, 0), end=spot(30, 0))
    a, b = s.of("point")
    s.do("line", start=spot(30, 0, point=b), end=spot(0, 40))
    c = s.of("point")[-1]
    s.do("line", start=spot(0, 40, point=c), end=spot(0, 0, point=a))
    s.do("relate", kind="fixed", of=[a, b, c])
    return s


def test_a_circle_that_touches_three_lines_is_the_inscribed_one():
    s = triangle()
    lines = s.of("line")
    s.do("circle", by="tangent", spots=[spot(10, 0), spot(16, 20), spot(0, 10)], touching=lines)
    assert s.solution.solved and s.solution.dof == 0
    assert s.drawing.entities[s.of("circle")[0]].radius == pytest.approx(10)  # (30 + 40 - 50) / 2


def test_a_circle_that_touches_two_lines_has_the_typed_diameter():
    s = triangle()
    spots = [spot(8, 0), spot(0, 7), spot(14, 13)]
    s.do("circle", by="tangent", spots=spots, touching=[s.of("line")[0], s.of("line")[2]], diameter="12")
    centre = s.drawing.point(s.drawing.entities[s.of("circle")[0]].centre)
    assert s.solution.dof == 0 and centre == pytest.approx((6, 6))


def test_arcs_run_the_way_they_are_drawn():
    for through, area in ((5.0, math.pi * 12.5), (-5.0, math.pi * 12.5)):
        s = Sheet()
        s.do("arc", by="three", spots=[spot(5, 0), spot(-5, 0), spot(0, through)])
        arc = s.drawing.entities[s.of("arc")[0]]
        s.do("line", start=spot(0, 0, point=arc.start), end=spot(0, 0, point=arc.end))
        assert s.area() == pytest.approx(area)
        middle_up = s.drawing.point(arc.start)[0] > 0
        assert middle_up == (through > 0)
    s = Sheet()
    s.do("arc", by="centre", spots=[spot(0, 0), spot(10, 0), spot(0, 3)], radius="8 mm")
    arc = s.drawing.entities[s.of("arc")[0]]
    assert math.dist(s.drawing.point(arc.start), s.drawing.point(arc.centre)) == pytest.approx(8)
    assert s.drawing.point(arc.end) == pytest.approx((0, 8))


@pytest.mark.parametrize("to", [(40, 10), (40, -10)])
def test_a_tangent_arc_goes_on_smoothly_to_either_side(to):
    s = Sheet()
    s.do("line", start=spot(0, 0), end=spot(30, 0))
    line, (_, end) = s.of("line")[0], s.of("point")
    s.do("arc", by="tangent", spots=[spot(30, 0, point=end), spot(*to)], after=line)
    arc = s.drawing.entities[s.of("arc")[0]]
    assert s.solution.solved
    assert s.drawing.point(arc.centre) == pytest.approx((30, math.copysign(10, to[1])))


def test_a_slot_is_a_rectangle_and_two_half_discs():
    s = Sheet()
    s.do("slot", by="straight", spots=[spot(0, 0), spot(38, 0), spot(10, 6)], length="40", width="10 mm")
    assert s.solution.solved and s.solution.dof == 3
    assert s.area() == pytest.approx(400 + math.pi * 25)


def test_a_curved_slot_is_part_of_a_ring_and_two_half_discs():
    for ends in ([spot(20, 0), spot(0, 20)], [spot(0, 20), spot(20, 0)]):
        s = Sheet()
        s.do("slot", by="arc", spots=[spot(0, 0), *ends, spot(24, 0)])
        assert s.solution.solved
        assert s.area() == pytest.approx(math.pi / 4 * (24**2 - 16**2) + math.pi * 16)
        s.do("size", kind="diameter", of=[s.of("arc")[2]], value="6")
        assert s.solution.solved and s.solution.dof == 5


@pytest.mark.parametrize("sides", [3, 6, 7])
def test_polygons_are_regular_and_have_their_size_across(sides):
    s = Sheet()
    s.do("polygon", spots=[spot(0, 0), spot(9, 1)], sides=sides, across="20")
    assert s.solution.solved and s.solution.dof == 3
    assert s.area() == pytest.approx(sides * 100 * math.tan(math.pi / sides))
    lengths = [s.length(n) for n in s.of("line")]
    assert max(lengths) - min(lengths) < 1e-6


def test_ellipses_and_splines():
    s = Sheet()
    s.do("ellipse", spots=[spot(0, 0), spot(0, 10), spot(3, 5)])
    assert s.area() == pytest.approx(math.pi * 10 * 3 / math.sqrt(0.75))
    s = Sheet()
    s.do("spline", by="control", spots=[spot(-3, 0), spot(-1, 4), spot(1, 4), spot(3, 0)])
    s.do("line", start=spot(3, 0, point=s.of("point")[3]), end=spot(-3, 0, point=s.of("point")[0]))
    assert s.area() == pytest.approx(12.0)
    s = Sheet()
    ring = [spot(10 * math.cos(a), 10 * math.sin(a)) for a in [k * math.pi / 8 for k in range(16)]]
    s.do("spline", by="through", spots=ring, closed=True)
    assert s.area() == pytest.approx(math.pi * 100, rel=2e-3)


def test_a_trapezium_by_typed_lengths_and_angles():
    s = Sheet()
    s.do("line", start=spot(0, 0), end=spot(50, 1), relations=[{"kind": "horizontal"}], length="60")
    a, b = s.of("point")
    first = s.of("line")[0]
    s.do("line", start=spot(60, 0, point=b), end=spot(50, 22), after=first, length="25 mm", angle="70 deg")
    c = s.of("point")[-1]
    s.do("line", start=spot(0, 0, point=c), end=spot(15, 24), relations=[{"kind": "horizontal"}])
    d = s.of("point")[-1]
    s.do("line", start=spot(0, 0, point=d), end=spot(0, 0, point=a), after=s.of("line")[2])
    s.do("size", kind="angle", of=[first, s.of("line")[3]], value="70 deg", supplement=True)
    high = 25 * math.sin(math.radians(70))
    top = 60 - 2 * 25 * math.cos(math.radians(70))
    assert s.solution.solved and s.solution.dof == 2
    assert s.area() == pytest.approx((60 + top) / 2 * high)


def test_a_line_alone_takes_its_angle_from_the_first_axis():
    s = Sheet()
    s.do("line", start=spot(0, 0), end=spot(10, -3), angle="30 deg", length="20")
    end = s.drawing.point(s.of("point")[1])
    assert end == pytest.approx((20 * math.cos(math.radians(30)), -10)) and s.solution.dof == 2


def test_spots_hold_on_to_what_they_were_put_on():
    s = triangle()
    hypotenuse = s.of("line")[1]
    s.do("line", start=spot(15, 0, middle=s.of("line")[0]), end=spot(15, 20, on=[hypotenuse]))
    assert s.solution.solved and s.solution.dof == 1
    s.do("relate", kind="vertical", of=[s.of("line")[3]])
    end = s.drawing.point(s.of("point")[-1])
    assert end == pytest.approx((15, 20)) and s.solution.dof == 0


@pytest.mark.parametrize(
    ("act", "more", "said"),
    [
        ("line", {"start": spot(1, 1), "end": spot(1, 1)}, "no size"),
        ("circle", {"by": "three", "spots": [spot(0, 0), spot(1, 0), spot(2, 0)]}, "on a line"),
        ("arc", {"by": "tangent", "spots": [spot(0, 0), spot(1, 1)]}, "goes on from the end"),
        ("rectangle", {"by": "corner", "spots": [spot(0, 0), spot(4, 0)]}, "no size"),
        ("slot", {"by": "straight", "spots": [spot(0, 0), spot(4, 0), spot(1, 0)]}, "no size"),
        ("line", {"start": spot(0, 0, point="gone"), "end": spot(1, 1)}, "not drawn any more"),
        ("line", {"start": spot(0, 0), "end": spot(1, 1), "length": "abc"}, "abc"),
        ("polygon", {"spots": [spot(0, 0), spot(0, 0)], "sides": 5}, "no size"),
    ],
)
def test_places_that_make_no_shape_are_refused_and_say_why(act, more, said):
    s = Sheet()
    with pytest.raises(ContourError) as error:
        s.do(act, **more)
    assert said in str(error.value) and not s.drawing.entities
