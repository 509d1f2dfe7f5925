"""The split by dynamic programming, on chains whose pieces are known."""

import itertools

import numpy as np
import pytest

from contour.check.exact_arrays import exact_arrays
from contour.geometry.frames import plane_frame
from contour.mesh.prepare import prepare_scan
from contour.outline.piece_fit import corner_of, fit_piece, joint, piece_gap
from contour.outline.section import section_loops
from contour.outline.shape import Held, regularise
from contour.outline.split import ARC, FREE, LINE, fit_circle, split_chain
from contour.simulate.scanner import ScanSettings, virtual_scan
from contour.simulate.star_outlines import entities_of
from tests.conftest import raw_scan
from tests.steps.helpers import shape_of
from tests.steps.test_revolve_step import NEW, revolve


def chain(*parts: np.ndarray, sigma: float = 0.0, seed: int = 0) -> np.ndarray:
    points = np.vstack(parts)
    return points + np.random.default_rng(seed).normal(0, sigma, points.shape)


def line(a, b, step=0.4) -> np.ndarray:
    a, b = np.array(a, float), np.array(b, float)
    n = max(2, round(np.linalg.norm(b - a) / step))
    return a + (b - a) * np.linspace(0, 1, n, endpoint=False)[:, None]


def arc(centre, r, start_deg, end_deg, step=0.4) -> np.ndarray:
    t = np.radians(
        start_deg
        + (end_deg - start_deg)
        * np.linspace(0, 1, max(4, round(abs(np.radians(end_deg - start_deg)) * r / step)), endpoint=False)
    )
    return np.array(centre) + r * np.column_stack([np.cos(t), np.sin(t)])


def split(points, sigma=0.02, **more):
    options = {
        "corner_mm": 1.5,
        "smallest_mm": 0.8,
        "largest_mm": 500.0,
        "end_skip_mm": 0.0,
        "edge_mm": 0.8,
        "closed": False,
    }
    weights = np.ones(len(points))
    return split_chain(points, weights, sigma_mm=sigma, **{**options, **more})[0]


def test_a_line_is_one_piece_and_a_kink_makes_two():
    assert [k for k, _, _ in split(chain(line((0, 0), (30, 7)), sigma=0.02))] == [LINE]
    kinked = split(chain(line((0, 0), (20, 0)), line((20, 0), (30, 8)), sigma=0.02))
    assert [k for k, _, _ in kinked] == [LINE, LINE]
    assert kinked[0][2] == pytest.approx(50, abs=4)


@pytest.mark.parametrize("radius", [3.0, 12.0, 40.0])
def test_line_arc_line_is_found_in_noise(radius):
    points = chain(
        line((-20, 0), (0, 0)),
        arc((0, radius), radius, -90, 0),
        line((radius, radius), (radius, radius + 20)),
        sigma=0.02,
    )
    assert [k for k, _, _ in split(points)] == [LINE, ARC, LINE]


def test_pieces_follow_each_other_and_cover_the_chain():
    points = chain(line((0, 0), (20, 0)), arc((20, 5), 5, -90, 90), line((20, 10), (0, 10)), sigma=0.02)
    pieces = split(points)
    assert pieces[0][1] == 0
    assert pieces[-1][2] == len(points) - 1
    for (_, _, b), (_, a, _) in itertools.pairwise(pieces):
        assert 0 <= a - b <= 4


def test_a_price_keeps_noise_from_becoming_pieces():
    counts = [len(split(chain(line((0, 0), (100, 0)), sigma=0.02, seed=s))) for s in range(12)]
    assert max(counts) == 1


def test_corners_of_a_fine_zigzag_are_not_swallowed_by_a_free_piece():
    zigzag = chain(
        *[line((8 * k, 0 if k % 2 == 0 else 6), (8 * k + 8, 6 if k % 2 == 0 else 0)) for k in range(8)], sigma=0.02
    )
    kinds = [k for k, _, _ in split(zigzag)]
    assert kinds == [LINE] * 8
    assert FREE not in kinds


def test_circle_fit_is_not_pulled_small_by_noise_on_a_short_arc():
    found = [fit_circle(chain(arc((0, 0), 20, 0, 60, 0.3), sigma=0.03, seed=s))[1] for s in range(60)]
    assert np.mean(found) == pytest.approx(20, abs=0.05)
    assert fit_circle(np.array([[0, 0], [1, 0], [2, 0.0]])) is None


def test_meeting_points():
    a, b = fit_piece(LINE, line((0, 0), (10, 0))), fit_piece(LINE, line((10, 0), (10, 10)))
    assert corner_of(a, b, np.array([9.0, 1])) == pytest.approx([10, 0], abs=1e-9)
    round_ = fit_piece(ARC, arc((10, 5), 5, -90, 80))
    assert corner_of(a, round_, np.array([10.0, 0])) == pytest.approx([10, 0], abs=1e-2)
    parallel = fit_piece(LINE, line((0, 1), (10, 1)))
    assert corner_of(a, parallel, np.array([0.0, 0])) is None
    assert joint(a, parallel, np.array([5.0, 0.5]), 2.0) == pytest.approx([5, 0.5], abs=0.6)


def test_tangent_and_square_neighbours_are_held_together():
    parts = [line((-20, 0), (0, 0)), arc((0, 6), 6, -90, 0), line((6, 6), (6, 30))]
    rng = np.random.default_rng(5)
    fits = [fit_piece(k, p + rng.normal(0, 0.02, p.shape)) for k, p in zip((LINE, ARC, LINE), parts, strict=True)]
    tangent = regularise(fits, [np.array([0.0, 0]), np.array([6.0, 6]), None], sigma_mm=0.02)
    assert tangent == [(0, 1), (1, 2)]
    turn = np.degrees(fits[2].p[0] - fits[0].p[0]) % 90
    assert min(turn, 90 - turn) < 1e-4
    for k in (0, 2):
        n = np.array([np.cos(fits[k].p[0]), np.sin(fits[k].p[0])])
        assert abs(n @ fits[1].p[:2] - fits[k].p[1]) == pytest.approx(fits[1].p[2], abs=1e-6)
    assert fits[1].p[2] == pytest.approx(6, abs=0.03)
    assert np.abs(piece_gap(fits[1], parts[1])).max() < 0.05


@pytest.mark.parametrize(
    ("high", "lean", "edge", "squared"),
    [
        (3.0, 9.0, 0.8, True),  # under four facets, both its ends rounded off
        (3.0, -9.0, 0.8, True),
        (3.0, 20.0, 0.8, False),  # no rounding leans so far
        (8.0, 4.0, 0.8, False),  # ten facets: what leans was made so
        (3.0, 9.0, 0.0, False),  # nothing has rounded the corners of a modelled mesh
    ],
)
def test_the_riser_of_a_low_step_is_square_to_its_treads(high, lean, edge, squared):
    aside = (high / 2 - 0.4) * np.tan(np.radians(lean))
    parts = [line((-20, 0), (-1, 0)), line((-aside, 0.4), (aside, high - 0.4)), line((1, high), (20, high))]
    rng = np.random.default_rng(4)
    fits = [fit_piece(LINE, p + rng.normal(0, 0.01, p.shape)) for p in parts]
    regularise(
        fits, [np.array([-aside, 0.0]), np.array([aside, high]), None], sigma_mm=0.01, edge_mm=edge, following=[1, 2, 2]
    )
    turn = np.degrees(fits[1].p[0] - fits[0].p[0]) % 90
    assert (min(turn, 90 - turn) < 1e-6) == squared
    corners = [corner_of(fits[k], fits[k + 1], np.zeros(2)) for k in (0, 1)]
    if squared:
        assert [c[0] for c in corners] == pytest.approx([0, 0], abs=0.05)


def test_a_shoulder_of_four_facets_lies_where_it_is_and_square():
    """A shaft of R 6 and R 9, cut along its axis: the scan rounds both ends of the shoulder."""
    corners = np.array([(0, 0), (6, 0), (6, 12), (9, 12), (9, 30), (0, 30)], float)
    solid = exact_arrays(shape_of(revolve(entities_of(corners)), NEW).shape)
    made = virtual_scan(solid, ScanSettings(spacing_mm=0.8, noise_mm=0.015, seed=3))
    scan = prepare_scan(raw_scan(made.vertices[made.facets]), 1.0)
    frame = plane_frame(np.array([0.0, 15.0, 0.0]), np.array([0, 0, 1.0]), np.array([1.0, 0, 0]))
    (loop, *_) = section_loops(scan, frame.origin, frame.normal, frame=frame)
    ends = np.array([(*p.start, *p.end) for p in loop.outline.pieces if p.kind == "line"])
    shoulders = [e for e in ends if np.hypot(e[2] - e[0], e[3] - e[1]) < 4]
    assert shoulders
    for x1, y1, x2, y2 in shoulders:
        # The shaft's own 12 mm lie 3 mm before the middle of the plane.
        assert (y1, y2) == pytest.approx((-3, -3), abs=0.03) and sorted((abs(x1), abs(x2))) == pytest.approx(
            [6, 9], abs=0.06
        )


def test_arcs_are_held_to_one_radius_and_one_middle_on_request():
    """Two arcs of R 5.00 and 5.06 about nearly one middle, with lines between them."""

    rng = np.random.default_rng(1)

    def arc(cx, cy, r, a, b):
        t = np.radians(np.linspace(a, b, 60))
        return np.column_stack(
            [cx + (r + rng.normal(0, 0.01, 60)) * np.cos(t), cy + (r + rng.normal(0, 0.01, 60)) * np.sin(t)]
        )

    def two():
        return [fit_piece(ARC, arc(0, 0, 5.0, 0, 120)), fit_piece(ARC, arc(0.03, 0, 5.06, 180, 300))]

    free = two()
    assert abs(free[0].p[2] - free[1].p[2]) > 0.02
    held = two()
    regularise(held, [None, None], sigma_mm=0.01, held=[Held("equal radius", 0, 1), Held("concentric", 0, 1)])
    assert held[0].p == pytest.approx(held[1].p, abs=1e-9) and 5.0 < held[0].p[2] < 5.06


def test_where_nothing_meets_the_joint_lies_on_the_rounder_piece():
    """A line that passes a circle by: the arc ends on its circle, or three points of it would be another circle's."""
    t = np.linspace(0.4, 5.9, 60)
    ring = fit_piece(ARC, 5.0 * np.column_stack([np.cos(t), np.sin(t)]))
    line = fit_piece(LINE, np.column_stack([np.full(20, 5.6), np.linspace(-3, 3, 20)]))
    for pair in ((ring, line), (line, ring)):
        at = joint(*pair, np.array([5.3, 0.5]), 0.4)
        assert np.linalg.norm(at) == pytest.approx(5.0, abs=1e-6)
