"""Planes that lie in a face: told at once, with offsets at which they do not; everywhere else not a word."""

import time

import numpy as np
import pytest

from contour.fit.budget import Budget
from contour.geometry.frames import plane_frame
from contour.mesh.grazing import grazing
from contour.mesh.prepare import prepare_scan
from contour.mesh.slice import slice_scan
from contour.outline.explain import fit_outline, unexplained
from contour.outline.section import clean_cuts, outlines_of, section_loops
from contour.solid.tessellate import tessellate
from tests.conftest import circle, prism, raw_scan, rectangle

UP = np.array([0.0, 0.0, 1.0])


def at(z: float) -> np.ndarray:
    return np.array([3.0, 4.0, z])


@pytest.fixture(scope="module")
def exact_plate():
    """120 x 80 x 10 with a bore of Ø 12, as a program exports it: single precision, long facets, no noise."""
    mesh = tessellate(prism([*rectangle(120, 80), circle(15, 15, 6)], 10).shape, chord_mm=0.05)
    return prepare_scan(raw_scan(mesh.vertices[mesh.triangles].astype(np.float32).astype(float)), 1.0)


@pytest.mark.parametrize("z", [0.0, 10.0, 10.01, -0.005, 9.99])
def test_in_a_face_of_a_scan_it_is_told_with_a_clean_offset_inside(block_scan, z):
    found = grazing(block_scan, at(z), UP)
    assert found is not None and found.area > 600  # most of 1,200 less the bore
    inside, outside = (found.above, found.below) if z < 5 else (found.below, found.above)
    assert outside is None  # there is nothing left of the part
    assert 0.05 < abs(inside) < 1.0
    assert grazing(block_scan, at(z + inside), UP) is None
    outer, bore = section_loops(block_scan, at(z + inside), UP)
    assert outer.outline.closed and bore.outline.closed and outer.area == pytest.approx(1200, rel=0.05)


@pytest.mark.parametrize("z", [0.0, 10.0])
def test_in_a_face_of_an_exact_mesh_too(exact_plate, z):
    found = grazing(exact_plate, at(z), UP)
    assert found is not None and found.area == pytest.approx(9600 - np.pi * 36, rel=0.01)
    assert (found.below is None) != (found.above is None)


@pytest.mark.parametrize("z", [0.5, 2.0, 5.0, 9.5])
@pytest.mark.parametrize("which", ["scan", "exact"])
def test_where_the_plane_cuts_walls_nothing_is_said(block_scan, exact_plate, which, z):
    assert grazing(block_scan if which == "scan" else exact_plate, at(z), UP) is None


def test_across_the_part_and_tilted_nothing_is_said(block_scan):
    for normal in ([1, 0, 0], [0, 1, 0], [0.3, 0.1, 1.0], [1, 1, 0.2]):
        assert grazing(block_scan, np.array([20.0, 15.0, 5.0]), np.array(normal, float)) is None


def test_islands_of_noise_are_left_out_and_borders_are_kept(block_scan):
    frame = plane_frame(at(10.0), UP)
    cuts = slice_scan(block_scan, frame.origin, frame.normal)
    assert len(cuts) > 20 > len(clean_cuts(block_scan, cuts, frame))
    clean = slice_scan(block_scan, at(5.0), UP)
    assert clean_cuts(block_scan, clean, plane_frame(at(5.0), UP)) == clean


def test_a_circle_that_all_points_do_not_bear_out_is_no_traceback():
    """What ended in a TypeError: the thinned points lay on a circle, all of them together gave none."""
    t = np.linspace(0, 2 * np.pi, 9)[:-1]
    for points in (np.column_stack([np.cos(t), np.sin(t)]) * 1e-9, np.repeat([[1.0, 2.0]], 8, axis=0) + 1e-13):
        assert fit_outline(points, closed=True, tolerance_mm=1e-4, edge_mm=1.0).pieces


def scribble(n: int = 4000) -> np.ndarray:
    return np.cumsum(np.random.default_rng(6).normal(0, 0.3, (n, 2)), axis=0)


def test_a_spent_budget_leaves_the_loop_as_it_was_cut():
    loop = scribble()
    outline = fit_outline(loop, closed=True, tolerance_mm=0.05, edge_mm=0.3, budget=Budget(-1))
    assert not outline.explained and outline.closed
    assert {p.kind for p in outline.pieces} == {"free"}
    ends = [(p.start, p.end) for p in outline.pieces]
    assert all(ends[k][1] == ends[(k + 1) % len(ends)][0] for k in range(len(ends)))
    assert unexplained(loop, False).pieces[0].end == pytest.approx(tuple(loop[-1]))


def test_the_longest_loops_are_explained_first_and_the_rest_says_so(block_scan):
    frame = plane_frame(at(5.0), UP)
    (outer, bore) = [(frame.to_plane(c.points), c.closed) for c in slice_scan(block_scan, at(5.0), UP)]
    junk = [(scribble() + [500 * k, 0], True) for k in range(1, 30)]
    outlines_of(block_scan, [outer], frame)  # compiled
    begun = time.monotonic()
    loops = outlines_of(block_scan, [bore, *junk, outer], frame, budget=Budget(0.3))
    assert len(loops) == 31 and not all(loop.outline.explained for loop in loops)
    assert any(loop.as_json().get("unexplained") for loop in loops)
    assert time.monotonic() - begun < 60  # one loop may overrun; thirty of them may not (this took over a minute)
