"""What looks as if it were meant to be level with a face."""

from __future__ import annotations

import math

import numpy as np
import pytest

from contour.geometry.surfaces import Surface
from contour.solid.boolean import combine
from contour.solid.leveled import nearly_level, tilt_between
from contour.solid.primitives import cone
from tests.conftest import circle, prism, rectangle

UP = np.array([0.0, 0, 1])


def offered(body, lead, reach=1.0, tilt=0.5):
    found = nearly_level(body, body.names.index(lead), reach_mm=reach, tilt_deg=tilt)
    return {body.names[k]: pytest.approx(way) for k, way in found.items()}


def stairs():
    """Steps of 10, 10.4, 10.8 and 14, one after the other, over the same floor."""
    made = prism(rectangle(10, 20), 10, prefix="s0")
    for k, h in enumerate((10.4, 10.8, 14.0), 1):
        made = combine(made, prism(rectangle(10, 20, at=(10 * k, 0)), h, prefix=f"s{k}"), "add")
    return made


def test_flat_faces_within_reach_that_look_the_same_way():
    body = stairs()
    assert offered(body, "s1.end[p1]") == {"s0.end[p1]": 0.4, "s2.end[p1]": -0.4}
    assert offered(body, "s1.end[p1]", reach=0.3) == {}
    assert offered(body, "s3.end[p1]") == {}


def test_tilts_below_a_millionth_of_a_degree_are_told_apart_from_none():
    flat = Surface("plane", (0, 0, 0), (0, 0, 1), 0.0, 1)
    for deg in (0.0, 1e-9, 1e-5, 30.0):
        way = (math.sin(math.radians(deg)), 0.0, math.cos(math.radians(deg)))
        assert tilt_between(flat, Surface("plane", (0, 0, 0), way, 0.0, 1)) == pytest.approx(deg, rel=1e-6, abs=1e-15)
        back = (-way[0], 0.0, -way[2])
        assert tilt_between(flat, Surface("plane", (0, 0, 0), back, 0.0, 1)) == pytest.approx(deg, rel=1e-6, abs=1e-15)


def test_the_underside_of_a_thin_plate_is_not_offered_to_its_upper_side():
    assert offered(prism(rectangle(30, 30), 0.6, prefix="p"), "p.end[p1]") == {}


def test_what_is_level_already_is_left_out():
    twin = combine(stairs(), prism(rectangle(10, 20, at=(40, 0)), 10.4, prefix="s4"), "add")
    assert "s4.end[p1]" not in offered(twin, "s1.end[p1]")


def test_bores_of_nearly_the_same_size_and_not_the_next_size_a_shaft_or_a_round():
    holes = [circle(15, 15, 4.0, "c1"), circle(45, 15, 4.1, "c2"), circle(75, 15, 4.5, "c3")]
    plate = prism([*rectangle(90, 30), *holes], 10, prefix="plate")
    body = combine(plate, cone(np.array([30.0, 15, 0]), UP, (5.0, 20.0), (4.05, 4.05), prefix="pin"), "add")
    assert offered(body, "plate.side[c1]") == {"plate.side[c2]": 0.1}
