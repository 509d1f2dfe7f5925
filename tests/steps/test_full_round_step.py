"""Full rounds against closed forms: ribs free, on bases and at walls, drafted ones, discs, grooves and pockets; and refusals."""

from __future__ import annotations

import math

import numpy as np
import pytest

from contour.geometry.frames import plane_frame
from contour.recipe.problem import ContourError
from contour.simulate.star_outlines import entities_of
from contour.sketch.entities import Sketch, find_profiles
from contour.solid.boolean import combine
from contour.solid.edge_blends import Rounding, edges_of_face, fillet
from contour.solid.extrude import extrude
from contour.solid.gate import check_solid
from contour.solid.mass import volume
from contour.solid.primitives import cone
from tests.conftest import prism, rectangle
from tests.steps.helpers import body, run, shape_of

UP = np.array([0.0, 0.0, 1.0])
RIB = prism(rectangle(40, 6), 20, prefix="b")
TOP = "b.end[p1]"
BASE = combine(prism(rectangle(60, 40, at=(-10, -17)), 5, z=-5, prefix="base"), RIB, "add")
WALLED = combine(BASE, prism(rectangle(5, 40, at=(40, -17)), 30, prefix="wall"), "add")
CORNERS = 6 * 3 - math.pi * 9 / 2  # of a rectangle, beside its half round, mm²


def rounded(of, name, *sides):
    params = {"face": {"body": "b", "name": name}, "sides": [{"body": "b", "name": n} for n in sides]}
    given = {"face": body(of)} | {f"sides[{k}]": body(of) for k in range(len(sides))}
    return run("full_round", params, given, face=name, **{f"sides__{k}": n for k, n in enumerate(sides)})


def changed(outcome, before) -> float:
    found = check_solid(shape_of(outcome, "b").shape)
    assert found.closed and found.valid and found.solids == 1
    return found.volume - volume(before.shape)


@pytest.mark.parametrize("of", [RIB, BASE, WALLED], ids=["free", "on a base", "at a wall"])
def test_the_top_of_a_rib_between_its_long_sides(of):
    made = rounded(of, TOP)
    assert changed(made, of) == pytest.approx(-40 * CORNERS, rel=1e-9) and made.facts.radius == pytest.approx(3)
    names = shape_of(made, "b").names
    assert TOP not in names and any("newstep0.side[one]" in n and "newstep0.side[other]" in n for n in names)


def test_sides_that_are_chosen_and_that_lean():
    """On a drafted rib the round touches flanks and top: its radius by the angle between them."""
    frame = plane_frame(np.zeros(3), np.array([1.0, 0, 0]), np.array([0, 1.0, 0]))
    outline = Sketch(frame, tuple(entities_of(np.array([(-5, 0), (5, 0), (3, 20), (-3, 20)]))))
    leaning = extrude(find_profiles(outline), frame, start_mm=0, end_mm=50, prefix="d")
    made = rounded(leaning, "d.side[e3]", "d.side[e2]", "d.side[e4]")
    corner = math.pi / 2 + math.atan(2 / 20)
    r = 3 * math.tan(corner / 2)
    assert made.facts.radius == pytest.approx(r)
    # Beside the round lie two kites less a sector each.
    kite = 3 * r - r * r * (math.pi - corner) / 2
    assert changed(made, leaning) == pytest.approx(-50 * 2 * kite, rel=1e-9)


def test_a_discs_rim_becomes_a_torus():
    disc = cone(np.zeros(3), UP, (0.0, 6.0), (20.0, 20.0), prefix="c")
    made = rounded(disc, "c.side[wall]")
    half, cap = math.pi * 9 / 2, 17 + 4 * 3 / (3 * math.pi)  # area and middle of the half round at its edge
    want = math.pi * 17**2 * 6 + 2 * math.pi * cap * half
    assert changed(made, disc) == pytest.approx(want - math.pi * 400 * 6, rel=1e-9)


def test_floors_of_grooves_fill_up():
    block = prism(rectangle(40, 30), 20, prefix="g")
    through = combine(block, prism(rectangle(60, 8, at=(-10, 11)), 20, z=12, prefix="s"), "subtract")
    pocket = combine(block, prism(rectangle(30, 8, at=(5, 11)), 20, z=12, prefix="s"), "subtract")
    for of, length in ((through, 40), (pocket, 30)):
        floor = next(n for n in of.names if n.startswith("s.start"))
        made = rounded(of, floor)
        assert changed(made, of) == pytest.approx(length * (8 * 4 - math.pi * 8), rel=1e-9)
        assert made.facts.radius == pytest.approx(4)


def test_a_ring_groove_turned_into_a_shaft():
    ring = combine(
        cone(np.array([0, 0, 10.0]), UP, (0.0, 6.0), (30.0, 30.0), prefix="k"),
        cone(np.array([0, 0, 9.0]), UP, (0.0, 8.0), (15.0, 15.0), prefix="j"),
        "subtract",
    )
    shaft = combine(cone(np.zeros(3), UP, (0.0, 30.0), (20.0, 20.0), prefix="c"), ring, "subtract")
    made = rounded(shaft, "j.side[wall]")
    # The corners of a groove 6 mm wide on a floor at 15 mm: a rectangle up to 18 mm less a half round about 18 mm.
    want = math.pi * (18**2 - 15**2) * 6 - 2 * math.pi * (18 - 4 * 3 / (3 * math.pi)) * math.pi * 9 / 2
    assert changed(made, shaft) == pytest.approx(want, rel=1e-9)


def test_another_rib_beyond_its_end_stays_as_it_is():
    """The round's tool runs on past a free end; what lies there is not meant."""
    two = combine(BASE, prism(rectangle(8, 6, at=(41, 0)), 20, prefix="two"), "add")
    made = rounded(two, TOP)
    assert changed(made, two) == pytest.approx(-40 * CORNERS, rel=1e-9)


def test_what_has_no_full_round_says_why():
    with pytest.raises(ContourError, match="too short") as refused:
        rounded(prism(rectangle(40, 30), 6, prefix="b"), TOP)
    assert refused.value.problem.where.point is not None
    with pytest.raises(ContourError, match="direction in common"):
        rounded(RIB, TOP, "b.side[e1]", "b.side[e2]")
    tube = combine(
        cone(np.zeros(3), UP, (0.0, 20.0), (10.0, 10.0), prefix="o"),
        cone(np.array([0.012, 0, -1.0]), UP, (0.0, 22.0), (6.0, 6.0), prefix="i"),
        "subtract",
    )
    with pytest.raises(ContourError, match="axis in common") as refused:
        rounded(tube, "o.side[top]")
    assert "0.0120 mm aside" in refused.value.problem.got
    with pytest.raises(ContourError, match="does not lie beside"):
        rounded(RIB, TOP, "b.side[e1]", "b.start[p1]")
    with pytest.raises(ContourError, match="one side alone"):
        rounded(RIB, TOP, "b.side[e1]")
    soft = fillet(RIB, [Rounding(edges_of_face(RIB, TOP)[:1], 1)], prefix="f").made
    with pytest.raises(ContourError):
        rounded(soft, next(n for n in soft.names if n.startswith("f[")))
