"""Hole on an axis against closed forms: where the hole comes to lie, how deep and wide it is, that it keeps its names, and refusals."""

from __future__ import annotations

import math

import numpy as np
import pytest

from contour.construct.place import Place
from contour.recipe.problem import ContourError
from contour.solid.boolean import combine
from contour.solid.face_geometry import face_surface
from contour.solid.gate import check_solid
from contour.solid.shape import faces
from tests.conftest import circle, prism, rectangle
from tests.steps.helpers import body, run, shape_of, volume_of

PLATE = prism([*rectangle(60, 40), circle(20, 20, 5)], 10, prefix="plate")
BLIND = combine(
    prism(rectangle(60, 40), 10, prefix="plate"), prism([circle(20, 20, 5)], 8, z=4, prefix="bore"), "subtract"
)


def coaxial(of=PLATE, wall="plate.side[c1]", onto=None, **more):
    place = onto or Place("axis", (22.0, 21.0, -3.0), (0.0, 0.0, 1.0), radius=6.04)
    values = {k: {"text": v} if k == "diameter" else v for k, v in more.items()}
    params = {"face": {"body": "b", "name": wall}, "onto": {"id": "r"}, **values}
    return run("coaxial", params, {"face": body(of), "onto": place}, face=wall)


def hole(outcome, wall="plate.side[c1]"):
    made = shape_of(outcome, "b")
    found = check_solid(made.shape)
    assert found.closed and found.valid
    return face_surface(faces(made.shape)[made.names.index(wall)])


@pytest.mark.parametrize(
    ("more", "diameter"),
    [
        ({}, 12.08),
        ({"size": "as it was"}, 10.0),
        ({"size": "typed", "diameter": "11 mm"}, 11.0),
        ({"size": "standard"}, 12.1),
    ],
)
def test_it_comes_to_lie_on_the_axis_with_the_diameter_that_is_asked_for(more, diameter):
    made = coaxial(**more)
    found = hole(made)
    assert 2 * found.radius == pytest.approx(diameter, abs=1e-9)
    assert np.linalg.norm(np.cross(found.at - [22, 21, 0], [0, 0, 1])) < 1e-9
    assert volume_of(made, "b") == pytest.approx(24000 - math.pi / 4 * diameter**2 * 10, rel=1e-9)
    assert made.facts.moved == pytest.approx(math.hypot(2, 1), abs=1e-6) and made.facts.was == pytest.approx(10)
    assert set(shape_of(made, "b").names) == set(PLATE.names)


def test_the_standard_one_is_called_by_its_name():
    assert coaxial(size="standard").facts.drill == "12.1 mm"


def test_a_hole_with_a_flat_bottom_stays_as_deep_as_it_was():
    made = coaxial(BLIND, "bore.side[c1]")
    assert volume_of(made, "b") == pytest.approx(24000 - math.pi * 6.04**2 * 6, rel=1e-9)
    assert set(shape_of(made, "b").names) == set(BLIND.names)


def test_aslant_it_goes_through_both_sides():
    tilt = math.radians(8)
    onto = Place("axis", (20.0, 20.0, 5.0), (math.sin(tilt), 0.0, math.cos(tilt)), radius=4.0)
    made = coaxial(onto=onto)
    # A round bar through parallel planes aslant: its cut is longer by the cosine.
    assert volume_of(made, "b") == pytest.approx(24000 - math.pi * 16 * 10 / math.cos(tilt), rel=1e-6)
    assert made.facts.tilt == pytest.approx(8)


@pytest.mark.parametrize(
    ("of", "wall", "more", "code", "param"),
    [
        (PLATE, "plate.side[e1]", {"size": "as it was"}, "wrong-kind", "face"),
        (prism([circle(0, 0, 5)], 10, prefix="bar"), "bar.side[c1]", {}, "wrong-kind", "face"),
        (PLATE, "plate.side[c1]", {"size": "typed", "diameter": "0 mm"}, "bad-params", "diameter"),
        (PLATE, "plate.side[c1]", {"onto": Place("axis", (22.0, 21.0, 0.0), (0.0, 0.0, 1.0))}, "bad-params", "onto"),
    ],
)
def test_what_cannot_be_is_refused_with_its_place(of, wall, more, code, param):
    with pytest.raises(ContourError) as refused:
        coaxial(of, wall, **more)
    assert (refused.value.problem.code, refused.value.problem.where.param) == (code, param)
    assert refused.value.problem.remedy
