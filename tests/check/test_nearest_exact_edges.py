"""Distances where trimming matters: beside edges, corners, seams and holes, in closed form."""

import numpy as np
import pytest

from contour.check.exact_arrays import exact_arrays
from contour.check.exact_distance import signed_distances
from tests.conftest import circle, prism, rectangle


@pytest.fixture(scope="module")
def box():
    return exact_arrays(prism(rectangle(10, 10), 10).shape)


@pytest.fixture(scope="module")
def tube():
    """Outer radius 10, bore radius 6, height 8."""
    return exact_arrays(prism([circle(0, 0, 10, "o"), circle(0, 0, 6, "i")], 8).shape)


def box_distance(p: np.ndarray) -> np.ndarray:
    """Signed distance to the box 0..10 in closed form."""
    q = np.abs(p - 5) - 5
    outside = np.linalg.norm(np.maximum(q, 0), axis=1)
    return outside + np.minimum(q.max(axis=1), 0)


def tube_distance(p: np.ndarray) -> np.ndarray:
    """Signed distance to the tube: a rectangle in the half plane of radius and height."""
    rho = np.hypot(p[:, 0], p[:, 1])
    q = np.column_stack([np.abs(rho - 8) - 2, np.abs(p[:, 2] - 4) - 4])
    return np.linalg.norm(np.maximum(q, 0), axis=1) + np.minimum(q.max(axis=1), 0)


@pytest.mark.parametrize("spread", [0.001, 0.1, 3.0])
def test_a_box_everywhere(box, spread):
    rng = np.random.default_rng(int(1000 * spread))
    # points of faces, edges and corners, moved a little or a lot
    points = rng.choice([0.0, 2.0, 5.0, 9.5, 10.0], (400, 3)) + rng.normal(0, spread, (400, 3))
    assert signed_distances(box, points)[0] == pytest.approx(box_distance(points), abs=1e-9)


@pytest.mark.parametrize("spread", [0.001, 0.1, 2.0])
def test_a_tube_everywhere(tube, spread):
    rng = np.random.default_rng(int(1000 * spread) + 1)
    angle, rho = rng.uniform(0, 2 * np.pi, 400), rng.choice([6.0, 8.0, 10.0], 400)
    points = np.column_stack([rho * np.cos(angle), rho * np.sin(angle), rng.choice([0.0, 4.0, 8.0], 400)])
    points += rng.normal(0, spread, points.shape)
    d = signed_distances(tube, points)[0]
    assert np.abs(d) == pytest.approx(np.abs(tube_distance(points)), abs=1e-9)
    clear = np.abs(tube_distance(points)) > 1e-7
    assert np.array_equal(np.sign(d[clear]), np.sign(tube_distance(points)[clear]))


def test_beside_the_seam_of_a_cylinder_there_is_no_border(tube):
    # the kernel's seam runs along x, where start and end of the circle meet
    points = np.array([[10 + s, e, z] for s in (-0.01, 0.01) for e in (-1e-4, 0, 1e-4) for z in (0.5, 4, 7.5)])
    assert signed_distances(tube, points)[0] == pytest.approx(tube_distance(points), abs=1e-9)


def test_feet_lie_on_the_solid(tube):
    rng = np.random.default_rng(4)
    points = rng.uniform(-14, 14, (300, 3))
    d, face, feet = signed_distances(tube, points)
    assert np.abs(tube_distance(feet)).max() < 1e-9
    assert np.linalg.norm(points - feet, axis=1) == pytest.approx(np.abs(d), abs=1e-9)
    assert set(face) <= set(range(4))


def test_on_the_axis_the_bore_is_as_far_as_its_radius(tube):
    assert signed_distances(tube, np.array([[0.0, 0, 4]]))[0] == pytest.approx([6.0])
