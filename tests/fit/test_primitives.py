"""Every kind of surface: distances against closed forms, derivatives against differences, fits against truth."""

from __future__ import annotations

import numpy as np
import pytest
from numpy.typing import NDArray
from scipy.spatial.transform import Rotation

from contour.fit.primitives import UNKNOWNS, jacobian
from contour.fit.surface import fit_surface
from contour.geometry.surface_rows import CODES, KINDS, gap_all
from contour.geometry.surfaces import Surface, distances, gradients

Array = NDArray[np.float64]
TURN = Rotation.from_euler("xyz", [23, -41, 67], degrees=True)
PLACE = np.array([12.0, -7.0, 31.0])
AXIS = tuple(float(x) for x in TURN.apply([0, 0, 1.0]))
AT = (12.0, -7.0, 31.0)
TRUE = {
    "plane": Surface("plane", AT, AXIS, 0.0, 1),
    "cylinder": Surface("cylinder", AT, AXIS, 8.0, -1),
    "cone": Surface("cone", AT, AXIS, 9.0, 1, half_angle=np.radians(25)),
    "sphere": Surface("sphere", AT, (0, 0, 1), 11.0, 1),
    "torus": Surface("torus", AT, AXIS, 14.0, 1, minor=4.0),
}


def samples(kind: str, n: int, rng: np.random.Generator, *, arc_deg: float = 360.0) -> tuple[Array, Array]:
    """Points and gradients of the surface in its own frame (z its axis), by closed forms; then moved to its place."""
    a, h = np.radians(rng.uniform(0, arc_deg, n)), rng.uniform(-6, 6, n)
    ring = np.column_stack([np.cos(a), np.sin(a), 0 * a])
    up = np.array([0, 0, 1.0])
    if kind == "plane":
        p, g = np.column_stack([rng.uniform(-9, 9, (n, 2)), 0 * a]), np.tile(up, (n, 1))
    elif kind == "cylinder":
        p, g = 8 * ring + h[:, None] * up, ring
    elif kind == "cone":
        t = np.radians(25)
        p, g = (9 + h * np.tan(t))[:, None] * ring + h[:, None] * up, np.cos(t) * ring - np.sin(t) * up
    elif kind == "sphere":
        b = rng.uniform(-0.6, 1.2, n)
        g = np.cos(b)[:, None] * ring + np.sin(b)[:, None] * up
        p = 11 * g
    else:
        b = rng.uniform(-1.4, 1.4, n)
        g = np.cos(b)[:, None] * ring + np.sin(b)[:, None] * up
        p = 14 * ring + 4 * g
    turn = Rotation.identity() if kind == "sphere" else TURN
    return turn.apply(p) + PLACE, turn.apply(g)


@pytest.mark.parametrize("kind", KINDS)
def test_distance_and_normal_by_closed_forms(kind: str) -> None:
    points, normals = samples(kind, 300, np.random.default_rng(1))
    off = np.random.default_rng(2).uniform(-1, 1, 300)
    side = TRUE[kind].outward
    assert distances(TRUE[kind], points + off[:, None] * normals) == pytest.approx(side * off, abs=1e-9)
    assert gradients(TRUE[kind], points) == pytest.approx(side * normals, abs=1e-8)
    again = Surface.unpacked(CODES[kind], TRUE[kind].packed())
    assert again.radius == pytest.approx(TRUE[kind].radius) and again.half_angle == pytest.approx(TRUE[kind].half_angle)


@pytest.mark.parametrize("kind", KINDS)
def test_derivatives_are_those_of_the_distance(kind: str) -> None:
    """A step along each unknown, taken by hand, changes the distance as the Jacobian says."""
    code = CODES[kind]
    p = TRUE[kind].packed()
    points = samples(kind, 40, np.random.default_rng(3))[0] + 0.3
    _, rows = jacobian(code, p, points)
    u = np.cross(p[3:6], np.eye(3)[int(np.argmin(np.abs(p[3:6])))])
    u /= np.linalg.norm(u)
    v = np.cross(p[3:6], u)
    shift = [("at", u), ("at", v), ("axis", u), ("axis", v)]
    steps = {
        "plane": [("at", p[3:6]), ("axis", u), ("axis", v)],
        "cylinder": [*shift, (6, None)],
        "cone": [*shift, (6, None), (7, None)],
        "sphere": [*(("at", e) for e in np.eye(3)), (6, None)],
        "torus": [*shift, (7, None), (6, None), ("at", p[3:6])],
    }[kind]
    assert len(steps) == UNKNOWNS[code]
    for k, (what, way) in enumerate(steps):
        ends = []
        for e in (1e-5, -1e-5):
            q = p.copy()
            if what == "at":
                q[:3] += e * way
            elif what == "axis":
                q[3:6] += e * way
                q[3:6] /= np.linalg.norm(q[3:6])
            else:
                q[what] += e
            ends.append(gap_all(code, q, points)[0])
        assert rows[:, k] == pytest.approx((ends[0] - ends[1]) / 2e-5, abs=1e-6), (kind, k)


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("arc", [360.0, 100.0])
def test_noisy_points_give_the_surface_back(kind: str, arc: float) -> None:
    rng = np.random.default_rng(4)
    points, normals = samples(kind, 4000, rng, arc_deg=arc)
    noisy = points + rng.normal(0, 0.02, (4000, 1)) * normals
    bent = normals + rng.normal(0, 0.03, normals.shape)
    found = fit_surface(noisy, bent / np.linalg.norm(bent, axis=1)[:, None], kind=kind, huber_mm=0.03)  # type: ignore[arg-type]
    assert found is not None
    surface, rms = found
    true = TRUE[kind]
    assert rms == pytest.approx(0.02, rel=0.1)
    assert surface.radius == pytest.approx(true.radius, abs=0.02)
    assert surface.minor == pytest.approx(true.minor, abs=0.02)
    assert surface.half_angle == pytest.approx(true.half_angle, abs=2e-3) or kind != "cone"
    if kind != "sphere":
        assert abs(np.dot(surface.axis, true.axis)) > np.cos(np.radians(0.15))
