"""Noise read from a scan, held against the noise that was put on it: thinned meshes, threads and knurls, fine and coarse."""

from __future__ import annotations

import fast_simplification
import numpy as np
import pytest

from benchmarks.segment_truth import holed_scan
from contour.check.exact_arrays import exact_arrays
from contour.fit.region import default_tolerance, grow_region
from contour.mesh.noise import noise_among, noise_at, noise_map, noise_near, uneven_noise
from contour.mesh.prepare import PreparedScan, prepare_scan
from contour.mesh.reshape import smoothed
from contour.mesh.topology import vertex_facets
from demo.truth_parts import valve_block
from tests.conftest import raw_scan


def plate(noise: float, *, ribs: float = 0.0, scale: float = 1.0) -> tuple[np.ndarray, np.ndarray]:
    """A plate of 60 x 40 with a rounded edge along it, ribbed (0.3 mm every 1.5) over a share of its length; vertices, facets."""
    x, y = np.meshgrid(np.arange(0, 60, 0.4), np.arange(0, 40, 0.4), indexing="ij")
    z = np.where(y > 34, -np.square(y - 34) / 6, 0.0)
    z += np.where(x < 60 * ribs, 0.15 * np.sin(2 * np.pi * x / 1.5), 0.0)
    rng = np.random.default_rng(11)
    points = np.stack([x, y, z + rng.normal(0, noise, x.shape)], axis=-1).reshape(-1, 3) * scale
    rows, columns = x.shape
    k = (np.arange(rows - 1)[:, None] * columns + np.arange(columns - 1)).ravel()
    return points, np.vstack([np.stack([k, k + columns, k + columns + 1], 1), np.stack([k, k + columns + 1, k + 1], 1)])


def scanned(points: np.ndarray, facets: np.ndarray) -> PreparedScan:
    return prepare_scan(raw_scan(points[facets]), 1.0)


def thinned(points: np.ndarray, facets: np.ndarray) -> PreparedScan:
    """As a scanner thins where it is flat: to a tenth, by what each vertex takes from the shape."""
    fewer, of = fast_simplification.simplify(points.astype(np.float32), facets.astype(np.int32), target_reduction=0.9)
    return scanned(fewer.astype(float), of)


@pytest.mark.parametrize("noise", [0.005, 0.03, 0.1])
@pytest.mark.parametrize("ribs", [0.0, 0.3])
def test_noise_is_read_as_it_was_made(noise: float, ribs: float) -> None:
    assert scanned(*plate(noise, ribs=ribs)).noise_mm == pytest.approx(noise, rel=0.15)


@pytest.mark.parametrize("noise", [0.005, 0.03, 0.1])
def test_noise_of_a_thinned_scan_is_that_of_the_scan(noise: float) -> None:
    scan = thinned(*plate(noise))
    assert len(scan.facets) < 4000
    assert scan.noise_mm == pytest.approx(noise, rel=0.3)


@pytest.mark.parametrize("scale", [1e-3, 1e3])
def test_noise_goes_with_the_unit(scale: float) -> None:
    assert scanned(*plate(0.03, scale=scale)).noise_mm == pytest.approx(0.03 * scale, rel=0.15)


def test_what_is_left_of_a_patch_says_nothing_where_there_are_too_few_vertices() -> None:
    points, facets = plate(0.03)
    few = facets[:6]
    offsets, around = vertex_facets(few.astype(np.int32), len(points))
    assert np.isnan(noise_at(points, few.astype(np.int32), offsets, around, np.array([few[0, 0]]))).all()


def test_a_part_of_the_scan_has_its_own_noise() -> None:
    points, facets = plate(0.0)
    loud = points[:, 0] > 30
    rng = np.random.default_rng(5)
    points[:, 2] += rng.normal(0, 1, len(points)) * np.where(loud, 0.08, 0.02)
    scan = scanned(points, facets)
    offsets, around = vertex_facets(scan.facets, len(scan.vertices))
    x = scan.vertices[:, 0]
    for own, noise in ((x > 33, 0.08), (x < 27, 0.02)):
        read = noise_among(scan.vertices, scan.facets, offsets, around, np.flatnonzero(own))
        assert read == pytest.approx(noise, rel=0.2)
    assert noise_among(scan.vertices, scan.facets, offsets, around, np.arange(3)) is None


def mapped(points: np.ndarray, facets: np.ndarray) -> np.ndarray:
    offsets, around = vertex_facets(facets.astype(np.int32), len(points))
    return noise_map(points, facets.astype(np.int32), offsets, around)


def test_a_map_tells_the_noisy_half_from_the_quiet_one() -> None:
    points, facets = plate(0.01)
    noisy = points[:, 0] > 30
    points[noisy, 2] += np.random.default_rng(3).normal(0, 0.05, noisy.sum())
    here = mapped(points, facets)
    assert here.shape == (len(facets),)
    middle = points[facets].mean(axis=1)
    quiet, noisy = ((middle[:, 1] < 33) & side for side in (middle[:, 0] < 27, middle[:, 0] > 33))
    assert np.median(here[quiet]) == pytest.approx(0.01, rel=0.15)
    assert np.median(here[noisy]) == pytest.approx(np.hypot(0.01, 0.05), rel=0.15)
    assert here[quiet].max() < 0.02 and here[noisy].min() > 0.03


def test_a_rounded_edge_is_no_noise() -> None:
    points, facets = plate(0.02)
    here = mapped(points, facets)
    y = points[facets].mean(axis=1)[:, 1]
    round_ = (y > 35) & (y < 39)
    lean = np.cos(np.arctan((y[round_] - 34) / 3))  # noise was put on along z: across the surface it is less
    assert np.median(here[round_] / lean) == pytest.approx(0.02, rel=0.2)
    assert np.median(here[y < 30]) == pytest.approx(0.02, rel=0.15)


def test_a_mesh_too_small_to_tell_has_no_map() -> None:
    points, facets = plate(0.02)
    few = np.flatnonzero(facets.max(axis=1) < 100)
    assert not mapped(points[:100], facets[few]).any()


def halves(quiet: float, loud: float) -> PreparedScan:
    """A plate whose far half was scanned with another noise."""
    points, facets = plate(quiet)
    loud_points, _ = plate(loud)
    return scanned(np.where(points[:, :1] > 30, loud_points, points), facets)


def at(scan: PreparedScan, x: float, y: float) -> int:
    return int(np.argmin(np.linalg.norm(scan.centroids[:, :2] - (x, y), axis=1)))


def near(scan: PreparedScan, x: float, y: float) -> float:
    return noise_near(scan.vertices, scan.facets, scan.across, at(scan, x, y), scan.noise_mm)


def test_a_place_goes_by_its_own_noise_where_that_is_clearly_another() -> None:
    scan = halves(0.01, 0.05)
    assert scan.noise_mm == pytest.approx(0.011, abs=0.003)  # the quiet quarter is heard
    assert near(scan, 50, 15) == pytest.approx(0.05, rel=0.2)
    assert near(scan, 10, 15) == scan.noise_mm  # as the whole: no jitter from place to place
    even = scanned(*plate(0.02))
    assert {near(even, x, y) for x in (5, 20, 30, 50) for y in (5, 20, 34, 38)} == {even.noise_mm}


def test_what_was_never_scanned_has_no_noise_anywhere() -> None:
    scan = halves(0.01, 0.05)
    assert noise_near(scan.vertices, scan.facets, scan.across, at(scan, 50, 15), 0.0) == 0.0
    assert uneven_noise(scan.vertices, scan.facets, scan.areas, 0.0) is None


def test_noise_by_facet_is_told_only_where_it_differs_over_a_good_part_of_the_scan() -> None:
    scan = halves(0.01, 0.05)
    here = uneven_noise(scan.vertices, scan.facets, scan.areas, scan.noise_mm)
    assert here is not None
    x = scan.centroids[:, 0]
    assert np.median(here[x > 33]) == pytest.approx(0.05, rel=0.2)
    assert (here[x < 27] == scan.noise_mm).mean() > 0.9  # along the rounded edge it leans
    for points, facets in (plate(0.02), plate(0.03)):
        even = scanned(points, facets)
        assert uneven_noise(even.vertices, even.facets, even.areas, even.noise_mm) is None


@pytest.mark.parametrize(("spacing", "rounds"), [(1.1, 0), (0.8, 6), (1.1, 2)])
def test_what_edges_and_smoothing_leave_of_a_patch_is_no_noise_of_its_own(spacing, rounds) -> None:
    """On facets as large as fillets, and where a scan was smoothed, four places in five leave more than twice the scan's noise."""
    scan, _ = holed_scan(exact_arrays(valve_block()), spacing=spacing, noise=0.02, missing=0.0, seed=2)
    if rounds:
        points = smoothed(scan, rounds=rounds, most_mm=0.1)
        scan = prepare_scan(raw_scan(points[scan.facets]), 1.0)
    assert uneven_noise(scan.vertices, scan.facets, scan.areas, scan.noise_mm) is None
    some = np.random.default_rng(4).choice(len(scan.facets), 60, replace=False)
    here = [noise_near(scan.vertices, scan.facets, scan.across, int(f), scan.noise_mm) for f in some]
    assert np.mean(np.array(here) == scan.noise_mm) > 0.95


def test_a_click_on_the_noisy_half_takes_the_whole_face() -> None:
    """By the noise of the quiet half a facet in three was left out of it."""
    scan = halves(0.01, 0.06)
    loud = default_tolerance(scan, at(scan, 50, 15))
    assert loud == pytest.approx(0.18, rel=0.2) and default_tolerance(scan) < 0.05
    flat = (scan.centroids[:, 0] > 32) & (scan.centroids[:, 1] < 33)
    share = {}
    for tolerance in (None, default_tolerance(scan)):
        grown = grow_region(scan, np.array([at(scan, 50, 15)]), tolerance_mm=tolerance)
        assert grown.surface.kind == "plane"
        share[tolerance] = np.isin(np.flatnonzero(flat), grown.facets).mean()
    assert share[None] > 0.97 > share[default_tolerance(scan)] + 0.1
