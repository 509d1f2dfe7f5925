"""Along a helix against closed forms: what a screw motion sweeps is area times the way round of its middle; on shafts, tapered, both hands, and refusals."""

from __future__ import annotations

import math

import numpy as np
import pytest
from shapely.geometry import Polygon

from contour.construct.place import Place
from contour.recipe.problem import ContourError
from contour.simulate.star_outlines import entities_of, star_outline
from contour.sketch.entities import Entity
from contour.solid.extent import bounds
from contour.solid.gate import check_solid
from contour.solid.primitives import cone
from contour.solid.shape import is_valid
from contour.solid.tessellate import tessellate
from tests.conftest import circle
from tests.steps.helpers import body, run, shape_of, sketch, volume_of

NEW = "newstep0"
Y = Place("axis", (0.0, 0.0, 0.0), (0.0, 1.0, 0.0))
TOOTH = entities_of(np.array([(9, -0.8), (11, 0), (9, 0.8)]))


def coil(entities=None, axis=Y, bodies=(), **more):
    texts = ("pitch", "turns", "height", "angle", "taper")
    values = {k: {"text": v} if k in texts else v for k, v in more.items()}
    params = {"sketch": {"id": "s"}, "axis": {"id": "a"}, **values}
    params["bodies"] = [{"id": f"b{k}"} for k in range(len(bodies))]
    products = {"sketch": sketch(entities or TOOTH), "axis": axis}
    products |= {f"bodies[{k}]": body(b) for k, b in enumerate(bodies)}
    return run("coil", params, products)


def shaft(radius: float, low=-10.0, high=60.0):
    return cone(np.array([0, low, 0]), np.array([0, 1.0, 0]), (0, high - low), (radius, radius), prefix="shaft")


@pytest.mark.parametrize("seed", range(8))
def test_random_outlines_by_the_way_of_their_middles(seed):
    rng = np.random.default_rng(seed)
    p = star_outline(rng) + [rng.uniform(8, 20), 0]
    part, turns = Polygon(p), float(rng.uniform(0.2, 6))
    pitch = float(np.ptp(p[:, 1]) * rng.uniform(1.05, 2)) * (1 if seed % 2 else -1)
    made = coil(entities_of(p), pitch=f"{pitch} mm", turns=str(turns), hand="left" if seed % 3 else "right")
    assert volume_of(made, NEW) == pytest.approx(2 * math.pi * part.centroid.x * turns * part.area, rel=1e-6)
    found = check_solid(shape_of(made, NEW).shape)
    assert found.closed and found.valid and found.faces == len(p) + 2
    assert made.facts.rise == pytest.approx(turns * pitch)


def test_round_wires_and_tubes():
    wire = coil([circle(10, 0, 1.5)], pitch="5 mm", turns="4")
    assert volume_of(wire, NEW) == pytest.approx(2 * math.pi * 10 * 4 * math.pi * 1.5**2, rel=1e-6)
    tube = coil([circle(10, 0, 1.5), circle(10, 0, 1, "c2")], pitch="5 mm", turns="2.5")
    assert volume_of(tube, NEW) == pytest.approx(2 * math.pi * 10 * 2.5 * math.pi * 1.25, rel=1e-6)
    assert sorted(shape_of(tube, NEW).names) == [
        f"{NEW}.{n}" for n in ("end[p-c1]", "side[c1]", "side[c2]", "start[p-c1]")
    ]


def test_a_height_or_an_angle_says_the_same_as_turns():
    by_turns = volume_of(coil(pitch="4 mm", turns="2.5"), NEW)
    assert volume_of(coil(pitch="4 mm", reach="height", height="10 mm"), NEW) == pytest.approx(by_turns, rel=1e-12)
    assert volume_of(coil(pitch="4 mm", reach="angle", angle="900 deg"), NEW) == pytest.approx(by_turns, rel=1e-12)


def test_a_taper_widens_evenly():
    made = coil(pitch="4 mm", turns="3", taper="5 deg")
    middle = 9 + 2 / 3 + 12 * math.tan(math.radians(5)) / 2
    assert volume_of(made, NEW) == pytest.approx(1.6 * 2 * math.pi * middle * 3, rel=1e-6)


@pytest.mark.parametrize(("hand", "pitch"), [("right", 4), ("left", 4), ("right", -4), ("left", -4)])
def test_the_hand_is_that_of_a_screw(hand, pitch):
    """After a quarter turn a right-handed one that rises along y has come from x to where y x x points: -z."""
    made = shape_of(coil(pitch=f"{pitch} mm", turns="0.25", hand=hand), NEW)
    low, high = bounds(made.shape)
    forwards = (hand == "right") == (pitch > 0)
    assert (low[2] < -10.9) == forwards and (high[2] > 10.9) == (not forwards)
    assert (high[1] if pitch > 0 else -low[1]) == pytest.approx(1 + 0.8, abs=1e-3)


@pytest.mark.parametrize("radius", [9.5, 10.5])
def test_it_is_joined_to_a_shaft_and_cut_into_it(radius):
    """What of the tooth lies outside or inside the shaft, each by the way of its own middle."""
    tooth = Polygon([(9, -0.8), (11, 0), (9, 0.8)])
    out = tooth.intersection(Polygon([(radius, -5), (20, -5), (20, 5), (radius, 5)]))
    whole = math.pi * radius**2 * 70
    grown = 2 * math.pi * out.centroid.x * out.area * 2.25
    made = coil(bodies=[shaft(radius)], operation="add", pitch="5 mm", turns="2.25")
    assert volume_of(made, "b0") == pytest.approx(whole + grown, rel=1e-6)
    within = tooth.difference(out)
    lost = 2 * math.pi * within.centroid.x * within.area * 2.25
    made = coil(bodies=[shaft(radius)], operation="subtract", pitch="5 mm", turns="2.25")
    assert volume_of(made, "b0") == pytest.approx(whole - lost, rel=1e-6)
    assert is_valid(shape_of(made, "b0").shape)


def test_it_can_be_shown():
    mesh = tessellate(shape_of(coil(pitch="4 mm", turns="3"), NEW).shape, chord_mm=0.05)
    far = np.linalg.norm(mesh.vertices[:, [0, 2]], axis=1)
    assert far.max() == pytest.approx(11, abs=1e-3) and far.min() == pytest.approx(9, abs=0.06)


@pytest.mark.parametrize(
    ("more", "code", "param"),
    [
        ({"turns": "0"}, "bad-params", "turns"),
        ({"turns": "-2"}, "bad-params", "turns"),
        ({"turns": "1e6"}, "bad-params", "turns"),
        ({"pitch": "1.2 mm", "turns": "3"}, "self-crossing", "pitch"),
        ({"pitch": "0 mm", "reach": "height"}, "bad-params", "pitch"),
        ({"pitch": "20 mm", "turns": "4", "taper": "-20 deg"}, "self-crossing", "taper"),
        ({"entities": [circle(1, 0, 2)]}, "self-crossing", "axis"),
    ],
)
def test_what_cannot_be_is_refused_with_its_place(more, code, param):
    with pytest.raises(ContourError) as refused:
        coil(**more)
    assert refused.value.problem.code == code and refused.value.problem.where.param == param
    assert refused.value.problem.remedy


def test_an_arc_is_an_entity_like_others():
    half = [Entity("a", "arc", (10, -1), (10, 1), mid=(11, 0)), Entity("b", "line", (10, 1), (10, -1))]
    middle = 10 + 4 / (3 * math.pi)
    made = coil(half, pitch="3 mm", turns="2")
    assert volume_of(made, NEW) == pytest.approx(math.pi / 2 * 2 * math.pi * middle * 2, rel=1e-6)


def drawn(r: float, width: float, high: float, top: float):
    """A profile at radius r, as wide there, `top` wide further out by its height."""
    return entities_of(np.array([(r, -width / 2), (r + high, -top / 2), (r + high, top / 2), (r, width / 2)]))


def added(outcome, radius, length, id="b0"):
    found = check_solid(shape_of(outcome, id).shape)
    assert found.closed and found.valid and found.solids == 1
    return found.volume - math.pi * radius**2 * length


def way_round(x: float, turns: float, area: float) -> float:
    """By Pappus: an area about an axis, its middle so far from it."""
    return 2 * math.pi * x * turns * area


@pytest.mark.parametrize("turns", [0.5, 1.0, 2.3, 4.0])
def test_turns_that_meet_in_walls_are_one_without_them(turns):
    made = coil(drawn(10, 2, 1, 2), pitch="2 mm", turns=str(turns))
    assert volume_of(made, NEW) == pytest.approx(way_round(10.5, turns, 2), rel=1e-7)
    found = check_solid(shape_of(made, NEW).shape)
    assert found.closed and found.valid
    # The walls that turns have in common are gone: the first one's lower and the last one's upper stay, whole or in the two parts that a fraction makes.
    parts = 1 if turns <= 1 or turns % 1 == 0 else 2
    for wall in ("e1", "e3"):
        assert sum(f"side[{wall}" in n for n in shape_of(made, NEW).names) == parts


@pytest.mark.parametrize(("radius", "top"), [(10.0, 1.0), (10.25, 2.0)])
def test_turns_that_touch_on_a_shaft_or_sunk_into_it(radius, top):
    """At 10 mm the profile stands on the shaft's surface exactly; walls, or corners, of one turn lie on those of the next."""
    made = coil(drawn(10, 2, 1, top), bodies=[shaft(radius)], operation="add", pitch="2 mm", turns="1.7")
    sunk = radius - 10
    below = 2 - (2 - top) * sunk  # as wide as it is where it leaves the shaft
    part = Polygon([(radius, -below / 2), (11, -top / 2), (11, top / 2), (radius, below / 2)])
    assert added(made, radius, 70) == pytest.approx(way_round(part.centroid.x, 1.7, part.area), rel=1e-5)


def test_a_groove_with_sharp_crests_is_cut_in_one_step():
    """As wide as the pitch at the surface: crests between its turns come to an edge."""
    vee = entities_of(np.array([(9, 0), (10, -1), (10, 1)]))
    made = coil(vee, bodies=[shaft(10.0)], operation="subtract", pitch="2 mm", turns="1.3", hand="left")
    assert -added(made, 10, 70) == pytest.approx(way_round(9 + 2 / 3, 1.3, 1), rel=1e-5)


def test_turns_that_share_part_of_a_wall_are_refused_with_what_they_share():
    uneven = entities_of(np.array([(10, -1), (12, -1), (11, 1), (10, 1)]))
    with pytest.raises(ContourError) as refused:
        coil(uneven, pitch="2 mm", turns="2")
    assert refused.value.problem.code == "self-crossing" and "1.000 mm in common" in refused.value.problem.got


def test_turns_that_reach_between_each_other_need_no_more_pitch_than_that():
    """A leaning profile is higher than its pitch and still keeps clear of itself."""
    leaning = entities_of(np.array([(10, 0), (12, 3), (12, 4), (10, 1)]))
    made = coil(leaning, pitch="2 mm", turns="2.5")
    assert volume_of(made, NEW) == pytest.approx(way_round(11, 2.5, 2), rel=1e-7)
    with pytest.raises(ContourError, match="overlap") as refused:
        coil(leaning, pitch="0.9 mm", turns="2.5")
    x, _y, _z = refused.value.problem.where.point
    assert 10 < x < 12


def test_a_crest_as_high_as_a_collar_elsewhere_stays_as_it_is_drawn():
    """What lies on a round face is let into it only where that is material all along the way."""
    from contour.solid.boolean import combine

    collar = combine(
        shaft(10.0),
        cone(np.array([0, 40.0, 0]), np.array([0, 1.0, 0]), (0.0, 10.0), (11.0, 11.0), prefix="collar"),
        "add",
    )
    made = coil(drawn(9.8, 2, 1.2, 1), bodies=[collar], operation="add", pitch="3 mm", turns="1.5")
    part = Polygon([(10, -1 + 0.2 * 0.5 / 1.2), (11, -0.5), (11, 0.5), (10, 1 - 0.2 * 0.5 / 1.2)])
    whole = math.pi * (100 * 70 + 21 * 10)
    assert check_solid(shape_of(made, "b0").shape).volume - whole == pytest.approx(
        way_round(part.centroid.x, 1.5, part.area), rel=1e-5
    )
