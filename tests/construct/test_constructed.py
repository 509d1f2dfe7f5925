"""Construction geometry by what each construction promises, on places thrown at random."""

from __future__ import annotations

import numpy as np
import pytest

from contour.construct import axes, planes, points
from contour.construct.place import Place
from contour.geometry.vectors import triple, unit
from contour.recipe.problem import ContourError

RANDOM = range(8)


def thrown(seed: int, shape: str = "plane", radius: float = 0.0) -> Place:
    rng = np.random.default_rng(seed)
    return Place(shape, triple(rng.uniform(-40, 40, 3)), triple(unit(rng.normal(size=3))), radius=radius, reach=20.0)  # type: ignore[arg-type]


def off(plane: Place, at: np.ndarray) -> float:
    return float((at - plane.at) @ plane.along)


def apart(axis: Place, at: np.ndarray) -> float:
    return float(np.linalg.norm(np.cross(at - axis.at, axis.along)))


@pytest.mark.parametrize("seed", RANDOM)
def test_a_plane_moved_along_its_normal_keeps_its_distance(seed):
    base = thrown(seed)
    made = planes.offset(base, 7.5)
    assert np.allclose(made.along, base.along)
    assert off(base, made.at) == pytest.approx(7.5)


@pytest.mark.parametrize("seed", RANDOM)
def test_a_turned_plane_leans_by_the_angle_about_its_own_axes(seed):
    base = thrown(seed)
    u = planes.u_axis_of(base.along)
    made = planes.tilted(base, np.radians(20), 0.0, u)
    assert np.degrees(np.arccos(made.along @ base.along)) == pytest.approx(20)
    assert made.along @ u == pytest.approx(0, abs=1e-12)  # turned about u: u stays in it
    both = planes.tilted(base, np.radians(20), np.radians(-35), u)
    assert np.linalg.norm(both.along) == pytest.approx(1)
    assert np.allclose(planes.tilted(base, 0.0, 0.0, u).along, base.along)


@pytest.mark.parametrize("seed", RANDOM)
def test_a_plane_about_an_axis_holds_the_axis(seed):
    base, axis = thrown(seed), thrown(seed + 100, "axis")
    for degrees in (0, 30, 90, 200):
        made = planes.through_axis(base, axis, np.radians(degrees))
        assert abs(off(made, axis.at + 13 * axis.along)) < 1e-9 and abs(off(made, axis.at)) < 1e-9
    flat, turned = planes.through_axis(base, axis, 0.0), planes.through_axis(base, axis, np.radians(30))
    assert np.degrees(np.arccos(flat.along @ turned.along)) == pytest.approx(30)
    # Nothing that holds the axis is more like the base.
    nearest = abs(flat.along @ base.along)
    assert all(
        abs(planes.through_axis(base, axis, a).along @ base.along) <= nearest + 1e-12 for a in np.linspace(0, np.pi, 25)
    )


@pytest.mark.parametrize("seed", RANDOM)
def test_three_points_lie_in_their_plane(seed):
    corners = [thrown(seed + k, "point") for k in (0, 20, 40)]
    made = planes.through_points(*corners)
    assert all(abs(off(made, p.at)) < 1e-9 for p in corners)
    a, b, c = (p.at for p in corners)
    assert np.cross(b - a, c - a) @ made.along > 0


@pytest.mark.parametrize("seed", RANDOM)
def test_a_plane_through_crossing_or_parallel_lines_holds_both(seed):
    first = thrown(seed, "axis")
    other = Place("axis", triple(first.at + 4 * first.along), thrown(seed + 7).direction)
    beside = Place("axis", triple(first.at + thrown(seed + 9).at), first.direction)
    for second in (other, beside):
        made = planes.through_axes(first, second, skew_mm=0.1)
        for line in (first, second):
            assert abs(off(made, line.at)) < 1e-6 and abs(made.along @ line.along) < 1e-9
    skew = Place("axis", triple(other.at + 3 * np.cross(first.along, other.along)), other.direction)
    with pytest.raises(ContourError, match="pass each other"):
        planes.through_axes(first, skew, skew_mm=0.1)


@pytest.mark.parametrize("seed", RANDOM)
def test_every_point_midway_is_as_far_from_one_plane_as_from_the_other(seed):
    a, b = thrown(seed), thrown(seed + 50)
    made = planes.midplane(a, b)
    e = np.linalg.svd(made.along[None])[2][1:]
    for s, t in ((0, 0), (9, -4), (-17, 30)):
        at = made.at + s * e[0] + t * e[1]
        assert abs(off(a, at)) == pytest.approx(abs(off(b, at)), abs=1e-9)
    facing = Place("plane", triple(a.at + 10 * a.along), triple(-a.along))
    assert off(a, planes.midplane(a, facing).at) == pytest.approx(5)


@pytest.mark.parametrize("seed", RANDOM)
def test_a_tangent_plane_touches_its_cylinder(seed):
    base, round_ = thrown(seed), thrown(seed + 30, "axis", radius=6.0)
    near, far = (planes.tangent(round_, base, far=f) for f in (False, True))
    for made in (near, far):
        assert abs(made.along @ round_.along) < 1e-12
        assert abs(off(made, round_.at)) == pytest.approx(6)
    assert abs(off(near, far.at)) == pytest.approx(12)
    with pytest.raises(ContourError, match="needs a cylinder"):
        planes.tangent(thrown(1, "axis"), base, far=False)


def test_a_plane_across_a_helix_is_square_to_it():
    t = np.linspace(0, 4 * np.pi, 2001)
    path = np.column_stack([10 * np.cos(t), 10 * np.sin(t), 0.5 * t])
    for fraction in (0.0, 0.31, 1.0):
        made = planes.normal_to_path(path, fraction)
        at = fraction * 4 * np.pi
        exact = unit(np.array([-10 * np.sin(at), 10 * np.cos(at), 0.5]))
        assert abs(made.along @ exact) > np.cos(np.radians(0.3))
        assert np.linalg.norm(made.at - [10 * np.cos(at), 10 * np.sin(at), 0.5 * at]) < 1e-2
    along = planes.across(thrown(3, "axis"), 12.0)
    assert np.linalg.norm(along.at - thrown(3, "axis").at) == pytest.approx(12)


@pytest.mark.parametrize("seed", RANDOM)
def test_an_axis_of_two_planes_lies_in_both_and_one_through_points_on_both(seed):
    a, b = thrown(seed), thrown(seed + 60)
    made = axes.of_planes(a, b)
    for s in (-20, 0, 33):
        at = made.at + s * made.along
        assert abs(off(a, at)) < 1e-8 and abs(off(b, at)) < 1e-8
    p, q = thrown(seed + 1, "point"), thrown(seed + 2, "point")
    line = axes.through_points(p, q)
    assert apart(line, p.at) < 1e-9 and apart(line, q.at) < 1e-9 and (q.at - p.at) @ line.along > 0
    assert axes.through(p, made).direction == made.direction and axes.through(p, made).origin == p.origin


@pytest.mark.parametrize("seed", RANDOM)
def test_intersections_lie_on_all_that_meet(seed):
    three = [thrown(seed + k) for k in (0, 11, 22)]
    corner = points.of_planes(*three)
    assert all(abs(off(p, corner.at)) < 1e-7 for p in three)
    axis = thrown(seed + 5, "axis")
    through = points.of_axis_and_plane(axis, three[0])
    assert apart(axis, through.at) < 1e-8 and abs(off(three[0], through.at)) < 1e-8
    other = thrown(seed + 6, "axis")
    near = points.nearest_on_axes(axis, other)
    assert near is not None
    between = near[1].at - near[0].at
    assert abs(between @ axis.along) < 1e-8 and abs(between @ other.along) < 1e-8
    assert np.allclose(points.of_axes(axis, other).at, (near[0].at + near[1].at) / 2)


def test_what_settles_nothing_is_refused_with_a_way_out():
    plane, axis, point = thrown(1), thrown(2, "axis"), thrown(3, "point")
    lifted = planes.offset(plane, 5.0)
    stands = Place("axis", plane.origin, plane.direction)
    flat = Place("axis", plane.origin, triple(planes.u_axis_of(plane.along)))
    on_line = [Place("point", triple(point.at + s * axis.along)) for s in (0, 5, 11)]
    for attempt in (
        lambda: axes.of_planes(plane, lifted),
        lambda: axes.through_points(point, point),
        lambda: points.of_planes(plane, lifted, thrown(9)),
        lambda: points.of_axis_and_plane(flat, plane),
        lambda: points.of_axes(axis, Place("axis", point.origin, axis.direction)),
        lambda: planes.through_axis(plane, stands, 0.3),
        lambda: planes.through_points(*on_line),
        lambda: planes.through_axes(axis, axis, skew_mm=0.1),
    ):
        with pytest.raises(ContourError) as raised:
            attempt()
        problem = raised.value.problem
        assert problem.code == "degenerate" and problem.remedy and problem.where is not None
    assert points.nearest_on_axes(axis, Place("axis", point.origin, axis.direction)) is None
