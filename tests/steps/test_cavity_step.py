"""What bodies hold against closed forms: capped openings, several of them, caps by bodies, several insides; leaks by where they were planted."""

from __future__ import annotations

import math

import numpy as np
import pytest

from contour.construct.place import Place
from contour.recipe.problem import ContourError
from contour.solid.boolean import combine
from contour.solid.cavity import leak_of
from contour.solid.gate import check_solid
from contour.solid.primitives import cone
from tests.conftest import circle, prism, rectangle
from tests.steps.helpers import body, run, shape_of

NEW = "newstep0"
BLOCK = prism(rectangle(60, 40), 30, prefix="block")
ROOM = prism(rectangle(50, 30, at=(5, 5)), 20, z=5, prefix="room")
PORT = prism([circle(20, 20, 6)], 10, z=22, prefix="port")
HOUSING = combine(combine(BLOCK, ROOM, "subtract"), PORT, "subtract")
TOP = next(n for n in HOUSING.names if n.startswith("block.end"))
HELD = 50 * 30 * 20 + math.pi * 36 * 5


def cavity(of, *openings, products=None, **more):
    params = {"body": {"id": "b"}, "openings": [{"body": "b", "name": n} for n in openings], **more}
    given = {"body": body(of)} | {f"openings[{i}]": body(of) for i in range(len(openings))} | (products or {})
    return run("cavity", params, given, **{f"openings__{i}": n for i, n in enumerate(openings)})


def held(outcome):
    made = shape_of(outcome, NEW)
    found = check_solid(made.shape)
    assert found.closed and found.valid and found.solids == 1
    return found.volume


def test_a_capped_housing_holds_room_and_port_up_to_its_face():
    made = cavity(HOUSING, TOP)
    assert held(made) == pytest.approx(HELD, rel=1e-9)
    names = shape_of(made, NEW).names
    # Its walls are called as those of the housing, its lid after the face it lies in.
    assert f"{NEW}.cap[{TOP}]" in names and "port.side[c1]" in names and made.facts.caps == 1


def test_openings_on_several_sides_and_bolt_holes_beside_them():
    side = prism([circle(20, 15, 4)], 12, z=-1, prefix="side")  # through the floor
    bolts = [
        cone(np.array([x, y, 20.0]), np.array([0, 0, 1.0]), (0.0, 15.0), (1.5, 1.5), prefix=f"bolt{x:g}")
        for x, y in ((2.5, 2.5), (57.5, 37.5))
    ]
    of = combine(HOUSING, side, "subtract")
    for bolt in bolts:
        of = combine(of, bolt, "subtract")
    top = next(n for n in of.names if n.startswith("block.end"))
    floor = next(n for n in of.names if n.startswith("block.start"))
    made = cavity(of, top, floor)
    assert held(made) == pytest.approx(HELD + math.pi * 16 * 5, rel=1e-9) and made.facts.caps == 2


def test_an_opening_that_a_body_closes():
    """A plug that reaches 3 mm into the port leaves that much less."""
    plug = cone(np.array([20.0, 20.0, 27.0]), np.array([0, 0, 1.0]), (0.0, 6.0), (6.0, 6.0), prefix="plug")
    made = cavity(HOUSING, closers=[{"id": "p"}], products={"closers[0]": body(plug)})
    assert held(made) == pytest.approx(HELD - math.pi * 36 * 3, rel=1e-9)


def test_of_several_insides_the_largest_or_the_one_around_a_point():
    cell = prism(rectangle(6, 30, at=(50, 5)), 3, z=1, prefix="cell")
    of = combine(HOUSING, cell, "subtract")
    assert held(cavity(of, TOP)) == pytest.approx(HELD, rel=1e-9)
    point = Place("point", (53.0, 20.0, 2.5))
    chosen = cavity(of, TOP, inside={"id": "q"}, products={"inside": point})
    assert held(chosen) == pytest.approx(6 * 30 * 3, rel=1e-9)


@pytest.mark.parametrize(("x", "y", "r"), [(45.0, 12.0, 0.8), (10.0, 30.0, 0.5), (30.0, 20.0, 1.5)])
def test_a_leak_is_shown_where_it_was_planted(x, y, r):
    """A hole through the floor, 5 mm thick: the narrowest of the way out lies in it."""
    leaking = combine(HOUSING, prism([circle(x, y, r)], 10, z=-2, prefix="leak"), "subtract")
    with pytest.raises(ContourError) as refused:
        cavity(leaking, TOP)
    problem = refused.value.problem
    assert problem.code == "not-found" and "not closed" in problem.message
    px, py, pz = problem.where.point
    assert math.hypot(px - x, py - y) < 1.0 and -1.0 < pz < 6.0


def test_without_a_cap_it_leaves_by_the_port_and_a_full_body_holds_nothing():
    found = leak_of(HOUSING)
    assert found is not None and math.hypot(found.at[0] - 20, found.at[1] - 20) < 1.0 and 24 < found.at[2] < 31
    assert found.wide == pytest.approx(12, abs=1.0)
    with pytest.raises(ContourError, match="no inside"):
        cavity(BLOCK)
    assert leak_of(BLOCK) is None


def test_what_cannot_be_capped_is_refused():
    with pytest.raises(ContourError) as refused:
        cavity(HOUSING, "port.side[c1]")
    assert refused.value.problem.code == "wrong-kind"
    params = {"body": {"id": "b"}, "openings": [{"body": "c", "name": TOP}]}
    with pytest.raises(ContourError, match="another body"):
        run("cavity", params, {"body": body(HOUSING), "openings[0]": body(HOUSING)}, openings__0=TOP)


def _gapped(kind: str, gap: float):
    """(hollow body, bodies that close it, faces to be capped, what it holds, where the gap lies)."""
    if kind == "slit":
        slit = prism(rectangle(gap, 12, at=(25, 12)), 10, z=-2, prefix="slit")
        return combine(HOUSING, slit, "subtract"), None, [TOP], HELD, (25, 18, 2.5)
    if kind == "bore":
        bore = prism([circle(41, 12, gap / 2)], 10, z=-2, prefix="bore")
        return combine(HOUSING, bore, "subtract"), None, [TOP], HELD, (41, 12, 2.5)
    if kind == "lid":
        box = combine(BLOCK, prism(rectangle(50, 30, at=(5, 5)), 30, z=5, prefix="room"), "subtract")
        lid = prism(rectangle(60, 40), 4, z=30 + gap, prefix="lid")
        return box, lid, [], 50 * 30 * (25 + gap), (30, 2.5, 30)
    plug = cone(np.array([20.0, 20.0, 27.0]), np.array([0, 0, 1.0]), (0.0, 6.0), (6 - gap, 6 - gap), prefix="plug")
    return HOUSING, plug, [], HELD - math.pi * 36 * 3, (20, 14.5, 28.5)


@pytest.mark.parametrize("kind", ["slit", "bore", "lid", "plug"])
def test_a_narrow_gap_is_told_and_closed_when_that_is_asked(kind):
    """What is filled ends flush: the inside is what it would be without the gap, exactly."""
    of, closer, openings, truth, _at = _gapped(kind, 0.3)
    more = {"closers": [{"id": "p"}], "products": {"closers[0]": body(closer)}} if closer else {}
    made = cavity(of, *openings, gap={"text": "0.35 mm"}, **more)
    assert held(made) == pytest.approx(truth, rel=1e-9) and made.facts.gaps >= 1
    # Its faces have names of their own, that lead back to what the gap lies between.
    assert any(".gap" in n for n in shape_of(made, NEW).names)


@pytest.mark.parametrize("kind", ["slit", "bore", "lid", "plug"])
def test_a_gap_wider_than_is_closed_is_refused_with_its_width_and_place(kind):
    of, closer, openings, _truth, at = _gapped(kind, 0.3)
    more = {"closers": [{"id": "p"}], "products": {"closers[0]": body(closer)}} if closer else {}
    with pytest.raises(ContourError) as refused:
        cavity(of, *openings, gap={"text": "0.25 mm"}, **more)
    problem = refused.value.problem
    assert "0.30 mm wide" in problem.got and "gaps up to 0.3 mm" in problem.remedy
    # Along a slit, or round a lid or a plug, the gap is long: it is shown somewhere on its way, at its height.
    x, y, z = problem.where.point
    assert abs(z - at[2]) < 3 and (kind in ("lid", "plug") or abs(x - at[0]) < 0.5)
    assert kind != "slit" or 12 <= y <= 24


def test_what_lies_wide_apart_leaks_and_narrow_grooves_of_a_closed_inside_stay():
    of, lid, _openings, _truth, _at = _gapped("lid", 4.0)
    with pytest.raises(ContourError, match="not closed") as refused:
        cavity(of, closers=[{"id": "p"}], products={"closers[0]": body(lid)}, gap={"text": "1 mm"})
    assert 30 < refused.value.problem.where.point[2] < 34 and "gaps" not in refused.value.problem.remedy
    groove = prism(rectangle(0.3, 10, at=(30, 10)), 2, z=4, prefix="groove")
    grooved = combine(HOUSING, groove, "subtract")
    kept = cavity(grooved, TOP, gap={"text": "0.5 mm"})
    assert held(kept) == pytest.approx(HELD + 0.3 * 10 * 1, rel=1e-9) and kept.facts.gaps == 0
