"""The same part a thousand times as small or large gives the same regions, in its own measure."""

from __future__ import annotations

from functools import cache

import numpy as np
import pytest

from contour.fit.segment.scale import handy_scale, scaled_scan
from contour.fit.segment.whole import Segmentation, Settings, segment
from contour.mesh.facets import Mesh
from contour.mesh.prepare import PreparedScan, prepare_mesh
from tests.fit.test_thread import HOLE
from tests.fit.threaded import scan_of


def times(scan: PreparedScan, by: float) -> PreparedScan:
    mesh = Mesh(scan.vertices * by, np.array(scan.facets), np.arange(len(scan.facets), dtype=np.int64))
    return prepare_mesh(mesh, pose=np.eye(4), raw_facets=len(scan.facets))


@cache
def found(by: float) -> Segmentation:
    """The part so many times as large, taken apart once for all tests."""
    return segment(times(scan_of(HOLE), by))


def test_what_a_hand_can_hold_is_left_as_it_is() -> None:
    scan = scan_of(HOLE)
    assert handy_scale(scan) == 1.0
    small = scaled_scan(scan, 1e-4)
    assert small.edge_mm * handy_scale(small) == pytest.approx(0.5, rel=2.5)


@pytest.mark.parametrize("by", [1e-3, 1e3])
def test_a_part_of_another_size_has_the_same_regions_in_its_own_measure(by: float) -> None:
    here, there = found(1.0), found(by)
    assert there.noise == pytest.approx(by * here.noise, rel=0.05)
    assert [r.kind for r in there.regions].count("plane") == [r.kind for r in here.regions].count("plane") == 6
    (one,), (other,) = ([r for r in f.regions if r.kind == "thread"] for f in (here, there))
    assert one.thread is not None and other.thread is not None
    for name in ("pitch", "major", "mean_radius", "u_diameter"):
        assert getattr(other.thread, name) == pytest.approx(by * getattr(one.thread, name), rel=0.02)
    assert other.area == pytest.approx(by**2 * one.area, rel=0.02)
    top, top_there = (next(r for r in f.regions if r.kind == "plane") for f in (here, there))
    assert top.uncertainty is not None and top_there.uncertainty is not None
    assert top_there.uncertainty.position == pytest.approx(by * top.uncertainty.position, rel=0.3)


def test_the_smallest_region_is_said_in_the_part_s_own_measure() -> None:
    faces = [r.area for r in found(1e3).regions]
    some = sorted(faces)[-2]
    assert len(segment(times(scan_of(HOLE), 1e3), Settings(least_area=some * 0.99)).regions) < len(faces)
