"""Faces given a thickness, against closed forms: of planes, rounds, chains of them; both sides; put on bodies; and refusals."""

from __future__ import annotations

import math

import numpy as np
import pytest

from contour.recipe.problem import ContourError
from contour.solid.edge_blends import Rounding, edges_of_face, fillet
from contour.solid.gate import check_solid
from contour.solid.primitives import cone, sphere, torus
from tests.conftest import prism, rectangle
from tests.steps.helpers import body, run, shape_of

NEW = "newstep0"
UP = np.array([0.0, 0.0, 1.0])
BLOCK = prism(rectangle(40, 30), 10, prefix="b")
ROUND = fillet(BLOCK, [Rounding(edges_of_face(BLOCK, "b.end[p1]")[:1], 3)], prefix="f").made
FILLET = next(n for n in ROUND.names if n.startswith("f["))
PIN = cone(np.zeros(3), UP, (0.0, 20.0), (10.0, 10.0), prefix="c")
WALL = "c.side[wall]"


def thicken(of, *names, mm=2.0, lies="out", bodies=(), **more):
    params = {
        "faces": [{"body": "b", "name": n} for n in names],
        "thickness": {"text": f"{mm} mm"},
        "lies": lies,
        **more,
    }
    params["bodies"] = [{"id": "b"} for _ in bodies]
    given = {f"faces[{k}]": body(of) for k in range(len(names))} | {
        f"bodies[{k}]": body(b) for k, b in enumerate(bodies)
    }
    return run("thicken", params, given, **{f"faces__{k}": n for k, n in enumerate(names)})


def held(outcome, id=NEW):
    found = check_solid(shape_of(outcome, id).shape)
    assert found.closed and found.valid and found.solids == 1
    return found.volume


@pytest.mark.parametrize(("lies", "out", "inner"), [("out", 2, 0), ("in", 0, 2), ("middle", 1, 1)])
def test_plates_tubes_and_domes(lies, out, inner):
    assert held(thicken(BLOCK, "b.end[p1]", lies=lies)) == pytest.approx(40 * 30 * 2, rel=1e-9)
    tube = math.pi * ((10 + out) ** 2 - (10 - inner) ** 2) * 20
    assert held(thicken(PIN, WALL, lies=lies)) == pytest.approx(tube, rel=1e-9)
    ball = sphere(np.zeros(3), 8.0, prefix="s")
    assert held(thicken(ball, *ball.names, lies=lies)) == pytest.approx(
        4 / 3 * math.pi * ((8 + out) ** 3 - (8 - inner) ** 3), rel=1e-6
    )
    ring = torus(np.zeros(3), UP, 20.0, 5.0, prefix="t")
    assert held(thicken(ring, *ring.names, lies=lies)) == pytest.approx(
        2 * math.pi**2 * 20 * ((5 + out) ** 2 - (5 - inner) ** 2), rel=1e-6
    )


def test_a_bore_grows_into_its_air():
    """Out of the material is towards the axis there."""
    from contour.solid.boolean import combine

    bored = combine(BLOCK, cone(np.array([20, 15, -1.0]), UP, (0.0, 12.0), (5.0, 5.0), prefix="bore"), "subtract")
    made = thicken(bored, "bore.side[wall]", mm=1.5)
    assert held(made) == pytest.approx(math.pi * (25 - 3.5**2) * 10, rel=1e-9)


@pytest.mark.parametrize(("lies", "out", "inner"), [("out", 2, 0), ("in", 0, 2), ("middle", 1, 1)])
def test_a_chain_over_a_fillet_and_names_that_last(lies, out, inner):
    made = thicken(ROUND, FILLET, "b.end[p1]", lies=lies)
    assert held(made) == pytest.approx(40 * 27 * 2 + 40 * math.pi / 4 * ((3 + out) ** 2 - (3 - inner) ** 2), rel=1e-9)
    names = shape_of(made, NEW).names
    assert {f"{NEW}.over[{FILLET}]", f"{NEW}.under[b.end[p1]]"} <= set(names) and made.facts.of_faces == 2
    assert len(set(names)) == len(names)
    other = shape_of(thicken(ROUND, FILLET, "b.end[p1]", lies=lies, mm=2.5), NEW).names
    assert set(other) == set(names)


def test_faces_that_meet_at_a_corner_meet_there_again():
    made = thicken(BLOCK, "b.side[e1]", "b.side[e2]")
    assert held(made) == pytest.approx((40 + 30) * 10 * 2 + 2 * 2 * 10, rel=1e-9)


def test_it_is_added_to_its_body_or_taken_from_it():
    more = thicken(BLOCK, "b.end[p1]", bodies=[BLOCK], operation="add", mm=3)
    assert held(more, "b") == pytest.approx(40 * 30 * 13, rel=1e-9)
    less = thicken(PIN, WALL, bodies=[PIN], operation="subtract", lies="in", mm=1)
    assert held(less, "b") == pytest.approx(math.pi * 81 * 20, rel=1e-9)


def test_what_cannot_be_says_which_face_and_why():
    with pytest.raises(ContourError, match="too tightly") as refused:
        thicken(PIN, WALL, lies="in", mm=10)
    assert "radius of 10 mm" in refused.value.problem.got and refused.value.problem.where.entity
    with pytest.raises(ContourError, match="hang together") as refused:
        thicken(BLOCK, "b.side[e1]", "b.side[e3]")
    assert refused.value.problem.where.point is not None
    with pytest.raises(ContourError, match="no thickness"):
        thicken(BLOCK, "b.side[e1]", mm=0)
    with pytest.raises(ContourError):
        thicken(BLOCK, "b.end[p1]", operation="add")


def test_its_grip_points_the_way_it_grows():
    for lies, z in (("out", 1), ("in", -1), ("middle", 1)):
        (grip,) = thicken(BLOCK, "b.end[p1]", lies=lies).handles
        assert grip.direction[2] == pytest.approx(z) and grip.origin[2] == pytest.approx(10)
