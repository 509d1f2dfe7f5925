"""Whole-scan segmentation against the faces that were scanned, and on scans that ask for a refusal."""

from __future__ import annotations

import numpy as np
import pytest

from benchmarks.segment_truth import holed_scan, score
from contour.exchange.scanfile import RawScan
from contour.fit.segment.labels import depth_of, pieces
from contour.fit.segment.whole import Settings, segment
from contour.mesh.prepare import PreparedScan, prepare_scan
from contour.recipe.problem import ContourError
from contour.solid.exact_arrays import exact_arrays
from demo.truth_parts import hawse_casting, valve_block


@pytest.fixture(scope="module")
def casting() -> tuple[PreparedScan, np.ndarray, object]:
    solid = exact_arrays(hawse_casting())
    return (*holed_scan(solid, spacing=0.8, noise=0.02, missing=0.1, seed=8), solid)


def test_a_drafted_casting_comes_apart_into_its_faces(casting) -> None:
    scan, true, solid = casting
    found = segment(scan)
    s = score(scan, true, found, solid)
    assert s.right > 0.96 and s.right_inside > 0.98
    assert s.found >= s.faces - 1 and s.spurious <= 2
    assert np.median(s.plane_angles) < 0.02
    assert np.mean([abs(d) < 3 * u for d, u in s.diameters]) > 0.8
    assert found.noise == pytest.approx(0.02, rel=0.2)
    sizes = [r.area for r in found.regions]
    assert sizes == sorted(sizes, reverse=True)
    assert all(found.labels[r.middle] == k for k, r in enumerate(found.regions))


def test_a_protected_region_stays_and_progress_is_told(casting) -> None:
    scan, _, _ = casting
    first = segment(scan)
    plane = next(k for k, r in enumerate(first.regions) if r.kind == "plane")
    mine = np.flatnonzero(first.labels == plane)[:200]
    surface = first.regions[plane].surface
    assert surface is not None
    told: list[float] = []
    again = segment(scan, protected=((mine, surface),), report=lambda _, share: told.append(share))
    kept = np.unique(again.labels[mine])
    assert len(kept) == 1 and int((again.labels == kept[0]).sum()) >= 200
    assert told == sorted(told) and told[-1] < 1

    def stop(_: str, share: float) -> None:
        if share > 0.3:
            raise InterruptedError

    with pytest.raises(InterruptedError):
        segment(scan, report=stop)


def test_coarser_and_larger_give_fewer_regions() -> None:
    scan, _ = holed_scan(exact_arrays(valve_block()), spacing=1.1, noise=0.02, missing=0.0, seed=2)
    fine = segment(scan)
    large = segment(scan, Settings(least_area=60.0))
    assert len(large.regions) < len(fine.regions)
    assert min(r.area for r in large.regions) > 50


def test_all_noise_is_said_to_hold_nothing() -> None:
    rng = np.random.default_rng(3)
    grid = np.stack(np.meshgrid(np.arange(40.0), np.arange(40.0), indexing="ij"), -1).reshape(-1, 2)
    points = np.column_stack([grid, rng.normal(0, 3, len(grid))])
    a = (np.arange(39)[:, None] * 40 + np.arange(39)).ravel()
    facets = np.vstack([np.column_stack([a, a + 40, a + 41]), np.column_stack([a, a + 41, a + 1])])
    raw = RawScan(points[facets], np.arange(len(facets)), len(facets), "stl")
    with pytest.raises(ContourError, match="noise"):
        segment(prepare_scan(raw, 1.0))


def test_pieces_and_depth_of_a_strip() -> None:
    """A strip of 6 facets in a row, the last two of another label."""
    across = np.full((6, 3), -1, np.int32)
    for k in range(5):
        across[k, 1], across[k + 1, 0] = 3 * (k + 1), 3 * k + 1
    labels = np.array([0, 0, 0, 0, 1, 1])
    number, count = pieces(labels, across)
    assert count == 2 and number.tolist() == [0, 0, 0, 0, 1, 1]
    assert depth_of(labels, across, 5).max() == 0  # every facet has an open side


def test_two_separate_pieces_and_a_fin_that_three_facets_share_are_taken_apart(block_scan) -> None:
    """Open sides, two components and an edge of three facets: nothing ends the search, and the faces of both are found."""
    corners = block_scan.vertices[block_scan.facets]
    beside = corners + [70.0, 0, 0]
    side = corners[len(corners) // 2, :2]
    fin = np.array([[side[0], side[1], side.mean(axis=0) + [0, 0, 3.0]]])
    holed = beside[np.linalg.norm(beside.mean(axis=1) - beside.mean(axis=(0, 1)), axis=1) > 12]
    both = np.vstack([corners, holed, fin])
    scan = prepare_scan(RawScan(both, np.arange(len(both)), len(both), "stl"), 1.0)
    assert (scan.across < 0).any()
    found = segment(scan)
    kinds = [r.kind for r in found.regions]
    assert kinds.count("plane") >= 8 and kinds.count("cylinder") >= 1
    assert (found.labels >= 0).mean() > 0.9
