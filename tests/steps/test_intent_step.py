"""The intent step by itself: regions given back under their own ids, values held, costs told, wrong demands located."""

from __future__ import annotations

import numpy as np
import pytest

from contour.fit.covariance import fit_covariance
from contour.fit.region import grow_region, inner_vertices
from contour.products.region import RegionProduct
from contour.products.scan import ScanProduct
from contour.recipe.problem import ContourError
from tests.conftest import facet_near
from tests.steps.helpers import run


def product(scan, place, kind) -> RegionProduct:
    region = grow_region(scan, np.array([facet_near(scan, place)]), kind=kind)
    own = np.unique(scan.source_facet[region.facets])
    u = fit_covariance(
        region.surface, scan.vertices[inner_vertices(scan, region.facets)], edge_mm=scan.edge_mm
    ).as_json()
    middle = scan.centroids[region.facets].mean(axis=0)
    return RegionProduct(own, region.surface, region.rms, tuple(middle), 15.0, u)


@pytest.fixture(scope="module")
def regions(block_scan):
    return {
        "top": product(block_scan, (33, 22, 10), "plane"),
        "bottom": product(block_scan, (33, 22, 0), "plane"),
        "bore": product(block_scan, (21, 15, 5), "cylinder"),
    }


def agreed(scan, regions, names, relations):
    ids = [{"id": n} for n in names]
    products = {"scan": ScanProduct(scan), **{f"regions[{i}]": regions[n] for i, n in enumerate(names)}}
    return run("intent", {"scan": {"id": "s"}, "regions": ids, "relations": relations}, products)


def test_what_is_agreed_holds_and_regions_come_back_under_their_ids(block_scan, regions):
    made = agreed(
        block_scan,
        regions,
        ["top", "bottom", "bore"],
        [
            {"kind": "distance", "members": [0, 1], "size": {"text": "10 mm", "mark": "intent"}},
            {
                "kind": "size",
                "members": [2],
                "diameter": True,
                "size": {"text": "12 mm", "mark": "intent"},
                "measured": 11.97,
                "u": 0.02,
            },
            {"kind": "perpendicular", "members": [0, 2]},
            {"kind": "parallel", "members": [0, 1]},
        ][:3],
    )
    top, bottom, bore = (made.puts[n].surface for n in ("top", "bottom", "bore"))
    assert abs(np.dot(np.subtract(top.origin, bottom.origin), top.axis)) == pytest.approx(10, abs=1e-6)
    assert bore.radius == pytest.approx(6, abs=1e-7) and bore.outward == -1
    facts = made.facts.regions
    assert facts["bore"].diameter == pytest.approx(12) and facts["bore"].marks["diameter"] == "intent"
    assert facts["top"].marks == {} and "radius" not in made.puts["bore"].u
    assert made.facts.agreed == 3 and [r.measured for r in made.facts.rows][1] == 11.97


def test_square_axis_and_face_cannot_be_had_of_a_bore_through_it(block_scan, regions):
    """An axis square to the normal would lie in the face: far from what was scanned, so it is said, and it is costly."""
    made = agreed(
        block_scan,
        regions,
        ["top", "bore"],
        [{"kind": "parallel", "members": [0, 1], "text": "bore square to the top"}],
    )
    assert made.facts.dearest < 3 and made.problems == ()
    dear = agreed(
        block_scan,
        regions,
        ["top", "bottom"],
        [{"kind": "distance", "members": [0, 1], "size": {"text": "10.8 mm"}, "text": "10.8"}],
    )
    (problem,) = dear.problems
    assert problem.code == "far-from-scan" and problem.where.param == "relations[0]" and problem.where.point is not None


@pytest.mark.parametrize(
    ("relations", "code", "place"),
    [
        ([{"kind": "size", "members": [0], "size": {"text": "4 mm"}}], "wrong-kind", "relations[0]"),
        ([{"kind": "size", "members": [2], "size": {"text": "0 mm"}}], "bad-params", "relations[0].size"),
        ([{"kind": "distance", "members": [0, 1]}], "bad-params", "relations[0]"),
        ([{"kind": "parallel", "members": [0, 7]}], "bad-params", "relations[0]"),
        ([{"kind": "parallel", "members": [0]}], "degenerate", "relations[0]"),
        ([{"kind": "bolt-circle", "members": [0, 1, 2], "slots": [0], "count": 4}], "degenerate", "relations[0]"),
    ],
)
def test_demands_that_make_no_sense_are_located(block_scan, regions, relations, code, place):
    with pytest.raises(ContourError) as caught:
        agreed(block_scan, regions, ["top", "bottom", "bore"], relations)
    assert caught.value.problem.code == code and caught.value.problem.where.param == place
