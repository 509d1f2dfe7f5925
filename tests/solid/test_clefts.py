"""Clefts against closed forms: between planes, slightly turned ones too, and between rounds about one axis or nearly so."""

from __future__ import annotations

import math

import numpy as np
import pytest

from contour.geometry.frames import plane_frame
from contour.solid.boolean import combine
from contour.solid.clefts import clefts
from contour.solid.mass import volume
from contour.solid.primitives import block, cone
from tests.conftest import prism, rectangle

UP = np.array([0.0, 0.0, 1.0])
FLOOR = prism(rectangle(40, 30), 5, prefix="floor")


def test_between_two_plates_lies_what_both_cover():
    over = prism(rectangle(40, 30, at=(25, 10)), 5, z=5.4, prefix="over")
    (found,) = clefts([FLOOR, over], 0.5, prefix="c")
    assert found.width == pytest.approx(0.4) and volume(found.filling.shape) == pytest.approx(15 * 20 * 0.4, rel=1e-9)
    assert 25 <= found.at[0] <= 40 and 10 <= found.at[1] <= 30
    assert all(n.startswith("c.gap") for n in found.filling.names)
    assert clefts([FLOOR, over], 0.39, prefix="c") == []


def test_a_plate_that_leans_a_little_is_filled_up_to_it():
    lean = math.radians(0.5)
    along = np.array([math.cos(lean), 0.0, math.sin(lean)])
    frame = plane_frame(np.array([0.0, 0.0, 5.1]), np.cross(along, [0.0, 1.0, 0.0]), along)
    over = block(frame, (0, 38), (0, 30), (0, 4), prefix="over")
    (found,) = clefts([FLOOR, over], 0.5, prefix="c")
    wedge = 30 * (0.1 * 38 + 38**2 * math.tan(lean) / 2)
    # Both prisms run on into the plates, which adds nothing to what they are joined with.
    assert volume(found.filling.shape) >= wedge * 0.99
    # It is told as far as both planes are known, not only where both faces lie over each other.
    assert 0.1 + 38 * math.sin(lean) - 1e-6 <= found.width <= 0.1 + 40.1 * math.sin(lean)


@pytest.mark.parametrize("aside", [0.0, 0.1])
def test_a_ring_round_a_loose_pin(aside):
    bush = cone(np.zeros(3), UP, (0.0, 20.0), (12.0, 12.0), prefix="bush")
    bush = combine(bush, cone(np.zeros(3), UP, (-1.0, 21.0), (6.0, 6.0), prefix="bore"), "subtract")
    pin = cone(np.array([aside, 0.0, 5.0]), UP, (0.0, 30.0), (5.7, 5.7), prefix="pin")
    (found,) = clefts([bush, pin], 0.5, prefix="c")
    inner = 5.7 - aside
    assert found.width == pytest.approx(0.3 + aside)
    assert volume(found.filling.shape) == pytest.approx(math.pi * (36 - inner**2) * 15, rel=1e-9)


def test_faces_back_to_back_and_walls_in_between_are_none():
    thin = prism(rectangle(40, 30), 0.3, prefix="thin")  # its two sides look away from each other
    assert clefts([thin], 0.5, prefix="c") == []
    crossed = block(
        plane_frame(np.array([0, 0, 5.2]), np.array([0.3, 0, 1.0]), np.array([0, 1.0, 0])),
        (0, 9),
        (0, 9),
        (0, 2),
        prefix="x",
    )
    assert clefts([FLOOR, crossed], 0.5, prefix="c") == []
