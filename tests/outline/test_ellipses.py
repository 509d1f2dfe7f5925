"""Ellipses against closed forms and against a path walked in small steps."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.spatial import cKDTree

from contour.outline.ellipses import Ellipse, ellipse_gap, ellipse_path, fit_ellipse, nearest_on_ellipse, turn_around
from contour.outline.explain import fit_outline
from contour.outline.pieces import Chain, shape_pieces
from contour.outline.split import ELLIPSE, LINE

TILTED: Ellipse = (3.0, -2.0, 9.0, 5.0, 0.4)


def along(e: Ellipse, t: np.ndarray) -> np.ndarray:
    c, s = np.cos(e[4]), np.sin(e[4])
    return np.column_stack([e[2] * np.cos(t), e[3] * np.sin(t)]) @ np.array([[c, s], [-s, c]]) + e[:2]


@pytest.mark.parametrize("e", [TILTED, (0.0, 0.0, 20.0, 18.5, 1.2), (5.0, 5.0, 10.0, 2.0, -0.7)])
@pytest.mark.parametrize("turn", [2 * np.pi, np.pi])
def test_an_ellipse_and_half_of_one_are_found_under_noise(e, turn):
    rng = np.random.default_rng(4)
    points = along(e, np.linspace(0.3, 0.3 + turn, 160)) + rng.normal(0, 0.02, (160, 2))
    found = fit_ellipse(points)
    assert found is not None
    assert np.allclose(found[0][:4], e[:4], atol=0.06)
    assert found[0][4] == pytest.approx(e[4], abs=0.03)
    assert found[1] == pytest.approx(0.02, rel=0.25)
    assert turn_around(found[0], points) == pytest.approx(turn, abs=0.1)


def test_distances_are_those_to_the_nearest_of_many_points():
    rng = np.random.default_rng(5)
    points = rng.uniform(-14, 16, (300, 2))
    many = along(TILTED, np.linspace(0, 2 * np.pi, 100_001))
    truth = cKDTree(many).query(points)[0]
    gap = ellipse_gap(TILTED, points)
    assert np.allclose(np.abs(gap), truth, atol=1e-4)
    assert gap[np.argmin(np.linalg.norm(points - TILTED[:2], axis=1))] < 0
    foot, _ = nearest_on_ellipse(TILTED, points)
    assert np.abs(ellipse_gap(TILTED, foot)).max() < 1e-9


def test_circles_lines_and_few_points_are_no_ellipse():
    t = np.linspace(0, 2 * np.pi, 90)
    assert fit_ellipse(along((0, 0, 7, 7, 0), t)) is None
    assert fit_ellipse(np.column_stack([t, 2 * t])) is None
    assert fit_ellipse(along(TILTED, t[:7])) is None


def test_a_path_runs_over_its_middle_and_meets_its_ends():
    a, m, b = along(TILTED, np.array([0.2, -1.0, -2.0]))
    path = ellipse_path(TILTED, a, m, b, step_deg=1.0)
    assert np.array_equal(path[0], a) and np.array_equal(path[-1], b)
    assert np.linalg.norm(path - m, axis=1).min() < 0.1
    assert np.abs(ellipse_gap(TILTED, path)).max() < 1e-9
    whole = ellipse_path(TILTED, a, along(TILTED, np.array([0.2 + np.pi]))[0], a, step_deg=1.0)
    x, y = whole.T
    assert abs(0.5 * np.sum(x[:-1] * y[1:] - x[1:] * y[:-1])) == pytest.approx(np.pi * 9 * 5, rel=1e-3)


def noisy(points: np.ndarray, seed: int = 1) -> np.ndarray:
    return points + np.random.default_rng(seed).normal(0, 0.02, points.shape)


def test_a_loop_that_is_an_ellipse_is_one_piece_and_a_circle_stays_one():
    t = np.linspace(0, 2 * np.pi, 140, endpoint=False)
    (piece,) = fit_outline(noisy(along(TILTED, t)), closed=True, tolerance_mm=0.06, edge_mm=0.7).pieces
    assert piece.kind == "ellipse" and piece.start == piece.end and piece.ellipse is not None
    assert piece.ellipse[:4] == pytest.approx(TILTED[:4], abs=0.03)
    (circle,) = fit_outline(noisy(along((1, 2, 8, 8, 0), t)), closed=True, tolerance_mm=0.06, edge_mm=0.7).pieces
    assert circle.kind == "arc"


def test_half_an_ellipse_between_lines_is_one_piece_that_meets_them():
    """A slot cut obliquely: two lines and two half ellipses."""
    t = np.linspace(-np.pi / 2, np.pi / 2, 60)
    right, left = along((20, 0, 9, 5, 0), t), along((-20, 0, 9, 5, 0), t + np.pi)
    side = np.linspace(20, -20, 100)[1:-1]
    loop = np.vstack(
        [right, np.column_stack([side, np.full(98, 5.0)]), left, np.column_stack([-side, np.full(98, -5.0)])]
    )
    outline = fit_outline(noisy(loop), closed=True, tolerance_mm=0.06, edge_mm=0.5)
    assert sorted(p.kind for p in outline.pieces) == ["ellipse", "ellipse", "line", "line"]
    for p, q in zip(outline.pieces, [*outline.pieces[1:], outline.pieces[0]], strict=True):
        assert np.linalg.norm(np.subtract(p.end, q.start)) < 1e-9
    for p in outline.pieces:
        if p.ellipse is not None:
            assert p.ellipse[2:4] == pytest.approx((9, 5), abs=0.15)
            assert np.abs(ellipse_gap(p.ellipse, np.array([p.start, p.end]))).max() < 1e-9


def half_slot(rounder):
    """Lines and half ellipses of a slot in order, nearly round ones where `rounder` is one."""
    a, b = 6.0 * rounder, 6.0
    t = np.linspace(-np.pi / 2, np.pi / 2, 60)
    right = np.column_stack([10 + a * np.cos(t), b * np.sin(t)])
    x = np.linspace(10, -10, 40)
    top = np.column_stack([x, np.full(40, b)])
    return [right, top, -right, -top]


@pytest.mark.parametrize("rounder", [1.0, 1.01, 1.2])
def test_an_ellipse_that_has_become_round_stays_one_where_the_structure_is_given(rounder):
    rng = np.random.default_rng(3)
    data = [p + rng.normal(0, 0.01, p.shape) for p in half_slot(rounder)]
    near = [(p[-1] + q[0]) / 2 for p, q in zip(data, [*data[1:], data[0]], strict=True)]
    chain = Chain([ELLIPSE, LINE, ELLIPSE, LINE], data, near, (data[0][0], data[-1][-1]), True)
    kept = shape_pieces(chain, sigma_mm=0.01, edge_mm=0.5, known=True)
    assert [p.kind for p in kept.pieces] == ["ellipse", "line", "ellipse", "line"]
    for piece, side in ((kept.pieces[0], 1.0), (kept.pieces[2], -1.0)):
        assert piece.ellipse[:2] == pytest.approx((10 * side, 0), abs=0.1)
        assert sorted(piece.ellipse[2:4]) == pytest.approx(sorted((6.0, 6.0 * rounder)), abs=0.1)
    fresh = shape_pieces(chain, sigma_mm=0.01, edge_mm=0.5)
    assert fresh.pieces[0].kind == ("ellipse" if rounder > 1.1 else "arc")


@pytest.mark.parametrize(("ratio", "kind"), [(0.995, "arc"), (0.96, "ellipse")])
def test_a_bore_cut_a_little_aslant_is_one_piece(ratio, kind):
    """Not three arcs, which follow it no better: a circle where its axes differ by less than figures tell, else an ellipse."""
    for seed in range(4):
        rng = np.random.default_rng(seed)
        t = np.linspace(0, 2 * np.pi, 170, endpoint=False)
        r = 1 + rng.normal(0, 0.02, len(t)) / 13.0
        points = np.column_stack([13.0 * r * np.cos(t), ratio * 13.0 * r * np.sin(t)])
        (piece,) = fit_outline(points, closed=True, tolerance_mm=0.06, edge_mm=0.9).pieces
        assert piece.kind == kind
