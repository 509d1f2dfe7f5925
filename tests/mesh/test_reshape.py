"""Smoothing, thinning, refining, offsetting and cutting of meshes against closed forms."""

import numpy as np
import pytest

from contour.mesh.facets import Mesh, side_lengths
from contour.mesh.nearest import build_tree, nearest_on_triangles
from contour.mesh.prepare import prepare_mesh
from contour.mesh.reshape import (
    decimated,
    decimated_within,
    deviation_between,
    offset_mesh,
    refined,
    smoothed,
    split_by_plane,
)
from contour.mesh.topology import facet_geometry, signed_volume
from tests.conftest import cube
from tests.shapes import soup, sphere, subdivided


def volume(mesh: Mesh) -> float:
    return signed_volume(mesh.vertices, mesh.facets)


def closed(mesh: Mesh) -> bool:
    return bool((mesh.across() >= 0).all())


def noisy(mesh: Mesh, sigma: float, seed: int = 1) -> Mesh:
    rng = np.random.default_rng(seed)
    return Mesh(mesh.vertices + rng.normal(0, sigma, mesh.vertices.shape), mesh.facets, mesh.source)


def test_smoothing_takes_noise_out_of_a_sphere_and_does_not_shrink_it():
    rough = noisy(sphere(60, 20.0), 0.03)
    scan = prepare_mesh(rough, pose=np.eye(4), raw_facets=len(rough.facets))
    made = smoothed(scan, rounds=10, most_mm=0.2)
    before = np.linalg.norm(rough.vertices, axis=1) - 20
    after = np.linalg.norm(made, axis=1) - 20
    assert after.std() < 0.6 * before.std()
    # A sphere's own chords put its vertices on 20 mm: the mean must not fall below it by a tenth of the noise.
    assert after.mean() == pytest.approx(before.mean(), abs=0.003)


def test_smoothing_keeps_the_edges_of_a_box():
    rough = noisy(subdivided(cube((20, 20, 20)), 4), 0.02)
    scan = prepare_mesh(rough, pose=np.eye(4), raw_facets=len(rough.facets))
    made = smoothed(scan, rounds=10, most_mm=0.2)
    box = soup(cube((20, 20, 20)))
    feet, _ = nearest_on_triangles(build_tree(box.vertices, box.facets), made)
    assert np.linalg.norm(made - feet, axis=1).mean() < 0.013
    # Rounded edges would leave the corners empty.
    corners = np.array([[x, y, z] for x in (0, 20) for y in (0, 20) for z in (0, 20)], float)
    gap = np.linalg.norm(made[:, None] - corners, axis=2).min(axis=0)
    assert gap.max() < 0.15


def test_smoothing_moves_nothing_farther_than_it_may():
    rough = noisy(sphere(40, 20.0), 0.1)
    scan = prepare_mesh(rough, pose=np.eye(4), raw_facets=len(rough.facets))
    made = smoothed(scan, rounds=20, most_mm=0.05)
    assert np.linalg.norm(made - scan.vertices, axis=1).max() <= 0.05 + 1e-9


@pytest.mark.parametrize("share", [0.5, 0.1])
def test_thinning_comes_to_the_count_and_keeps_the_solid(share):
    mesh = sphere(60, 20.0)
    wanted = int(share * len(mesh.facets))
    made = decimated(mesh, wanted)
    assert abs(len(made.facets) - wanted) <= 0.05 * wanted
    assert closed(made)
    assert volume(made) == pytest.approx(volume(mesh), rel=0.01)
    assert set(made.source) <= set(mesh.source)


def test_thinning_to_more_than_there_is_changes_nothing():
    mesh = sphere(12, 5.0)
    assert decimated(mesh, 10**6) is mesh


@pytest.mark.parametrize("error", [0.02, 0.2])
def test_thinning_within_an_error_keeps_it_and_says_the_true_one(error):
    mesh = sphere(60, 20.0)
    made, said = decimated_within(mesh, error)
    assert said <= error
    assert deviation_between(mesh, made) == pytest.approx(said)
    assert len(made.facets) < len(mesh.facets)
    # By analysis, not by the same search: no vertex of the sphere may lie deeper than that under a facet.
    middle = made.vertices[made.facets].mean(axis=1)
    assert 20 - np.linalg.norm(middle, axis=1).min() < 3 * error + 0.05


def test_a_flat_box_is_thinned_to_next_to_nothing():
    mesh = subdivided(cube((30, 20, 10)), 4)
    made, said = decimated_within(mesh, 0.01)
    assert len(made.facets) < 0.05 * len(mesh.facets)
    assert said <= 0.01
    assert volume(made) == pytest.approx(6000, rel=1e-3)


def test_refining_splits_to_length_and_moves_nothing():
    mesh = soup(cube((30, 20, 10)))
    made = refined(mesh, 3.0)
    assert side_lengths(made).max() <= 3.0
    assert closed(made)
    assert volume(made) == pytest.approx(6000, rel=1e-12)
    _, _, areas = facet_geometry(made.vertices, made.facets)
    assert areas.sum() == pytest.approx(2 * (600 + 300 + 200), rel=1e-12)
    assert np.array_equal(made.vertices[: len(mesh.vertices)], mesh.vertices)
    # Every part lies in the plane of the facet it is named after.
    _, old, _ = facet_geometry(mesh.vertices, mesh.facets)
    _, new, _ = facet_geometry(made.vertices, made.facets)
    assert np.einsum("ij,ij->i", new, old[made.source]) == pytest.approx(np.ones(len(new)))


def test_refining_what_is_fine_already_changes_nothing():
    mesh = soup(cube((1, 1, 1)))
    assert len(refined(mesh, 5.0).facets) == 12


@pytest.mark.parametrize("distance", [0.5, -0.5])
def test_an_offset_box_keeps_its_sharp_edges(distance):
    made = offset_mesh(subdivided(cube((30, 20, 10)), 3), distance)
    size = np.array([30, 20, 10]) + 2 * distance
    assert np.ptp(made.vertices, axis=0) == pytest.approx(size, abs=0.02)
    assert volume(made) == pytest.approx(size.prod(), rel=0.003)


@pytest.mark.parametrize("distance", [2.0, -2.0])
def test_an_offset_sphere_is_a_sphere(distance):
    made = offset_mesh(sphere(60, 20.0), distance)
    radius = np.linalg.norm(made.vertices, axis=1)
    assert radius == pytest.approx(np.full(len(radius), 20.0 + distance), abs=0.01)


def test_a_plane_cuts_facets_along_itself():
    mesh = soup(cube((10, 10, 10)))
    normal = np.array([1.0, 2.0, 3.0])
    made, front = split_by_plane(mesh, np.array([5.0, 5, 5]), normal)
    assert volume(made) == pytest.approx(1000)
    side = (made.vertices[made.facets] - 5.0) @ (normal / np.linalg.norm(normal))
    assert (side[front] >= -1e-9).all()
    assert (side[~front] <= 1e-9).all()
    # Through the middle of a box a plane halves the skin, whichever way it stands.
    _, _, areas = facet_geometry(made.vertices, made.facets)
    assert areas[front].sum() == pytest.approx(300)


def test_a_plane_that_misses_leaves_the_mesh_as_it_is():
    mesh = soup(cube((10, 10, 10)))
    made, front = split_by_plane(mesh, np.array([0.0, 0, 50]), np.array([0.0, 0, 1]))
    assert np.array_equal(made.facets, mesh.facets)
    assert not front.any()


def test_a_plane_through_vertices_makes_no_slivers():
    mesh = subdivided(cube((10, 10, 10)), 2)
    made, front = split_by_plane(mesh, np.array([5.0, 0, 0]), np.array([1.0, 0, 0]))
    _, _, areas = facet_geometry(made.vertices, made.facets)
    assert areas.min() > 0.1
    assert areas[front].sum() == pytest.approx(300)
