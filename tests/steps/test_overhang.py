"""Overhang of fillets and chamfers against what angles and closed forms say: warned of where they lean out, and chamfered so that they do not."""

from __future__ import annotations

import math

import numpy as np
import pytest

from contour.recipe.problem import ContourError
from contour.simulate.star_outlines import entities_of
from contour.solid.boolean import combine
from contour.solid.edge_blends import edges_of_face
from contour.solid.gate import check_solid
from contour.solid.mass import volume
from contour.solid.overhang import leaning_most, standing_bevel
from contour.solid.primitives import cone
from contour.solid.topology.edges import edges_named
from tests.conftest import prism, rectangle
from tests.steps.helpers import body, run, shape_of

UP = np.array([0.0, 0.0, 1.0])
BLOCK = prism(rectangle(40, 30), 10, prefix="b")
FOOT, TOP = "b.start[p1]", "b.end[p1]"
ROUND = "b.side[e1]|b.start[p1]"  # a lower edge, 40 mm long
MUSHROOM = combine(
    cone(np.zeros(3), UP, (0.0, 20.0), (5.0, 5.0), prefix="s"),
    cone(np.array([0, 0, 20.0]), UP, (0.0, 6.0), (15.0, 15.0), prefix="h"),
    "add",
)


def blend(kind, of, edges, bed=None, **more):
    params = {"edges": [{"body": "b", "edge": n} for n in edges], **more}
    given = {f"edges[{k}]": body(of) for k in range(len(edges))}
    parts = {f"edges__{k}": [n] for k, n in enumerate(edges)}
    if bed:
        params["bed"] = {"body": "b", "name": bed}
        given["bed"], parts["bed"] = body(of), bed
    return run(kind, params, given, **parts)


def fillet(of, edges, mm=3.0, **more):
    return blend("fillet", of, edges, radius={"text": f"{mm} mm"}, **more)


def changed(outcome, of) -> float:
    made = shape_of(outcome, "b")
    found = check_solid(made.shape)
    assert found.closed and found.valid and found.solids == 1
    assert outcome.facts.removed == pytest.approx(volume(of.shape) - found.volume, abs=1e-6)
    return outcome.facts.removed


def test_a_round_at_the_foot_overhangs_and_says_so_one_at_the_top_does_not():
    (said,) = fillet(BLOCK, [ROUND], bed=FOOT).problems
    assert (
        said.code == "overhang" and said.got.startswith("90 deg") and said.offer.choices == {"overhanging": "chamfered"}
    )
    x, y, z = said.where.point
    assert 0 <= x <= 40 and 0 <= y <= 3.01 and z == pytest.approx(0, abs=1e-6)
    assert fillet(BLOCK, [ROUND]).problems == ()  # nobody has said how it is printed
    assert fillet(BLOCK, ["b.end[p1]|b.side[e1]"], bed=FOOT).problems == ()
    # Turned over it is the other way round, and upright edges never lean out.
    assert fillet(BLOCK, [ROUND], bed=TOP).problems == ()
    assert fillet(BLOCK, ["b.side[e1]|b.side[e2]"], bed=FOOT).problems == ()


@pytest.mark.parametrize("limit", [30.0, 45.0, 60.0])
def test_what_overhangs_gets_the_chamfer_that_does_not(limit):
    made = fillet(BLOCK, [ROUND], bed=FOOT, steepest={"text": f"{limit} deg"}, overhanging="chamfered")
    assert made.problems == ()
    # Its height is the radius; it reaches in as far as the limit lets it, and never further than the radius.
    assert changed(made, BLOCK) == pytest.approx(40 * 3 * min(3 * math.tan(math.radians(limit)), 3) / 2, rel=1e-6)


def test_only_edges_that_overhang_are_chamfered():
    edges = [ROUND, "b.end[p1]|b.side[e1]"]
    made = fillet(BLOCK, edges, bed=FOOT, overhanging="chamfered")
    assert changed(made, BLOCK) == pytest.approx(40 * (9 / 2 + 9 * (1 - math.pi / 4)), rel=1e-6)
    names = shape_of(made, "b").names
    assert any(".fillet[" in n for n in names) and any(".chamfer[" in n for n in names)


def test_round_edges_and_inner_corners_lean_too():
    lower = [n for n in edges_of_face(MUSHROOM, "h.side[wall]") if "h.side[bottom]" in n]
    (said,) = fillet(MUSHROOM, lower, mm=2.0, bed="s.side[bottom]").problems
    assert said.got.startswith("90 deg")
    made = fillet(MUSHROOM, lower, mm=2.0, bed="s.side[bottom]", overhanging="chamfered")
    # A ring of a triangle, its middle two thirds of the way out.
    assert made.problems == () and changed(made, MUSHROOM) == pytest.approx(2 * math.pi * (15 - 2 / 3) * 2, rel=1e-6)
    under = [n for n in edges_of_face(MUSHROOM, "s.side[wall]") if "h.side[bottom]" in n]
    (said,) = fillet(MUSHROOM, under, mm=2.0, bed="s.side[bottom]").problems
    assert said.code == "overhang"
    made = fillet(MUSHROOM, under, mm=2.0, bed="s.side[bottom]", overhanging="chamfered")
    assert made.problems == () and -changed(made, MUSHROOM) == pytest.approx(2 * math.pi * (5 + 2 / 3) * 2, rel=1e-6)


@pytest.mark.parametrize(("first", "second", "deg"), [(2, 2, 45), (2, 1, None), (1, 2, 63)])
def test_a_chamfer_says_it_too(first, second, deg):
    """By two distances: steeper or flatter than 45 degrees."""
    more = {"by": "two distances", "distance": {"text": f"{first} mm"}, "other": {"text": f"{second} mm"}}
    params = {
        "edges": [{"body": "b", "edge": ROUND}],
        "side": {"body": "b", "name": "b.side[e1]"},
        "bed": {"body": "b", "name": FOOT},
        **more,
    }
    given = {k: body(BLOCK) for k in ("edges[0]", "side", "bed")}
    made = run("chamfer", params, given, edges__0=[ROUND], side="b.side[e1]", bed=FOOT)
    # On the upright side `first`, on the foot `second`: it leans out by the angle between them.
    assert [p.got for p in made.problems] == ([f"{deg} deg out of the upright"] if deg and deg > 46 else [])


@pytest.mark.parametrize("seed", range(8))
def test_the_chamfer_of_any_edge_leans_as_far_as_it_may(seed):
    """By its own face's normal, whatever way is up."""
    from contour.solid.edge_blends import Bevel, chamfer
    from contour.solid.overhang import owners

    rng = np.random.default_rng(seed)
    up = rng.normal(size=3)
    up /= np.linalg.norm(up)
    (edge,) = edges_named(BLOCK, [ROUND])
    found = standing_bevel(BLOCK, edge, up, 45.0, 2.0)
    if found is None:  # both faces of the edge lean out by themselves
        assert min(np.array([0.0, 1.0, 0.0]) @ up, UP @ up) > math.sin(math.radians(45))
        return
    bevel = Bevel((ROUND,), found.first, found.second, side=owners(BLOCK, edge)[found.side])
    made = chamfer(BLOCK, [bevel], prefix="x").made
    assert leaning_most(made, {n for n in made.names if n.startswith("x")}, up, 45.0) == []


def test_where_no_chamfer_helps_the_round_stays_and_is_told():
    """Standing on a long slope, both faces of its lower edge lean out further than 20 degrees."""
    leaning = prism([*entities_of(np.array([(0.0, 0.0), (20, 0), (30, 20), (0, 20)]))], 10, prefix="b")
    sharp = "b.side[e2]|b.side[e3]"  # between the slope and the far wall
    plain = fillet(leaning, [sharp], mm=1.0)
    made = fillet(leaning, [sharp], mm=1.0, bed="b.side[e3]", steepest={"text": "0.5 deg"}, overhanging="chamfered")
    # Its one face lies on the bed and the other one leans out: nothing between them can lean less.
    both = fillet(
        leaning,
        ["b.side[e1]|b.side[e2]"],
        mm=1.0,
        bed="b.side[e3]",
        steepest={"text": "0.5 deg"},
        overhanging="chamfered",
    )
    for outcome in (made, both):
        assert outcome.facts.blends >= 1 and abs(outcome.facts.removed) > 1e-3
    assert all(p.offer is None for p in (*made.problems, *both.problems)) and plain.problems == ()


def test_nothing_stands_on_a_round_face():
    with pytest.raises(ContourError, match="not flat"):
        fillet(MUSHROOM, edges_of_face(MUSHROOM, "h.side[top]"), mm=1.0, bed="h.side[wall]")


def test_it_stands_on_its_own_faces_only():
    params = {"edges": [{"body": "b", "edge": ROUND}], "bed": {"body": "b", "name": "c.side[top]"}}
    given = {"edges[0]": body(BLOCK), "bed": body(BLOCK)}
    with pytest.raises(ContourError, match="another body"):
        run("chamfer", params, given, edges__0=[ROUND], bed="c.side[top]")
