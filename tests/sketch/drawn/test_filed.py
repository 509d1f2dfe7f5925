"""Files as drawings and drawings as files: curves exact where a drawing can have them, ends that meet one point, the rest told."""

from __future__ import annotations

import math

import numpy as np
import pytest
from scipy.interpolate import BSpline

from contour.exchange.flat import shapes as flat
from contour.exchange.flat.shapes import FlatDrawing, Piece, Stroke
from contour.recipe.problem import ContourError
from contour.simulate.random_sheets import random_sheet
from contour.sketch.drawn.file_splines import SplinePoints, drawable
from contour.sketch.drawn.filed import drawn_from, pieces_of
from contour.sketch.drawn.text import Arc, Circle, Drawing, Ellipse, Line, Point, Spline, read_drawing
from contour.sketch.drawn.traces import foot, traces_shown
from contour.sketch.drawn.under import under_of


def sheet(*shapes, layer="0"):
    return FlatDrawing(tuple(Piece(s, layer) for s in shapes))


def curves(entities):
    return [e for e in entities.values() if not isinstance(e, Point)]


def off(points, entities):
    """The farthest of some places from the nearest curve of a drawing, mm."""
    traces = traces_shown(Drawing(entities=entities))
    return max(
        min(float(np.linalg.norm(t.place(np.array([foot(t, p)]))[0] - p)) for t in traces) for p in np.asarray(points)
    )


def test_ends_that_meet_are_one_point_and_everything_is_there():
    found = drawn_from(
        sheet(
            flat.Line((0, 0), (10, 0)),
            flat.Arc((10, 5), 5, -math.pi / 2, math.pi / 2),
            flat.Line((10, 10.0004), (0, 0)),
            flat.Arc((3, 3), 1),
            flat.Spot((7, 7)),
        )
    )
    first, arc, last, ring = curves(found.entities)
    spot = list(found.entities.values())[-1]
    assert found.pieces == 5 and not found.left_out
    assert (first.end, arc.end, last.end) == (arc.start, last.start, first.start)
    assert isinstance(ring, Circle) and ring.radius == 1
    assert spot.at == (7, 7)
    read_drawing(Drawing(entities=found.entities).text())


def test_doubles_and_what_has_no_length_and_what_lies_too_far_are_told():
    found = drawn_from(
        sheet(
            flat.Line((0, 0), (10, 0)),
            flat.Line((10, 0), (0, 0)),
            flat.Arc((5, 5), 2),
            flat.Arc((5, 5), 2, 1.0, 1.0 + math.tau),
            flat.Line((1, 1), (1.0004, 1)),
            flat.Line((0, 0), (2e6, 0)),
            flat.Line((0, 0), (math.nan, 0)),
            layer="rim",
        )
    )
    assert found.pieces == 2
    assert [(o.why, o.layer) for o in found.left_out] == [
        ("lies on another like it", "rim"),
        ("lies on another like it", "rim"),
        ("shorter than 0.001 mm", "rim"),
        ("beyond 1,000,000 mm", "rim"),
        ("beyond 1,000,000 mm", "rim"),
    ]
    assert found.left_out[0].at == (10, 0)


def test_more_than_a_drawing_can_have_is_refused_with_what_to_do():
    strokes = [flat.Line((k, 0), (k, 5)) for k in range(2000)]
    with pytest.raises(ContourError, match="that many") as error:
        drawn_from(sheet(*strokes))
    assert error.value.problem.got == "2,000 pieces with 4,000 points"


def test_layers_that_bound_nothing_become_construction():
    lines = (Piece(flat.Line((0, 0), (1, 0)), "axes"), Piece(flat.Line((0, 0), (0, 1)), "rim"))
    found = drawn_from(FlatDrawing(lines), construction=frozenset({"axes"}))
    assert [e.construction for e in curves(found.entities)] == [True, False]


def _knots(rng, degree, count):
    inner = np.sort(rng.uniform(0.1, 0.9, count - degree - 1))
    return 7 * np.concatenate([np.zeros(degree + 1), inner, np.ones(degree + 1)])


@pytest.mark.parametrize(
    ("degree", "count", "pieces"), [(3, 4, 1), (3, 9, 1), (2, 3, 1), (2, 6, 4), (1, 4, 3), (5, 9, 1)]
)
def test_splines_of_every_degree_are_the_same_curve(degree, count, pieces):
    rng = np.random.default_rng(degree * 10 + count)
    knots, control = _knots(rng, degree, count), rng.uniform(0, 50, (count, 2))
    found = drawn_from(sheet(flat.Spline(degree, knots, control)))
    assert found.pieces == pieces and not found.left_out
    places = BSpline(knots, control, degree)(np.linspace(0, 7, 101))
    assert off(places, found.entities) < (1e-9 if degree <= 3 else 2e-6)


def test_a_spline_with_a_corner_comes_apart_there_and_one_without_clamped_ends_stays_one():
    rng = np.random.default_rng(3)
    bent = drawable(flat.Spline(3, np.array([0, 0, 0, 0, 1, 1, 1, 2, 2, 2, 2.0]), rng.random((7, 2))))
    assert [len(s.control) for s in bent if isinstance(s, SplinePoints)] == [4, 4]
    (whole,) = drawable(flat.Spline(3, np.arange(12.0), rng.random((8, 2))))
    assert isinstance(whole, SplinePoints) and whole.through is not None and len(whole.through) == 6


def test_a_rational_circle_is_a_circle_and_another_rational_curve_is_followed():
    w = math.sqrt(0.5)
    around = np.array([(1, 0), (1, 1), (0, 1), (-1, 1), (-1, 0), (-1, -1), (0, -1), (1, -1), (1, 0)]) * 9.0
    knots = np.array([0, 0, 0, 1, 1, 2, 2, 3, 3, 4, 4, 4.0])
    (ring,) = drawable(flat.Spline(2, knots, around, np.array([1, w, 1, w, 1, w, 1, w, 1])))
    assert isinstance(ring, flat.Arc) and ring.whole
    assert (ring.centre, ring.radius) == (pytest.approx((0, 0), abs=1e-12), pytest.approx(9))
    half = flat.Spline(2, np.array([0, 0, 0, 1, 1, 1.0]), np.array([(0, 0), (5, 9), (9, 0.0)]), np.array([1, 2, 1.0]))
    (curve,) = drawable(half)
    assert isinstance(curve, SplinePoints) and 0 < curve.off < 1e-6


@pytest.mark.parametrize(
    ("knots", "says"),
    [([0, 0, 1, 1], "do not fit"), ([0, 0, 0, 0, 0, 0, 0, 0], "span nothing"), ([0, 1, 0, 1, 2, 3, 4, 5], "fit")],
)
def test_knots_that_make_no_curve_are_told_and_the_rest_comes(knots, says):
    wrong = flat.Spline(3, np.array(knots, float), np.array([[0, 0], [1, 2], [3, 1], [4, 0.0]]))
    found = drawn_from(sheet(wrong, flat.Line((0, 0), (1, 1))))
    assert found.pieces == 1
    assert says in found.left_out[0].why


@pytest.mark.parametrize("seed", range(4))
def test_a_drawing_is_the_same_after_its_file(seed):
    drawing = random_sheet(np.random.default_rng(seed))
    back = drawn_from(FlatDrawing(tuple(pieces_of(drawing))), construction=frozenset({"construction"}))
    before, after = traces_shown(drawing), traces_shown(Drawing(entities=back.entities))
    assert len(before) == len(after)
    for a, b in zip(before, after, strict=True):
        places = a.place(np.linspace(0, 1, 7))
        assert max(np.linalg.norm(b.place(np.array([foot(b, p)]))[0] - p) for p in places) < 1e-7
        assert drawing.entities[a.entity].construction == back.entities[b.entity].construction
    assert sum(isinstance(e, Spline) for e in drawing.entities.values()) == sum(
        isinstance(e, Spline) for e in back.entities.values()
    )


def test_an_ellipse_whose_other_half_axis_is_the_longer_one():
    entities = {
        "m": Point(at=(1, 2)),
        "tip": Point(at=(3, 2)),
        "a": Point(at=(3, 2)),
        "b": Point(at=(1, 7)),
        "o": Ellipse(centre="m", major="tip", minor=5.0, start="a", end="b"),
    }
    (piece,) = [p for p in pieces_of(Drawing(entities=entities)) if isinstance(p.shape, flat.Ellipse)]
    e = piece.shape
    assert (math.hypot(*e.major), e.ratio) == (pytest.approx(5), pytest.approx(0.4))
    assert (e.at(e.first), e.at(e.last)) == (pytest.approx((3, 2)), pytest.approx((1, 7)))
    assert e.last - e.first == pytest.approx(math.pi / 2)


def test_layers_of_a_written_drawing():
    entities = {
        "a": Point(at=(0, 0)),
        "b": Point(at=(5, 0)),
        "c": Point(at=(5, 5), linked=True),
        "alone": Point(at=(9, 9)),
        "l": Line(start="a", end="b", construction=True),
        "k": Line(start="b", end="c", linked=True),
        "r": Arc(centre="a", start="b", end="c"),
    }
    rows = [(type(p.shape).__name__, p.layer) for p in pieces_of(Drawing(entities=entities))]
    assert rows == [("Spot", "drawing"), ("Line", "construction"), ("Line", "brought in"), ("Arc", "drawing")]


def test_what_lies_under_has_its_room():
    drawing = FlatDrawing((), strokes=(Stroke(np.zeros((19_000, 2)), "0"), Stroke(np.ones((2000, 2)), "0")))
    under, left = under_of(drawing, "print.dxf")
    assert under is not None and [len(p) for p in under.lines] == [19_000]
    assert [(o.why, o.count) for o in left] == [("no room under the drawing", 1)]
    assert under_of(FlatDrawing(()), "print.dxf") == (None, ())
    whole, _ = under_of(sheet(flat.Arc((0, 0), 3)), "print.dxf", all_of_it=True)
    assert whole is not None and np.linalg.norm(whole.lines[0], axis=1) == pytest.approx(3, abs=1e-4)
