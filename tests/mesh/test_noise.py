"""Noise read from a scan, held against the noise that was put on it: thinned meshes, threads and knurls, fine and coarse."""

from __future__ import annotations

import fast_simplification
import numpy as np
import pytest

from contour.mesh.noise import noise_among, noise_at, noise_map
from contour.mesh.prepare import PreparedScan, prepare_scan
from contour.mesh.topology import vertex_facets
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
