"""Sections of one sector of a wheel: their ends answer each other exactly, and what runs over the seam is what the wheel has there."""

from __future__ import annotations

import numpy as np
import pytest

from contour.geometry.frames import plane_frame
from contour.mesh.prepare import PreparedScan, mesh_of, prepare_mesh
from contour.mesh.sector import between_two, one_sector
from contour.mesh.slice import slice_scan
from contour.outline.section import marked_unscanned, outline_tolerance, scanned_runs, section_loops
from contour.sketch.of_sector import HeldLoop, sector_ends, sectors_held
from contour.sketch.refit import refit_loops
from contour.sketch.taken import TakenLoop, taken_pieces
from contour.solid.boolean import combine
from tests.conftest import circle, prism
from tests.wheels import holed_disc, scan_without, wheel

Z, AT = np.array([0, 0, 1.0]), np.array([0, 0, 5.0])
FRAME = plane_frame(AT, Z)


def one_of(scan: PreparedScan, count: int) -> PreparedScan:
    first = between_two(mesh_of(scan), np.zeros(3), Z, count)
    made = one_sector(mesh_of(scan), np.zeros(3), Z, count, first=first, averaged=True, step_mm=scan.edge_mm / 1.2)
    return prepare_mesh(made, pose=np.eye(4), raw_facets=scan.raw_facets)


def held(sector: PreparedScan, *, meeting: bool = False) -> tuple[list[HeldLoop], list[tuple[np.ndarray, bool]], float]:
    cuts = slice_scan(sector, AT, Z)
    lines = [(FRAME.to_plane(c.points), c.closed) for c in cuts]
    sigma = outline_tolerance(sector) / 3
    loops = marked_unscanned(section_loops(sector, AT, Z), scanned_runs(sector, cuts, FRAME), sector.edge_mm)
    return sectors_held(loops, lines, sigma, sector.edge_mm, near_mm=sector.edge_mm, meeting=meeting), lines, sigma


def seam(loop: HeldLoop, count: int) -> float:
    """How far one end is off the other when it is turned by one sector about the wheel's own axis, mm."""
    pieces = {f"e{k}": p for k, p in enumerate(loop.loop.outline.pieces, 1)}
    (relation,) = loop.relations
    a, b = (
        [complex(*FRAME.to_space(np.array(q))[:2]) for q in (pieces[id].start, pieces[id].end)]
        for id in (relation.first, relation.second)
    )
    turn = np.exp(2j * np.pi / count)
    return min(max(abs(a[0] * w - b[1]), abs(a[1] * w - b[0])) for w in (turn, 1 / turn))


@pytest.mark.parametrize("teeth", [3, 6, 12])
def test_the_ends_of_a_tooth_answer_each_other_exactly(teeth):
    """Six lines and the bore, of which 30 degrees are too little to tell an arc by itself."""
    (loop,), lines, sigma = held(one_of(scan_without(wheel(teeth)), teeth))
    assert seam(loop, teeth) < 1e-9
    kinds = [p.kind for p in loop.loop.outline.pieces]
    assert sorted(kinds) == ["arc", *["line"] * 7]
    bore = next(p for p in loop.loop.outline.pieces if p.kind == "arc")
    assert bore.radius == pytest.approx(6, abs=0.03)
    assert np.allclose(FRAME.to_space(np.array(bore.centre))[:2], 0, atol=1e-9)
    assert max(p.rms for p in loop.loop.outline.pieces) < 0.012  # of noise 0.02, over so many teeth
    # Taken into a sketch, it is held so whenever the scan changes.
    taken = TakenLoop(closed=True, pieces=taken_pieces(loop.loop.outline), relations=list(loop.relations))
    (again,) = refit_loops([taken], lines, FRAME, sigma, 0.8)
    ends = sector_ends_of(again, loop)
    assert np.allclose(ends[0], ends[1], atol=1e-9)


def sector_ends_of(outline, loop: HeldLoop) -> tuple[list[float], list[float]]:
    """How far from the axis either end begins and ends."""
    (relation,) = loop.relations
    rows = []
    for id in (relation.first, relation.second):
        p = outline.pieces[int(id[1:]) - 1]
        rows.append(sorted(float(np.hypot(*FRAME.to_space(np.array(q))[:2])) for q in (p.start, p.end)))
    return rows[0], rows[1]


def test_halves_answer_each_other_too():
    (loop,), _, _ = held(one_of(scan_without(wheel(2)), 2))
    ends = sector_ends_of(loop.loop.outline, loop)
    assert ends[0] == pytest.approx(ends[1], abs=0.01)
    assert loop.relations[0].kind == "turned"


def test_without_a_bore_the_ends_meet_on_the_axis():
    sector = one_of(scan_without(wheel(5, bore=0)), 5)
    assert not held(sector)[0][0].relations  # walls of a corner that were not seen look the same
    (loop,), _, _ = held(sector, meeting=True)
    assert sorted(p.kind for p in loop.loop.outline.pieces) == ["line"] * 7
    assert seam(loop, 5) < 1e-9


def test_a_hole_within_a_sector_is_let_be_and_ids_count_through_all_loops():
    body = combine(holed_disc(4), prism([circle(0, 0, 5)], 30, z=-10, prefix="b"), "subtract")
    loops, _, _ = held(one_of(scan_without(body, noise=0.01), 4))
    assert len(loops) == 2 and [bool(x.relations) for x in loops].count(True) == 1
    outer = next(k for k, x in enumerate(loops) if x.relations)
    before = sum(len(x.loop.outline.pieces) for x in loops[:outer])
    own = {f"e{before + k}" for k in range(1, len(loops[outer].loop.outline.pieces) + 1)}
    assert {loops[outer].relations[0].first, loops[outer].relations[0].second} <= own
    assert sector_ends(loops[1 - outer].loop.outline) is None


def test_a_scan_that_was_not_cut_has_no_ends():
    scan = scan_without(wheel(4))
    loops = section_loops(scan, AT, Z)
    assert all(sector_ends(s.outline) is None for s in loops)
