"""Lines, circles and ellipses, whole and in pieces, against dense samples and closed forms."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from contour.geometry.curves import Line, Oval, bounds, distances, feet, moved, offset, parameters, places, tangents
from contour.geometry.rigid import moved as points_moved
from contour.geometry.rigid import placement

X, Y = (1.0, 0.0, 0.0), (0.0, 1.0, 0.0)
FLAT = {
    "line": Line((-4, 1, 0), (6, 3, 0)),
    "circle": Oval((1, 2, 0), X, Y, 5.0, 5.0),
    "arc": Oval((1, 2, 0), X, Y, 5.0, 5.0, 0.4, 2.9),
    "late arc": Oval((1, 2, 0), X, Y, 5.0, 5.0, 5.5, 8.0),
    "ellipse": Oval((0, 0, 0), X, Y, 8.0, 3.0),
    "half an ellipse": Oval((0, 0, 0), X, Y, 8.0, 3.0, 0.2, 3.0),
    "the flat end": Oval((0, 0, 0), X, Y, 8.0, 3.0, -0.7, 0.5),
}


def in_space(seed: int):
    turn = np.asarray(Rotation.random(random_state=seed).as_matrix())
    return placement(turn, np.random.default_rng(seed).uniform(-30, 30, 3))


def span(curve):
    return (0.0, curve.length) if isinstance(curve, Line) else (curve.first, curve.last)


@pytest.mark.parametrize("name", FLAT)
@pytest.mark.parametrize("seed", range(3))
def test_no_place_of_the_piece_is_nearer_than_the_foot(name: str, seed: int) -> None:
    curve = moved(FLAT[name], in_space(seed))
    points = points_moved(in_space(seed), np.random.default_rng(seed).uniform(-12, 12, (300, 3)))
    dense = places(curve, np.linspace(*span(curve), 20_001))
    best = np.array([np.linalg.norm(dense - p, axis=1).min() for p in points])
    found = distances(curve, points)
    assert np.all(found <= best + 1e-9)
    assert found == pytest.approx(best, abs=1e-5)


@pytest.mark.parametrize("name", FLAT)
def test_feet_are_places_of_the_piece(name: str) -> None:
    curve = FLAT[name]
    points = np.random.default_rng(8).uniform(-12, 12, (200, 3))
    t = parameters(curve, points)
    low, high = span(curve)
    assert np.all((t >= low - 1e-12) & (t <= high + 1e-12))
    assert feet(curve, points) == pytest.approx(places(curve, t))


@pytest.mark.parametrize("name", FLAT)
def test_inside_the_piece_the_way_to_the_foot_is_square_to_the_curve(name: str) -> None:
    curve = moved(FLAT[name], in_space(4))
    points = points_moved(in_space(4), np.random.default_rng(4).uniform(-12, 12, (300, 3)))
    t = parameters(curve, points)
    low, high = span(curve)
    inside = (t > low + 1e-6) & (t < high - 1e-6)
    assert inside.sum() > 30
    away = (points - places(curve, t))[inside]
    along = tangents(curve, t)[inside]
    assert np.abs(np.einsum("ij,ij->i", away, along)).max() < 1e-6


@pytest.mark.parametrize("name", FLAT)
def test_tangents_are_how_places_change(name: str) -> None:
    curve = moved(FLAT[name], in_space(6))
    t = np.linspace(*span(curve), 30)
    step = places(curve, t + 1e-6) - places(curve, t - 1e-6)
    step /= np.linalg.norm(step, axis=1, keepdims=True)
    assert tangents(curve, t) == pytest.approx(step, abs=1e-6)


@pytest.mark.parametrize("name", FLAT)
@pytest.mark.parametrize("seed", range(4))
def test_bounds_are_those_of_a_dense_sample(name: str, seed: int) -> None:
    curve = moved(FLAT[name], in_space(seed + 20))
    dense = places(curve, np.linspace(*span(curve), 20_001))
    assert bounds(curve) == pytest.approx(np.array([dense.min(axis=0), dense.max(axis=0)]), abs=1e-6)


@pytest.mark.parametrize(
    ("p", "q"), [(0.0, 0.0), (1.0, 0.0), (0.0, 1.0), (6.8, 0.0), (6.9, 0.0), (0.0, -9.0), (-20.0, 0.0)]
)
def test_the_foot_on_an_ellipse_from_its_own_axes(p: float, q: float) -> None:
    """Where Newton has nothing to hold on to: on the axes and in the centre, and about the end of the evolute (6.875, 0)."""
    oval = FLAT["ellipse"]
    dense = places(oval, np.linspace(0, 2 * np.pi, 200_001))
    point = np.array([[p, q, 0.0]])
    assert distances(oval, point)[0] == pytest.approx(np.linalg.norm(dense - point, axis=1).min(), abs=1e-7)


def test_where_the_whole_ellipse_is_nearest_elsewhere_the_piece_may_come_near_a_second_time() -> None:
    # Left of the middle the whole ellipse is nearest on its left; the right part has its own nearest place inside, not at an end.
    right = Oval((0, 0, 0), X, Y, 8.0, 3.0, -1.5, 1.5)
    point = np.array([[-0.05, 0.0, 0.0]])
    t = float(parameters(right, point)[0])
    dense = places(right, np.linspace(-1.5, 1.5, 200_001))
    assert distances(right, point)[0] == pytest.approx(np.linalg.norm(dense - point, axis=1).min(), abs=1e-7)
    assert abs(t) <= 1.5


def test_a_circle_says_so_and_an_ellipse_does() -> None:
    assert FLAT["arc"].kind == "circle"
    assert FLAT["ellipse"].kind == "ellipse"
    assert FLAT["circle"].whole
    assert not FLAT["arc"].whole
    assert FLAT["circle"].axis == pytest.approx([0, 0, 1])


def test_offsets_to_the_right_of_the_way() -> None:
    up = np.array([0.0, 0.0, 1.0])
    line = offset(FLAT["line"], 2.0, up)
    assert distances(line, np.array([FLAT["line"].start])) == pytest.approx([2.0])
    # Seen from above, the right of a way along x is towards -y.
    assert offset(Line((0, 0, 0), (1, 0, 0)), 1.0, up).start == pytest.approx((0, -1, 0))
    grown = offset(FLAT["arc"], 1.5, up)
    assert (grown.long, grown.short, grown.first, grown.last) == (6.5, 6.5, 0.4, 2.9)
    assert offset(FLAT["arc"], 1.5, -up).long == 3.5
    with pytest.raises(ValueError, match="nothing is left"):
        offset(FLAT["arc"], -5.0, up)
    with pytest.raises(ValueError, match="no ellipse"):
        offset(FLAT["ellipse"], 1.0, up)


def test_moved_curves_run_the_same_way() -> None:
    where = in_space(17)
    for curve in FLAT.values():
        t = np.linspace(*span(curve), 9)
        assert places(moved(curve, where), t) == pytest.approx(points_moved(where, places(curve, t)), abs=1e-9)
