"""A file read as somebody chose, and the commands that read and write one."""

from __future__ import annotations

import json

import ezdxf
import pytest

from contour.cli import main
from contour.recipe.problem import ContourError
from contour.sketch.drawn.file_reading import Choice, read_sheet, require_unit
from contour.sketch.drawn.text import read_drawing


@pytest.fixture
def plate(tmp_path):
    """A plate of 4 × 2 with a hole, its centre line on a layer that is off, a word, and a stroke out of the plane."""
    document = ezdxf.new("R2010")
    document.header["$INSUNITS"] = 0
    space = document.modelspace()
    document.layers.add("off").off()
    space.add_lwpolyline([(1, 1), (5, 1), (5, 3), (1, 3)], close=True, dxfattribs={"layer": "rim"})
    space.add_circle((3, 2), 0.1875, dxfattribs={"layer": "hole"})
    space.add_line((1, 2), (5, 2), dxfattribs={"layer": "off"})
    space.add_text("0.375 DIA", height=0.2).set_placement((3.2, 2.2))
    space.add_line((0, 0, 0), (0, 0, 4), dxfattribs={"layer": "rim"})
    document.saveas(tmp_path / "plate.dxf")
    return tmp_path / "plate.dxf"


def test_a_file_of_no_unit_is_asked_about(plate):
    read = read_sheet(plate, Choice())
    assert (read.unit_mm, read.said, read.likely) == (None, False, "inch")
    assert read.size == pytest.approx((4, 2))
    with pytest.raises(ContourError, match="what unit") as error:
        require_unit(read, "plate.dxf")
    assert "4 × 2" in error.value.problem.got and "inch" in error.value.problem.remedy


def test_what_was_chosen_comes_in_its_size_and_place(plate):
    read = read_sheet(plate, Choice(unit="inch", to_zero=True))
    corners = [e.at for e in read.entities.values() if e.kind == "point"]
    assert min(corners) == pytest.approx((0, 0)) and max(corners) == pytest.approx((101.6, 50.8))
    (ring,) = [e for e in read.entities.values() if e.kind == "circle"]
    assert 2 * ring.radius == pytest.approx(9.525)
    assert read.pieces == 5
    assert read.under is not None and read.under.texts[0].height == pytest.approx(0.2 * 25.4)
    assert [(o.kind, o.why.split(":")[0], o.count) for o in read.left_out] == [
        ("LINE", "not flat", 1),
        ("line", "its layer is switched off in the file", 1),
    ]


def test_layers_are_chosen_and_shown_ones_only_by_themselves(plate):
    assert read_sheet(plate, Choice("mm", frozenset({"hole"}))).pieces == 1
    assert read_sheet(plate, Choice("mm", frozenset({"off", "hole"}))).pieces == 2
    names = {n.name: (n.pieces, n.hidden) for n in read_sheet(plate, Choice("mm")).layers}
    assert names == {"rim": (4, False), "hole": (1, False), "off": (1, True), "0": (0, False)}


def test_all_of_it_lies_under_a_drawing_on_request(plate):
    read = read_sheet(plate, Choice("inch", under=True))
    assert not read.entities and read.pieces == 0
    assert read.under is not None and len(read.under.lines) == 5


def test_too_many_pieces_are_refused_and_still_lie_under(tmp_path):
    document = ezdxf.new("R2010")
    for k in range(2500):
        document.modelspace().add_line((k, 0), (k, 3))
    document.saveas(tmp_path / "stray.dxf")
    read = read_sheet(tmp_path / "stray.dxf", Choice("mm"))
    assert read.refused is not None and read.refused.where.file == "stray.dxf"
    assert "lie under" in read.refused.remedy
    assert len(read_sheet(tmp_path / "stray.dxf", Choice("mm", under=True)).under.lines) == 2500


def test_the_command_reads_and_the_other_one_writes(plate, tmp_path, capsys):
    out = tmp_path / "plate.json"
    assert main(["sketch-in", str(plate), "--unit", "inch", "--out", str(out), "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert told["entities"] == 5
    assert told["left_out"][0] == {
        "kind": "LINE",
        "layer": "rim",
        "why": "not flat: it rises out of the plane",
        "at": [0.0, 0.0],
        "count": 1,
    }
    assert [(o["kind"], o["why"].split(":")[0]) for o in told["left_out"][-1:]] == [("TEXT", "words")]
    assert told["under"] == {
        "texts": [{"text": "0.375 DIA", "at": [pytest.approx(81.28), pytest.approx(55.88)]}],
        "lines": 0,
    }
    drawing = read_drawing(out.read_text())
    assert sum(e.kind == "line" for e in drawing.entities.values()) == 4
    again, flat = tmp_path / "again.json", tmp_path / "flat"
    for kind in ("dxf", "svg"):
        assert main(["sketch", str(out), f"--{kind}", f"{flat}.{kind}", "--json"]) == 0
        solved = json.loads(capsys.readouterr().out)
        assert solved["profiles"][0]["area"] == pytest.approx(101.6 * 50.8 - 3.14159265 * 4.7625**2, rel=1e-6)
        assert main(["sketch-in", f"{flat}.{kind}", "--out", str(again), "--json"]) == 0
        assert json.loads(capsys.readouterr().out)["left_out"] == []
        back = read_drawing(again.read_text())
        (ring,) = [e for e in back.entities.values() if e.kind == "circle"]
        assert 2 * ring.radius == pytest.approx(9.525, abs=1e-9)


def test_the_command_says_what_is_missing(plate, tmp_path, capsys):
    assert main(["sketch-in", str(plate), "--out", str(tmp_path / "o.json")]) == 2
    said = capsys.readouterr().err
    assert "plate.dxf" in said and "--unit" in said
    assert main(["sketch-in", str(plate), "--unit", "mm", "--out", str(tmp_path / "no" / "o.json")]) == 2
    assert "cannot be written" in capsys.readouterr().err


def test_a_section_goes_out_as_it_was_cut_and_as_it_was_explained(tmp_path, capsys, plate):
    from tests.conftest import binary_stl, cube

    scan = tmp_path / "block.stl"
    scan.write_bytes(binary_stl(cube((40, 30, 20))))
    dxf = tmp_path / "cut.dxf"
    words = [
        "section",
        str(scan),
        "--unit",
        "mm",
        "--origin",
        "0,0,10",
        "--normal",
        "0,0,1",
        "--dxf",
        str(dxf),
        "--json",
    ]
    assert main(words) == 0
    capsys.readouterr()
    read = read_sheet(dxf, Choice())
    assert {n.name: n.pieces for n in read.layers}["section"] == 4
    lengths = sorted(
        abs(complex(*read.entities[e.start].at) - complex(*read.entities[e.end].at))
        for e in read_sheet(dxf, Choice(layers=frozenset({"section"}))).entities.values()
        if e.kind == "line"
    )
    assert lengths == pytest.approx([30, 30, 40, 40], abs=1e-3)


def test_a_section_in_a_face_is_written_too(tmp_path, capsys):
    """What the plane runs along is told; what it cuts elsewhere is still asked for."""
    from tests.conftest import binary_stl, cube

    scan, dxf = tmp_path / "block.stl", tmp_path / "cut.dxf"
    scan.write_bytes(binary_stl(cube((40, 30, 20))))
    words = [
        "section",
        str(scan),
        "--unit",
        "mm",
        "--origin",
        "0,0,20",
        "--normal",
        "0,0,1",
        "--dxf",
        str(dxf),
        "--json",
    ]
    assert main(words) == 0
    assert json.loads(capsys.readouterr().out)["along"]["area"] == pytest.approx(1200)
    assert dxf.exists()
