"""A short piece of a torus, known by its vertices: radii, centre and axis as the piece was drawn with."""

from __future__ import annotations

import numpy as np
import pytest

from contour.fit.modelled.bend import bent
from contour.geometry.surface_rows import CYLINDER
from contour.geometry.surfaces import Surface, distances, places


def piece(major: float, minor: float, around_deg: float, tube_deg: float) -> tuple[Surface, np.ndarray]:
    """The torus and places on a piece of it, mm, in single precision as a mesh file has them."""
    axis = np.array([0.36, -0.48, 0.8])
    torus = Surface("torus", (12.0, -7.0, 31.0), tuple(axis), major, 1, minor=minor)  # type: ignore[arg-type]
    rng = np.random.default_rng(4)
    u = np.radians(rng.uniform(20, 20 + around_deg, 40))
    v = np.radians(rng.uniform(100, 100 + tube_deg, 40))
    return torus, places(torus, np.column_stack([u, v])).astype(np.float32).astype(float)


def straight_tube(torus: Surface, at: np.ndarray) -> np.ndarray:
    """Nine numbers of a cylinder along the piece: through its tube's middle, as a fit of a cylinder would nearly give it."""
    w = at.mean(axis=0) - torus.at
    w -= (w @ torus.along) * torus.along
    out = w / np.linalg.norm(w)
    p = np.zeros(9)
    p[:3], p[3:6] = torus.at + torus.radius * out, np.cross(torus.along, out)
    p[6], p[8] = 1.02 * torus.minor, 1.0
    return p


@pytest.mark.parametrize("around_deg", [8.0, 20.0, 45.0])
@pytest.mark.parametrize(("major", "minor"), [(17.0, 3.0), (9.0, 4.0), (60.0, 2.0)])
def test_a_short_piece_tells_its_whole_torus(major: float, minor: float, around_deg: float) -> None:
    torus, at = piece(major, minor, around_deg, 70.0)
    p = straight_tube(torus, at)
    assert bent(p, at, np.arange(len(at)), len(at))
    # Eight degrees of a bend say less of its radius than forty-five; the vertices are held all the same.
    assert p[6] == pytest.approx(major, rel=2e-3 if around_deg < 10 else 1e-4)
    assert p[7] == pytest.approx(minor, rel=5e-4)
    found = Surface("torus", tuple(p[:3]), tuple(p[3:6]), float(p[6]), 1, minor=float(p[7]))  # type: ignore[arg-type]
    assert np.abs(distances(found, at)).max() < 1e-5
    assert abs(float(found.along @ torus.along)) == pytest.approx(1, abs=1e-5)


def test_a_straight_tube_is_no_torus() -> None:
    tube = Surface("cylinder", (3.0, 2.0, 1.0), (0.0, 0.6, 0.8), 4.0, 1)
    rng = np.random.default_rng(5)
    at = places(tube, np.column_stack([rng.uniform(0, 1.5, 40), rng.uniform(-5, 5, 40)]))
    p = tube.packed()
    assert tube.code == CYLINDER
    assert not bent(p, at, np.arange(40), 40) or p[6] > 1e4
