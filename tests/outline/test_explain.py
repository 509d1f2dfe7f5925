import math

import numpy as np
import pytest
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox
from shapely.geometry import LineString

from contour.check.exact_arrays import exact_arrays
from contour.exchange.raw import RawScan
from contour.mesh.prepare import prepare_scan
from contour.outline.along import path_distance
from contour.outline.arcs import arc_points, circle_through
from contour.outline.explain import default_outline_tolerance, fit_outline
from contour.outline.pieces import piece_path
from contour.outline.section import section_loops
from contour.simulate.loops import softened_loop
from contour.simulate.scanner import ScanSettings, virtual_scan


def resampled(path: np.ndarray, step: float) -> np.ndarray:
    length = np.concatenate([[0], np.cumsum(np.linalg.norm(np.diff(path, axis=0), axis=1))])
    at = np.arange(0, length[-1], step)
    return np.column_stack([np.interp(at, length, path[:, d]) for d in range(2)])


def kinds(outline) -> str:
    return "".join(p.kind[0] for p in outline.pieces)


def test_a_clean_rectangle_is_four_lines_that_meet_in_its_corners():
    path = np.array([[0, 0], [30, 0], [30, 20], [0, 20], [0, 0]], float)
    outline = fit_outline(resampled(path, 0.4), closed=True, tolerance_mm=0.05, edge_mm=0.8)
    assert kinds(outline) == "llll"
    corners = np.array(sorted(tuple(np.round(p.start, 6)) for p in outline.pieces))
    assert np.allclose(corners, sorted([(0, 0), (0, 20), (30, 0), (30, 20)]), atol=1e-6)


def test_four_corner_points_are_enough_for_a_square():
    outline = fit_outline(np.array([[0, 0], [10, 0], [10, 10], [0, 10.0]]), closed=True, tolerance_mm=0.05, edge_mm=10)
    assert kinds(outline) == "llll"


@pytest.mark.parametrize("radius", [2.0, 9.0, 60.0])
def test_a_noisy_circle_is_one_arc(radius):
    rng = np.random.default_rng(1)
    t = np.linspace(0, 2 * np.pi, max(24, int(2 * np.pi * radius / 0.4)), endpoint=False)
    r = radius + rng.normal(0, 0.02, len(t))
    outline = fit_outline(
        np.column_stack([5 + r * np.cos(t), -3 + r * np.sin(t)]), closed=True, tolerance_mm=0.06, edge_mm=0.8
    )
    (piece,) = outline.pieces
    assert piece.kind == "arc"
    assert piece.start == piece.end
    assert piece.radius == pytest.approx(radius, abs=0.02)
    assert piece.centre == pytest.approx((5, -3), abs=0.02)


def test_a_slot_has_two_lines_and_two_arcs_that_meet_tangent():
    rng = np.random.default_rng(2)
    left, right = np.linspace(np.pi / 2, 3 * np.pi / 2, 60), np.linspace(-np.pi / 2, np.pi / 2, 60)
    path = np.vstack(
        [
            np.column_stack([10 * np.cos(left), 10 * np.sin(left)]),
            np.column_stack([50 + 10 * np.cos(right), 10 * np.sin(right)]),
        ]
    )
    points = resampled(np.vstack([path, path[:1]]), 0.5)
    outline = fit_outline(points + rng.normal(0, 0.02, points.shape), closed=True, tolerance_mm=0.07, edge_mm=1.0)
    assert sorted(kinds(outline)) == list("aall")
    assert len(outline.tangent) == 4
    assert [p.radius for p in outline.pieces if p.kind == "arc"] == pytest.approx([10, 10], abs=0.03)


def test_pieces_meet_exactly():
    for seed in range(6):
        loop = softened_loop(seed)
        outline = fit_outline(loop.points, closed=True, tolerance_mm=3 * loop.noise_mm, edge_mm=loop.edge_mm)
        for a, b in zip(outline.pieces, (*outline.pieces[1:], outline.pieces[0]), strict=True):
            assert a.end == b.start


def test_softened_loops_keep_their_true_piece_count():
    """A sample; ./run bench measures the figure on other seeds."""
    right = 0
    for seed in range(1000, 1012):
        loop = softened_loop(seed)
        tolerance = default_outline_tolerance(loop.noise_mm, 80)
        outline = fit_outline(loop.points, closed=True, tolerance_mm=tolerance, edge_mm=loop.edge_mm)
        right += len(outline.pieces) == len(loop.kinds)
    assert right >= 10


def test_a_larger_tolerance_gives_fewer_pieces():
    t = np.linspace(0, 2 * np.pi, 500, endpoint=False)
    ripple = np.column_stack([(20 + 0.15 * np.cos(9 * t)) * np.cos(t), (20 + 0.15 * np.cos(9 * t)) * np.sin(t)])
    fine = fit_outline(ripple, closed=True, tolerance_mm=0.02, edge_mm=0.5)
    coarse = fit_outline(ripple, closed=True, tolerance_mm=1.0, edge_mm=0.5)
    assert len(coarse.pieces) == 1
    assert len(fine.pieces) > 8 or any(p.kind == "free" for p in fine.pieces)


def test_a_free_curve_is_not_cut_into_scraps_and_is_followed():
    rng = np.random.default_rng(3)
    x = np.linspace(0, 60, 240)
    y = 5 * np.sin(x / 6) + 2 * np.sin(x / 2.7 + 1)
    points = np.column_stack([x, y]) + rng.normal(0, 0.01, (240, 2))
    outline = fit_outline(points, closed=False, tolerance_mm=0.03, edge_mm=0.5)
    assert len(outline.pieces) <= 8
    assert any(p.kind == "free" for p in outline.pieces)
    free = np.vstack([np.array(p.points) for p in outline.pieces if p.kind == "free"])
    x = np.linspace(0, 60, 12_000)
    truth = np.column_stack([x, 5 * np.sin(x / 6) + 2 * np.sin(x / 2.7 + 1)])
    assert np.linalg.norm(free[:, None] - truth[None], axis=2).min(axis=1).max() < 0.04


def test_arcs_by_three_points():
    centre, radius = circle_through((1, 0), (0, 1), (-1, 0))
    assert np.allclose(centre, 0)
    assert radius == pytest.approx(1)
    for mid, top in (((0.0, 1.0), 1), ((0.0, -1.0), -1)):
        points = arc_points((1, 0), mid, (-1, 0), step_deg=10)
        assert points[len(points) // 2][1] == pytest.approx(top, abs=0.02)


def test_a_section_of_a_scan_has_the_true_loops(block_scan):
    outer, bore = section_loops(block_scan, np.array([0, 0, 5.0]), np.array([0, 0, 1.0]))
    assert kinds(outer.outline) == "llll"
    assert outer.area == pytest.approx(1200, rel=2e-3)
    assert outer.length == pytest.approx(140, rel=1e-3)
    assert kinds(bore.outline) == "a"
    assert bore.outline.pieces[0].radius == pytest.approx(6, abs=0.05)
    row = bore.as_json()["pieces"][0]
    assert row["centre"] == pytest.approx([15, 15, 5], abs=0.03)


@pytest.mark.parametrize("chord", [0.01, 0.1])
def test_a_modelled_mesh_keeps_its_sharp_corners_and_small_fillets(chord):
    """Facets here are long where the part is flat: their length says nothing of softened corners."""
    from contour.mesh.prepare import prepare_scan
    from contour.solid.tessellate import tessellate
    from demo.bracket import base_block
    from tests.conftest import raw_scan

    mesh = tessellate(base_block().shape, chord_mm=chord)
    scan = prepare_scan(raw_scan(mesh.vertices[mesh.triangles]), 1.0)
    outer, *holes = section_loops(scan, np.array([60, 40, 4.0]), np.array([0, 0, 1.0]))
    assert sorted(kinds(outer.outline)) == list("aaaallll")
    assert outer.area == pytest.approx(9600 - (4 - np.pi) * 64, rel=2e-4)
    assert [p.radius for p in outer.outline.pieces if p.kind == "arc"] == pytest.approx([8] * 4, abs=chord)
    assert [kinds(h.outline) for h in holes] == ["a"] * 4


def test_sides_between_corners_that_a_scan_has_rounded_are_lines():
    """Sections of a noisy scan of a block: sides of ten facets and more, whose ends the scan has bent."""
    block = exact_arrays(BRepPrimAPI_MakeBox(40, 12, 9).Shape())
    kinds = []
    for seed in range(2):
        made = virtual_scan(block, ScanSettings(spacing_mm=0.8, noise_mm=0.03, seed=seed))
        corners = made.vertices[made.facets]
        scan = prepare_scan(RawScan(corners, np.arange(len(corners)), len(corners), "stl"), 1.0)
        for axis, size in enumerate((40, 12, 9)):
            for share in (0.3, 0.45, 0.6, 0.75):
                (loop,) = section_loops(scan, share * size * np.eye(3)[axis], np.eye(3)[axis])
                kinds.append([p.kind for p in loop.outline.pieces])
    assert kinds == [["line"] * 4] * 24


@pytest.mark.parametrize("seed", [0, 2, 3, 14, 32])
def test_a_bore_with_a_worn_lobe_is_followed(seed):
    """A bulge of some times the noise along an eighth of it: a circle, or two arcs that meet where it begins and ends; never one that begins and
    ends in one place, as two circles that touch do."""
    rng = np.random.default_rng(seed)
    t = np.linspace(0, 2 * np.pi, 110, endpoint=False)
    r = 3.37 + rng.normal(0, 0.016, len(t)) + np.where(t > 7 * np.pi / 4, 0.06, -0.008)
    points = np.column_stack([r * np.cos(t), r * np.sin(t)])
    outline = fit_outline(points, closed=True, tolerance_mm=0.06, edge_mm=0.47)
    away = np.min([path_distance(points, piece_path(p)) for p in outline.pieces], axis=0)
    assert away.max() < 0.15
    assert len(outline.pieces) == 1 or all(math.dist(p.start, p.end) > 1.5 for p in outline.pieces)
    assert not outline.tangent


@pytest.mark.parametrize("teeth", [12, 16, 18, 20, 24])
def test_sides_of_a_few_facets_are_pieces_and_no_rounding_of_a_corner(teeth):
    """One tooth of a wheel down to its bore: root, flanks, tip, two ends along the radius. Of the smaller ones two sides in a row were taken for what a
    scan makes of a corner, and the outline ran up to 1.8 mm beside the cut."""
    a = 2 * math.pi / teeth
    bore = [(6 * math.cos(t), 6 * math.sin(t)) for t in np.linspace(a / 2, -a / 2, 9)]
    rest = [(-0.5, 20), (-0.25, 20), (-0.15, 24), (0.15, 24), (0.25, 20), (0.5, 20)]
    corners = [*bore, *((r * math.cos(s * a), r * math.sin(s * a)) for s, r in rest)]
    ring = LineString([*corners, corners[0]])
    at = np.linspace(0, ring.length, int(ring.length / 0.3), endpoint=False)
    points = np.array([ring.interpolate(d).coords[0] for d in at])
    for _ in range(4):  # as a scan rounds them
        points = 0.25 * (np.roll(points, 1, axis=0) + 2 * points + np.roll(points, -1, axis=0))
    points += np.random.default_rng(teeth).normal(0, 0.004, points.shape)
    outline = fit_outline(points, closed=True, tolerance_mm=0.07, edge_mm=0.7)
    away = np.min([path_distance(points, piece_path(p)) for p in outline.pieces], axis=0)
    assert len(outline.pieces) == 8 and away.max() < 0.2
    assert {p.kind for p in outline.pieces} <= {"line", "arc"}
