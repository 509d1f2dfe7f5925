"""Rounds, chamfers and pieces of one surface, on scans whose truth is known."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from benchmarks.segment_truth import holed_scan
from contour.check.exact_arrays import exact_arrays
from contour.fit.covariance import Covariance
from contour.fit.segment.relations import Relation, neighbours_of, relations
from contour.fit.segment.whole import Segmentation, segment
from contour.mesh.prepare import PreparedScan
from demo.truth_parts import hawse_casting, valve_block

Found = tuple[PreparedScan, Segmentation, tuple[Relation, ...]]


@pytest.fixture(scope="module")
def casting() -> Found:
    scan, _ = holed_scan(exact_arrays(hawse_casting()), spacing=0.7, noise=0.02, missing=0.0, seed=4)
    found = segment(scan)
    return scan, found, relations(scan, found)


@pytest.fixture(scope="module")
def block() -> Found:
    scan, _ = holed_scan(exact_arrays(valve_block()), spacing=0.6, noise=0.02, missing=0.0, seed=5)
    found = segment(scan)
    return scan, found, relations(scan, found)


def radii(found: Found, *, blends: bool) -> list[float]:
    out = []
    for region, r in zip(found[1].regions, found[2], strict=True):
        if region.surface is not None and region.kind in ("cylinder", "torus") and (r.blend is not None) == blends:
            out.append(region.surface.minor if region.kind == "torus" else region.surface.radius)
    return sorted(out)


def test_rounded_edges_of_a_casting_are_rounds_and_its_bores_are_not(casting: Found) -> None:
    rounds = radii(casting, blends=True)
    assert len(rounds) >= 5 and all(min(abs(r - true) for true in (4, 5)) < 0.1 * r for r in rounds)
    assert radii(casting, blends=False) == pytest.approx([4, 4, 7.5], abs=0.06)


def test_a_round_names_the_two_it_lies_between(casting: Found) -> None:
    scan, found, related = casting
    beside = neighbours_of(scan, found)
    for k, r in enumerate(related):
        if r.blend is not None:
            assert set(r.blend) <= set(beside[k]) and k not in r.blend
            assert r.ball_mm == pytest.approx(5, rel=0.25)


def test_a_weak_round_is_measured_by_the_ball_that_rolls_along_it(block: Found) -> None:
    weak = [r for r in block[2] if r.weak and r.ball_mm is not None]
    assert all(0.5 < (r.ball_mm or 0) < 8 for r in weak)
    strong = [r.ball_mm for r in block[2] if r.blend is not None and not r.weak]
    assert strong and all(min(abs((r or 0) - true) for true in (3, 6)) < 0.3 for r in strong)


def test_a_slope_is_a_face_and_no_chamfer(block: Found) -> None:
    cut = [g for g, r in zip(block[1].regions, block[2], strict=True) if r.chamfer is not None]
    assert max((g.area for g in cut if g.kind == "plane"), default=0.0) < 200


def test_bores_in_line_lie_on_one_surface(block: Found) -> None:
    """The cross bore goes through the large one: two pieces, one surface."""
    shared: dict[int, list[int]] = {}
    for k, r in enumerate(block[2]):
        shared.setdefault(r.same_surface, []).append(k)
    pairs = [ks for ks in shared.values() if len(ks) > 1]
    for ks in pairs:
        kinds = {block[1].regions[k].kind for k in ks}
        assert len(kinds) == 1
        normals = [np.array(block[1].regions[k].surface.axis) for k in ks]  # type: ignore[union-attr]
        assert all(abs(float(n @ normals[0])) > 0.9999 for n in normals)


def test_a_region_that_its_points_do_not_settle_is_nobodys_piece_and_stops_nothing(block: Found) -> None:
    scan, found, _ = block
    lost = Covariance(float("inf"), float("inf"), float("inf"))
    bore = next(k for k, r in enumerate(found.regions) if r.kind == "cylinder")
    regions = tuple(replace(r, uncertainty=lost) if k == bore else r for k, r in enumerate(found.regions))
    related = relations(scan, replace(found, regions=regions))
    assert [k for k, r in enumerate(related) if r.same_surface == related[bore].same_surface] == [bore]
    assert not lost.settled
