"""Pieces of a section laid on walls that stand: exactly there, tangents kept, following the wall, and nothing changed where it cannot hold."""

from __future__ import annotations

import math

import numpy as np
import pytest

from contour.geometry.frames import plane_frame
from contour.sketch.drawn.acts.done import worked
from contour.sketch.drawn.kept import KeptDrawing, drawing_of
from contour.sketch.drawn.linked import LinkedPiece, refreshed
from contour.sketch.drawn.solution import solved
from tests.sketch.drawn.acts.kit import _ACT

LEVEL = plane_frame(np.zeros(3), np.array([0, 0, 1.0]), np.array([1.0, 0, 0]))


def wall(kind: str, points, size: float = 0.0, called: str = "rim") -> dict:
    link = {"way": "edge", "part": {"body": "b", "edge": called}}
    return {"link": link, "piece": {"key": "edge0", "kind": kind, "points": points, "size": size}}


def ring(middle, radius: float) -> dict:
    x, y = middle
    return {"kind": "arc", "start": (x + radius, y), "end": (x + radius, y), "mid": (x - radius, y)}


def side(a, b) -> dict:
    return {"kind": "line", "start": a, "end": b}


def taken(*loops: list[dict]) -> dict:
    rows = [{"closed": True, "pieces": [{"id": f"e{k}", **p} for k, p in enumerate(pieces)]} for pieces in loops]
    return {"act": "take", "loops": rows, "within": 0.06}


def acted(*acts: dict, kept: KeptDrawing | None = None):
    return worked(kept or KeptDrawing(), [_ACT.validate_python(a) for a in acts])


def laid(walls: list[dict], within: float = 0.02) -> dict:
    return {"act": "lie-flush", "walls": walls, "within": within}


def rings(kept: KeptDrawing) -> list[tuple[float, float, float]]:
    found = [e for e in kept.entities.values() if e.kind == "circle" and not e.linked]
    return [(*kept.entities[e.centre].at, e.radius) for e in found]


def lines(kept: KeptDrawing) -> list[np.ndarray]:
    found = [e for e in kept.entities.values() if e.kind == "line" and not e.linked]
    return [np.array([kept.entities[p].at for p in (e.start, e.end)]) for e in found]


def test_a_ring_that_was_measured_twice_becomes_the_wall_and_follows_it():
    made = acted(taken([ring((0.004, -0.003), 16.995)]), laid([wall("circle", [(0, 0)], 16.99)]))
    assert rings(made.kept) == [pytest.approx((0, 0, 16.99), abs=1e-9)]
    assert len(made.chosen) == 1 and len(made.kept.links) == 1
    moved = LinkedPiece(key="edge0", kind="circle", points=((0.5, 0.0),), size=17.5)
    later, lost = refreshed(drawing_of(made.kept), [(made.kept.links[0], [moved])], LEVEL)
    now = solved(later)
    assert not lost and now.solved
    own = next(e for e in now.drawing.entities.values() if e.kind == "circle" and not e.linked)
    assert (*now.drawing.point(own.centre), own.radius) == pytest.approx((0.5, 0, 17.5), abs=1e-9)


def test_a_ring_lies_on_an_arc_of_the_wall_too_and_on_the_nearest_of_several():
    quarter = wall("arc", [(0.001, 0), (9.001, 0), (0.001, 9)], called="quarter")
    made = acted(taken([ring((0, 0), 9.004)]), laid([wall("circle", [(0, 0)], 8.99), quarter]))
    assert rings(made.kept) == [pytest.approx((0.001, 0, 9), abs=1e-9)]
    assert [link.part.called for link in made.kept.links] == ["quarter"]


def test_a_web_between_tangents_stays_tangent_when_its_arcs_are_laid_on_bosses():
    """The commonest lever there is: both arcs on bosses that stand a few micrometres beside, the sides go along."""
    big, small, apart = 17.0, 11.0, 80.0
    s = (big - small) / apart
    c = math.sqrt(1 - s * s)
    a, b = (big * s, big * c), (apart + small * s, small * c)
    web = [
        side(a, b),
        {"kind": "arc", "start": b, "end": (b[0], -b[1]), "mid": (apart + small, 0)},
        side((b[0], -b[1]), (a[0], -a[1])),
        {"kind": "arc", "start": (a[0], -a[1]), "end": a, "mid": (-big, 0)},
    ]
    bosses = [
        wall("circle", [(0.003, -0.008)], 16.990, "big"),
        wall("circle", [(apart - 0.002, 0.004)], 11.006, "small"),
    ]
    made = acted(taken(web), laid(bosses))
    assert made.solution.solved and len(made.chosen) == 2
    entities = made.kept.entities
    arcs = [e for e in entities.values() if e.kind == "arc"]
    found = sorted((*entities[e.centre].at, math.dist(entities[e.centre].at, entities[e.start].at)) for e in arcs)
    assert found[0] == pytest.approx((0.003, -0.008, 16.990), abs=1e-8)
    assert found[1] == pytest.approx((apart - 0.002, 0.004, 11.006), abs=1e-8)
    for p, q in lines(made.kept):
        way = (q - p) / np.linalg.norm(q - p)
        for x, y, r in found:
            assert abs(way[0] * (y - p[1]) - way[1] * (x - p[0])) == pytest.approx(r, abs=1e-7)  # tangent to both
    assert made.profiles.regions[0].area > 0


def test_level_sides_are_laid_on_level_walls_and_only_along_their_own_stretch():
    plate = [
        side((0, 0), (40, 0.01)),
        side((40, 0.01), (40, 20.012)),
        side((40, 20.012), (0, 20)),
        side((0, 20), (0, 0)),
    ]
    walls = [
        wall("line", [(5, 20.003), (30, 20.003)], called="back"),
        wall("line", [(60, 0.002), (90, 0.002)], called="elsewhere"),
        wall("line", [(40.01, 3), (40.01, 9)], called="end"),
    ]
    made = acted(taken(plate), laid(walls))
    assert made.solution.solved
    heights = sorted(float(p[:, 1].mean()) for p in lines(made.kept) if abs(np.ptp(p[:, 1])) < 1e-9)
    assert heights[1] == pytest.approx(20.003, abs=1e-9) and abs(heights[0] - 0.002) > 1e-3
    assert sorted(link.part.called for link in made.kept.links) == ["back", "end"]
    assert any(np.allclose(p[:, 0], 40.01, atol=1e-9) for p in lines(made.kept))


@pytest.mark.parametrize(
    "walls",
    [
        [],
        [wall("circle", [(0, 0)], 16.9)],  # a wall of its own
        [wall("circle", [(0.03, 0)], 17)],
        [wall("ellipse", [(0, 0), (17, 0)], 16.9999)],  # seen askew: no ring can lie on it
        [wall("line", [(-17, 0), (17, 0)])],
    ],
)
def test_where_no_wall_is_near_nothing_is_brought_in(walls):
    plain = acted(taken([ring((0, 0), 17)]))
    made = acted(taken([ring((0, 0), 17)]), laid(walls))
    assert made.kept == plain.kept and not made.chosen


def test_what_cannot_hold_with_what_is_asked_stays_as_it_was():
    """A size that was typed is meant: the wall beside it is not brought in."""
    start = acted(taken([ring((0, 0), 17)])).kept
    name = next(n for n, e in start.entities.items() if e.kind == "circle")
    sized = acted({"act": "size", "kind": "diameter", "of": [name], "value": "34 mm"}, kept=start).kept
    made = acted(laid([wall("circle", [(0, 0)], 17.01)]), kept=sized)
    assert not made.chosen and made.kept == sized


def test_done_twice_it_does_nothing_more():
    once = acted(taken([ring((0, 0), 17)]), laid([wall("circle", [(0, 0)], 17.005)])).kept
    again = acted(laid([wall("circle", [(0.001, 0)], 17.005, "other")]), kept=once)
    assert again.kept == once and not again.chosen
