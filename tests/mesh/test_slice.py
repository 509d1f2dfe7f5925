import numpy as np
import pytest

from contour.geometry.frames import plane_frame
from contour.mesh.nearest import build_tree, nearest_on_triangles
from contour.mesh.prepare import prepare_scan
from contour.mesh.slice import slice_scan
from tests.conftest import cube, raw_scan


def test_a_cube_is_cut_into_one_closed_square():
    scan = prepare_scan(raw_scan(cube((10, 10, 10))), 1.0)
    (line,) = slice_scan(scan, np.array([0, 0, 4.0]), np.array([0, 0, 1.0]))
    assert line.closed
    ring = np.vstack([line.points, line.points[:1]])
    assert np.linalg.norm(np.diff(ring, axis=0), axis=1).sum() == pytest.approx(40)
    assert np.allclose(line.points[:, 2], 4)


def test_a_cut_through_vertices_and_flat_faces_is_still_closed():
    scan = prepare_scan(raw_scan(cube((10, 10, 10))), 1.0)
    for origin, normal in (([0, 0, 0], [1, 1, 0]), ([5, 5, 5], [1, 1, 1]), ([0, 0, 10], [0, 0, 1])):
        assert all(line.closed for line in slice_scan(scan, np.array(origin, float), np.array(normal, float)))
    assert slice_scan(scan, np.array([0, 0, 11.0]), np.array([0, 0, 1.0])) == []


def test_facets_turned_round_do_not_break_the_walk():
    corners = cube((10, 10, 10))
    corners[::2] = corners[::2, ::-1]
    (line,) = slice_scan(prepare_scan(raw_scan(corners), 1.0), np.array([0, 0, 4.0]), np.array([0, 0, 1.0]))
    assert line.closed


def test_a_hole_leaves_an_open_polyline():
    scan = prepare_scan(raw_scan(cube((10, 10, 10))[:-1]), 1.0)
    lines = slice_scan(scan, np.array([0, 0, 4.0]), np.array([0, 0, 1.0]))
    assert [line.closed for line in lines] == [False]


@pytest.mark.parametrize("inside_out", [False, True])
def test_open_cuts_run_with_the_material_to_their_left_as_facets_face(inside_out: bool) -> None:
    """Of a cube without two of its walls' facets, whichever way the plane looks and wherever the walk begins."""
    corners = np.delete(cube((10, 10, 10)), (5, 10), axis=0)
    scan = prepare_scan(raw_scan(corners[:, ::-1] if inside_out else corners), 1.0)
    opened = 0
    for normal in ([0, 0, 1.0], [0, 0, -1.0], [0.2, -0.3, 1.0], [1.0, 0.1, 0.2], [-0.1, 1.0, -0.2]):
        for line in slice_scan(scan, np.array([5.1, 5.2, 4.0]), np.array(normal)):
            ahead = np.diff(line.points, axis=0)
            a, b, c = scan.vertices[scan.facets[line.facets[: len(ahead)]]].transpose(1, 0, 2)
            if not line.closed:
                opened += 1
                assert np.all(np.einsum("ij,ij->i", np.cross(normal, ahead), np.cross(b - a, c - a)) < 0)
    assert opened >= 4


def test_plane_axes_are_square_and_there_and_back_is_the_same():
    frame = plane_frame(np.array([1.0, 2, 3]), np.array([1.0, -2, 0.5]), np.array([0, 0, 1.0]))
    axes = np.array([frame.u, frame.v, frame.normal])
    assert np.allclose(axes @ axes.T, np.eye(3))
    points = np.array([[3.0, -4], [0, 0]])
    assert np.allclose(frame.to_plane(frame.to_space(points)), points)


def test_nearest_point_agrees_with_trying_every_triangle():
    rng = np.random.default_rng(2)
    vertices = rng.normal(0, 5, (60, 3))
    triangles = rng.integers(0, 60, (80, 3)).astype(np.int32)
    points = rng.normal(0, 8, (50, 3))
    feet, owner = nearest_on_triangles(build_tree(vertices, triangles), points)
    # independent: dense sampling of barycentric coordinates
    w = rng.dirichlet([0.6, 0.6, 0.6], 4000)
    samples = np.einsum("sk,tkd->tsd", w, vertices[triangles]).reshape(-1, 3)
    for p, foot, tri in zip(points, feet, owner, strict=True):
        best = np.linalg.norm(samples - p, axis=1).min()
        assert np.linalg.norm(foot - p) <= best + 1e-12
        assert best - np.linalg.norm(foot - p) < 0.25
        a, b, c = vertices[triangles[tri]]
        solved = np.linalg.lstsq(np.column_stack([b - a, c - a]), foot - a, rcond=None)[0]
        assert np.allclose(np.column_stack([b - a, c - a]) @ solved, foot - a, atol=1e-9)
