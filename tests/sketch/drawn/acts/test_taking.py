"""Pieces of sections taken over: one entity each with shared corners, relations that nearly hold, and what follows when the scan moves."""

from __future__ import annotations

import math

import numpy as np
import pytest

from contour.outline.pieces import Piece
from contour.recipe.problem import ContourError
from contour.sketch.drawn.acts.done import done
from contour.sketch.drawn.acts.taking import Detach, TakeOver
from contour.sketch.drawn.profiles import profiles_of
from contour.sketch.drawn.solution import solved
from contour.sketch.drawn.text import Drawing
from contour.sketch.following import followed
from contour.sketch.taken import TakenLoop, TakenPiece

NOTHING = Drawing(entities={})


def loop(pieces: list[dict], closed: bool = True) -> TakenLoop:
    rows = [TakenPiece(id=f"e{k + 1}", **p) for k, p in enumerate(pieces)]
    return TakenLoop(closed=closed, pieces=rows)


def line(a, b, **more) -> dict:
    return {"kind": "line", "start": a, "end": b, **more}


def take(*loops: TakenLoop, within: float = 0.1, relate: bool = True):
    return done(NOTHING, [TakeOver(act="take", loops=loops, within=within, relate=relate)], made=0)


# A plate 40 x 20, a little askew in every side, as a scan gives it.
ASKEW = loop(
    [
        line((0, 0), (40.02, 0.04)),
        line((40.02, 0.04), (39.97, 20.03)),
        line((39.97, 20.03), (0.03, 19.98)),
        line((0.03, 19.98), (0, 0)),
    ]
)


def kinds(out) -> list[str]:
    return sorted(c.kind for c in out.drawing.constraints)


def test_sides_that_are_nearly_level_become_level_and_share_their_corners():
    out = take(ASKEW)
    assert kinds(out) == ["horizontal", "horizontal", "vertical", "vertical"]
    assert sum(e.kind == "point" for e in out.drawing.entities.values()) == 4
    settled = solved(out.drawing)
    assert settled.solved and settled.dof == 4
    assert profiles_of(settled.drawing).regions[0].area == pytest.approx(800, abs=2)


def test_beyond_the_tolerance_nothing_is_related():
    assert kinds(take(ASKEW, within=0.005)) == []
    assert kinds(take(ASKEW, relate=False)) == []


def test_an_outline_askew_on_the_plane_gets_parallel_and_square_sides_once_each():
    a = math.radians(23.0)
    turn = np.array([[math.cos(a), -math.sin(a)], [math.sin(a), math.cos(a)]])
    turned = [p.model_copy(update={"start": tuple(turn @ p.start), "end": tuple(turn @ p.end)}) for p in ASKEW.pieces]
    out = take(ASKEW.model_copy(update={"pieces": turned}))
    settled = solved(out.drawing)
    assert settled.solved and not settled.redundant and settled.dof == 5
    assert len(out.drawing.constraints) == 3


def slot() -> TakenLoop:
    r = 5.0
    return loop(
        [
            line((0, -r), (30.01, -r + 0.02)),
            {"kind": "arc", "start": (30.01, -r + 0.02), "mid": (35.02, 0.01), "end": (29.98, r)},
            line((29.98, r), (0, r - 0.02)),
            {"kind": "arc", "start": (0, r - 0.02), "mid": (-5.01, 0), "end": (0, -r)},
        ]
    )


def test_a_slot_gets_its_tangents_and_equal_ends():
    out = take(slot())
    settled = solved(out.drawing)
    assert settled.solved and not settled.redundant
    assert {"tangent", "equal"} < set(kinds(out))
    assert profiles_of(settled.drawing).regions[0].area == pytest.approx(300 + math.pi * 25, rel=5e-3)


def test_circles_ellipses_and_free_pieces_keep_their_shape():
    ring = {"kind": "arc", "start": (7.0, 2.0), "mid": (1.0, 2.0), "end": (7.0, 2.0)}
    out = take(loop([ring]))
    (name,) = out.chosen
    assert out.drawing.entities[name].radius == pytest.approx(3.0)
    oval = {"kind": "ellipse", "start": (6, 0), "mid": (-6, 0), "end": (6, 0), "ellipse": (0, 0, 6, 2, 0)}
    assert profiles_of(take(loop([oval])).drawing).regions[0].area == pytest.approx(math.pi * 12)
    path = [(t, math.sin(t)) for t in np.linspace(0, math.pi, 30)]
    wave = {"kind": "free", "start": path[0], "end": path[-1], "points": path}
    out = take(loop([wave, line(path[-1], path[0])]))
    assert profiles_of(out.drawing).regions[0].area == pytest.approx(2.0, rel=1e-4)


def test_a_part_of_a_circle_that_is_meant_as_one_becomes_one():
    part = {"kind": "arc", "start": (7.0, 2.0), "mid": (4.0, 5.0), "end": (1.0, 2.0)}
    out = take(loop([part], closed=False).model_copy(update={"full": True}))
    circle = out.drawing.entities[out.chosen[0]]
    assert circle.kind == "circle" and circle.radius == pytest.approx(3.0)


def test_pieces_that_are_left_out_are_kept_apart_for_the_structure():
    pieces = [p.model_copy(update={"taken": k < 2}) for k, p in enumerate(ASKEW.pieces)]
    out = take(ASKEW.model_copy(update={"pieces": pieces}))
    assert len(out.chosen) == 2 and len(out.taken[0].pieces) == 4
    assert {p.id for p in out.taken[0].pieces if p.taken} == set(out.chosen)
    with pytest.raises(ContourError):
        take(ASKEW.model_copy(update={"pieces": [p.model_copy(update={"taken": False}) for p in pieces]}))


def test_what_is_detached_is_marked_and_nothing_of_it_lost():
    out = take(ASKEW)
    gone = out.chosen[0]
    after = done(out.drawing, [Detach(act="detach", of=(gone,))], made=out.made, taken=out.taken)
    assert [p.taken for p in after.taken[0].pieces] == [False, True, True, True]
    assert after.drawing.entities.keys() == out.drawing.entities.keys()


def now(piece: TakenPiece, start, end, mid=None) -> tuple[TakenPiece, Piece]:
    return piece, Piece(piece.kind, start, end, 0.0, mid=mid)


def test_what_follows_moves_by_what_the_scan_has_moved_and_keeps_what_was_done_to_it():
    out = take(ASKEW)
    drawn = solved(out.drawing).drawing
    pieces = out.taken[0].pieces
    # Nothing has moved: nothing moves.
    same = followed(drawn, [now(p, p.start, p.end) for p in pieces])
    assert all(
        same.point(n) == pytest.approx(drawn.point(n), abs=1e-9) for n, e in drawn.entities.items() if e.kind == "point"
    )
    # The right side is 2 mm further out.
    far = [
        now(pieces[0], pieces[0].start, (42.02, 0.04)),
        now(pieces[1], (42.02, 0.04), (41.97, 20.03)),
        now(pieces[2], (41.97, 20.03), pieces[2].end),
        now(pieces[3], pieces[3].start, pieces[3].end),
    ]
    moved = solved(followed(drawn, far))
    assert moved.solved
    wide = profiles_of(moved.drawing).regions[0].area - profiles_of(drawn).regions[0].area
    assert wide == pytest.approx(2 * 20, rel=5e-3)


def test_a_trimmed_side_follows_without_growing_back():
    out = take(loop([line((0, 0), (40, 0))], closed=False), relate=False)
    (name,) = out.chosen
    end = out.drawing.entities[name].end
    short = out.drawing.entities | {end: out.drawing.entities[end].model_copy(update={"at": (15.0, 0.0)})}
    drawn = out.drawing.model_copy(update={"entities": short})
    piece = out.taken[0].pieces[0]
    after = followed(drawn, [now(piece, (0, 3.0), (40, 3.0))])
    assert after.point(end) == pytest.approx((15.0, 3.0))


def test_a_bore_follows_in_place_and_size():
    ring = {"kind": "arc", "start": (7.0, 2.0), "mid": (1.0, 2.0), "end": (7.0, 2.0)}
    out = take(loop([ring]))
    piece = out.taken[0].pieces[0]
    after = followed(out.drawing, [now(piece, (8.5, 2.0), (8.5, 2.0), mid=(1.5, 2.0))])
    circle = after.entities[out.chosen[0]]
    assert circle.radius == pytest.approx(3.5) and after.point(circle.centre) == pytest.approx((5.0, 2.0))
