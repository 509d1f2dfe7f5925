"""Radial profiles and silhouettes against shapes whose profile is known."""

from __future__ import annotations

import numpy as np
import pytest

from contour.geometry.frames import plane_frame
from contour.mesh.prepare import prepare_scan
from contour.outline.radial import radial_frame, radial_profile
from contour.outline.section import outlines_of
from contour.outline.silhouette import silhouette
from tests.conftest import raw_scan

Z, X = np.array([0.0, 0.0, 1.0]), np.array([1.0, 0.0, 0.0])


def turned(profile: np.ndarray, *, closed: bool, noise: float = 0.0, lift=None, n: int = 120):
    """A mesh by turning (z, r) points about z; `lift` shifts the radius by height and angle."""
    rng = np.random.default_rng(2)
    steps = np.linalg.norm(np.diff(profile, axis=0), axis=1)
    fine = [
        p + (q - p) * k / max(int(s / 0.8), 1)
        for p, q, s in zip(profile[:-1], profile[1:], steps, strict=True)
        for k in range(max(int(s / 0.8), 1))
    ]
    rows = np.array([*fine, profile[-1]]) if not closed else np.array(fine)
    t = np.arange(n) * 2 * np.pi / n
    grid = np.array(
        [
            [
                [
                    (r + (lift(z, a) if lift and r else 0)) * np.cos(a),
                    (r + (lift(z, a) if lift and r else 0)) * np.sin(a),
                    z,
                ]
                for a in t
            ]
            for z, r in rows
        ]
    )
    out = grid.copy()
    out[..., :2] *= 1 + rng.normal(0, noise, (len(rows), n, 1)) / np.maximum(
        np.linalg.norm(grid[..., :2], axis=2, keepdims=True), 1
    )
    corners = []
    m = len(rows)
    for i in range(m if closed else m - 1):
        j = (i + 1) % m
        for k in range(n):
            q = (k + 1) % n
            corners += [[out[i, k], out[i, q], out[j, k]], [out[i, q], out[j, q], out[j, k]]]
    return prepare_scan(raw_scan(np.array(corners)), 1.0)


SHAFT = np.array([[0, 0.0], [0, 6], [12, 6], [12, 9], [30, 9], [30, 0.0]])


def test_a_turned_shaft_gives_its_own_profile_and_no_runout():
    scan = turned(SHAFT, closed=False, noise=0.02)
    lines = radial_profile(scan, radial_frame(np.zeros(3), Z, X))
    assert len(lines) == 1 and not lines[0].closed and lines[0].seen > 0.95
    p = lines[0].points
    near = p[(p[:, 0] > 2) & (p[:, 0] < 10)]
    assert near[:, 1].mean() == pytest.approx(6, abs=0.02) and np.std(near[:, 1]) < 0.02
    assert np.nanpercentile(lines[0].runout[3:-3], 90) < 0.05
    (loop, *rest) = outlines_of(scan, [(p, False)], radial_frame(np.zeros(3), Z, X))
    kinds = [q.kind for q in loop.outline.pieces]
    assert not rest and kinds == ["line"] * 5
    joints = np.array([loop.outline.pieces[0].start, *(q.end for q in loop.outline.pieces)])
    assert joints == pytest.approx(SHAFT, abs=0.02)


def test_runout_is_what_the_middle_is_off_by_twice():
    scan = turned(SHAFT, closed=False, noise=0.01, lift=lambda z, t: 0.15 * np.cos(t) if z > 13 else 0.0)
    (line,) = radial_profile(scan, radial_frame(np.zeros(3), Z, X))
    high = (line.points[:, 0] > 15) & (line.points[:, 0] < 28)
    low = (line.points[:, 0] > 2) & (line.points[:, 0] < 10)
    assert np.nanmedian(line.runout[high]) == pytest.approx(0.3, abs=0.03) and np.nanmedian(line.runout[low]) < 0.03
    assert line.points[high, 1].mean() == pytest.approx(9, abs=0.02)


def test_a_ring_gives_a_closed_profile():
    ring = np.array([[0, 10.0], [0, 14], [5, 14], [5, 10], [0, 10]])
    scan = turned(ring, closed=True)
    (line,) = radial_profile(scan, radial_frame(np.zeros(3), Z, X))
    assert line.closed and np.ptp(line.points[:, 1]) == pytest.approx(4, abs=0.1)


def test_a_silhouette_is_the_shadow_with_the_holes_that_go_through(block_scan):
    rings = silhouette(block_scan, plane_frame(np.zeros(3), Z, X))
    assert len(rings) == 2 and all(closed for _, closed in rings)
    size = np.ptp(rings[0][0], axis=0)
    assert size == pytest.approx([40, 30], abs=0.25)
    loops = outlines_of(block_scan, rings, plane_frame(np.zeros(3), Z, X))
    hole = next(loop for loop in loops if len(loop.outline.pieces) == 1)
    assert hole.outline.pieces[0].radius == pytest.approx(6, abs=0.12)
    outer = next(loop for loop in loops if len(loop.outline.pieces) > 1)
    assert [p.kind for p in outer.outline.pieces] == ["line"] * 4 and outer.area == pytest.approx(1200, rel=0.01)
    side = silhouette(block_scan, plane_frame(np.zeros(3), X, np.array([0, 1.0, 0])))
    assert len(side) == 1  # the bore cannot be looked through from here
