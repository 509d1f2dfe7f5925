"""Ways along the sides of a mesh made smooth: zigzag goes, the ends and the shape stay."""

from __future__ import annotations

import numpy as np
import pytest

from contour.solid.of_regions.curves import faired


def arc(angles, radius=3.0):
    return np.stack([radius * np.cos(angles), radius * np.sin(angles), 0 * angles], axis=1)


def test_zigzag_across_an_arc_goes_and_its_ends_stay():
    angles = np.linspace(0, np.pi / 2, 25)
    way = arc(angles)
    way[1:-1, 2] += 0.2 * (-1.0) ** np.arange(23)
    out = faired(way)
    assert np.array_equal(out[[0, -1]], way[[0, -1]])
    assert np.abs(out[:, 2]).max() < 0.06
    assert np.abs(np.linalg.norm(out[:, :2], axis=1) - 3).max() < 0.01


def test_points_that_crowd_at_one_end_are_no_trouble():
    angles = np.concatenate([np.linspace(0, 0.01, 20), [0.8, np.pi / 2]])
    out = faired(arc(angles))
    assert np.isfinite(out).all()
    assert np.abs(np.linalg.norm(out[:, :2], axis=1) - 3).max() < 0.05


@pytest.mark.parametrize("count", [2, 3, 5])
def test_few_points_stay_where_they_are(count):
    way = arc(np.linspace(0, 1, count))
    assert np.array_equal(faired(way), way)
