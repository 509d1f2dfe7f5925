"""SVG: shapes, transforms and paths as their numbers say, up turned up again."""

from __future__ import annotations

import math

import numpy as np
import pytest

from contour.exchange.flat.flat_file import flat_text, read_flat
from contour.exchange.flat.shapes import Arc, Ellipse, Line, Path, Piece, Spline, Spot, Text
from contour.exchange.flat.splines import sampled
from contour.recipe.problem import ContourError


@pytest.fixture
def svg(tmp_path):
    def read(body, head='width="100mm" height="50mm" viewBox="0 0 100 50"'):
        path = tmp_path / "drawn.svg"
        path.write_text(f'<svg xmlns="http://www.w3.org/2000/svg" {head}>{body}</svg>')
        return read_flat(path)

    return read


def test_shapes_in_millimetres(svg):
    found = svg('<g id="holes"><circle cx="20" cy="10" r="5"/></g><line x1="0" y1="0" x2="30" y2="40"/>')
    assert found.unit_mm == 1.0
    circle, line = (p.shape for p in found.pieces)
    assert (circle.centre, circle.radius, circle.whole) == (pytest.approx((20, -10)), pytest.approx(5), True)
    assert (line.start, line.end) == (pytest.approx((0, 0)), pytest.approx((30, -40)))
    assert [p.layer for p in found.pieces] == ["holes", ""]


@pytest.mark.parametrize(
    ("head", "unit", "reach"),
    [
        ('width="4in" viewBox="0 0 8 8"', 1.0, 101.6),
        ('width="3cm" height="3cm" viewBox="0 0 8 8"', 1.0, 30),
        ('width="300" viewBox="0 0 100 100"', None, 24),
        ("", None, 8),
    ],
)
def test_its_unit_is_what_its_width_says(svg, head, unit, reach):
    found = svg('<line x1="0" y1="0" x2="8" y2="0"/>', head)
    assert found.unit_mm == unit
    assert found.pieces[0].shape.end[0] == pytest.approx(reach, rel=1e-12)


def test_the_drawing_s_zero_is_where_its_coordinates_have_it(svg):
    found = svg('<line x1="3" y1="4" x2="5" y2="4"/>', 'width="10mm" height="10mm" viewBox="-5 -5 10 10"')
    assert found.pieces[0].shape.start == pytest.approx((3, -4), abs=1e-9)


def test_transforms_turn_and_stretch(svg):
    found = svg('<g transform="translate(10 0) rotate(90)"><ellipse cx="4" cy="0" rx="2" ry="1"/></g>')
    (e,) = (p.shape for p in found.pieces)
    assert isinstance(e, Ellipse) and e.whole
    assert (e.centre, math.hypot(*e.major), e.ratio) == (pytest.approx((10, -4)), pytest.approx(2), pytest.approx(0.5))
    assert abs(e.major[0]) < 1e-9


def test_a_round_that_is_stretched_is_an_ellipse_and_one_that_is_not_an_arc(svg):
    path = '<path d="M 0 0 A 5 5 0 0 1 10 0"/>'
    (arc,) = (p.shape for p in svg(path).pieces)
    assert isinstance(arc, Arc)
    assert (arc.centre, arc.radius) == (pytest.approx((5, 0), abs=1e-9), pytest.approx(5))
    # Clockwise on paper, the upper half.
    assert arc.centre[1] + 5 * math.sin((arc.first + arc.last) / 2) == pytest.approx(5)
    (stretched,) = (p.shape for p in svg(f'<g transform="scale(2 1)">{path}</g>').pieces)
    assert isinstance(stretched, Ellipse)
    assert math.hypot(*stretched.major) == pytest.approx(10)
    assert stretched.at((stretched.first + stretched.last) / 2) == pytest.approx((10, 5))


def test_curves_that_go_on_smoothly_are_one_and_straight_ones_are_lines(svg):
    smooth = svg('<path d="M 0 0 C 1 2 2 2 3 0 S 5 -2 6 0 C 6 5 9 5 9 0"/>')
    first, second = (p.shape for p in smooth.pieces)
    assert isinstance(first, Spline) and len(first.control) == 7
    assert isinstance(second, Spline) and len(second.control) == 4
    (line,) = (p.shape for p in svg('<path d="M 0 0 C 1 1 2 2 3 3"/>').pieces)
    assert (line.start, line.end) == (pytest.approx((0, 0)), pytest.approx((3, -3)))


def test_words_lie_under_it_and_pictures_are_told(svg):
    found = svg(
        '<text x="10" y="20" font-size="4">boss 12</text><image x="0" y="0" width="1" height="1" href="a.png"/>'
    )
    assert [(t.text, t.height) for t in found.texts] == [("boss 12", pytest.approx(4))]
    assert found.texts[0].at == pytest.approx((10, -20))
    assert [(o.kind, o.why.split(":")[0]) for o in found.left_out] == [("image", "a picture")]


def test_what_is_switched_off_or_without_length_is_told(svg):
    found = svg('<line x1="1" y1="1" x2="1" y2="1"/><circle r="2" display="none"/>')
    assert not found.pieces
    assert {o.why for o in found.left_out} == {"without length", "switched off in the file"}


@pytest.mark.parametrize("data", ["<svg><path d='M 0 0", "not xml", "<html></html>"])
def test_what_is_no_svg_says_where(tmp_path, data):
    path = tmp_path / "bad.svg"
    path.write_text(data)
    with pytest.raises(ContourError, match="SVG") as error:
        read_flat(path)
    assert error.value.problem.where.file == "bad.svg" and error.value.problem.got


def test_everything_comes_back_as_it_was_written(tmp_path):
    spline = Spline(
        3, np.array([0, 0, 0, 0, 2, 5, 7, 7, 7, 7.0]), np.array([[0, 0], [1, 9], [3, 1], [4, 0], [6, 1], [9, 3.0]])
    )
    pieces = [
        Piece(Line((-3, 7), (11, 2)), "drawing"),
        Piece(Arc((1, 2), 3), "drawing"),
        Piece(Arc((1, 2), 4, 0.5, 5.0), "drawing"),
        Piece(Ellipse((4, 5), (3, 6), 0.25, 1.0, 6.5), "drawing"),
        Piece(spline, "drawing"),
        Piece(Path(np.array([[0, 0], [1, 0], [1, 1.0]])), "scan"),
    ]
    path = tmp_path / "out.svg"
    path.write_text(
        flat_text("svg", [*pieces, Piece(Spot((0, 0)), "drawing")], [Text((1, 2), "a < b & c", 2, 15, "drawing")])
    )
    back = read_flat(path)
    line, circle, arc, ellipse, curve, *rest = (p.shape for p in back.pieces)
    assert (line.start, line.end) == (pytest.approx((-3, 7)), pytest.approx((11, 2)))
    assert circle.whole and circle.centre == pytest.approx((1, 2))
    assert (arc.radius, math.remainder(arc.first - 0.5, math.tau), arc.last - arc.first) == pytest.approx((4, 0, 4.5))
    assert (ellipse.at(ellipse.first), ellipse.at(ellipse.last)) == (
        pytest.approx(pieces[3].shape.at(1.0)),
        pytest.approx(pieces[3].shape.at(6.5)),
    )
    assert sampled(curve, 40)[0] == pytest.approx(sampled(spline, 40)[0])
    assert len(rest) == 2 and {p.layer for p in back.pieces} == {"drawing", "scan"}
    assert (back.texts[0].text, back.texts[0].at) == ("a < b & c", pytest.approx((1, 2)))
    assert back.texts[0].turn == pytest.approx(15)
