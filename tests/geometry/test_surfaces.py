"""The five surfaces against closed forms that are written here another way, at random places and in random positions."""

from __future__ import annotations

import numpy as np
import pytest
from numpy.typing import NDArray
from scipy.spatial.transform import Rotation

from contour.geometry.rigid import inverse, placement
from contour.geometry.rigid import moved as points_moved
from contour.geometry.surfaces import Surface, bounds, distances, feet, gradients, moved, offset, parameters, places

Array = NDArray[np.float64]
Z = (0.0, 0.0, 1.0)

UPRIGHT = {
    "plane": Surface("plane", (0, 0, 0), Z, 0.0, 1),
    "cylinder": Surface("cylinder", (0, 0, 0), Z, 5.0, 1),
    "bore": Surface("cylinder", (0, 0, 0), Z, 5.0, -1),
    "cone": Surface("cone", (0, 0, 0), Z, 6.0, 1, half_angle=0.4),
    "sphere": Surface("sphere", (0, 0, 0), Z, 7.0, 1),
    "torus": Surface("torus", (0, 0, 0), Z, 12.0, 1, minor=3.0),
}


def in_the_half_plane(name: str, rho: Array, z: Array) -> Array:
    """Distance in the half plane of the axis: of a point to a line, a point or a circle there."""
    if name == "plane":
        return z
    if name in ("cylinder", "bore"):
        return (rho - 5.0) * (1 if name == "cylinder" else -1)
    if name == "cone":
        # The line through (6, 0) that leans out by 0.4 radians.
        way = np.array([np.sin(0.4), np.cos(0.4)])
        return (rho - 6.0) * way[1] - z * way[0]
    if name == "sphere":
        return np.hypot(rho, z) - 7.0
    return np.hypot(rho - 12.0, z) - 3.0


def random_position(seed: int) -> Array:
    rng = np.random.default_rng(seed)
    return placement(np.asarray(Rotation.random(random_state=seed).as_matrix()), rng.uniform(-40, 40, 3))


def scattered(seed: int, count: int = 400) -> Array:
    """Not past the cone's tip, which lies 14.2 mm below its middle."""
    rng = np.random.default_rng(seed)
    return rng.uniform([-15, -15, -9], [15, 15, 15], (count, 3))


@pytest.mark.parametrize("name", UPRIGHT)
@pytest.mark.parametrize("seed", range(4))
def test_distances_are_those_of_the_half_plane(name: str, seed: int) -> None:
    where, points = random_position(seed), scattered(seed)
    surface = moved(UPRIGHT[name], where)
    want = in_the_half_plane(name, np.hypot(points[:, 0], points[:, 1]), points[:, 2])
    assert distances(surface, points_moved(where, points)) == pytest.approx(want, abs=1e-9)


@pytest.mark.parametrize("name", UPRIGHT)
def test_feet_lie_on_the_surface_along_the_normal(name: str) -> None:
    where, points = random_position(11), points_moved(random_position(11), scattered(11))
    surface = moved(UPRIGHT[name], where)
    d, n, f = distances(surface, points), gradients(surface, points), feet(surface, points)
    assert np.abs(distances(surface, f)).max() < 1e-9
    assert np.linalg.norm(n, axis=1) == pytest.approx(np.ones(len(n)), abs=1e-12)
    assert f + d[:, None] * n == pytest.approx(points, abs=1e-9)


@pytest.mark.parametrize("name", UPRIGHT)
def test_gradients_are_how_the_distance_grows(name: str) -> None:
    surface, points = moved(UPRIGHT[name], random_position(3)), points_moved(random_position(3), scattered(3, 50))
    step = 1e-5
    for k in range(3):
        ahead = points + step * np.eye(3)[k]
        back = points - step * np.eye(3)[k]
        slope = (distances(surface, ahead) - distances(surface, back)) / (2 * step)
        assert gradients(surface, points)[:, k] == pytest.approx(slope, abs=1e-5)


@pytest.mark.parametrize("name", UPRIGHT)
def test_parameters_lead_back_to_the_foot(name: str) -> None:
    surface, points = moved(UPRIGHT[name], random_position(7)), points_moved(random_position(7), scattered(7))
    assert places(surface, parameters(surface, points)) == pytest.approx(feet(surface, points), abs=1e-9)


@pytest.mark.parametrize("name", UPRIGHT)
def test_parameters_are_what_the_module_says(name: str) -> None:
    surface = moved(UPRIGHT[name], random_position(5))
    low, high = ((-9, -9), (9, 9)) if name == "plane" else ((-3, -1.4), (3, 1.4))
    uv = np.random.default_rng(2).uniform(low, high, (200, 2))
    on = places(surface, uv)
    assert np.abs(distances(surface, on)).max() < 1e-9
    assert parameters(surface, on) == pytest.approx(uv, abs=1e-9)


@pytest.mark.parametrize("name", UPRIGHT)
@pytest.mark.parametrize("by", [-1.25, 0.5, 2.0])
def test_an_offset_surface_is_that_much_further_out(name: str, by: float) -> None:
    surface, points = moved(UPRIGHT[name], random_position(9)), points_moved(random_position(9), scattered(9))
    assert distances(offset(surface, by), points) == pytest.approx(distances(surface, points) - by, abs=1e-9)


@pytest.mark.parametrize(("name", "by"), [("cylinder", -5.0), ("bore", 5.0), ("sphere", -8.0), ("torus", -3.0)])
def test_an_offset_that_leaves_nothing_is_refused(name: str, by: float) -> None:
    with pytest.raises(ValueError, match="nothing is left"):
        offset(UPRIGHT[name], by)


@pytest.mark.parametrize("name", UPRIGHT)
def test_moving_there_and_back_changes_nothing(name: str) -> None:
    where = random_position(21)
    back = moved(moved(UPRIGHT[name], where), inverse(where))
    assert np.array(back.origin) == pytest.approx(np.zeros(3), abs=1e-9)
    assert np.array(back.axis) == pytest.approx(np.array(Z), abs=1e-12)
    assert (back.kind, back.radius, back.minor, back.half_angle, back.outward) == (
        UPRIGHT[name].kind,
        UPRIGHT[name].radius,
        UPRIGHT[name].minor,
        UPRIGHT[name].half_angle,
        UPRIGHT[name].outward,
    )


@pytest.mark.parametrize("name", UPRIGHT)
@pytest.mark.parametrize("seed", range(6))
def test_bounds_hold_the_patch_and_touch_it(name: str, seed: int) -> None:
    rng = np.random.default_rng(seed)
    surface = moved(UPRIGHT[name], random_position(seed + 50))
    first = rng.uniform(-3, 0, 2) if name != "plane" else rng.uniform(-9, 0, 2)
    last = first + rng.uniform(0.1, 3.0, 2)
    u, v = np.meshgrid(*(np.linspace(a, b, 400) for a, b in zip(first, last, strict=True)))
    dense = places(surface, np.stack([u.ravel(), v.ravel()], axis=1))
    low, high = bounds(surface, tuple(first), tuple(last))
    assert np.all(dense >= low - 1e-9)
    assert np.all(dense <= high + 1e-9)
    # As near as 400 steps come to the farthest place: half a step squared over the radius.
    assert low == pytest.approx(dense.min(axis=0), abs=2e-3)
    assert high == pytest.approx(dense.max(axis=0), abs=2e-3)


@pytest.mark.parametrize("name", ["cylinder", "cone", "torus"])
def test_on_the_axis_the_foot_is_one_of_the_nearest(name: str) -> None:
    for where in (np.eye(4), random_position(31)):
        surface = moved(UPRIGHT[name], where)
        on_axis = points_moved(where, np.array([[0.0, 0.0, 0.0], [0.0, 0.0, 2.0]]))
        d, n = distances(surface, on_axis), gradients(surface, on_axis)
        assert np.linalg.norm(n, axis=1) == pytest.approx([1.0, 1.0])
        assert d == pytest.approx(in_the_half_plane(name, np.zeros(2), np.array([0.0, 2.0])), abs=1e-9)
        assert np.abs(distances(surface, feet(surface, on_axis))).max() < 1e-9


def test_in_the_centre_of_a_sphere_the_foot_is_as_far_as_its_radius() -> None:
    centre = np.zeros((1, 3))
    assert distances(UPRIGHT["sphere"], centre) == pytest.approx([-7.0])
    assert np.linalg.norm(feet(UPRIGHT["sphere"], centre)) == pytest.approx(7.0)


def test_on_the_middle_circle_of_a_torus_the_foot_is_as_far_as_its_tube() -> None:
    middle = np.array([[12.0, 0, 0], [0, -12.0, 0]])
    assert distances(UPRIGHT["torus"], middle) == pytest.approx([-3.0, -3.0])
    assert np.linalg.norm(feet(UPRIGHT["torus"], middle) - middle, axis=1) == pytest.approx([3.0, 3.0])


@pytest.mark.parametrize("name", UPRIGHT)
def test_nine_numbers_and_back(name: str) -> None:
    surface = moved(UPRIGHT[name], random_position(13))
    again = Surface.unpacked(surface.code, surface.packed())
    points = points_moved(random_position(13), scattered(13))
    assert distances(again, points) == pytest.approx(distances(surface, points), abs=1e-9)
    assert again.kind == surface.kind
    assert again.outward == surface.outward


def test_a_cone_told_from_its_closing_end_comes_back_opening_along_its_axis() -> None:
    row = Surface("cone", (1, 2, 3), Z, 6.0, 1, half_angle=0.4).packed()
    row[3:6], row[7] = -row[3:6], -row[7]
    again = Surface.unpacked(3, row)
    assert again.half_angle == pytest.approx(0.4)
    assert np.array(again.axis) == pytest.approx([0, 0, 1])
