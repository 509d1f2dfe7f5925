"""The smoothest surface through places, against surfaces whose formula is known."""

from __future__ import annotations

import numpy as np
import pytest

from contour.fit.patch import patches_through


def grid(rows: int, columns: int, width: float, height: float):
    u, v = np.meshgrid(np.linspace(0, width, rows), np.linspace(0, height, columns), indexing="ij")
    return np.column_stack([u.ravel(), v.ravel()])


def fixed(uv):
    return np.zeros(len(uv), bool)


def test_what_bends_evenly_is_met_between_the_places_too():
    """A paraboloid's bending does not change: nothing is lost by smoothing."""

    def place(uv):
        u, v = uv.T
        return np.column_stack([u, v, 0.03 * u * u - 0.05 * u * v + 0.02 * v * v])

    uv = grid(4, 4, 20, 15)
    patch = next(patches_through(uv, place(uv), fixed(uv)))
    between = grid(9, 7, 20, 15)
    assert patch.off.max() < 1e-6
    assert patch.at(between) == pytest.approx(place(between), abs=1e-6)
    du, dv = patch.at(between, (1, 0)), patch.at(between, (0, 1))
    u, v = between.T
    assert du[:, 2] == pytest.approx(0.06 * u - 0.05 * v, abs=1e-6)
    assert dv[:, 2] == pytest.approx(-0.05 * u + 0.04 * v, abs=1e-6)


def test_four_rows_of_places_on_a_blend_make_it_round():
    """A quarter of a cylinder of 3 mm in three chords, each 0.10 mm deep."""
    arc = np.linspace(0, np.pi / 2, 4)
    # Rows end at its rims; along the straight sides the borders' curves tell more.
    at = [(a, z) for a in arc for z in (0.0, 12.0)] + [(a, z) for a in (0.0, np.pi / 2) for z in range(1, 12)]
    places = np.array([[3 * np.cos(a), 3 * np.sin(a), z] for a, z in at])
    uv = np.array([[3 * a, z] for a, z in at])
    patch = next(patches_through(uv, places, fixed(uv)))
    over = patch.at(grid(40, 9, 3 * np.pi / 2, 12))
    assert np.abs(np.hypot(over[:, 0], over[:, 1]) - 3).max() < 0.03


def test_parameters_that_are_only_about_right_are_put_right():
    rng = np.random.default_rng(4)
    uv = grid(8, 8, 10, 10)
    places = np.column_stack([uv, np.sin(uv[:, 0] / 4) + np.cos(uv[:, 1] / 5)])
    loose = rng.uniform(size=len(uv)) < 0.4
    about = uv + loose[:, None] * rng.normal(0, 0.15, uv.shape)
    first, *_, last = patches_through(about, places, loose)
    assert last.off.max() < first.off.max() < 0.05 and last.off.max() < 2e-3
    # Held to their wrong parameters the surface would have to run aside for them.
    *_, held = patches_through(about, places, fixed(uv))
    assert np.linalg.norm(np.gradient(held.at(grid(60, 60, 10, 10)).reshape(60, 60, 3), axis=0), axis=2).std() > (
        np.linalg.norm(np.gradient(last.at(grid(60, 60, 10, 10)).reshape(60, 60, 3), axis=0), axis=2).std()
    )


def test_what_is_nearest_is_found_also_from_beyond_the_surfaces_end():
    uv = grid(5, 5, 10, 8)
    places = np.column_stack([uv, 0.02 * uv[:, 0] ** 2])
    patch = next(patches_through(uv, places, fixed(uv)))
    asked = np.array([[3.0, 4.0, 0.3], [9.0, 1.0, 1.4]])
    about = np.array([[-40.0, 4.0], [9.0, 90.0]])
    found = patch.nearest(about, asked)
    foot = patch.at(found)
    # Square to the surface from its foot to the place: what is nearest within.
    for order in ((1, 0), (0, 1)):
        along = patch.at(found, order)
        assert np.abs(np.einsum("ij,ij->i", along, asked - foot)).max() < 1e-6
