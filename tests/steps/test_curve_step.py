"""A curve through points, and what is swept along one: lengths and volumes against closed forms."""

from __future__ import annotations

import math

import numpy as np
import pytest

from contour.construct.place import Place
from contour.products.curve import CurveProduct
from contour.recipe.problem import ContourError
from contour.recipe.registry import OWN
from contour.solid.gate import check_solid
from tests.conftest import circle, prism, rectangle
from tests.steps.helpers import body, run, shape_of, sketch, volume_of

NEW = "newstep0"
BEND = [(0, 0, 0), (0, 0, 20), (15, 0, 20), (15, 30, 20)]


def curve(points, **more):
    values = {k: {"text": v} if k == "radius" else v for k, v in more.items()}
    params = {"points": [{"id": f"p{k}"} for k in range(len(points))], **values}
    return run("curve", params, {f"points[{k}]": Place("point", tuple(map(float, p))) for k, p in enumerate(points)})


def pipe(points, half=2.0, **more):
    made = curve(points, **more)
    params = {"sketch": {"id": "s"}, "curve": {"id": "c"}}
    return run("sweep", params, {"sketch": sketch([circle(0, 0, half)]), "curve": made.puts[OWN]})


def test_straight_pieces_with_round_corners_have_the_length_of_lines_and_arcs():
    made = curve(BEND, between="straight", radius="5 mm")
    facts = made.facts
    assert (facts.points, facts.pieces) == (4, 5)
    assert facts.length == pytest.approx(15 + 5 + 25 + 2 * 2.5 * math.pi, rel=1e-9)
    assert facts.tightest == pytest.approx(5, rel=1e-3)
    assert facts.drawn[0] == (0, 0, 0) and facts.drawn[-1] == (15, 30, 20)
    sharp = curve(BEND, between="straight").facts
    assert sharp.length == pytest.approx(65) and sharp.tightest is None


def test_a_smooth_one_through_places_on_a_circle_is_about_the_circle():
    t = np.linspace(0, 2 * np.pi, 24, endpoint=False)
    around = np.column_stack([10 * np.cos(t), 10 * np.sin(t), np.full(24, 3.0)])
    facts = curve(around, closed=True).facts
    assert facts.length == pytest.approx(20 * math.pi, rel=1e-4)
    assert facts.tightest == pytest.approx(10, rel=0.02)


def test_a_bent_pipe_along_it_has_the_volume_of_its_middle_line():
    made = pipe(BEND, between="straight", radius="5 mm")
    found = check_solid(shape_of(made, NEW).shape)
    assert found.closed and found.valid and found.solids == 1
    assert volume_of(made, NEW) == pytest.approx(4 * math.pi * (45 + 5 * math.pi), rel=1e-6)
    assert made.facts.pieces == 5


def test_a_smooth_pipe_has_the_volume_of_area_times_length():
    """Pappus: the profile's middle lies on the path all along, and it stands square to it."""
    points = [(0, 0, 0), (0, 0, 12), (4, 2, 25), (14, 6, 32), (28, 8, 34)]
    made = pipe(points, half=1.5)
    found = check_solid(shape_of(made, NEW).shape)
    assert found.closed and found.valid
    assert volume_of(made, NEW) == pytest.approx(math.pi * 2.25 * made.facts.length, rel=2e-3)


def test_a_ring_along_a_closed_flat_one_is_about_a_torus():
    t = np.linspace(0, 2 * np.pi, 24, endpoint=False)
    around = np.column_stack([20 * np.cos(t) - 20, np.zeros(24), 20 * np.sin(t)])
    made = pipe(around, half=2.0, closed=True)
    found = check_solid(shape_of(made, NEW).shape)
    assert found.closed and found.valid
    assert volume_of(made, NEW) == pytest.approx(2 * math.pi**2 * 20 * 4, rel=1e-4)


def test_corners_of_a_body_are_points_as_well():
    block = prism(rectangle(10, 10), 5, prefix="b")
    names = ["b.end[p1]|b.side[e1]|b.side[e2]", "b.side[e2]|b.side[e3]|b.start[p1]"]
    params = {"points": [{"body": "b", "vertex": n} for n in names], "between": "straight"}
    made = run("curve", params, {f"points[{k}]": body(block) for k in range(2)}, points__0=names[0], points__1=names[1])
    assert made.facts.length == pytest.approx(math.hypot(10, 5))


@pytest.mark.parametrize(
    ("points", "more", "param", "got"),
    [
        ([], {}, "points", "nothing"),
        (BEND[:1], {}, "points", "1"),
        (BEND, {"between": "straight", "radius": "40 mm"}, "radius", "mm of"),
        (BEND, {"between": "straight", "radius": "-1 mm"}, "radius", "-1 mm"),
    ],
)
def test_what_cannot_be_is_refused_with_its_place(points, more, param, got):
    with pytest.raises(ContourError) as refused:
        curve(points, **more)
    problem = refused.value.problem
    assert problem.code == "bad-params" and problem.where.param == param and got in problem.got and problem.remedy


def test_a_sweep_along_nothing_asks_for_a_sketch_a_curve_or_edges():
    with pytest.raises(ContourError, match="a sketch, a curve or edges"):
        run("sweep", {"sketch": {"id": "s"}}, {"sketch": sketch([circle(0, 0, 1)])})


def test_its_product_says_whether_it_closes():
    made = curve(BEND[1:], closed=True).puts[OWN]
    assert isinstance(made, CurveProduct) and made.closed
