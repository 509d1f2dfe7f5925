"""Regions against closed forms, and against the faces that shapely makes of the same straight lines."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from shapely import polygonize
from shapely.geometry import LineString
from shapely.ops import unary_union

from contour.simulate.drawings import random_drawing
from contour.sketch.drawn.profiles import Profiles, profiles_of
from contour.sketch.drawn.solution import solved
from contour.sketch.drawn.text import Drawing, read_drawing
from tests.sketch.drawn.kit import arc, circle, drawing, line, point

BOX = {
    "a": point(0, 0), "b": point(20, 0), "c": point(20, 10), "d": point(0, 10),
    "k": line("a", "b"), "l": line("b", "c"), "m": line("c", "d"), "n": line("d", "a"),
}  # fmt: skip
MIDDLE = {**BOX, "o": point(10, 5)}
LENS = 2 * 25 * np.arccos(0.6) - 6 * 4  # two circles of radius 5, six apart: 2 r² acos(d / 2r) - d / 2 √(4r² - d²)
CAP = 36 * np.arccos(5 / 6) - 5 * np.sqrt(11)  # of a circle of radius 6, cut off 5 from its middle


def found(entities: dict[str, Any]) -> Profiles:
    return profiles_of(drawing(entities))


@pytest.mark.parametrize(
    ("entities", "areas", "islands"),
    [
        (BOX, [200.0], 0),
        ({**MIDDLE, "r": circle("o", 2)}, [200 - 4 * np.pi, 4 * np.pi], 1),
        ({**MIDDLE, "r": circle("o", 2), "s": circle("o", 1)}, [200 - 4 * np.pi, 3 * np.pi, np.pi], 2),
        ({**MIDDLE, "r": circle("o", 6)}, [36 * np.pi - 2 * CAP, *[100 - 18 * np.pi + CAP] * 2, CAP, CAP], 0),
        ({**BOX, "r": circle("a", 4)}, [200 - 4 * np.pi, 12 * np.pi, 4 * np.pi], 0),
        ({**BOX, "p": point(5, 0), "q": point(5, 10), "h": line("p", "q")}, [150.0, 50.0], 0),
        ({**BOX, "p": point(-5, 5), "q": point(25, 5), "h": line("p", "q")}, [100.0, 100.0], 0),
        (
            {"m": point(0, 0), "n": point(6, 0), "r": circle("m", 5), "s": circle("n", 5)},
            [25 * np.pi - LENS, 25 * np.pi - LENS, LENS],
            0,
        ),
        (
            {
                "m": point(0, 0), "n": point(20, 0), "a": point(0, -5), "b": point(20, -5), "c": point(20, 5),
                "d": point(0, 5), "k": line("a", "b"), "l": line("c", "d"), "e": arc("n", "b", "c"), "f": arc("m", "d", "a"),
            },
            [200 + 25 * np.pi],
            0,
        ),
        ({"m": point(0, 0), "p": point(6, 8), "o": {"kind": "ellipse", "centre": "m", "major": "p", "minor": 3.0}}, [30 * np.pi], 0),
        (
            {
                "m": point(0, 0), "p": point(8, 0), "a": point(8, 0), "b": point(-8, 0), "k": line("b", "a"),
                "o": {"kind": "ellipse", "centre": "m", "major": "p", "minor": 3.0, "from": "a", "to": "b"},
            },
            [12 * np.pi],
            0,
        ),
    ],
)  # fmt: skip
def test_areas_are_those_of_the_formula(entities: dict[str, Any], areas: list[float], islands: int) -> None:
    seen = found(entities)
    assert [r.area for r in seen.regions] == pytest.approx(areas, rel=1e-9)
    assert sum(len(r.islands) for r in seen.regions) == islands
    assert not seen.gaps


def test_a_wave_and_its_mirror_enclose_what_both_do() -> None:
    """A parabola is a spline of three control points: under it lie two thirds of the box around it."""
    half = {"a": point(0, 0), "t": point(5, 8), "b": point(10, 0), "k": line("a", "b")}
    seen = found({**half, "s": {"kind": "spline", "control": ["a", "t", "b"]}})
    assert [r.area for r in seen.regions] == pytest.approx([2 / 3 * 10 * 4])


@pytest.mark.parametrize("seed", range(8))
def test_faces_of_crossing_lines_are_those_of_another_library(seed: int) -> None:
    rng = np.random.default_rng(seed)
    entities: dict[str, Any] = {}
    chords = rng.uniform(0, 100, (25, 2, 2))
    for k, (a, b) in enumerate(chords):
        entities |= {f"a{k}": point(*a), f"b{k}": point(*b), f"k{k}": line(f"a{k}", f"b{k}")}
    faces = polygonize(list(unary_union([LineString(c) for c in chords]).geoms))
    theirs = sorted((f.area for f in faces.geoms), reverse=True)
    seen = found(entities)
    # A face with others inside it, off its border, is one polygon with a hole in both.
    assert [r.area for r in seen.regions] == pytest.approx(theirs, rel=1e-7)
    loose = sum(abs(p.last - p.first) * np.linalg.norm(np.diff(chords[int(p.entity[1:])], axis=0)) for p in seen.loose)
    edges = unary_union([f.exterior for f in faces.geoms] + [h for f in faces.geoms for h in f.interiors])
    assert loose == pytest.approx(sum(np.linalg.norm(np.diff(c, axis=0)) for c in chords) - edges.length, rel=1e-6)


def test_pieces_run_head_to_tail_round_their_region() -> None:
    ring = found({**MIDDLE, "r": circle("o", 6)}).regions[0]
    assert [p.entity for p in ring.outer] == ["r", "k", "r", "m"]
    arcs = [p for p in ring.outer if p.entity == "r"]
    assert all(p.last > p.first for p in arcs)  # counter-clockwise, as the circle goes
    assert any(p.last > 1 for p in arcs)  # one of them over the seam


def test_a_gap_is_told_with_what_would_mend_it() -> None:
    open_box = {**BOX, "b2": point(20, 0.3), "l": line("b2", "c")}
    seen = found(open_box)
    (gap,) = seen.gaps
    assert (gap.width, set(gap.between), gap.mend.kind) == (pytest.approx(0.3), {"k", "l"}, "coincident")
    assert not seen.regions and {p.entity for p in seen.loose} == {"k", "l", "m", "n"}
    drawn = drawing(open_box)
    mended = solved(Drawing.model_validate({**drawn.text(), "constraints": [gap.mend.model_dump(exclude_none=True)]}))
    assert len(profiles_of(mended.drawing).regions) == 1


def test_an_end_beside_a_line_is_mended_onto_it() -> None:
    seen = found({**BOX, "p": point(5, 0.2), "q": point(5, 10), "h": line("p", "q")})
    (gap,) = seen.gaps
    assert (gap.mend.kind, gap.mend.of, gap.width) == ("on-curve", ("p", "k"), pytest.approx(0.2))
    assert [p.entity for p in seen.loose] == ["h"]


def test_what_only_links_two_loops_bounds_nothing() -> None:
    rings = {"m": point(0, 0), "n": point(30, 0), "r": circle("m", 5), "s": circle("n", 5)}
    seen = found({**rings, "p": point(5, 0), "q": point(25, 0), "h": line("p", "q")})
    assert [r.area for r in seen.regions] == pytest.approx([25 * np.pi] * 2)
    assert [p.entity for p in seen.loose] == ["h"]


def test_what_lies_over_another_piece_is_left_over() -> None:
    """A box with one side drawn twice, and another drawn again in part."""
    twice = {**BOX, "k2": line("b", "a"), "e": point(20, 4), "f": point(20, 7), "l2": line("e", "f")}
    seen = found(twice)
    assert [r.area for r in seen.regions] == [pytest.approx(200)]
    assert sorted(p.entity for p in seen.loose) == ["k2", "l2"]
    rings = {"m": point(0, 0), "r": circle("m", 5), "s": circle("m", 5)}
    assert [r.area for r in found(rings).regions] == [pytest.approx(25 * np.pi)]


def test_construction_lines_and_nothing_bound_nothing() -> None:
    assert found({}).regions == ()
    aside = {**BOX, "h": {**line("a", "c"), "construction": True}}
    assert [r.area for r in found(aside).regions] == [pytest.approx(200)]


@pytest.mark.parametrize("seed", range(6))
def test_random_outlines_keep_their_area(seed: int) -> None:
    """The outline's area less its holes, or more pieces where holes cross: together always the outline's own."""
    rng = np.random.default_rng(seed)
    truth = random_drawing(rng, 8, 0).drawing()
    seen = profiles_of(truth)
    assert len(seen.regions) == 1 and not seen.loose and not seen.gaps


def test_curves_drawn_over_one_another_cross_nowhere_and_bound_what_one_of_them_does():
    rings = {f"m{k}": {"kind": "point", "at": [20 * (k % 10), 20 * (k // 10)]} for k in range(60)}
    rings |= {f"c{k}": {"kind": "circle", "centre": f"m{k % 60}", "radius": 7.0} for k in range(180)}
    ends = {"a": {"kind": "point", "at": [7, 0]}, "b": {"kind": "point", "at": [0, 7]}}
    arc = {"k": {"kind": "arc", "centre": "m0", "from": "a", "to": "b"}}  # a part of the first ring
    found = profiles_of(read_drawing({"entities": {**rings, **ends, **arc}}))
    assert sum(r.area for r in found.regions) == pytest.approx(60 * np.pi * 49, rel=1e-6)
