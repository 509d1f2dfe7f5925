"""Hollowed bodies against closed forms: walls inward and outward, of several thicknesses, around bores and rounds; names; refusals."""

from __future__ import annotations

import math

import numpy as np
import pytest

from contour.recipe.problem import ContourError
from contour.solid.boolean import combine
from contour.solid.edge_blends import Rounding, fillet
from contour.solid.gate import check_solid
from contour.solid.mass import volume
from contour.solid.primitives import cone, sphere
from contour.solid.threaded import DEPTH, Ridge, stretch_of, threaded
from contour.solid.topology.edges import edge_names
from tests.conftest import circle, prism, rectangle
from tests.steps.helpers import body, run, shape_of

BOX = prism(rectangle(40, 30), 20, prefix="box")
TOP, FLOOR = "box.end[p1]", "box.start[p1]"


def shell(of, *opened, thickness="2 mm", way="inward", more=()):
    ref = lambda name: {"body": "b", "name": name}  # noqa: E731
    params = {
        "faces": [ref(n) for n in opened],
        "thickness": {"text": thickness},
        "way": way,
        "more": [{"faces": [ref(n) for n in names], "thickness": {"text": t}} for names, t in more],
    }
    products = {f"faces[{i}]": body(of) for i in range(len(opened))}
    parts = {f"faces__{i}": n for i, n in enumerate(opened)}
    for i, (names, _) in enumerate(more):
        products |= {f"more[{i}].faces[{k}]": body(of) for k in range(len(names))}
        parts |= {f"more__{i}.faces__{k}": n for k, n in enumerate(names)}
    return run("shell", params, products, **parts)


def checked(outcome):
    made = shape_of(outcome, "b")
    found = check_solid(made.shape)
    assert found.closed and found.valid and found.solids == 1
    return found.volume


def test_inward_and_outward():
    inward = shell(BOX, TOP)
    assert checked(inward) == pytest.approx(40 * 30 * 20 - 36 * 26 * 18)
    assert inward.facts.hollow == pytest.approx(36 * 26 * 18) and inward.facts.walls == 5
    outward = shell(BOX, TOP, way="outward")
    assert checked(outward) == pytest.approx(44 * 34 * 22 - 40 * 30 * 20)
    assert outward.facts.hollow == pytest.approx(40 * 30 * 20)
    (grip,) = inward.handles
    assert grip.place == "thickness" and abs(grip.direction[2]) < 1e-9


def test_two_openings_leave_a_pipe_and_faces_beside_each_other_a_corner():
    assert checked(shell(BOX, TOP, FLOOR)) == pytest.approx(20 * (40 * 30 - 36 * 26))
    assert checked(shell(BOX, TOP, "box.side[e1]")) == pytest.approx(40 * 30 * 20 - 36 * 28 * 18)


def test_walls_of_several_thicknesses():
    made = shell(BOX, TOP, more=[((FLOOR,), "5 mm"), (("box.side[e1]", "box.side[e3]"), "3.5 mm")])
    assert checked(made) == pytest.approx(40 * 30 * 20 - 36 * 23 * 15)
    outward = shell(BOX, TOP, way="outward", more=[((FLOOR,), "6 mm")])
    assert checked(outward) == pytest.approx(44 * 34 * 26 - 40 * 30 * 20)


def test_outside_faces_keep_their_names_and_walls_are_called_by_theirs():
    names = shape_of(shell(BOX, TOP), "b").names
    assert set(BOX.names) <= set(names)
    assert {f"newstep0.wall[{n}]" for n in BOX.names if n != TOP} == set(names) - set(BOX.names)
    thicker = shape_of(shell(BOX, TOP, thickness="4.3 mm"), "b").names
    assert sorted(thicker) == sorted(names)


def test_around_a_bore():
    bored = prism([*rectangle(60, 40), circle(20, 20, 5)], 20, prefix="box")
    want = 2400 * 20 - math.pi * 25 * 20 - (56 * 36 - math.pi * 49) * 18
    assert checked(shell(bored, TOP)) == pytest.approx(want)


def test_a_step_in_it():
    angle = combine(
        prism(rectangle(60, 40), 20, prefix="box"),
        prism(rectangle(30, 20, at=(30, 20)), 40, z=-5, prefix="q"),
        "subtract",
    )
    top = next(n for n in angle.names if n.startswith(TOP))
    assert checked(shell(angle, top)) == pytest.approx(1800 * 20 - (56 * 36 - 600) * 18)


def upright_rounds(r):
    rim = [n for n in edge_names(BOX) if TOP not in n and FLOOR not in n]
    return fillet(BOX, [Rounding(tuple(rim), r, tuple("radius" for _ in rim))], prefix="rd").made


@pytest.mark.parametrize("r", [5.0, 3.0, 2.0, 1.0])
def test_rounds_larger_and_smaller_than_the_wall(r):
    """Where a round is no larger than the wall the hollow's corner is sharp, and the wall there as thick as it must be or more."""
    of = upright_rounds(r)
    inner = max(r - 2, 0)
    want = volume(of.shape) - (36 * 26 - (4 - math.pi) * inner**2) * 18
    assert checked(shell(of, TOP)) == pytest.approx(want, rel=1e-9)


def test_a_cone_and_a_ball():
    """A bucket's walls are measured square to its side: its hollow is a cone as well."""
    bucket = cone(np.zeros(3), np.array([0, 0, 1.0]), (0.0, 30.0), (10.0, 16.0), prefix="box")
    lean = math.atan2(6, 30)
    r = lambda z: 10 + z / 5 - 1.5 / math.cos(lean)  # noqa: E731
    low, high = r(1.5), r(30)
    hollow = math.pi / 3 * 28.5 * (low**2 + low * high + high**2)
    made = shell(bucket, "box.side[top]", thickness="1.5 mm")
    assert volume(bucket.shape) - checked(made) == pytest.approx(hollow, rel=1e-9)
    ball = combine(
        sphere(np.zeros(3), 12, prefix="ball"), prism(rectangle(40, 40, at=(-20, -20)), 30, prefix="cut"), "subtract"
    )
    flat = next(n for n in ball.names if "cut" in n)
    assert checked(shell(ball, flat)) == pytest.approx(2 / 3 * math.pi * (12**3 - 10**3), rel=1e-9)


@pytest.mark.parametrize(
    ("more", "param", "code"),
    [
        ({"thickness": "0 mm"}, "thickness", "bad-params"),
        ({"thickness": "16 mm"}, None, "body-broken"),
        ({"more": [((TOP,), "3 mm")]}, "more[0]", "bad-params"),
    ],
)
def test_what_cannot_be_is_refused(more, param, code):
    with pytest.raises(ContourError) as refused:
        shell(BOX, TOP, **more)
    problem = refused.value.problem
    assert problem.code == code and (param is None or problem.where.param == param)


def test_an_opening_among_rounds_is_refused_not_passed_on():
    """A lid whose edges are all rounded off: removing it leaves no edge for the wall to end at."""
    every = list(edge_names(BOX))
    of = fillet(BOX, [Rounding(tuple(every), 5.0, tuple("radius" for _ in every))], prefix="rd").made
    with pytest.raises(ContourError) as refused:
        shell(of, next(n for n in of.names if n.startswith(TOP)))
    assert refused.value.problem.code == "body-broken"


def test_a_real_thread_is_refused_at_once_and_named():
    """The kernel would look for what runs along its flanks inside for minutes."""
    up = np.array([0, 0, 1.0])
    drilled = combine(BOX, cone(np.array([20.0, 15, 10]), up, (0.0, 20.0), (3.4, 3.4), prefix="bore"), "subtract")
    on = stretch_of(drilled, next(n for n in drilled.names if n.startswith("bore.side")))
    ridge = Ridge(4.0, 4.0 - DEPTH * 1.25, 1.25)
    bolted = threaded(
        drilled, on, ridge, low=on.low, high=on.high, fades=("out", "in"), fade_mm=1.25, built=False, prefix="screw"
    )
    with pytest.raises(ContourError) as refused:
        shell(bolted, FLOOR)
    problem = refused.value.problem
    assert problem.code == "body-broken" and "thread" in problem.message and problem.where.param == "faces"
    assert np.hypot(problem.where.point[0] - 20, problem.where.point[1] - 15) < 4.1
