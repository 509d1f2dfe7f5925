"""Threads in scans of known ones: found, with their hand and side, at the true pitch, diameters and axis; nothing else is taken for one."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from contour.fit.segment.whole import segment
from contour.fit.thread.form import thread_form, wall_residuals
from contour.fit.thread.walls import threaded_walls
from contour.intent.likely_threads import likely_threads
from contour.recipe.problem import ContourError
from contour.simulate.threaded import ThreadedPart
from tests.fit.threaded import axis_of, scan_of

HOLE = ThreadedPart(10.0, 1.5, 14.0)
STUD = ThreadedPart(12.0, 1.75, 15.0, inside=False, hand=-1)
INCH = ThreadedPart(12.7, 25.4 / 13, 14.0)


@pytest.mark.parametrize(("part", "name"), [(HOLE, "M10x1.5"), (STUD, "M12x1.75"), (INCH, "1/2-13 UNC")])
def test_a_thread_is_found_with_its_figures(part: ThreadedPart, name: str) -> None:
    scan = scan_of(part)
    (wall,) = threaded_walls(scan)
    form = wall.form
    point, axis = axis_of(part)
    assert form.hand == part.hand and form.inside == part.inside and form.starts == 1
    assert form.pitch == pytest.approx(part.pitch, rel=2e-3)
    assert form.major == pytest.approx(part.major, abs=max(0.03, 3 * form.u_diameter))
    assert form.major - form.minor == pytest.approx(part.major - part.minor, rel=2e-3)
    assert abs(form.axis @ axis) > np.cos(np.radians(0.2))
    off = form.point - point
    assert np.linalg.norm(off - (off @ axis) * axis) < 0.03
    near = likely_threads(form)
    assert near[0].thread.designation == name and near[0].difference_u < near[1].difference_u
    rest, along = wall_residuals(form, scan.centroids[wall.facets])
    inner = (along > form.low) & (along < form.high)
    assert np.median(np.abs(rest[inner])) < 3 * scan.noise_mm


@pytest.mark.parametrize("part", [replace(HOLE, hand=0), replace(STUD, hand=0), replace(HOLE, hand=0, worn_mm=0.4)])
def test_a_plain_or_worn_wall_is_no_thread(part: ThreadedPart) -> None:
    assert threaded_walls(scan_of(part)) == []


def test_grooves_around_an_axis_are_no_thread() -> None:
    rng = np.random.default_rng(2)
    turn, z = rng.uniform(-np.pi, np.pi, 20_000), rng.uniform(0, 20, 20_000)
    for starts, wanted in ((0, None), (1, 1), (2, 2)):
        phase = 2 * np.pi * z / 2.0 - starts * turn
        r = 8 + 0.5 * np.cos(phase) + rng.normal(0, 0.01, len(z))
        points = np.column_stack([r * np.cos(turn), r * np.sin(turn), z])
        # The normal of r = f(turn, z): radial part 1, along minus df/dz, around minus df/dturn / r.
        slope = -0.5 * np.sin(phase)
        normals = np.column_stack([np.cos(turn), np.sin(turn), -slope * np.pi])
        normals[:, :2] += (slope * starts / r)[:, None] * np.column_stack([-np.sin(turn), np.cos(turn)])
        normals /= np.linalg.norm(normals, axis=1)[:, None]
        form = thread_form(points, normals, np.ones(len(z)), edge_mm=0.3, noise_mm=0.01)
        assert (form.starts if form else None) == wanted
        if form:
            assert form.pitch == pytest.approx(2.0, rel=1e-3) and form.mean_radius == pytest.approx(8.0, abs=0.01)


def test_a_whole_scan_has_its_thread_as_a_region_and_no_wear() -> None:
    found = segment(scan_of(HOLE))
    kinds = [r.kind for r in found.regions]
    assert kinds.count("thread") == 1 and kinds.count("plane") == 6
    assert all(r.worn_area == 0 for r in found.regions)
    thread = found.regions[kinds.index("thread")]
    assert thread.thread is not None and thread.rms < 3 * found.noise


def test_regions_that_are_kept_already_are_not_taken_for_threads() -> None:
    scan = scan_of(HOLE)
    (wall,) = threaded_walls(scan)
    found = segment(scan, protected=((wall.facets, wall.form.cylinder),))
    assert "thread" not in [r.kind for r in found.regions]


def test_the_search_can_be_stopped() -> None:
    def stop(_: float) -> None:
        raise ContourError("cancelled", "stopped", remedy="begin again")

    with pytest.raises(ContourError):
        threaded_walls(scan_of(HOLE), stop)
