"""Borders between regions of a mesh, and the curves along them, against what is known of them."""

from __future__ import annotations

import numpy as np
import pytest
from OCP.Geom import Geom_BSplineCurve, Geom_Circle, Geom_Ellipse, Geom_Line

from contour.geometry.surfaces import Surface, distances
from contour.mesh.topology import neighbours, weld
from contour.solid.of_regions.borders import borders_of
from contour.solid.of_regions.courses import courses_of, kinks_of
from contour.solid.of_regions.curves import corner_of, run_along
from tests.conftest import cube

Z = (0.0, 0.0, 1.0)
TOP = Surface("plane", (0, 0, 10), Z, 0.0, 1)
WALL = Surface("cylinder", (0, 0, 0), Z, 8.0, 1)


def ring(r: float, z: float, count: int = 24, turn: float = 2 * np.pi) -> np.ndarray:
    t = np.linspace(0, turn, count + 1)
    return np.column_stack([r * np.cos(t), r * np.sin(t), np.full(len(t), z)])


def test_a_box_has_twelve_chains_and_four_at_each_face():
    vertices, facets = weld(cube((3, 2, 1)))
    across, _ = neighbours(facets, len(vertices))
    normal = np.cross(vertices[facets[:, 1]] - vertices[facets[:, 0]], vertices[facets[:, 2]] - vertices[facets[:, 0]])
    _, labels = np.unique(np.round(normal / np.linalg.norm(normal, axis=1)[:, None]), axis=0, return_inverse=True)
    borders = borders_of(facets, across, labels.ravel().astype(np.int64), 6)
    assert len(borders.chains) == 12 and not any(c.ring for c in borders.chains)
    assert [[len(loop) for loop in loops] for loops in borders.loops] == [[4]] * 6
    ways = [way for loops in borders.loops for loop in loops for _, way in loop]
    assert ways.count(True) == ways.count(False) == 12  # each is run once either way


def test_open_sides_have_nothing_on_their_right():
    vertices, facets = weld(cube((1, 1, 1))[:2])
    across, _ = neighbours(facets, len(vertices))
    borders = borders_of(facets, across, np.zeros(2, np.int64), 1)
    assert [(c.left, c.right, c.ring) for c in borders.chains] == [(0, -1, True)]
    assert len(borders.chains[0].vertices) == 5


@pytest.mark.parametrize("ring_whole", [True, False])
def test_a_plane_across_a_cylinder_meets_it_in_a_circle(ring_whole):
    points = ring(8, 10) if ring_whole else ring(8, 10, 5, 2.0)
    run = run_along(points, [TOP, WALL], ring_whole, 1e-4)
    assert isinstance(run.curve, Geom_Circle)
    assert run.curve.Circ().Radius() == pytest.approx(8)
    assert run.end - run.begin == pytest.approx(2 * np.pi if ring_whole else 2.0)


def test_one_side_of_a_mesh_is_an_arc_where_the_surfaces_say_so_and_a_line_where_they_do_not():
    short = ring(8, 10, 1, 0.4)
    assert isinstance(run_along(short, [TOP, WALL], False, 1e-4).curve, Geom_Circle)
    side = Surface("plane", (0, 0, 0), (0.0, 1.0, 0.0), 0.0, 1)
    straight = np.array([[8.0, 0, 0], [8.0, 0, 10]])
    assert isinstance(run_along(straight, [side, WALL], False, 1e-4).curve, Geom_Line)
    # A flat facet beside: the side stays where the mesh has it.
    assert isinstance(run_along(short, [WALL], False, 1e-4, flat=True).curve, Geom_Line)


def test_a_tangent_border_of_a_fillet_is_the_circle_at_which_it_ends():
    tube = Surface("torus", (0, 0, 7), Z, 8.0, 1, minor=3.0)
    run = run_along(ring(8, 10, 3, 1.2), [TOP, tube], False, 1e-4)
    assert isinstance(run.curve, Geom_Circle) and run.curve.Circ().Radius() == pytest.approx(8)


def test_an_oblique_plane_meets_a_cylinder_in_an_ellipse():
    slope = 0.5
    t = np.linspace(0.3, 2.8, 12)
    points = np.column_stack([8 * np.cos(t), 8 * np.sin(t), 10 + slope * 8 * np.cos(t)])
    normal = np.array([-slope, 0, 1]) / np.hypot(slope, 1)
    plane = Surface("plane", (0, 0, 10), tuple(normal), 0.0, 1)
    run = run_along(points, [plane, WALL], False, 1e-4)
    assert isinstance(run.curve, Geom_Ellipse)
    assert run.curve.Elips().MajorRadius() == pytest.approx(8 * np.hypot(slope, 1))
    begin, end = run.curve.Value(run.begin), run.curve.Value(run.end)
    assert np.allclose([begin.X(), begin.Y(), begin.Z()], points[0]) and np.allclose([end.X(), end.Y()], points[-1, :2])


def test_two_cylinders_meet_in_a_free_curve_that_lies_on_both():
    across = Surface("cylinder", (0, 0, 0), (1.0, 0.0, 0.0), 5.0, 1)
    t = np.linspace(0, 2 * np.pi, 33)
    y, z = 5 * np.cos(t), 5 * np.sin(t)
    points = np.column_stack([np.sqrt(64 - y**2), y, z])
    points[-1] = points[0]
    run = run_along(points, [WALL, across], True, 1e-4)
    assert isinstance(run.curve, Geom_BSplineCurve)
    places = [run.curve.Value(float(u)) for u in np.linspace(run.begin, run.end, 500)]
    places = np.array([(p.X(), p.Y(), p.Z()) for p in places])
    assert max(np.abs(distances(s, places)).max() for s in (WALL, across)) < 1e-4


def test_a_corner_is_where_its_surfaces_meet_unless_that_is_far_off():
    side = Surface("plane", (0, 0, 0), (0.0, 1.0, 0.0), 0.0, 1)
    near = corner_of(np.array([8.0003, 0.0002, 9.9998]), [TOP, WALL, side], 1e-2)
    assert np.allclose(near, [8, 0, 10], atol=1e-9)
    far = np.array([8.3, 0.2, 9.8])
    assert corner_of(far, [TOP, WALL, side], 1e-2) is far


def two_halves() -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """(Vertices, facets, halves) of a sheet of 6 by 6 that a border with a right angle in the middle parts in two."""
    x, y = np.meshgrid(np.arange(7.0), np.arange(7.0), indexing="ij")
    vertices = np.column_stack([x.ravel(), y.ravel(), 0.02 * (x.ravel() + y.ravel()) ** 2])
    at = np.arange(49).reshape(7, 7)
    a, b, c, d = (k.ravel() for k in (at[:-1, :-1], at[1:, :-1], at[1:, 1:], at[:-1, 1:]))
    facets = np.vstack([np.column_stack([a, b, c]), np.column_stack([a, c, d])]).astype(np.int32)
    middle = vertices[facets].mean(axis=1)
    return vertices, facets, ((middle[:, 0] > 3) & (middle[:, 1] > 3)).astype(np.int64)


def test_a_free_border_breaks_at_a_kink_and_nowhere_else():
    vertices, facets, halves = two_halves()
    across, _ = neighbours(facets, len(vertices))
    whole = borders_of(facets, across, halves, 2)
    flat = np.zeros(2, bool)
    kinks = kinks_of(vertices, whole, courses_of(vertices, whole, [None, None], flat, 1e-6))
    between = [c for c in whole.chains if c.right >= 0]
    assert len(between) == 1 and [vertices[v, :2].tolist() for v in kinks & set(between[0].vertices.tolist())] == [
        [3, 3]
    ]
    broken = borders_of(facets, across, halves, 2, kinks)
    parts = [c.vertices for c in broken.chains if c.right >= 0]
    assert [len(p) for p in parts] == [4, 4]
    # Neither part swings out over the other side of the angle.
    runs = courses_of(vertices, broken, [None, None], flat, 1e-6).runs
    for chain, run in zip(broken.chains, runs, strict=True):
        if chain.right >= 0:
            places = np.array([(p.X(), p.Y()) for p in map(run.curve.Value, np.linspace(run.begin, run.end, 60))])
            assert places.min() > 3 - 1e-6


def test_a_coarse_ring_has_no_kinks():
    vertices, facets = weld(cube((2, 2, 2)))
    across, _ = neighbours(facets, len(vertices))
    halves = (vertices[facets].mean(axis=1)[:, 2] > 1.9).astype(np.int64)
    whole = borders_of(facets, across, halves, 2)
    courses = courses_of(vertices, whole, [None, None], np.zeros(2, bool), 1e-6)
    assert [c.ring for c in whole.chains] == [True] and not kinks_of(vertices, whole, courses)
