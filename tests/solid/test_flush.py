"""Two features from two sections of one boss: laid flush they make a body without slivers; as they were measured they do not."""

from __future__ import annotations

import numpy as np
import pytest

from contour.geometry.frames import PlaneFrame, plane_frame
from contour.present.links import pieces_of_body
from contour.recipe.reference import EdgeRef
from contour.sketch.chosen import chosen_profiles
from contour.sketch.drawn.acts.done import worked
from contour.sketch.drawn.acts.flush import LieFlush, Wall
from contour.sketch.drawn.acts.taking import TakeOver
from contour.sketch.drawn.kept import KeptDrawing
from contour.sketch.drawn.linked import Link
from contour.sketch.drawn.profiles import Profiles
from contour.sketch.regions import sketch_of
from contour.sketch.taken import TakenLoop, TakenPiece
from contour.solid.boolean import combine
from contour.solid.extrude import extrude
from contour.solid.mass import volume
from contour.solid.shape import NamedShape, faces
from tests.conftest import circle, prism

BIG, SMALL, APART, HIGH, THICK = 17.0, 11.0, 80.0, 24.0, 8.0


def at(height: float) -> PlaneFrame:
    return plane_frame(np.array([0, 0, height]), np.array([0, 0, 1.0]), np.array([1.0, 0, 0]))


def web(off: float) -> TakenLoop:
    """Tangent to both bosses, every number of it beside theirs by so many mm."""
    s = (BIG - SMALL) / APART
    c = np.sqrt(1 - s * s)
    big, small = BIG + off, SMALL - off
    a, b = (big * s + off, big * c), (APART + small * s, small * c - off)
    rows = [
        {"kind": "line", "start": a, "end": b},
        {"kind": "arc", "start": b, "end": (b[0], -b[1]), "mid": (APART + small, 0.0)},
        {"kind": "line", "start": (b[0], -b[1]), "end": (a[0], -a[1])},
        {"kind": "arc", "start": (a[0], -a[1]), "end": a, "mid": (-big, 0.0)},
    ]
    return TakenLoop(closed=True, pieces=[TakenPiece(id=f"e{k}", **r) for k, r in enumerate(rows)])


def lever(off: float, *, flush: bool) -> NamedShape:
    """Two bosses in one body's place, and the web between them."""
    body = prism([circle(0, 0, BIG, "big"), circle(APART, 0, SMALL, "small")], HIGH, prefix="b")
    frame = at(8.0)
    acts = [TakeOver(act="take", loops=(web(off),), within=0.06)]
    if flush:
        walls = [
            Wall(link=Link(way="edge", part=EdgeRef(body="b", edge=p.key)), piece=p.model_copy(update={"key": "edge0"}))
            for p in pieces_of_body(body, "edge", frame)
        ]
        acts.append(LieFlush(act="lie-flush", walls=tuple(walls), within=0.02))
    drawn = worked(KeptDrawing(), acts)
    assert drawn.solution.solved
    return combine(body, _extruded(drawn.solution.drawing, drawn.profiles, frame), "add")


def _extruded(drawing, profiles: Profiles, frame: PlaneFrame) -> NamedShape:
    made = sketch_of(drawing, profiles, frame, given=(), refused=None)
    return extrude(chosen_profiles(made, None), frame, start_mm=0.0, end_mm=THICK, draft_deg=0.0, prefix="w")


def truth() -> float:
    """Closed form: both bosses and what of the web lies outside them."""
    s = (BIG - SMALL) / APART
    turn = np.arcsin(s)
    along = APART * np.cos(turn)
    whole = (BIG + SMALL) * along + BIG**2 * (np.pi / 2 + turn) + SMALL**2 * (np.pi / 2 - turn)
    outside = whole - np.pi * (BIG**2 + SMALL**2)
    return HIGH * np.pi * (BIG**2 + SMALL**2) + THICK * outside


@pytest.mark.parametrize("off", [0.002, -0.004, 0.005])
def test_no_slivers_are_left_and_the_volume_is_the_closed_form(off):
    flush, plain = lever(off, flush=True), lever(off, flush=False)
    assert volume(flush.shape) == pytest.approx(truth(), rel=1e-7)
    assert abs(volume(plain.shape) / truth() - 1) > 1e-6
    # Three faces of each boss, the web's two sides and two flats: its arcs lie in the bosses' walls.
    assert len(faces(flush.shape)) == 10 < len(faces(plain.shape))
    assert {"b.side[big]+w.side[e4]", "b.side[small]+w.side[e2]"} <= set(flush.names)
    assert not any("+" in name for name in plain.names)  # each boss has steps of some micrometres round it
