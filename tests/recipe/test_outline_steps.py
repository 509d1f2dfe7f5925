"""Outlines of recipes before version 9: as sketches they bound what they bounded, under the names they had."""

from __future__ import annotations

import json
import math
from typing import Any

import numpy as np
import pytest

from contour.products.scan import ScanProduct
from contour.recipe.migrate import lifted
from contour.recipe.outline_steps import sketch_of_outline
from contour.sketch.drawn.kept import KeptDrawing, drawing_of
from contour.sketch.drawn.profiles import profiles_of
from contour.sketch.drawn.solution import solved
from contour.steps import KINDS
from tests.steps.test_sketch_on_scan import run, scanned, section_params, top_of


def drawing(*loops: dict[str, Any]) -> KeptDrawing:
    params = sketch_of_outline({"loops": list(loops)})
    return KeptDrawing.model_validate({k: params[k] for k in ("entities", "taken", "made", "named")})


def area(kept: KeptDrawing) -> float:
    found = solved(drawing_of(kept))
    assert found.solved
    return sum(r.area for r in profiles_of(found.drawing).regions)


def piece(id: str, kind: str, start: Any, end: Any, **more: Any) -> dict[str, Any]:
    return {"id": id, "kind": kind, "start": start, "end": end, **more}


SLOT = {
    "name": "p4",
    "closed": True,
    "pieces": [
        piece("e4", "line", [0, -5], [30, -5]),
        piece("e6", "arc", [30, -5], [30, 5], mid=[35, 0]),
        piece("e5", "line", [30, 5], [0, 5]),
        # Clockwise as it was written: an arc of a drawing runs the other way.
        piece("e7", "arc", [0, 5], [0, -5], mid=[-5, 0]),
    ],
}


def test_lines_and_arcs_share_their_corners_and_keep_their_ids():
    kept = drawing(SLOT)
    assert {i for i, e in kept.entities.items() if e.kind != "point"} == {"e4", "e5", "e6", "e7"}
    # Four corners, two centres.
    assert sum(e.kind == "point" for e in kept.entities.values()) == 6
    assert area(kept) == pytest.approx(300 + math.pi * 25, rel=1e-9)
    assert [(n.name, n.of) for n in kept.named] == [("p4", ("e4", "e6", "e5", "e7"))]
    assert kept.made >= 7 + 6


@pytest.mark.parametrize("turned", [False, True])
def test_an_arc_runs_counter_clockwise_whichever_way_it_was_written(turned):
    ends = ([5.0, 0.0], [-5.0, 0.0])
    a, b = reversed(ends) if turned else ends
    half = {"closed": True, "pieces": [piece("e1", "arc", a, b, mid=[0, 5]), piece("e2", "line", b, a)]}
    kept = drawing(half)
    arc = kept.entities["e1"]
    at = {i: e.at for i, e in kept.entities.items() if e.kind == "point"}
    assert (at[arc.start], at[arc.end]) == ((5, 0), (-5, 0))
    assert area(kept) == pytest.approx(math.pi * 25 / 2, rel=1e-9)


def test_whole_circles_and_parts_that_are_meant_whole_are_circles():
    ring = piece("e1", "arc", [7, 2], [7, 2], mid=[1, 2])
    part = piece("e2", "arc", [20, 0], [23, 3], mid=[20 + 3 - 3 / math.sqrt(2), 3 / math.sqrt(2)])
    kept = drawing({"closed": True, "pieces": [ring]}, {"closed": False, "full": True, "pieces": [part]})
    assert {e.kind for i, e in kept.entities.items() if i[0] == "e"} == {"circle"}
    assert area(kept) == pytest.approx(math.pi * 18, rel=1e-9)


def test_ellipses_and_free_pieces_keep_their_shape():
    oval = piece("e1", "ellipse", [6, 0], [6, 0], mid=[-6, 0], ellipse=[0, 0, 6, 2, 0])
    assert area(drawing({"closed": True, "pieces": [oval]})) == pytest.approx(12 * math.pi, rel=1e-6)
    part = piece("e1", "ellipse", [6, 0], [-6, 0], mid=[0, 2], ellipse=[0, 0, 6, 2, 0])
    back = piece("e2", "line", [-6, 0], [6, 0])
    assert area(drawing({"closed": True, "pieces": [part, back]})) == pytest.approx(6 * math.pi, rel=1e-4)
    path = [[float(t), math.sin(t)] for t in np.linspace(0, math.pi, 400)]
    wave = piece("e1", "free", path[0], path[-1], points=path)
    closing = piece("e2", "line", path[-1], path[0])
    assert area(drawing({"closed": True, "pieces": [wave, closing]})) == pytest.approx(2.0, rel=1e-5)


def test_pieces_that_were_left_out_are_not_drawn():
    pieces = [{**p, "taken": p["id"] != "e4"} for p in SLOT["pieces"]]
    kept = drawing({**SLOT, "pieces": pieces})
    assert "e4" not in kept.entities and {p.id for p in kept.taken[0].pieces} == {"e4", "e5", "e6", "e7"}
    assert profiles_of(solved(drawing_of(kept)).drawing).regions == ()


@pytest.mark.parametrize(
    "pieces",
    [
        [{"id": "e1"}],
        [piece("e1", "arc", [0, 0], [1, 0])],
        [piece("e1", "arc", [0, 0], [2, 0], mid=[1, 0])],
        [piece("e1", "line", "nowhere", None)],
        [piece("e1", "line", [], [1])],
        ["no piece"],
    ],
)
def test_what_was_never_right_is_left_as_it_is(pieces):
    step = {"id": "o", "kind": "outline", "name": "O", "params": {"loops": [{"closed": True, "pieces": pieces}]}}
    (after,) = lifted({"schema_version": 8, "steps": [json.loads(json.dumps(step))]})["steps"]
    assert after == step


def test_a_lifted_outline_follows_its_scan_as_it_did():
    """A plate 40 x 30 with a bore of R 6, taken from one scan and built on another of a part that differs."""
    scan = scanned(40, 6)
    now = section_params(scan)
    axes = {k: now[k] for k in ("scan", "plane", "offset", "origin", "u_axis", "pose")}
    loops = [{**loop, "name": f"p{k}"} for k, loop in enumerate(now["taken"], 1)]
    params = sketch_of_outline({**axes, "loops": loops})
    for built, width, radius in ((scan, 40, 6.0), (scanned(41, 6.3), 41, 6.3)):
        made = run("sketch", params, {"scan": ScanProduct(built), "plane": top_of(built)}, offset=-4.0, turn=0.0)
        assert made.problems == () and made.facts.solved and made.facts.profiles == 1
        assert made.facts.area == pytest.approx(width * 30 - math.pi * radius**2, rel=3e-3)
        assert {e.id for e in made.product.entities} == {"e1", "e2", "e3", "e4", "e5"}
        assert [f.name for f in made.product.faces] == ["p1", "p2"]
        assert made.facts.rms < 0.06 and made.facts.reach is not None
    assert KINDS["sketch"].params.model_validate(params).pose is not None
