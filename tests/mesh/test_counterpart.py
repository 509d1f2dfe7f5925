"""What is taken over is held against the part itself, which is known where the scan is not."""

import numpy as np
import pytest

from contour.check.exact_arrays import exact_arrays
from contour.check.exact_distance import signed_distances
from contour.geometry.rigid import moved, reflection, rotation
from contour.mesh.counterpart import borrowed
from contour.mesh.prepare import mesh_of
from contour.solid.boolean import combine
from tests.conftest import circle, prism
from tests.register.test_placing import some_pose, symmetric
from tests.wheels import holed_disc, scan_without, wheel

Z = np.array([0, 0, 1.0])
ACROSS = reflection(np.array([30.0, 0, 0]), np.array([1.0, 0, 0]))
GONE = (((9.0, 9.0, 12.0), 5.0), ((60.0, 20.0, 6.0), 7.0), ((22.0, 33.0, 20.0), 6.0))


def filled(scan, laid):
    return borrowed(mesh_of(scan), laid, side_mm=scan.edge_mm, step_mm=scan.edge_mm / 1.2)


def open_sides(mesh) -> int:
    return int((mesh.across() < 0).sum())


def off_from(body, points) -> np.ndarray:
    return np.abs(np.asarray(signed_distances(exact_arrays(body.shape), points)[0]))


def test_holes_in_one_half_are_closed_by_the_other():
    """Over a hole's mouth, at an edge and at the foot of a boss, where no smooth patch would do."""
    body = symmetric()
    scan = scan_without(body, GONE)
    assert open_sides(mesh_of(scan)) > 150
    found = filled(scan, [ACROSS])
    assert (found.pieces, found.refused, open_sides(found.mesh)) == (3, (), 0)
    fresh = found.mesh.source < 0
    area = sum(np.pi * r**2 for _, r in GONE)
    assert 0.5 * area < found.area < 2 * area
    # What was taken over lies on the part as what was scanned does: sharp edges are cut by up to a facet there and here.
    off = off_from(body, found.mesh.vertices[np.unique(found.mesh.facets[fresh])])
    assert np.quantile(off, 0.9) < 0.06 and off.max() < 0.7 * scan.edge_mm


def test_what_was_scanned_keeps_its_numbers_and_what_was_taken_over_has_none():
    scan = scan_without(symmetric(), GONE)
    mesh = filled(scan, [ACROSS]).mesh
    middle = mesh.vertices[mesh.facets].mean(axis=1)
    inside = np.any([np.linalg.norm(middle - np.array(at), axis=1) < r - 2 for at, r in GONE], axis=0)
    outside = np.all([np.linalg.norm(middle - np.array(at), axis=1) > r + 3 for at, r in GONE], axis=0)
    assert inside.sum() > 100 and (mesh.source[inside] == -1).all()
    assert (mesh.source[outside] >= 0).mean() > 0.999
    own = mesh.source >= 0
    away = np.linalg.norm(middle[own] - scan.centroids[scan.facets_of_source(mesh.source[own])], axis=1)
    assert np.quantile(away, 0.99) < 2 * scan.edge_mm


def test_a_feature_of_one_side_is_not_taken_over_and_its_place_is_told():
    body = combine(symmetric(), prism([circle(50, 30, 3)], 40, z=-5, prefix="x"), "subtract")
    found = filled(scan_without(body, GONE), [ACROSS])
    assert found.pieces == 3
    (place,) = found.refused
    assert np.linalg.norm(np.array(place)[:2] - [10, 30]) < 0.5  # the mirror image of the hole's wall
    assert off_from(body, found.mesh.vertices).max() < 0.8


@pytest.mark.parametrize(("body", "count"), [(wheel(9), 9), (holed_disc(5), 5)])
def test_what_one_lacks_is_taken_from_the_others_around_an_axis(body, count):
    pose = some_pose(count)
    scan = scan_without(body, (((22.0, 1.0, 9.0), 5.0), ((13.0, 0.0, 0.0), 4.0)), pose=pose)
    at, along = moved(pose, np.zeros(3)), pose[:3, :3] @ Z
    found = filled(scan, [rotation(at, along, 2 * np.pi * k / count) for k in range(1, count)])
    assert open_sides(found.mesh) == 0 and found.pieces >= 2 and not found.refused
    here = (np.linalg.inv(pose) @ np.column_stack([found.mesh.vertices, np.ones(len(found.mesh.vertices))]).T).T[:, :3]
    off = off_from(body, here)
    assert np.quantile(off, 0.95) < 0.12 and off.max() < 0.8


def test_where_both_sides_lack_it_nothing_comes():
    gone = (((9.0, 30.0, 12.0), 4.0), ((51.0, 30.0, 12.0), 4.0))
    scan = scan_without(symmetric(), gone)
    found = filled(scan, [ACROSS])
    assert (found.pieces, found.area) == (0, 0.0)
    assert open_sides(found.mesh) == open_sides(mesh_of(scan)) and len(found.mesh.facets) == len(scan.facets)


def test_half_a_part_becomes_a_whole_one():
    """Nothing was scanned beyond the plane: the border is that of the half."""
    body = symmetric()
    scan = scan_without(body, (((-20.0, 20.0, 6.0), 49.0),))
    assert scan.vertices[:, 0].min() > 20
    found = filled(scan, [ACROSS])
    assert open_sides(found.mesh) == 0
    assert found.mesh.vertices[:, 0].min() == pytest.approx(0, abs=0.1)
    assert np.quantile(off_from(body, found.mesh.vertices), 0.95) < 0.1
