"""Stated uncertainties against what repeated fits really scatter by."""

import numpy as np
import pytest

from contour.fit.surface import Surface, fit_surface
from contour.fit.uncertainty import fitted_uncertainty


def plane_points(rng, n: int, sigma: float) -> np.ndarray:
    return np.column_stack([rng.uniform(-20, 20, n), rng.uniform(-10, 10, n), rng.normal(0, sigma, n)])


def bore_points(rng, n: int, sigma: float, span: float = 2 * np.pi) -> tuple[np.ndarray, np.ndarray]:
    a = rng.uniform(0, span, n)
    r = 6 + rng.normal(0, sigma, n)
    normals = np.column_stack([np.cos(a), np.sin(a), np.zeros(n)])
    return np.column_stack([r * np.cos(a), r * np.sin(a), rng.uniform(0, 10, n)]), normals


def test_a_plane_is_known_better_with_more_points():
    rng = np.random.default_rng(2)
    surface = Surface("plane", (0, 0, 0), (0, 0, 1), 0.0, 1)
    few, many = (fitted_uncertainty(surface, plane_points(rng, n, 0.03)) for n in (100, 10_000))
    assert few / many == pytest.approx(10, rel=0.2)
    assert few == pytest.approx(2 * 0.03 / 10, rel=0.2)  # twice sigma / sqrt(n): neighbours share noise


@pytest.mark.parametrize("span", [2 * np.pi, np.pi / 2])
def test_a_radius_scatters_no_more_than_it_says(span):
    radii, stated = [], []
    for seed in range(40):
        rng = np.random.default_rng(seed)
        points, normals = bore_points(rng, 400, 0.03, span)
        found = fit_surface(points, normals, kind="cylinder")
        assert found is not None
        radii.append(found[0].radius)
        stated.append(fitted_uncertainty(found[0], points))
    scatter = float(np.std(radii))
    assert 0.8 * scatter < np.median(stated) < 4 * scatter


def test_a_short_arc_is_honestly_wide():
    rng = np.random.default_rng(1)
    surface = Surface("cylinder", (0, 0, 0), (0, 0, 1), 6.0, 1)
    whole = fitted_uncertainty(surface, bore_points(rng, 500, 0.03)[0])
    arc = fitted_uncertainty(surface, bore_points(rng, 500, 0.03, np.pi / 4)[0])
    assert arc > 10 * whole


def test_too_few_points_settle_nothing():
    surface = Surface("cylinder", (0, 0, 0), (0, 0, 1), 6.0, 1)
    assert fitted_uncertainty(surface, bore_points(np.random.default_rng(0), 5, 0.03)[0]) == float("inf")
