"""Curves through points in space against what is known of them: the points themselves, bends that vanish or go on, arcs in corners."""

from __future__ import annotations

import math

import numpy as np
import pytest
from scipy.interpolate import CubicSpline

from contour.construct.space_curve import SpaceSpline, drawn, smooth_through, straight_through
from contour.geometry.curves import Line, Oval, places
from contour.products.curve import KIND, CurveProduct
from contour.recipe.problem import ContourError

STEPS = np.array([[0, 0, 0], [10, 0, 0], [10, 10, 5], [0, 10, 10], [-5, 0, 20]], float)


def distance_to(points, place) -> float:
    return float(np.linalg.norm(points - place, axis=1).min())


def test_a_smooth_one_goes_through_its_points_and_does_not_bend_at_its_ends():
    (piece,) = smooth_through(STEPS, closed=False)
    assert isinstance(piece, SpaceSpline)
    at = np.concatenate([[0], np.cumsum(np.linalg.norm(np.diff(STEPS, axis=0), axis=1))])
    curve = piece.curve()
    assert np.allclose(curve(at), STEPS, atol=1e-9)
    assert np.allclose(curve(at[[0, -1]], 2), 0, atol=1e-9)
    natural = CubicSpline(at, STEPS, bc_type="natural")
    dense = np.linspace(0, at[-1], 301)
    assert np.allclose(curve(dense), natural(dense), atol=1e-9)


def test_a_closed_one_goes_on_as_it_began_in_direction_and_bend():
    (piece,) = smooth_through(STEPS, closed=True)
    curve, end = piece.curve(), piece.knots[-1]
    for order in (0, 1, 2):
        assert np.allclose(curve(0.0, order), curve(end, order), atol=1e-9)


def test_two_points_are_a_straight_piece_either_way():
    for made in (smooth_through(STEPS[:2], closed=False), straight_through(STEPS[:2], closed=False, radius=3.0)):
        assert made == (Line((0, 0, 0), (10, 0, 0)),)


def test_straight_pieces_meet_in_the_points():
    made = straight_through(STEPS, closed=True, radius=0.0)
    assert len(made) == 5 and all(isinstance(p, Line) for p in made)
    assert [p.start for p in made] == [tuple(map(float, s)) for s in STEPS]
    assert made[-1].end == made[0].start


def test_corners_are_rounded_by_arcs_that_run_on_into_the_pieces():
    made = straight_through(STEPS, closed=False, radius=1.5)
    assert [type(p) for p in made] == [Line, Oval, Line, Oval, Line, Oval, Line]
    for before, arc, after in zip(made[:-2:2], made[1:-1:2], made[2::2], strict=True):
        ends = places(arc, np.array([arc.first, arc.last]))
        assert np.allclose(ends, [before.end, after.start], atol=1e-9)
        assert arc.long == pytest.approx(1.5)
        near = np.array([arc.first, arc.first + 1e-6, arc.last - 1e-6, arc.last])
        out = np.diff(places(arc, near), axis=0)[[0, 2]] / 1.5e-6
        assert np.allclose(out, [before.direction, after.direction], atol=1e-5)


def test_a_right_angle_is_shorter_by_what_its_round_saves():
    corner = np.array([[0, 0, 0], [10, 0, 0], [10, 10, 0]], float)
    first, arc, last = straight_through(corner, closed=False, radius=4.0)
    assert first.length + arc.long * (arc.last - arc.first) + last.length == pytest.approx(12 + 2 * math.pi)


def test_a_point_on_the_way_is_no_corner():
    made = straight_through(np.array([[0, 0, 0], [5, 0, 0], [9, 0, 0]], float), closed=False, radius=2.0)
    assert [type(p) for p in made] == [Line, Line]


def test_a_round_that_does_not_fit_is_refused_with_its_corner_and_what_would():
    with pytest.raises(ContourError) as refused:
        straight_through(STEPS, closed=False, radius=7.0)
    problem = refused.value.problem
    assert problem.where.param == "radius" and distance_to(STEPS, problem.where.point) < 1e-9
    fits = float(problem.need.split()[-3])
    straight_through(STEPS, closed=False, radius=0.9 * fits)


@pytest.mark.parametrize(
    ("points", "closed", "param"),
    [
        (STEPS[:0], False, "points"),
        (STEPS[:1], False, "points"),
        (STEPS[:2], True, "points"),
        (STEPS[[0, 1, 1, 2]], False, "points[2]"),
        (STEPS[[0, 1, 2, 0]], True, "points[0]"),
    ],
)
def test_too_few_points_and_points_that_are_one_are_refused(points, closed, param):
    for make in (
        lambda: smooth_through(points, closed=closed),
        lambda: straight_through(points, closed=closed, radius=0),
    ):
        with pytest.raises(ContourError) as refused:
            make()
        assert (refused.value.problem.code, refused.value.problem.where.param) == ("bad-params", param)


def test_one_through_many_points_is_drawn_by_no_more_than_travels_well():
    t = np.linspace(0, 20, 200)
    many = np.column_stack([10 * np.cos(t), 10 * np.sin(t), t])
    line = drawn(smooth_through(many, closed=False))
    assert 200 < len(line) <= 601 and all(distance_to(line, p) < 0.5 for p in many)


@pytest.mark.parametrize("closed", [False, True])
def test_what_is_drawn_follows_the_pieces_and_what_is_kept_reads_back(closed, tmp_path):
    for k, made in enumerate(
        [smooth_through(STEPS, closed=closed), straight_through(STEPS, closed=closed, radius=1.0)]
    ):
        line = drawn(made)
        assert all(distance_to(line, s) < (1e-9 if k == 0 else 2.5) for s in STEPS)
        folder = tmp_path / str(k)
        folder.mkdir()
        KIND.save(CurveProduct(made, closed), folder)
        assert KIND.load(folder) == CurveProduct(made, closed)
