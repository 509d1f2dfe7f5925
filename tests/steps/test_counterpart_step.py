"""Counterpart and sector as steps: what says where a part is alike, what is told, and what is refused with its place."""

import numpy as np
import pytest

from contour.construct.place import Place
from contour.products.scan import ScanProduct
from contour.recipe.problem import ContourError
from contour.solid.boolean import combine
from tests.conftest import circle, prism
from tests.register.test_placing import symmetric
from tests.steps.helpers import run
from tests.wheels import scan_without, wheel

GONE = (((9.0, 9.0, 12.0), 5.0), ((22.0, 33.0, 20.0), 6.0))
AREA = sum(np.pi * r**2 for _, r in GONE)
MIDDLE = Place("plane", (30.0, 0.0, 0.0), (1.0, 0.0, 0.0))
AXIS = Place("axis", (0.0, 0.0, 0.0), (0.0, 0.0, 1.0))


@pytest.fixture(scope="module")
def halves():
    return scan_without(symmetric(), GONE)


@pytest.fixture(scope="module")
def toothed():
    return scan_without(wheel(12), (((22.0, 0.0, 9.0), 5.0),))


def made(kind, scan, params, **products):
    values = {k: {"text": str(v)} if k in ("count", "first", "spacing") else v for k, v in params.items()}
    refs = {k: {"id": k} for k in products}
    return run(kind, {"scan": {"id": "s"}, **refs, **values}, {"scan": ScanProduct(scan), **products})


def open_sides(outcome) -> int:
    return int((outcome.puts["s"].scan.across < 0).sum())


@pytest.mark.parametrize("told", [{}, {"plane": MIDDLE}])
def test_a_scan_is_filled_across_its_own_plane_or_a_given_one(halves, told):
    out = made("counterpart", halves, {}, **told)
    assert (out.facts.changed, out.facts.refused, out.facts.alike) == (2, 0, 2)
    assert 0.5 * AREA < out.facts.borrowed < 2 * AREA and open_sides(out) == 0
    assert (out.facts.agree is None) == bool(told) and not out.problems
    assert 0 < out.facts.moved < halves.edge_mm  # sharp edges are cut by the new mesh as by the old
    fresh = out.puts["s"].scan.source_facet < 0
    assert 0.01 < fresh.mean() < 0.1


def test_a_scan_is_filled_from_those_alike_around_an_axis_as_many_as_there_are(toothed):
    out = made("counterpart", toothed, {"by": "turn"}, axis=AXIS)
    assert out.facts.alike == 12 and out.facts.agree > 0.8 and open_sides(out) == 0
    assert made("counterpart", toothed, {"by": "turn", "count": 3}, axis=AXIS).facts.alike == 3


def test_what_is_on_one_side_only_is_a_problem_with_its_place():
    body = combine(symmetric(), prism([circle(50, 30, 3)], 40, z=-5, prefix="x"), "subtract")
    out = made("counterpart", scan_without(body, GONE), {}, plane=MIDDLE)
    (problem,) = out.problems
    assert problem.code == "not-mended" and np.linalg.norm(np.array(problem.where.point)[:2] - [10, 30]) < 0.5
    assert out.facts.refused == 1


@pytest.mark.parametrize("averaged", [True, False])
def test_a_sector_is_as_wide_as_the_count_says(toothed, averaged):
    out = made("sector", toothed, {"averaged": averaged, "spacing": "0.9 mm"}, axis=AXIS)
    assert (out.facts.alike, out.facts.angle) == (12, 30.0) and out.facts.agree > 0.8
    scan = out.puts["s"].scan
    assert scan.areas[scan.source_facet >= 0].sum() == pytest.approx(toothed.areas.sum() / 12, rel=0.08)
    assert (scan.across >= 0).all()
    turned_on = made("sector", toothed, {"averaged": averaged, "first": "10 deg", "count": 12}, axis=AXIS)
    ways = [middle_way(o.puts["s"].scan.vertices) for o in (out, turned_on)]
    assert abs(ways[1] - ways[0]) == pytest.approx(10, abs=0.1)


def middle_way(points) -> float:
    """Degrees about z of the middle of a sector."""
    roughly = np.arctan2(points[:, 1].mean(), points[:, 0].mean())
    off = np.angle(np.exp(1j * (np.arctan2(points[:, 1], points[:, 0]) - roughly)))
    return float(np.degrees(roughly + (off.min() + off.max()) / 2))


@pytest.mark.parametrize(
    ("kind", "params", "products", "code", "param"),
    [
        ("counterpart", {"by": "turn"}, {}, "bad-params", "axis"),
        ("counterpart", {"by": "turn", "count": 2.5}, {"axis": AXIS}, "bad-params", "count"),
        ("counterpart", {"spacing": "0 mm"}, {"plane": MIDDLE}, "bad-params", "spacing"),
        ("counterpart", {"spacing": "0.0001 mm"}, {"plane": MIDDLE}, "out-of-memory", "spacing"),
        ("sector", {"count": 1}, {"axis": AXIS}, "bad-params", "count"),
        ("sector", {}, {"axis": Place("axis", (0.0, 0.0, 0.0), (1.0, 0.0, 0.0))}, "no-symmetry", "axis"),
    ],
)
def test_what_cannot_be_is_refused_with_its_place(halves, toothed, kind, params, products, code, param):
    with pytest.raises(ContourError) as refused:
        made(kind, halves if "plane" in products else toothed, params, **products)
    assert (refused.value.problem.code, refused.value.problem.where.param) == (code, param)
    assert refused.value.problem.remedy
