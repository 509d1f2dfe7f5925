"""Pictures laid on a plane: there and back, by two places, and edges found all along a curve on one side of it."""

from __future__ import annotations

import numpy as np
import pytest

from contour.metrology.photo.edges import edge_along, edges_across
from contour.metrology.photo.laid import Laid, by_two_places


@pytest.mark.parametrize("mirrored", [False, True])
def test_a_picture_lies_where_its_pixel_is_put_as_large_as_its_scale_says(mirrored):
    laid = Laid((100.0, 50.0), (3.0, -2.0), 90.0, 0.1, mirrored)
    assert laid.to_plane(np.array([[100.0, 50.0]])) == pytest.approx(np.array([[3.0, -2.0]]))
    # Ten pixels to the right are a millimetre along the rows, and these point up the second axis.
    way = -1.0 if mirrored else 1.0
    assert laid.to_plane(np.array([[110.0, 50.0]])) == pytest.approx(np.array([[3.0, -2.0 + way]]))
    # A picture's y goes down: to the right of its rows, unless it is seen from behind.
    assert laid.to_plane(np.array([[100.0, 60.0]])) == pytest.approx(np.array([[4.0, -2.0]]))
    some = np.random.default_rng(1).uniform(-500, 500, (40, 2))
    assert laid.to_picture(laid.to_plane(some)) == pytest.approx(some, abs=1e-9)
    ways = laid.ways(np.array([[0.6, 0.8]]))
    assert np.linalg.norm(ways) == pytest.approx(1.0)
    ahead = laid.to_picture(np.array([[3.6, -1.2]])) - [100.0, 50.0]
    assert ahead / 10 == pytest.approx(ways)


def test_two_places_move_and_turn_it_and_what_is_left_is_shared():
    laid = Laid((0.0, 0.0), (0.0, 0.0), 10.0, 0.1)
    seen = np.array([[0.0, 0.0], [10.0, 0.0]])
    meant = np.array([[5.0, 5.0], [5.0, 16.0]])
    moved, apart = by_two_places(laid, seen, meant)
    assert apart == pytest.approx(1.1) and moved.turn_deg == pytest.approx(100.0)
    there = moved.to_plane(laid.to_picture(seen))
    assert there == pytest.approx(np.array([[5.0, 5.5], [5.0, 15.5]]))
    assert moved.mm_per_px == laid.mm_per_px


def bar(width_px: float, at: float = 40.3) -> np.ndarray:
    """A dark bar across a light picture, its left side at x = `at`, softened by a pixel."""
    x = np.arange(120.0)
    from scipy.special import erf

    step = lambda c: (1 + erf((x - c) / np.sqrt(2))) / 2  # noqa: E731
    row = 230 - 180 * (step(at) - step(at + width_px))
    return np.tile(np.round(row), (60, 1)).astype(np.uint8)


def test_all_along_a_curve_the_edge_is_light_on_one_side():
    """A bar of 9 pixels has two edges near: places a little right of its middle, one by one, jump to the other side."""
    picture = bar(9.0)
    y = np.linspace(10, 50, 21)
    middles = np.column_stack([np.where(np.arange(21) % 4 == 0, 45.3, 43.0), y])
    ways = np.tile([1.0, 0.0], (21, 1))
    found = middles[:, 0] + edges_across(picture, middles, ways, reach=8.0)
    assert found == pytest.approx(np.full(21, 40.3), abs=0.1)
    alone = [m[0] + (edge_along(picture, m, np.array([1.0, 0.0]), reach=8.0) or 0) for m in middles]
    assert max(alone) > 48


def test_where_nothing_is_to_be_seen_there_is_no_number():
    picture = bar(9.0)
    middles = np.array([[100.0, 30.0], [40.0, 30.0]])
    found = edges_across(picture, middles, np.tile([1.0, 0.0], (2, 1)), reach=6.0)
    assert np.isnan(found[0]) and found[1] == pytest.approx(0.3, abs=0.05)


def test_of_a_drawn_line_the_middle_is_found():
    found = edges_across(bar(3.0), np.array([[40.0, 30.0]]), np.array([[1.0, 0.0]]), reach=8.0, drawn=True)
    assert found[0] == pytest.approx(1.8, abs=0.1)
