"""An outline traced in a picture becomes a sketch that can be extruded, with or without a scan."""

import numpy as np
import pytest

from contour.recipe.problem import ContourError
from contour.sketch.entities import find_profiles
from tests.steps.helpers import plane_region, run, volume_of

PLATE = [[-20.0, -10.0], [20.0, -10.0], [20.0, 10.0], [-20.0, 10.0]]


def test_without_a_scan_it_lies_on_the_xy_plane_and_makes_a_solid():
    out = run("traced", {"points": PLATE, "offset": {"text": "5 mm"}}, {})
    assert out.facts.area == pytest.approx(800) and out.facts.profiles == 1
    assert out.product.frame.origin == pytest.approx([0, 0, 5])
    block = run("extrude", {"sketch": {"id": "t"}, "distance": {"text": "6 mm"}}, {"sketch": out.product})
    assert volume_of(block, "newstep0") == pytest.approx(4800)


def test_it_is_shifted_and_turned_on_its_plane():
    values = {"shift_x": {"text": "30 mm"}, "shift_y": {"text": "4 mm"}, "turn": {"text": "90 deg"}}
    out = run("traced", {"points": PLATE, **values}, {})
    corners = np.array([e.start for e in out.product.entities])
    assert corners.mean(axis=0) == pytest.approx([30, 4])
    assert np.ptp(corners, axis=0) == pytest.approx([20, 40])
    # Counter-clockwise by a quarter: what pointed along x points along y now.
    assert corners[1] - corners[0] == pytest.approx([0, 40], abs=1e-9)


def test_on_a_tilted_region_it_lies_in_that_plane():
    normal = np.array([1.0, 2.0, 2.0]) / 3
    out = run(
        "traced",
        {"plane": {"id": "r"}, "points": PLATE, "offset": {"text": "2 mm"}},
        {"plane": plane_region((1, 1, 1), normal)},
    )
    (profile,) = find_profiles(out.product)
    assert profile.area == pytest.approx(800)
    assert out.product.frame.normal == pytest.approx(normal)
    assert (np.array(out.product.frame.origin) - [1, 1, 1]) @ normal == pytest.approx(2)


def test_an_open_outline_is_a_sketch_without_a_profile_and_no_fault():
    out = run("traced", {"points": PLATE, "closed": False}, {})
    assert out.facts.lines == 3 and out.facts.profiles == 0 and not out.problems


def test_sizes_that_are_none_are_refused():
    with pytest.raises(ContourError) as error:
        run("traced", {"points": [[0, 0], [float("inf"), 1]]}, {})
    assert error.value.problem.where.param == "points"


def test_round_sides_are_arcs_and_a_hardly_bent_one_is_a_line():
    slot = [[-20, -5], [20, -5], [25, 0], [20, 5], [-20, 5], [-20.0000001, 0]]
    out = run("traced", {"points": slot, "bends": [2, 5]}, {})
    assert [e.kind for e in out.product.entities] == ["line", "arc", "line", "line"]
    assert out.facts.area == pytest.approx(400 + np.pi * 25 / 2, rel=2e-3)
    block = run("extrude", {"sketch": {"id": "t"}, "distance": {"text": "2 mm"}}, {"sketch": out.product})
    assert volume_of(block, "newstep0") == pytest.approx(2 * (400 + np.pi * 25 / 2), rel=1e-9)
    with pytest.raises(ContourError, match="follow each other"):
        run("traced", {"points": slot, "bends": [2, 3]}, {})
