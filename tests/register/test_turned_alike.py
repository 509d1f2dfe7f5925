"""How many are alike around an axis, on parts that are made with so many."""

import numpy as np
import pytest

from contour.geometry.rigid import inverse, moved, turned
from contour.recipe.problem import ContourError
from contour.register.turned_alike import turned_alike
from contour.solid.boolean import combine
from tests.conftest import circle, prism, rectangle
from tests.register.test_placing import some_pose
from tests.wheels import holed_disc, scan_without, wheel

Z = np.array([0, 0, 1.0])


def found(scan, at=(0, 0, 0), along=Z, **more):
    return turned_alike(
        scan.vertices,
        scan.facets,
        scan.across,
        np.array(at, float),
        np.array(along, float),
        noise_mm=scan.noise_mm,
        side_mm=scan.edge_mm,
        **more,
    )


@pytest.mark.parametrize("teeth", [2, 3, 5, 8, 13, 19])
def test_the_teeth_of_a_wheel_are_counted_in_any_place(teeth):
    pose = some_pose(teeth)
    told = found(scan_without(wheel(teeth), pose=pose), moved(pose, np.zeros(3)), turned(pose, Z))
    assert told.count == teeth and told.agree > 0.9
    assert inverse(pose)[2, 3] != 0  # it does lie elsewhere


@pytest.mark.parametrize("holes", [3, 4, 6])
def test_holes_on_a_circle_are_counted(holes):
    told = found(scan_without(holed_disc(holes)))
    assert told.count == holes and told.telling < 0.5


def test_teeth_that_are_missing_or_were_not_scanned_do_not_change_the_count():
    gone = (((22.0, 0.0, 9.0), 5.0), ((-16.0, 15.0, 4.0), 4.0))
    assert found(scan_without(wheel(12), gone)).count == 12
    broken = combine(wheel(12), prism(rectangle(8, 8, at=(20.2, -4)), 30, z=-5, prefix="x"), "subtract")
    assert found(scan_without(broken)).count == 12


def test_an_axis_that_leans_as_a_fitted_one_does_is_good_enough():
    lean = np.array([3e-4, -2e-4, 1.0])
    assert found(scan_without(wheel(16)), (0.01, -0.02, 0), lean / np.linalg.norm(lean)).count == 16


@pytest.mark.parametrize(
    ("body", "said"),
    [
        (prism([circle(0, 0, 20), circle(0, 0, 6)], 10), "round about this axis"),
        (holed_disc(1), "nothing repeats"),
        (prism(rectangle(50, 20, at=(-10, -8)), 10), "nothing repeats"),
    ],
)
def test_what_is_round_or_does_not_repeat_is_refused(body, said):
    with pytest.raises(ContourError, match=said) as refused:
        found(scan_without(body))
    assert refused.value.problem.code == "no-symmetry" and refused.value.problem.remedy


def test_holes_of_two_sizes_repeat_as_both_do_together():
    """Six places, every other one larger: alike three times, not six."""
    body = prism([circle(0, 0, 24)], 8)
    for k in range(6):
        a = np.pi * k / 3
        hole = circle(15 * np.cos(a), 15 * np.sin(a), 2.5 if k % 2 else 3.5)
        body = combine(body, prism([hole], 30, z=-10, prefix=f"h{k}"), "subtract")
    assert found(scan_without(body, spacing=0.6)).count == 3
