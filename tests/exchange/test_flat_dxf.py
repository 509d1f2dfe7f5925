"""DXF: files made by another library's hand, read as their numbers say; what is not flat, not drawn or not whole is told."""

from __future__ import annotations

import io
import math

import dxfgrabber
import ezdxf
import numpy as np
import pytest

from contour.exchange.flat.flat_file import flat_text, read_flat
from contour.exchange.flat.shapes import Arc, Ellipse, Line, Path, Piece, Spline, Spot, Text, scaled
from contour.recipe.problem import ContourError


@pytest.fixture
def drawn(tmp_path):
    """Saves a document that a function draws into, and reads it."""

    def make(draw, *, units=4, version="R2010", **how):
        document = ezdxf.new(version)
        document.header["$INSUNITS"] = units
        draw(document, document.modelspace())
        path = tmp_path / "print.dxf"
        document.saveas(path)
        return read_flat(path, **how)

    return make


def only(found, kind):
    return [p.shape for p in found.pieces if isinstance(p.shape, kind)]


def test_lines_rounds_and_their_layers_and_the_unit(drawn):
    def draw(doc, space):
        doc.layers.add("holes")
        space.add_line((0, 0), (40, 5))
        space.add_circle((10, 20), 3, dxfattribs={"layer": "holes"})
        space.add_arc((5, 5), 4, 350, 80)
        space.add_point((1, 2))

    found = drawn(draw, units=1)
    assert found.unit_mm == 25.4
    assert [(layer.name, layer.pieces) for layer in found.layers()] == [("0", 3), ("holes", 1)]
    assert only(found, Line) == [Line((0, 0), (40, 5))]
    circle, arc = sorted(only(found, Arc), key=lambda a: a.radius)
    assert (circle.centre, circle.radius, circle.whole) == ((10, 20), 3, True)
    assert math.degrees(arc.last - arc.first) == pytest.approx(90)
    assert only(found, Spot) == [Spot((1, 2))]
    assert scaled(found, 25.4).pieces[0].shape == Line((0, 0), (40 * 25.4, 5 * 25.4))


def test_bulges_are_arcs_and_a_closed_polyline_closes(drawn):
    found = drawn(
        lambda _, s: s.add_lwpolyline([(0, 0, 0), (10, 0, 1), (10, 4, 0), (0, 4, 0)], format="xyb", close=True)
    )
    assert len(only(found, Line)) == 3
    (half,) = only(found, Arc)
    assert (half.centre, half.radius) == (pytest.approx((10, 2)), pytest.approx(2))
    assert (half.last - half.first) == pytest.approx(math.pi)
    assert half.centre[0] + half.radius * math.cos((half.first + half.last) / 2) == pytest.approx(12)


def test_what_is_drawn_from_behind_is_seen_from_in_front(drawn):
    """An extrusion downwards mirrors the coordinates of round things, and the way they run."""

    def draw(_, space):
        space.add_arc((5, 1), 2, 0, 90, dxfattribs={"extrusion": (0, 0, -1)})
        space.add_ellipse((0, 0), (4, 0), 0.5, 0, math.pi / 2, dxfattribs={"extrusion": (0, 0, -1)})
        space.add_lwpolyline([(1, 0), (3, 0)], dxfattribs={"extrusion": (0, 0, -1)})

    found = drawn(draw)
    (arc,) = only(found, Arc)
    ends = sorted((arc.centre[0] + 2 * math.cos(t), arc.centre[1] + 2 * math.sin(t)) for t in (arc.first, arc.last))
    assert ends == [pytest.approx((-7, 1)), pytest.approx((-5, 3))]
    (part,) = only(found, Ellipse)
    assert sorted(map(tuple, [part.at(part.first), part.at(part.last)])) == [
        pytest.approx((0, -2)),
        pytest.approx((4, 0)),
    ]
    assert part.last - part.first == pytest.approx(math.pi / 2)
    (line,) = only(found, Line)
    assert {line.start[0], line.end[0]} == {-1, -3}


def test_splines_stay_splines_and_fit_points_make_one(drawn):
    def draw(_, space):
        s = space.add_spline(degree=3)
        s.control_points, s.knots = [(0, 0), (1, 2), (3, 1), (4, 0), (6, 1)], [0, 0, 0, 0, 0.4, 1, 1, 1, 1]
        space.add_spline(fit_points=[(0, 0), (2, 3), (5, 1)])

    first, second = only(drawn(draw), Spline)
    assert first.degree == 3 and first.control.tolist() == [[0, 0], [1, 2], [3, 1], [4, 0], [6, 1]]
    assert second.control[0] == pytest.approx([0, 0]) and second.control[-1] == pytest.approx([5, 1])


def test_what_is_no_flat_curve_is_told_with_its_place(drawn):
    def draw(doc, space):
        doc.layers.add("off").off()
        space.add_line((0, 0, 0), (10, 0, 5))
        space.add_circle((3, 4), 2, dxfattribs={"extrusion": (0, 1, 0)})
        space.add_3dface([(7, 8, 0), (1, 0, 0), (1, 1, 1), (0, 1, 1)])
        with space.add_mesh().edit_data() as mesh:
            mesh.vertices, mesh.faces = [(0, 0, 0), (1, 0, 0), (0, 1, 2)], [(0, 1, 2)]
        space.add_line((2, 2), (2, 2))
        space.add_hatch()
        space.add_line((0, 0, 7), (5, 5, 7))  # at one height: flat
        space.add_line((0, 0), (1, 0), dxfattribs={"layer": "off"})
        doc.layout("Layout1").add_line((0, 0), (1, 1))

    found = drawn(draw)
    told = {(o.kind, o.why.split(":")[0]): o.at for o in found.left_out}
    assert told["LINE", "not flat"] == (0, 0)
    assert told["CIRCLE", "not flat"] == (3, 4)
    assert told["3DFACE", "three-dimensional"] == (7, 8)
    assert ("MESH", "three-dimensional") in told and ("HATCH", "not a kind that is drawn here") in told
    assert told["LINE", "without length"] == (2, 2)
    assert any(kind == "LAYOUT" and "Layout1" in why for kind, why in told)
    assert found.hidden == {"off"}
    assert [p.shape for p in found.pieces if p.layer == "0"] == [Line((0, 0), (5, 5))]


def test_chain_lines_bound_nothing_by_themselves_or_by_their_layer(drawn):
    def draw(doc, space):
        doc.linetypes.add("CENTER2", [1.125, 0.75, -0.125, 0.125, -0.125])
        doc.layers.add("axes", linetype="CENTER2")
        space.add_line((0, 0), (1, 0))
        space.add_line((0, 0), (2, 0), dxfattribs={"linetype": "CENTER2"})
        space.add_line((0, 0), (3, 0), dxfattribs={"layer": "axes"})
        space.add_line((0, 0), (4, 0), dxfattribs={"layer": "axes", "linetype": "CONTINUOUS"})

    assert [(p.shape.end[0], p.aside) for p in drawn(draw).pieces] == [(1, False), (2, True), (3, True), (4, False)]


def _bolt(doc, space):
    inner = doc.blocks.new("hole")
    inner.add_circle((0, 0), 1)
    block = doc.blocks.new("bolt")
    block.add_line((0, 0), (4, 0))
    block.add_text("M6", height=2)
    block.add_blockref("hole", (4, 0))
    space.add_blockref("bolt", (10, 20), dxfattribs={"rotation": 90, "xscale": 2, "yscale": 2, "zscale": 2})
    space.add_text("boss", height=3, rotation=30).set_placement((1, 2))
    space.add_mtext("two\\Plines", dxfattribs={"insert": (5, 6), "char_height": 2})


def test_blocks_and_words_lie_under_the_drawing(drawn):
    found = drawn(_bolt)
    assert not found.pieces
    assert sorted(t.text for t in found.texts) == ["M6", "boss", "two lines"]
    told = [(o.kind, o.why.split(":")[0], o.at) for o in found.aside]
    assert told == [("INSERT", "a block", (10, 20)), ("TEXT", "words", (1, 2)), ("MTEXT", "words", (5, 6))]
    boss = next(t for t in found.texts if t.text == "boss")
    assert boss == Text((1, 2), "boss", 3, 30, "0")
    line = min(found.strokes, key=lambda s: len(s.points))
    assert line.points[0] == pytest.approx([10, 20]) and line.points[-1] == pytest.approx([10, 28])
    ring = max(found.strokes, key=lambda s: len(s.points))
    assert np.linalg.norm(ring.points - [10, 28], axis=1) == pytest.approx(2, abs=0.02)


def test_blocks_become_pieces_on_request(drawn):
    found = drawn(_bolt, blocks=True)
    assert not found.strokes
    (line,), (ring,) = only(found, Line), only(found, Arc)
    assert (line.start, line.end) == (pytest.approx((10, 20)), pytest.approx((10, 28)))
    assert (ring.centre, ring.radius) == (pytest.approx((10, 28)), pytest.approx(2))


def test_a_stated_size_is_looked_at(drawn):
    def draw(_, space):
        space.add_linear_dim(base=(0, 5), p1=(0, 0), p2=(12.5, 0)).render()

    found = drawn(draw)
    assert not found.pieces
    assert [t.text for t in found.texts] == ["12,5"]
    assert found.strokes


def test_blocks_that_repeat_without_end_are_refused(drawn):
    def draw(doc, space):
        doc.blocks.new("b0").add_line((0, 0), (1, 0))
        for k in range(1, 8):
            block = doc.blocks.new(f"b{k}")
            for i in range(10):
                block.add_blockref(f"b{k - 1}", (i, 0))
        space.add_blockref("b7", (0, 0))

    with pytest.raises(ContourError, match="too much") as error:
        drawn(draw)
    assert error.value.problem.where.file == "print.dxf"


def test_blocks_within_blocks_however_deep_are_no_fault(drawn):
    def draw(doc, space):
        doc.blocks.new("b0").add_line((0, 0), (1, 0))
        for k in range(1, 150):
            doc.blocks.new(f"b{k}").add_blockref(f"b{k - 1}", (0, 0))
        space.add_line((0, 0), (5, 0))
        space.add_blockref("b149", (0, 0))

    assert len(drawn(draw).pieces) == 1


def _text(tmp_path, *entities, end="0\nENDSEC\n0\nEOF\n"):
    path = tmp_path / "hand.dxf"
    path.write_text("0\nSECTION\n2\nENTITIES\n" + "".join(entities) + end)
    return path


def _line(x2="10"):
    return f"0\nLINE\n8\n0\n10\n0\n20\n0\n11\n{x2}\n21\n3\n"


def test_an_entity_with_a_number_that_is_none_is_left_out_by_its_line(tmp_path):
    found = read_flat(_text(tmp_path, _line(), _line("1O,"), _line("20")))
    assert [p.shape.end for p in found.pieces] == [(10, 3), (20, 3)]
    (told,) = found.left_out
    assert (told.kind, told.why) == ("LINE", "damaged at line 26: '1O,' is no number")


def test_a_file_that_breaks_off_is_read_as_far_as_it_goes(tmp_path):
    found = read_flat(_text(tmp_path, _line(), _line("20"), end="0\nLINE\n8\n0\n10\n0\n20"))
    assert len(found.pieces) == 2
    assert [(o.kind, o.why) for o in found.left_out] == [("LINE", "the file breaks off at line 35")]


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"AC1032\0\0\0", "closed format"),
        (b"solid cube\nfacet normal 0 0 1\n", "no DXF"),
        (b"\0\1\2\3" * 40, "no DXF"),
        (b"0\nSECTION\n2\nTABLES\n0\nTABLE\n2\nLAYER\n70\nx\n0\nENDTAB\n0\nENDSEC\n0\nEOF\n", "damaged"),
    ],
)
def test_what_is_no_dxf_is_refused_by_name(tmp_path, data, says):
    path = tmp_path / "wrong.dxf"
    path.write_bytes(data)
    with pytest.raises(ContourError, match=says) as error:
        read_flat(path)
    assert error.value.problem.where.file == "wrong.dxf"
    assert error.value.problem.remedy and error.value.problem.got


def test_binary_files_are_read(tmp_path):
    document = ezdxf.new("R2010")
    document.modelspace().add_circle((1, 2), 3)
    document.saveas(tmp_path / "b.dxf", fmt="bin")
    (circle,) = only(read_flat(tmp_path / "b.dxf"), Arc)
    assert (circle.centre, circle.radius) == ((1, 2), 3)


@pytest.mark.parametrize(
    ("name", "code"), [("none.dxf", "file-missing"), ("empty.dxf", "file-empty"), ("a.txt", "wrong-kind")]
)
def test_files_that_are_none_of_it(tmp_path, name, code):
    (tmp_path / "empty.dxf").write_bytes(b"")
    (tmp_path / "a.txt").write_text("x")
    with pytest.raises(ContourError) as error:
        read_flat(tmp_path / name)
    assert (error.value.problem.code, error.value.problem.where.file) == (code, name)


def test_a_second_library_reads_what_is_written():
    spline = Spline(3, np.array([0, 0, 0, 0, 0.3, 1, 1, 1, 1.0]), np.array([[0, 0], [1, 2], [3, 1], [4, 0], [6, 1.0]]))
    pieces = [
        Piece(Line((0, 0), (1 / 3, 2)), "drawing"),
        Piece(Arc((1, 2), 3), "drawing"),
        Piece(Arc((1, 2), 3, 0.5, 6.0), "construction"),
        Piece(Ellipse((4, 5), (0, 6), 0.25, 1.0, 2.5), "drawing"),
        Piece(spline, "drawing"),
        Piece(Path(np.array([[0, 0], [1, 0], [1, 1.0]]), closed=True), "scan"),
        Piece(Spot((9, 8)), "drawing"),
    ]
    read = dxfgrabber.read(io.StringIO(flat_text("dxf", pieces, [Text((1, 1), "boss", 2.5, 0, "drawing")])))
    assert (read.header["$INSUNITS"], read.header["$MEASUREMENT"]) == (4, 1)
    by = {e.dxftype: e for e in read.entities}
    assert by["LINE"].end[:2] == (1 / 3, 2)
    assert (by["CIRCLE"].center[:2], by["CIRCLE"].radius) == ((1, 2), 3)
    assert (by["ARC"].layer, by["ARC"].start_angle) == ("construction", pytest.approx(math.degrees(0.5)))
    assert by["ARC"].end_angle % 360 == pytest.approx(math.degrees(6.0))
    assert (by["ELLIPSE"].major_axis[:2], by["ELLIPSE"].ratio, by["ELLIPSE"].end_param) == ((0, 6), 0.25, 2.5)
    assert by["SPLINE"].knots == spline.knots.tolist()
    assert [p[:2] for p in by["SPLINE"].control_points] == [tuple(p) for p in spline.control.tolist()]
    assert by["LWPOLYLINE"].is_closed and len(by["LWPOLYLINE"].points) == 3
    assert (by["POINT"].point[:2], by["TEXT"].text) == ((9, 8), "boss")
