import numpy as np
import pytest

from contour.check.exact_arrays import exact_arrays
from contour.check.exact_distance import signed_distances
from contour.mesh.health import inspect_scan
from contour.simulate.loops import softened_loop
from contour.simulate.scanner import Pose, ScanSettings, virtual_scan
from tests.conftest import prism, raw_scan, rectangle


@pytest.fixture(scope="module")
def box():
    return exact_arrays(prism(rectangle(20, 15), 8).shape)


def test_a_full_scan_is_closed_even_and_as_noisy_as_asked(box):
    scan = virtual_scan(box, ScanSettings(spacing_mm=0.6, noise_mm=0.03, soften=1, seed=5))
    facts = inspect_scan(raw_scan(scan.vertices[scan.facets]), 1.0)
    assert facts.closed
    assert facts.components == 1
    assert facts.volume == pytest.approx(20 * 15 * 8, rel=0.01)
    d = signed_distances(box, scan.vertices)[0]
    flat = np.abs(scan.vertices - [10, 7.5, 4]).max(axis=1)
    inner = (np.abs(scan.vertices[:, 0] - 10) < 8) & (np.abs(scan.vertices[:, 1] - 7.5) < 6)
    assert np.std(d[inner]) == pytest.approx(0.03, rel=0.15)
    assert flat.max() < 11
    sides = np.linalg.norm(scan.vertices[scan.facets[:, 0]] - scan.vertices[scan.facets[:, 1]], axis=1)
    assert np.percentile(sides, 99) < 2.2 * np.median(sides)


def test_the_same_seed_gives_the_same_scan(box):
    settings = ScanSettings(spacing_mm=1.0, seed=7)
    assert np.array_equal(virtual_scan(box, settings).vertices, virtual_scan(box, settings).vertices)


def test_what_no_view_sees_is_missing(box):
    scan = virtual_scan(box, ScanSettings(spacing_mm=0.8, noise_mm=0, views=((0, 0, 1), (1, 0, 0.5))))
    centres = scan.vertices[scan.facets].mean(axis=1)
    assert (centres[:, 2] > 7.5).any()
    assert (centres[:, 0] > 19.5).any()
    assert not ((centres[:, 2] < 0.2) & (centres[:, 0] < 19)).any()  # the underside


def test_dropouts_wear_and_pose(box):
    pose = Pose((0, 0, 90), (5, 0, 0))
    settings = ScanSettings(
        spacing_mm=0.8,
        noise_mm=0,
        soften=0,
        dropouts=(((10, 7.5, 8), 3.0),),
        pose=pose,
        wear=lambda p: np.where(p[:, 2:] > 7.99, p + [0, 0, 0.5], p),
    )
    scan = virtual_scan(box, settings)
    home = (scan.vertices - [5, 0, 0]) @ pose.rotation
    assert home[:, 2].max() == pytest.approx(8.5)
    centres = home[scan.facets].mean(axis=1)
    assert np.linalg.norm(centres - [10, 7.5, 8.5], axis=1).min() > 2.7
    assert np.ptp(scan.vertices, axis=0)[:2] == pytest.approx([15, 20], abs=0.05)


def test_loops_have_what_they_promise():
    for seed in range(5):
        loop = softened_loop(seed)
        assert 6 <= len(loop.kinds) <= 20
        gaps = np.linalg.norm(np.diff(loop.points, axis=0, append=loop.points[:1]), axis=1)
        assert gaps.max() < 2.5 * loop.edge_mm
