"""How far an outline's walls go on: known heights of made parts, from any place along them and either side."""

from __future__ import annotations

import numpy as np
import pytest

from contour.check.exact_arrays import exact_arrays
from contour.geometry.frames import plane_frame
from contour.mesh.prepare import prepare_scan
from contour.outline.reach import Reach, outline_reach, shared_reach, wall_reach
from contour.outline.section import section_loops
from contour.simulate.scanner import ScanSettings, virtual_scan
from contour.sketch.entities import Entity
from contour.solid.boolean import combine
from demo.bracket import prism, rounded_rectangle, whole_circle
from demo.pump_cover import pump_cover
from tests.conftest import raw_scan

Z = np.array([0.0, 0.0, 1.0])


def reaches(scan, z, way=1.0):
    frame = plane_frame(np.array([0, 0, z]), way * Z)
    loops = section_loops(scan, frame.origin, frame.normal, frame=frame)
    loops.sort(key=lambda loop: -loop.area)
    return outline_reach(scan, frame, [loop.outline for loop in loops])


@pytest.fixture(scope="module")
def stepped():
    """A plate 60 x 40 x 8 with a boss of 10 radius up to 21, a blind bore of 5 radius from 21 down to 11, and a hole through the plate."""
    body = prism(rounded_rectangle(0, 0, 60, 40, 5, "p"), (0, 0, 0), Z, 8, "plate")
    body = combine(body, prism([whole_circle(20, 20, 10, "b")], (0, 0, 7), Z, 14, "boss"), "add")
    body = combine(body, prism([whole_circle(20, 20, 5, "c")], (0, 0, 11), Z, 20, "bore"), "subtract")
    body = combine(body, prism([whole_circle(45, 20, 6, "h")], (0, 0, -5), Z, 20, "hole"), "subtract")
    made = virtual_scan(exact_arrays(body.shape), ScanSettings(spacing_mm=0.8, noise_mm=0.02, seed=8))
    return prepare_scan(raw_scan(made.vertices[made.facets]), 1.0)


@pytest.mark.parametrize("z", [1.5, 4.0, 6.7])
@pytest.mark.parametrize("way", [1.0, -1.0])
def test_a_plate_ends_at_its_faces_though_a_boss_goes_on(stepped, z, way):
    plate, hole = reaches(stepped, z, way)
    below, above = (plate.behind, plate.ahead) if way > 0 else (plate.ahead, plate.behind)
    assert (below, above) == pytest.approx((z, 8 - z), abs=0.02)
    assert (plate.within, hole.within) == (0, 1)
    assert hole.behind + hole.ahead == pytest.approx(8, abs=1.5)


def test_a_web_ends_at_its_faces_though_bosses_make_up_much_of_its_outline():
    """A lever: the walls of its two bosses are more than a third of what is seen of the web, and go on above it and below."""
    corners = [(0.0, 11.0), (60.0, 9.0), (60.0, -9.0), (0.0, -11.0)]
    sides = [Entity(f"w{k}", "line", corners[k], corners[(k + 1) % 4]) for k in range(4)]
    body = prism(sides, (0, 0, 4), Z, 8, "web")
    for x, r, low, high in ((0.0, 11.0, 0.0, 20.0), (60.0, 9.0, 2.0, 15.0)):
        body = combine(body, prism([whole_circle(x, 0, r, f"b{x:g}")], (0, 0, low), Z, high - low, f"boss{x:g}"), "add")
    made = virtual_scan(exact_arrays(body.shape), ScanSettings(spacing_mm=0.8, noise_mm=0.02, seed=9))
    scan = prepare_scan(raw_scan(made.vertices[made.facets]), 1.0)
    for z in (6.0, 8.0, 10.0):
        (lever,) = reaches(scan, z)
        assert (lever.behind, lever.ahead) == pytest.approx((z - 4, 12 - z), abs=0.05)


def test_a_plate_cut_just_below_its_top_ends_there_though_its_bores_go_on():
    """Its rim begins in the next bin already: the end is where the face lies, not where the walls were lost."""
    made = virtual_scan(exact_arrays(pump_cover().shape), ScanSettings(spacing_mm=1.2, noise_mm=0.02, seed=1))
    plate = reaches(prepare_scan(raw_scan(made.vertices[made.facets]), 1.0), 7.0)[0]
    assert (plate.behind, plate.ahead) == pytest.approx((7.0, 2.0), abs=0.03)


def test_a_boss_ends_on_the_plate_and_a_bore_on_its_floor(stepped):
    boss, bore = reaches(stepped, 16.0)
    assert (boss.behind, boss.ahead) == pytest.approx((8.0, 5.0), abs=0.05)  # down to the plate it stands on
    assert boss.ahead == pytest.approx(5.0, abs=0.02)  # closed by its top
    assert bore.behind == pytest.approx(5.0, abs=0.02)  # by the floor that looks into it
    assert bore.within == 1
    assert (boss.stands_behind, boss.stands_ahead) == (True, False)
    assert (bore.stands_behind, bore.stands_ahead) == (False, False)


def test_what_all_hold_is_asked_of_the_outermost_alone():
    deep, flat, hole = Reach(9, 4), Reach(6, 5), Reach(1, 1, within=1)
    assert shared_reach([deep, None, flat, hole]) == Reach(6, 4)
    assert shared_reach([hole, None]) == hole
    assert shared_reach([flat, Reach(2, 9, stands_behind=True)]) == Reach(2, 5, stands_behind=True)
    assert shared_reach([None]) is None and shared_reach([]) is None


def test_loops_that_nothing_stands_over_say_nothing(stepped):
    frame = plane_frame(np.array([0, 0, 4.0]), Z)
    ring = np.array([[300.0, 300], [310, 300], [310, 310], [300, 310]])
    assert wall_reach(stepped, frame, [ring]) == [None]
    assert wall_reach(stepped, frame, []) == []


def test_open_outlines_keep_their_place_in_the_row(stepped):
    frame = plane_frame(np.array([0, 0, 4.0]), Z)
    closed = max(section_loops(stepped, frame.origin, frame.normal, frame=frame), key=lambda loop: loop.area).outline
    from dataclasses import replace

    told = outline_reach(stepped, frame, [replace(closed, closed=False), closed])
    assert told[0] is None and told[1].ahead == pytest.approx(4.0, abs=0.02)
