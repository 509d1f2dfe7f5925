import numpy as np
import pytest

from contour.geometry.frames import plane_frame
from contour.recipe.problem import ContourError
from contour.sketch.entities import Entity, Sketch, find_profiles
from tests.conftest import circle, rectangle

FRAME = plane_frame(np.array([0, 0, 7.0]), np.array([0, 0, 1.0]), np.array([1.0, 0, 0]))


def test_loops_nest_by_even_and_odd():
    # plate with a hole, an island in the hole, and a second plate; the hole covers the plate's middle on purpose
    entities = (*rectangle(40, 40), circle(20, 20, 12, "e5"), circle(20, 20, 4, "e6"), *rectangle(5, 5, "f", (60, 0)))
    profiles = {p.id: p for p in find_profiles(Sketch(FRAME, tuple(entities)))}
    assert set(profiles) == {"p1", "p6", "p-f1"}
    assert profiles["p1"].area == pytest.approx(1600 - np.pi * 144, rel=2e-3)


def test_pieces_in_any_order_and_direction_make_a_loop():
    pieces = rectangle(10, 6)
    shuffled = (pieces[2], pieces[0].reversed(), pieces[3], pieces[1].reversed())
    (profile,) = find_profiles(Sketch(FRAME, shuffled))
    assert profile.area == pytest.approx(60)
    assert profile.outer.polygon.exterior.is_ccw


def test_an_open_end_is_named_with_its_place():
    with pytest.raises(ContourError) as caught:
        find_profiles(Sketch(FRAME, tuple(rectangle(10, 6)[:3])))
    problem = caught.value.problem
    assert problem.code == "open-end"
    assert problem.where.entity == "e3"
    assert problem.where.point == pytest.approx((0, 6, 7))
    assert "6.000" in problem.got


def test_a_crossing_is_named_with_its_place():
    spots = [(0.0, 0.0), (10.0, 10.0), (10.0, 0.0), (0.0, 10.0)]
    bow = tuple(Entity(f"e{k}", "line", spots[k], spots[(k + 1) % 4]) for k in range(4))
    with pytest.raises(ContourError) as caught:
        find_profiles(Sketch(FRAME, bow))
    assert caught.value.problem.code == "self-crossing"
    assert caught.value.problem.where.point == pytest.approx((5, 5, 7))


def test_an_island_over_its_loop_is_refused():
    with pytest.raises(ContourError, match="cross"):
        find_profiles(Sketch(FRAME, (*rectangle(40, 30), circle(39, 15, 5))))


def test_nothing_makes_no_profile():
    with pytest.raises(ContourError, match="empty"):
        find_profiles(Sketch(FRAME, ()))
