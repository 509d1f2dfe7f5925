"""Gaps in a section: which ends belong together, how each gap is bridged, and what is told to be assumed; on outlines drawn by hand."""

from __future__ import annotations

import itertools
from dataclasses import replace

import numpy as np
import pytest
from shapely.geometry import Polygon

from benchmarks.gaps import closed_again, opened
from contour.fit.budget import Budget
from contour.outline import closing
from contour.outline.along import path_distance, placed_along
from contour.outline.assumed import stretches, unseen_along
from contour.outline.bridging import Bridged, Wish, bridged
from contour.outline.closing import Link, closed_outline
from contour.outline.explain import fit_outline
from contour.outline.joins import End, How, ways_to_join
from contour.outline.open_line import OpenLine, without_rounding
from contour.outline.piece_fit import fit_piece
from contour.outline.pieces import Piece, piece_path
from contour.outline.split import ARC, LINE
from contour.simulate.loops import softened_loop

SIDE = 0.5  # between points, mm
TOLERANCE = 0.06


def walked(*corners: tuple[float, float], noise: float = 0.01, seed: int = 1) -> np.ndarray:
    """Points along a way of straight lines."""
    at = np.array(corners, float)
    rows = [
        np.linspace(a, b, max(2, int(np.linalg.norm(b - a) / SIDE)), endpoint=False) for a, b in itertools.pairwise(at)
    ]
    points = np.vstack([*rows, at[-1:]])
    return points + np.random.default_rng(seed).normal(0, noise, points.shape)


def arc(centre: tuple[float, float], radius: float, begin_deg: float, end_deg: float) -> np.ndarray:
    t = np.radians(np.linspace(begin_deg, end_deg, int(abs(end_deg - begin_deg) / 180 * np.pi * radius / SIDE)))
    points = np.array(centre) + radius * np.column_stack([np.cos(t), np.sin(t)])
    return points + np.random.default_rng(2).normal(0, 0.01, points.shape)


def closed(*lines: np.ndarray, wishes: tuple[Wish, ...] = (), others: tuple[np.ndarray, ...] = ()) -> list[Bridged]:
    rows = [OpenLine(p, fit_outline(p, closed=False, tolerance_mm=TOLERANCE, edge_mm=2 * SIDE)) for p in lines]
    return bridged(rows, others, tolerance_mm=TOLERANCE, edge_mm=2 * SIDE, wishes=wishes)


def kinds(made: Bridged) -> list[str]:
    return [p.kind for p in made.outline.pieces]


def assumed_mm(made: Bridged) -> float:
    return sum(float(np.hypot(b[0] - a[0], b[1] - a[1])) for p in made.outline.pieces for a, b in p.assumed)


@pytest.mark.parametrize("seen", [130, 160])
def test_less_than_half_of_a_hole_is_a_hole(seen):
    """Nothing but the arc was seen: it goes on round, rather than to be closed by its chord; a quarter, which may be a fillet, does not."""
    (made,) = closed(arc((3, -2), 5.0, 20, 20 + seen))
    (piece,) = made.outline.pieces
    assert piece.kind == "arc" and piece.radius == pytest.approx(5.0, abs=0.15)
    assert piece.centre == pytest.approx((3, -2), abs=0.15)
    assert assumed_mm(made) > 0
    assert all(len(m.outline.pieces) > 1 for m in closed(arc((3, -2), 5.0, 20, 110)))


def area(made: Bridged) -> float:
    x, y = np.array([p.start for p in made.outline.pieces]).T
    return 0.5 * abs(float(x @ np.roll(y, -1) - y @ np.roll(x, -1)))


def test_a_gap_within_a_side_leaves_the_side_one_line() -> None:
    (made,) = closed(walked((12, 0), (0, 0), (0, 20), (30, 20), (30, 0), (20, 0)))
    assert kinds(made) == ["line"] * 4 and made.outline.closed
    assert [g.how for g in made.gaps] == ["one piece"]
    assert area(made) == pytest.approx(600, rel=2e-3)
    assert assumed_mm(made) == pytest.approx(8, abs=2.5 * SIDE)


def test_a_missing_corner_is_where_its_sides_meet() -> None:
    (made,) = closed(walked((5, 0), (30, 0), (30, 20), (0, 20), (0, 6)))
    assert [g.how for g in made.gaps] == ["meet"] and kinds(made) == ["line"] * 4
    corners = np.array([p.start for p in made.outline.pieces])
    assert np.linalg.norm(corners, axis=1).min() < 0.05
    # Both sides are marked as far as nobody has seen them.
    assert sum(len(p.assumed) for p in made.outline.pieces) == 2
    assert made.gaps[0].length == pytest.approx(11, abs=0.3)


def test_a_round_hole_of_which_a_third_is_gone_is_one_circle() -> None:
    (made,) = closed(arc((4, 3), 6, 30, 270))
    (circle,) = made.outline.pieces
    assert circle.kind == "arc" and circle.radius == pytest.approx(6, abs=0.02)
    assert circle.start == circle.end and len(circle.assumed) == 1


def test_two_rings_that_lie_beside_each_other_are_not_joined_to_one() -> None:
    """Four ends: those of one ring belong together, though the other's lie nearer."""
    made = closed(arc((0, 0), 8, 40, 320), arc((17, 0), 8, 220, 500))
    assert [kinds(m) for m in made] == [["arc"], ["arc"]]
    assert sorted(len(m.of) for m in made) == [1, 1]


def test_halves_of_an_outline_are_one_loop() -> None:
    left = walked((12, 0), (0, 0), (0, 20), (12, 20))
    right = walked((18, 20), (30, 20), (30, 0), (18, 0), seed=3)
    (made,) = closed(left, right)
    assert set(made.of) == {0, 1} and kinds(made) == ["line"] * 4
    assert [g.how for g in made.gaps] == ["one piece"] * 2
    assert area(made) == pytest.approx(600, rel=2e-3)


def test_what_nothing_explains_is_a_straight_line_and_wholly_assumed() -> None:
    """A side that is missing altogether, with both its corners."""
    (made,) = closed(walked((0, 4), (0, 20), (30, 20), (30, 4)))
    assert [g.how for g in made.gaps] == ["line"]
    whole = [p for p in made.outline.pieces if p.assumed]
    assert len(whole) == 1 and whole[0].kind == "line"
    assert assumed_mm(made) == pytest.approx(30, abs=2)


def test_a_gap_is_bridged_as_somebody_wishes_or_left_open() -> None:
    line = walked((5, 0), (30, 0), (30, 20), (0, 20), (0, 6))
    (proposed,) = closed(line)
    middle = 0.5 * (np.array(proposed.gaps[0].start) + np.array(proposed.gaps[0].end))
    near = (float(middle[0]), float(middle[1]))
    (made,) = closed(line, wishes=(Wish(near, "line"),))
    assert [g.how for g in made.gaps] == ["line"] and set(made.gaps[0].options) == set(proposed.gaps[0].options)
    assert kinds(made) == ["line"] * 5
    assert area(made) == pytest.approx(600 - 15, rel=5e-3)
    assert closed(line, wishes=(Wish(near, None),)) == []
    # A wish for another place changes nothing here.
    (same,) = closed(line, wishes=(Wish((200.0, 0.0), None),))
    assert [g.how for g in same.gaps] == ["meet"]


def test_a_straight_bridge_over_a_gap_in_a_bore_is_a_flat_when_it_is_wished_for() -> None:
    """36 degrees of a circle of R 5 are missing: the circle tells what was seen, and told the flat away."""
    line = arc((15, -2), 5, 18, 342)
    (proposed,) = closed(line)
    assert kinds(proposed) == ["arc"] and len(proposed.outline.pieces) == 1
    (made,) = closed(line, wishes=(Wish((15 + 5 * np.cos(np.radians(18)), -2.0), "line"),))
    assert sorted(kinds(made)) == ["arc", "line"]
    flat = next(p for p in made.outline.pieces if p.kind == "line")
    ends = np.array([flat.start, flat.end])
    assert np.linalg.norm(ends - [15, -2], axis=1) == pytest.approx([5, 5], abs=0.05)
    assert abs(ends[0, 1] - ends[1, 1]) == pytest.approx(2 * 5 * np.sin(np.radians(18)), abs=0.4)
    half = np.radians(18)
    whole = Polygon(np.vstack([piece_path(p) for p in made.outline.pieces])).area
    assert whole == pytest.approx(np.pi * 25 - 25 * (half - np.sin(half) * np.cos(half)), rel=0.01)
    assert assumed_mm(made) == pytest.approx(2 * 5 * np.sin(half), abs=1.2) and flat.assumed


def test_a_wish_for_one_gap_leaves_the_others_as_they_were() -> None:
    lines = (walked((5, 0), (30, 0), (30, 20), (18, 20)), walked((12, 20), (0, 20), (0, 6), seed=4))
    (proposed,) = closed(*lines)
    (corner,) = (g for g in proposed.gaps if g.how == "meet")
    near = (0.5 * (corner.start[0] + corner.end[0]), 0.5 * (corner.start[1] + corner.end[1]))
    (made,) = closed(*lines, wishes=(Wish(near, "line"),))
    assert sorted(g.how for g in made.gaps) == ["line", "one piece"]
    assert kinds(made) == ["line"] * 5 and sum(len(p.assumed) for p in made.outline.pieces) == 2


def test_a_bridge_leads_from_where_a_line_ends_to_where_one_begins() -> None:
    """Two walls, the material to the left of each: between them, or outside both; on the same side of both they belong to different loops."""
    low, high = walked((0, 0), (20, 0)), walked((20, 6), (0, 6))
    (made,) = closed(low, high)
    assert made.of == (0, 1) and area(made) == pytest.approx(120, rel=0.05)
    assert closed(low, high[::-1]) == []


def test_where_a_scan_turns_off_at_a_corner_it_goes_on_square() -> None:
    """A block's side was seen to begin, and of what is beside it nothing: its two neighbours run on in parallel and meet nowhere."""
    tip = np.array([[20.0, 0.2], [20.1, 0.7], [20.1, 1.2]])
    (made,) = closed(np.vstack([walked((15, 10), (0, 10), (0, 0), (19.9, 0))[:-1], tip]))
    assert [g.how for g in made.gaps] == ["square"] and kinds(made) == ["line"] * 4
    assert area(made) == pytest.approx(201, rel=0.02)
    # Had it not turned, or not clearly, nothing would be known of how its end is closed.
    (slanted,) = closed(walked((15, 10), (0, 10), (0, 0), (19.9, 0)))
    assert [g.how for g in slanted.gaps] == ["line"]


def test_a_loop_that_goes_there_and_back_is_none() -> None:
    assert closed(walked((0, 0), (6, 0))) == []
    bowed = arc((0, 30), 30.0, 265, 275)
    assert all(len(m.outline.pieces) > 1 for m in closed(bowed))  # no circle of which nobody has seen a tenth


def test_no_bridge_crosses_what_was_seen() -> None:
    ring = arc((15, -2), 5, 0, 359)
    made = closed(walked((0, 4), (0, 20), (30, 20), (30, 0), (28, -2)), others=(ring,))
    for m in made:
        path = np.vstack([s for p in m.outline.pieces for s, unseen in stretches(p) if unseen])
        assert np.linalg.norm(path - np.array([15, -2]), axis=1).min() > 4.5


def test_hundreds_of_scraps_are_answered_at_once_and_left_alone() -> None:
    stripes = [walked((0, 2 * k), (9, 2 * k)) for k in range(120)]
    assert closed(*stripes) == []


def test_where_there_is_no_time_nothing_is_bridged() -> None:
    line = walked((5, 0), (30, 0), (30, 20), (0, 20), (0, 6))
    rows = [OpenLine(line, fit_outline(line, closed=False, tolerance_mm=TOLERANCE, edge_mm=2 * SIDE))]
    assert bridged(rows, [], tolerance_mm=TOLERANCE, edge_mm=2 * SIDE, budget=Budget(0.0)) == []


def test_two_walls_that_go_on_side_by_side_may_be_joined_by_an_arc_touching_both() -> None:
    lower, upper = walked((0, 0), (20, 0)), walked((20, 8), (0, 8), seed=5)
    a = End(np.array([20.0, 0.0]), np.array([1.0, 0.0]), fit_piece(LINE, lower))
    b = End(np.array([20.0, 8.0]), np.array([1.0, 0.0]), fit_piece(LINE, upper))
    ways = ways_to_join(a, b, sigma_mm=0.02, edge_mm=1.0)
    # A straight end assumes less; the round one is there to be chosen.
    assert [w.how for w in ways] == ["line", "arc"]
    assert ways[1].length == pytest.approx(np.pi * 4, rel=5e-3)
    assert ways[1].path[:, 0].max() == pytest.approx(24, abs=0.02)


def test_an_arc_that_would_have_to_turn_back_does_not_go_on() -> None:
    half = arc((0, 0), 10, 0, 90)
    piece = fit_piece(ARC, half)
    a = End(half[-1], np.array([-1.0, 0.0]), piece)
    b = End(half[0], np.array([0.0, -1.0]), piece)
    assert "one piece" not in [w.how for w in ways_to_join(a, b, sigma_mm=0.02, edge_mm=1.0)]


def test_stretches_part_a_piece_where_it_was_not_seen() -> None:
    piece = Piece("line", (0.0, 0.0), (10.0, 0.0), 0.0)
    seen = [np.column_stack([np.linspace(0, 4, 9), np.zeros(9)]), np.column_stack([np.linspace(7, 10, 7), np.zeros(7)])]
    spans = unseen_along(piece, seen, 0.4)
    assert spans == (((pytest.approx(4, abs=0.2), 0.0), (pytest.approx(7, abs=0.2), 0.0)),)
    parts = stretches(Piece("line", (0.0, 0.0), (10.0, 0.0), 0.0, assumed=(((4.0, 0.0), (7.0, 0.0)),)))
    assert [dark for _, dark in parts] == [False, True, False]
    assert sum(float(np.ptp(p[:, 0])) for p, _ in parts) == pytest.approx(10)


def test_places_along_a_path() -> None:
    path = np.array([[0.0, 0.0], [4.0, 0.0], [4.0, 3.0]])
    assert placed_along(np.array([[1.0, 1.0], [5.0, 2.0], [9.0, 9.0]]), path) == pytest.approx([1, 6, 7])


@pytest.mark.parametrize("seed", [5, 22, 45, 70, 73, 91])
def test_what_was_seen_of_a_profile_is_followed_whatever_is_missing(seed: int) -> None:
    """Profiles whose bridges once led straight past a side that was there to be seen."""
    loop = softened_loop(50_000 + seed, noise_mm=0.03)
    lines = opened(loop, seed)
    (made,) = closed_again(loop, lines)
    paths = [piece_path(p) for p in made.outline.pieces]
    away = np.min([path_distance(np.vstack(lines), path) for path in paths], axis=0)
    assert made.outline.closed
    assert np.mean(away > 0.09 + 0.3 * loop.edge_mm) < 0.02
    assert len(made.gaps) == len(lines)


def hooked(*corners: tuple[float, float]) -> np.ndarray:
    """A way whose last places turn off by a millimetre, as a scan's do where the next side is missing."""
    points = walked(*corners)
    points[-2:, 1] -= (0.4, 0.9)
    return points


def test_an_end_that_a_scan_has_rounded_does_not_pull_its_side_along() -> None:
    (made,) = closed(hooked((0, 0), (0, 30), (40, 30), (40, 0), (28, 0)), walked((14, 0), (0, 0)))
    low = [p for p in made.outline.pieces if p.start[1] < 2 and p.end[1] < 2]
    assert kinds(made) == ["line"] * 4 and len(low) == 1
    assert abs(low[0].start[1]) < 0.1 and abs(low[0].end[1]) < 0.1
    assert area(made) == pytest.approx(1200, rel=5e-3)


@pytest.mark.parametrize(("lean", "gap"), [(-0.2, 3.0), (-0.2, 6.0), (0.2, 3.0), (0.2, 6.0)])
def test_a_short_end_that_leans_is_told_with_the_side_it_is_of(lean: float, gap: float) -> None:
    """Two facets of a side beyond a gap, beside a corner that the scan has bent: too little to say that the side bends, or that an arc joins both."""
    stub = np.column_stack([np.linspace(15, 17, 5), np.linspace(lean, 0, 5)])
    (made,) = closed(np.vstack([stub, walked((17, 0), (17.5, 0), (17.5, 20), (0, 20), (0, 0), (15 - gap, 0))[1:]]))
    assert kinds(made) == ["line"] * 4
    assert area(made) == pytest.approx(350, rel=4e-3)


def test_a_scrap_of_a_side_beside_a_corner_holds_the_side_where_it_is() -> None:
    """A side of which a few millimetres at either end were seen, and the rounding of its corner: the far end says where it runs to."""
    corner = arc((-1.0, 1.0), 1.0, 270, 360)  # what the scan makes of the corner at (0, 0)
    (made,) = closed(
        np.vstack([walked((0, 17), (0, 20))[:-1], walked((0, 20), (-30, 20), (-30, 0), (-1, 0))[:-1], corner])
    )
    assert kinds(made) == ["line"] * 4
    assert area(made) == pytest.approx(600, rel=4e-3)


def test_little_of_an_arc_goes_on_straight() -> None:
    flat = arc((0, 100), 100.0, 270, 272)  # 3.5 mm long and 0.015 mm bowed
    outline = fit_outline(flat, closed=False, tolerance_mm=TOLERANCE, edge_mm=2 * SIDE)
    bowed = OpenLine(
        flat,
        replace(
            outline, pieces=(Piece("arc", *_ends_of(flat), 0.0, centre=(0.0, 100.0), radius=100.0, mid=_xy(flat[3])),)
        ),
    )
    assert [e.piece.kind for e in without_rounding(bowed, TOLERANCE, 1.0).ends(TOLERANCE, 2 * SIDE)] == [LINE, LINE]
    round_ = arc((0, 5), 5.0, 270, 330)
    row = OpenLine(round_, fit_outline(round_, closed=False, tolerance_mm=TOLERANCE, edge_mm=2 * SIDE))
    assert [e.piece.kind for e in without_rounding(row, TOLERANCE, 1.0).ends(TOLERANCE, 2 * SIDE)] == [ARC, ARC]


def _xy(p: np.ndarray) -> tuple[float, float]:
    return float(p[0]), float(p[1])


def _ends_of(points: np.ndarray) -> tuple[tuple[float, float], tuple[float, float]]:
    return _xy(points[0]), _xy(points[-1])


def linked(points: np.ndarray, how: How, wished: bool = False) -> Link:
    return Link(points, (0, len(points)), np.array([points[-1], points[0]]), how, wished)


@pytest.mark.parametrize("wished", [False, True])
def test_a_bridge_only_shows_the_way_where_what_was_seen_goes_on_unless_it_is_wished_for(wished: bool) -> None:
    """A corner is gone and its two sides are joined by a chamfer: they meet as well, and that takes a piece less."""
    line = walked((3, 0), (30, 0), (30, 20), (0, 20), (0, 3))
    outline = closed_outline([linked(line, "line", wished)], tolerance_mm=TOLERANCE, edge_mm=2 * SIDE)
    assert outline is not None and len(outline.pieces) == (5 if wished else 4)
    # A bore with a flat: an arc that went on would lead far beyond the bridge.
    bore = closed_outline([linked(arc((0, 0), 8, 0, 100), "line")], tolerance_mm=TOLERANCE, edge_mm=2 * SIDE)
    assert bore is not None and sorted(p.kind for p in bore.pieces) == ["arc", "line"]


def test_where_there_is_no_time_a_loop_stays_open() -> None:
    line = walked((3, 0), (30, 0), (30, 20), (0, 20), (0, 3))
    assert closed_outline([linked(line, "line")], tolerance_mm=TOLERANCE, edge_mm=2 * SIDE, budget=Budget(0.0)) is None


@pytest.mark.parametrize("count", [3, 12])
def test_many_bridges_are_not_tried_one_by_one(count: int, monkeypatch) -> None:
    """A dashed ring whose bridges all stand for pieces of their own: how often it is fitted does not grow with them."""
    fits = []
    monkeypatch.setattr(closing, "fit_outline", lambda *a, **how: fits.append(1) or fit_outline(*a, **how))
    turns = np.radians(np.linspace(0, 360, count, endpoint=False))
    dashes = [walked((20 * np.cos(t), 20 * np.sin(t)), (20 * np.cos(t + 0.3), 20 * np.sin(t + 0.3))) for t in turns]
    links = [
        Link(a, (0, len(a)), np.array([a[-1], b[0]]), "line", False)
        for a, b in zip(dashes, dashes[1:] + dashes[:1], strict=True)
    ]
    assert closed_outline(links, tolerance_mm=TOLERANCE, edge_mm=2 * SIDE) is not None
    assert len(fits) == (2 + count if count <= 4 else 2)
