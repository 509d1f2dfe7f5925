"""Joint refits against parts whose truth is known, and demands that contradict each other."""

from __future__ import annotations

import math

import numpy as np
import pytest

from contour.fit.surface import fit_surface
from contour.geometry.surfaces import Surface
from contour.intent.refit import refit_together
from contour.intent.relation import KINDS, Relation
from contour.recipe.problem import ContourError

RNG = np.random.default_rng(4)


def flat(at, normal, *, size=10.0, n=400, noise=0.02):
    normal = np.array(normal, float) / np.linalg.norm(normal)
    e = np.eye(3)[int(np.argmin(np.abs(normal)))]
    a = np.cross(normal, e) / np.linalg.norm(np.cross(normal, e))
    b = np.cross(normal, a)
    uv = RNG.uniform(-size, size, (n, 2))
    points = np.array(at) + uv[:, :1] * a + uv[:, 1:] * b + RNG.normal(0, noise, (n, 1)) * normal
    return fit_surface(points, np.tile(normal, (n, 1)), kind="plane")[0], points


def bore(at, axis, radius, *, height=10.0, n=500, noise=0.02):
    axis = np.array(axis, float) / np.linalg.norm(axis)
    e = np.eye(3)[int(np.argmin(np.abs(axis)))]
    a = np.cross(axis, e) / np.linalg.norm(np.cross(axis, e))
    b = np.cross(axis, a)
    t, h = RNG.uniform(0, 2 * np.pi, n), RNG.uniform(0, height, n)
    out = np.cos(t)[:, None] * a + np.sin(t)[:, None] * b
    points = np.array(at) + h[:, None] * axis + (radius + RNG.normal(0, noise, (n, 1))) * out
    return fit_surface(points, -out, kind="cylinder")[0], points


def fitted(parts, relations):
    return [r.surface for r in refit_together([s for s, _ in parts], [x for _, x in parts], relations)]


def angle(a: Surface, b: Surface) -> float:
    return math.degrees(math.acos(min(abs(float(np.dot(a.axis, b.axis))), 1.0)))


def test_directions_are_exact_after_it_and_each_costs_little():
    parts = [
        flat((0, 0, 0), (0, 0, 1)),
        flat((0, 0, 9), (0, 0, -1)),
        flat((20, 0, 0), (1, 0, 0)),
        bore((5, 5, 0), (0, 0, 1), 4),
    ]
    before = angle(parts[0][0], parts[3][0])
    found = refit_together(
        [s for s, _ in parts],
        [x for _, x in parts],
        [Relation("parallel", (0, 1, 3)), Relation("perpendicular", (0, 2))],
    )
    s = [f.surface for f in found]
    assert before > 1e-3
    assert angle(s[0], s[1]) < 1e-6 and angle(s[0], s[3]) < 1e-6 and abs(angle(s[0], s[2]) - 90) < 1e-6
    assert all(f.rms < f.rms_before * 1.03 + 1e-4 for f in found)
    # Planes keep pointing out of the material, bores stay bores.
    assert np.dot(s[1].axis, parts[1][0].axis) > 0.99 and s[3].outward == -1


def test_values_are_taken_and_the_rest_follows():
    parts = [
        flat((0, 0, 0), (0, 0, -1)),
        flat((0, 0, 12.03), (0, 0, 1)),
        bore((0, 0, 0), (0, 0, 1), 5.01),
        bore((0, 0, 20), (0, 0, 1), 3.0),
    ]
    s = fitted(parts, [Relation("distance", (0, 1), 12.0), Relation("size", (2,), 5.0), Relation("coaxial", (2, 3))])
    assert abs(np.dot(np.subtract(s[1].origin, s[0].origin), s[0].axis)) == pytest.approx(12, abs=1e-7)
    assert s[2].radius == pytest.approx(5, abs=1e-7)
    off = np.subtract(s[3].origin, s[2].origin)
    assert np.linalg.norm(np.cross(off, s[2].axis)) < 1e-6
    assert s[3].radius == pytest.approx(3.0, abs=0.01)


def test_a_bolt_circle_with_a_gap_and_a_row():
    holes = [0, 1, 3, 4, 5]
    parts = [
        bore((20 * math.cos(math.radians(10 + 60 * k)), 20 * math.sin(math.radians(10 + 60 * k)), 0), (0, 0, 1), 3)
        for k in holes
    ]
    s = fitted(parts, [Relation("bolt-circle", (0, 1, 2, 3, 4), slots=tuple(holes), count=6, value=20.0)])
    flat_at = np.array([np.array(x.origin) - np.dot(x.origin, s[0].axis) * np.array(s[0].axis) for x in s])
    assert np.linalg.norm(flat_at[1] - flat_at[0]) == pytest.approx(20, abs=1e-6)  # a chord of 60 degrees is the radius
    assert np.linalg.norm(flat_at[2] - flat_at[1]) == pytest.approx(20 * math.sqrt(3), abs=1e-6)
    row = [bore((7.5 * k, 0.3 * k, 0), (0, 0, 1), 2) for k in (0, 1, 2, 4)]
    s = fitted(row, [Relation("row", (0, 1, 2, 3), slots=(0, 1, 2, 4)), Relation("equal-size", (0, 1, 2, 3))])
    x = np.array([np.array(c.origin) - np.dot(c.origin, s[0].axis) * np.array(s[0].axis) for c in s])
    assert x[2] - x[1] == pytest.approx(x[1] - x[0], abs=1e-6) and x[3] - x[2] == pytest.approx(
        2 * (x[1] - x[0]), abs=1e-6
    )
    assert np.ptp([c.radius for c in s]) < 1e-7


def test_mirror_coplanar_draft_angle_and_equal_distance():
    parts = [
        flat((-8, 0, 0), (-1, 0, 0)),
        flat((8, 0.5, 0), (1, 0, 0)),
        bore((-4, 3, 0), (0, 0, 1), 2),
        bore((4, 3, 0), (0, 0, 1), 2),
    ]
    s = fitted(parts, [Relation("mirror", (0, 1, 2, 3))])
    n = np.subtract(s[0].axis, s[1].axis) / np.linalg.norm(np.subtract(s[0].axis, s[1].axis))
    d = float((np.array(s[0].origin) - ((np.subtract(s[0].origin, s[1].origin)) @ n) * 0) @ n)
    mid = 0.5 * (d + float(np.array(s[1].origin) @ n))
    image = np.array(s[2].origin) - 2 * (np.array(s[2].origin) @ n - mid) * n
    assert np.linalg.norm(np.cross(image - np.array(s[3].origin), s[3].axis)) < 2e-3
    assert s[2].radius == pytest.approx(s[3].radius, abs=1e-7)
    lean = math.radians(3)
    walls = [
        flat((0, 0, 0), (0, 0, 1)),
        *(
            flat((9 * c, 9 * t, 5), (c * math.cos(lean), t * math.cos(lean), math.sin(lean)))
            for c, t in ((1, 0), (0, 1), (-1, 0))
        ),
    ]
    s = fitted(walls, [Relation("draft", (0, 1, 2, 3), lean)])
    assert [90 - angle(s[0], w) for w in s[1:]] == pytest.approx([3, 3, 3], abs=1e-6)
    steps = [flat((0, 0, z), (0, 0, 1)) for z in (0, 5.01, 20, 25)]
    s = fitted(steps, [Relation("parallel", (0, 1, 2, 3)), Relation("equal-distance", (0, 1, 2, 3))])
    gaps = [abs(np.dot(np.subtract(s[b].origin, s[a].origin), s[a].axis)) for a, b in ((0, 1), (2, 3))]
    assert gaps[0] == pytest.approx(gaps[1], abs=1e-7) and gaps[0] == pytest.approx(5.005, abs=0.01)
    s = fitted(
        [flat((0, 0, 0), (0, 0, 1)), flat((5, 0, 0), (math.sin(math.radians(29.9)), 0, math.cos(math.radians(29.9))))],
        [Relation("angle", (0, 1), math.radians(30))],
    )
    assert angle(*s) == pytest.approx(30, abs=1e-6)
    s = fitted([flat((0, 0, 0), (0, 0, 1)), flat((40, 0, 0.01), (0, 0, 1))], [Relation("coplanar", (0, 1))])
    assert abs(np.dot(np.subtract(s[1].origin, s[0].origin), s[0].axis)) < 1e-7


def test_what_cannot_hold_is_named():
    parts = [flat((0, 0, 0), (0, 0, -1)), flat((0, 0, 12), (0, 0, 1))]
    with pytest.raises(ContourError, match="cannot hold together") as caught:
        fitted(parts, [Relation("distance", (0, 1), 12.0), Relation("distance", (0, 1), 13.0)])
    assert caught.value.problem.where.param in ("relations[0]", "relations[1]")
    with pytest.raises(ContourError, match="no size"):
        fitted(parts, [Relation("size", (0,), 4.0)])
    with pytest.raises(ContourError, match="more members"):
        fitted(parts, [Relation("parallel", (0,))])
    assert set(KINDS) >= {"size", "mirror"}
