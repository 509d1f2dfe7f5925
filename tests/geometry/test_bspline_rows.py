"""B-spline surfaces in rows: values against another library's basis, derivatives against differences, feet against dense search."""

from __future__ import annotations

import numpy as np
import pytest
from numpy.typing import NDArray
from scipy.interpolate import BSpline

from contour.geometry.bspline_rows import evaluate, foot, packed

Array = NDArray[np.float64]


def clamped(count: int, degree: int, rng: np.random.Generator) -> Array:
    inner = np.sort(rng.uniform(0.05, 0.95, count - degree - 1))
    return np.concatenate([np.zeros(degree + 1), inner, np.ones(degree + 1)])


class Sheet:
    """A wavy sheet with random weights, kept both as rows and as what the other library needs."""

    def __init__(self, seed: int, degrees: tuple[int, int] = (3, 2), rational: bool = True) -> None:
        rng = np.random.default_rng(seed)
        self.degrees = degrees
        nu, nv = 7, 6
        x, y = np.meshgrid(np.linspace(-10, 10, nu), np.linspace(-8, 8, nv), indexing="ij")
        self.poles = np.stack([x, y, rng.normal(0, 2, (nu, nv))], axis=2)
        self.weights = rng.uniform(0.5, 2.0, (nu, nv)) if rational else np.ones((nu, nv))
        self.knots = clamped(nu, degrees[0], rng), clamped(nv, degrees[1], rng)
        lead = np.full(5, np.nan)  # rows may stand anywhere in what is shared
        self.head, numbers = packed(degrees, *self.knots, self.poles, self.weights, (False, False), len(lead))
        self.data = np.concatenate([lead, numbers])

    def at(self, u: Array, v: Array) -> Array:
        bases = []
        for t, knots, degree in zip((u, v), self.knots, self.degrees, strict=True):
            count = len(knots) - degree - 1
            bases.append(BSpline(knots, np.eye(count), degree)(t))
        lifted = np.concatenate([self.poles * self.weights[..., None], self.weights[..., None]], axis=2)
        out = np.einsum("na,nb,abd->nd", *bases, lifted)
        return out[:, :3] / out[:, 3:]

    def ours(self, u: float, v: float) -> Array:
        out = np.empty((6, 3))
        evaluate(self.head, self.data, u, v, out)
        return out

    def foot(self, p: Array, begin: tuple[float, float]) -> tuple[float, Array, Array]:
        uv, out = np.array(begin), np.empty((6, 3))
        return float(foot(self.head, self.data, *p, uv, out)), uv, out


@pytest.mark.parametrize("degrees", [(1, 1), (2, 3), (3, 2), (4, 4), (5, 1)])
@pytest.mark.parametrize("rational", [False, True])
def test_places_are_those_of_another_librarys_basis(degrees: tuple[int, int], rational: bool) -> None:
    sheet = Sheet(1, degrees, rational)
    u, v = np.random.default_rng(2).uniform(0, 1, (2, 100))
    u[:4], v[:4] = [0, 1, 0, 1], [0, 0, 1, 1]
    ours = np.array([sheet.ours(a, b)[0] for a, b in zip(u, v, strict=True)])
    # The other library leaves out the last place of the last span.
    assert ours == pytest.approx(sheet.at(np.minimum(u, 1 - 1e-15), np.minimum(v, 1 - 1e-15)), abs=1e-9)


@pytest.mark.parametrize("degrees", [(1, 2), (2, 3), (3, 3), (4, 2)])
def test_derivatives_are_differences(degrees: tuple[int, int]) -> None:
    sheet, h = Sheet(3, degrees), 1e-5
    rng = np.random.default_rng(4)
    checked = 0
    for u, v in rng.uniform(0.05, 0.95, (60, 2)):
        inner = np.concatenate([k[1:-1] for k in sheet.knots])
        if min(np.abs(inner - u).min(), np.abs(inner - v).min()) < 1e-3:
            continue  # beside a knot the second derivative may jump
        checked += 1
        ahead, back = sheet.ours(u + h, v), sheet.ours(u - h, v)
        left, right = sheet.ours(u, v + h), sheet.ours(u, v - h)
        here = sheet.ours(u, v)
        assert here[1] == pytest.approx((ahead[0] - back[0]) / (2 * h), abs=1e-4)
        assert here[2] == pytest.approx((left[0] - right[0]) / (2 * h), abs=1e-4)
        assert here[3] == pytest.approx((ahead[1] - back[1]) / (2 * h), rel=1e-4, abs=1e-3)
        assert here[4] == pytest.approx((left[1] - right[1]) / (2 * h), rel=1e-4, abs=1e-3)
        assert here[5] == pytest.approx((left[2] - right[2]) / (2 * h), rel=1e-4, abs=1e-3)
    assert checked > 30


def test_a_quarter_of_a_cylinder_is_told_exactly() -> None:
    corner = np.sqrt(0.5)
    arc = np.array([[5.0, 0, 0], [5, 5, 0], [0, 5, 0]])
    poles = np.stack([arc, arc + [0, 0, 9]], axis=1)
    weights = np.array([[1, 1], [corner, corner], [1, 1]])
    head, data = packed(
        (2, 1), np.array([0, 0, 0, 1, 1, 1.0]), np.array([0, 0, 1, 1.0]), poles, weights, (False, False), 0
    )
    out, uv = np.empty((6, 3)), np.empty(2)
    rng = np.random.default_rng(5)
    for angle, away, z in zip(
        rng.uniform(0.01, 1.56, 50), rng.uniform(-4, 6, 50), rng.uniform(0.1, 8.9, 50), strict=True
    ):
        uv[:] = 0.5
        p = (5 + away) * np.array([np.cos(angle), np.sin(angle), 0]) + [0, 0, z]
        assert np.sqrt(foot(head, data, *p, uv, out)) == pytest.approx(abs(away), abs=1e-9)
        assert np.hypot(*out[0, :2]) == pytest.approx(5.0, abs=1e-12)


@pytest.mark.parametrize("seed", range(5))
def test_no_place_is_nearer_than_the_foot(seed: int) -> None:
    sheet = Sheet(seed)
    t = np.linspace(0, 1 - 1e-15, 300)
    u, v = (g.ravel() for g in np.meshgrid(t, t, indexing="ij"))
    dense = sheet.at(u, v)
    rng = np.random.default_rng(seed + 40)
    for p in rng.uniform([-14, -12, -4], [14, 12, 4], (40, 3)):
        far = np.linalg.norm(dense - p, axis=1)
        k = int(np.argmin(far))
        d2, uv, out = sheet.foot(p, (float(u[k]), float(v[k])))
        assert np.sqrt(d2) <= far[k] + 1e-12
        beside = np.linspace(-1 / 150, 1 / 150, 121)
        a, b = (g.ravel() for g in np.meshgrid(u[k] + beside, v[k] + beside, indexing="ij"))
        finer = sheet.at(a.clip(0, 1 - 1e-15), b.clip(0, 1 - 1e-15))
        assert np.sqrt(d2) == pytest.approx(np.linalg.norm(finer - p, axis=1).min(), abs=0.005)
        assert np.all((uv >= 0) & (uv <= 1))
        assert out[0] == pytest.approx(sheet.at(uv[:1].clip(0, 1 - 1e-15), uv[1:].clip(0, 1 - 1e-15))[0], abs=1e-9)
        inside = np.all((uv > 1e-9) & (uv < 1 - 1e-9))
        if inside:  # the way there is square to the sheet
            way = p - out[0]
            assert abs(way @ out[1]) <= 1e-6 * np.linalg.norm(out[1]) * max(1.0, np.linalg.norm(way))
            assert abs(way @ out[2]) <= 1e-6 * np.linalg.norm(out[2]) * max(1.0, np.linalg.norm(way))


def test_round_the_seam_of_a_closed_surface_the_foot_is_found_from_either_side() -> None:
    """A full turn of four rational arcs: begun just before the seam, the foot lies just behind it."""
    corner = np.sqrt(0.5)
    ring = np.array([[1, 0], [1, 1], [0, 1], [-1, 1], [-1, 0], [-1, -1], [0, -1], [1, -1], [1, 0.0]]) * 6
    poles = np.stack([np.column_stack([ring, np.full(9, z)]) for z in (0.0, 10.0)], axis=1)
    weights = np.repeat(np.where(np.arange(9) % 2, corner, 1.0)[:, None], 2, axis=1)
    knots = np.array([0, 0, 0, 0.25, 0.25, 0.5, 0.5, 0.75, 0.75, 1, 1, 1])
    head, data = packed((2, 1), knots, np.array([0, 0, 1, 1.0]), poles, weights, (True, False), 0)
    out = np.empty((6, 3))
    for angle in (-0.02, 0.02):
        for begin in (0.01, 0.99):
            uv = np.array([begin, 0.5])
            p = 9.0 * np.array([np.cos(angle), np.sin(angle), 0]) + [0, 0, 4]
            assert np.sqrt(foot(head, data, *p, uv, out)) == pytest.approx(3.0, abs=1e-9)
            assert out[0] == pytest.approx(p * [2 / 3, 2 / 3, 1], abs=1e-6)


def test_past_the_border_the_foot_is_on_it() -> None:
    sheet = Sheet(9, rational=False)
    rim = sheet.at(np.linspace(0, 1 - 1e-15, 4001), np.zeros(4001))
    p = np.array([0.7, -20.0, 1.0])
    best = np.linalg.norm(rim - p, axis=1)
    d2, uv, _ = sheet.foot(p, (0.5, 0.2))
    assert uv[1] == 0.0
    assert np.sqrt(d2) == pytest.approx(best.min(), abs=1e-5)
