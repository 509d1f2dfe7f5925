"""Combine against closed forms: united, taken away, shared; others kept or gone, pieces that stay, and refusals."""

from __future__ import annotations

import math

import pytest

from contour.construct.place import Place
from contour.recipe.problem import ContourError
from contour.solid.topology.resolve import roots
from tests.conftest import circle, prism, rectangle
from tests.steps.helpers import body, run, shape_of, volume_of

BLOCK = prism(rectangle(40, 20), 10, prefix="old")
BAR = prism([circle(20, 10, 6, "c9")], 30, z=-10, prefix="bar")
SLOT = prism(rectangle(4, 40, at=(18, -10)), 30, z=-10, prefix="slot")


def combine(operation: str, *tools, points=(), **more):
    params = {
        "body": {"id": "b"},
        "operation": operation,
        "tools": [{"id": f"t{k}"} for k in range(len(tools))],
        "pieces": [{"id": f"p{k}"} for k in range(len(points))],
        **more,
    }
    products = {"body": body(BLOCK)} | {f"tools[{k}]": body(t) for k, t in enumerate(tools)}
    products |= {f"pieces[{k}]": Place("point", p, (0.0, 0.0, 1.0)) for k, p in enumerate(points)}
    return run("combine", params, products)


SHARED = 36 * math.pi * 10


@pytest.mark.parametrize(
    ("operation", "volume"), [("add", 8000 + 36 * math.pi * 20), ("subtract", 8000 - SHARED), ("intersect", SHARED)]
)
def test_two_bodies_become_one_and_the_other_is_gone(operation, volume):
    made = combine(operation, BAR)
    assert volume_of(made, "b") == pytest.approx(volume, rel=1e-9)
    assert made.gone == ("t0",) and set(made.puts) == {"b"}
    assert {r.split(".")[0] for n in shape_of(made, "b").names for r in roots(n)} <= {"old", "bar"}


def test_the_others_stay_where_they_are_to_be_kept():
    made = combine("subtract", BAR, keep=True)
    assert made.gone == () and volume_of(made, "b") == pytest.approx(8000 - SHARED, rel=1e-9)


def test_several_others_in_a_row():
    made = combine("subtract", BAR, SLOT)
    shared = 4 * 10 * 20
    wide = 2 * (6**2 * math.asin(2 / 6) + 2 * math.sqrt(32)) * 10  # of the bar, within 2 mm of its middle line
    assert volume_of(made, "b") == pytest.approx(8000 - SHARED - shared + wide, rel=1e-6)
    assert made.gone == ("t0", "t1") and made.facts.pieces == 2 == made.facts.kept


@pytest.mark.parametrize(
    ("points", "volume"), [([(0, 0, 0)], 3600), ([(40, 20, 10)], 3600), ([(0, 0, 0), (40, 0, 0)], 7200)]
)
def test_pieces_that_points_lie_on_stay(points, volume):
    made = combine("subtract", SLOT, points=points)
    assert volume_of(made, "b") == pytest.approx(volume, rel=1e-9)
    assert made.facts.pieces == 2 and made.facts.kept == len(points)
    low = min(shape_of(made, "b").names)
    assert low.startswith("old.")


@pytest.mark.parametrize(
    ("operation", "tools", "more", "code", "param"),
    [
        ("subtract", (prism(rectangle(4, 4, at=(90, 0)), 5, prefix="far"),), {}, "unchanged", "tools[0]"),
        ("intersect", (prism(rectangle(4, 4, at=(90, 0)), 5, prefix="far"),), {}, "body-broken", "tools[0]"),
        ("add", (prism(rectangle(4, 4, at=(90, 0)), 5, prefix="far"),), {}, "body-broken", "tools[0]"),
        ("subtract", (prism(rectangle(80, 80, at=(-9, -9)), 50, z=-9, prefix="all"),), {}, "body-broken", "tools[0]"),
        ("subtract", (SLOT,), {"points": [(20, 10, 5)]}, "not-found", "pieces[0]"),
        ("add", (BAR,), {"tools": [{"id": "b"}]}, "bad-params", "tools"),
    ],
)
def test_what_cannot_be_done_is_refused_with_its_place(operation, tools, more, code, param):
    with pytest.raises(ContourError) as refused:
        combine(operation, *tools, **more)
    problem = refused.value.problem
    assert (problem.code, problem.where.param) == (code, param) and problem.remedy
