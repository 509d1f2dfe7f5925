"""Files of solids: bodies at true size with names, colours and places; what cannot be read told in a sentence."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
from OCP.gp import gp_Trsf, gp_Vec
from OCP.IFSelect import IFSelect_ReturnStatus
from OCP.IGESControl import IGESControl_Controller, IGESControl_Writer
from OCP.Interface import Interface_Static
from OCP.STEPCAFControl import STEPCAFControl_Writer
from OCP.STEPControl import STEPControl_StepModelType, STEPControl_Writer
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDataStd import TDataStd_Name
from OCP.TopLoc import TopLoc_Location
from OCP.XCAFDoc import XCAFDoc_DocumentTool

from contour.exchange.solid_format import format_of, is_solid_file
from contour.exchange.solids import _document
from contour.exchange.step import write_step
from contour.recipe.problem import ContourError
from contour.solid.doubt import doubted_unit
from contour.solid.extent import bounds
from contour.solid.facts import face_facts
from contour.solid.from_file import read_shape_file, read_solids, scaled, size_of
from contour.solid.gate import check_solid
from contour.solid.mass import volume
from contour.solid.shape import NamedShape, faces, free_edges
from contour.solid.topology.imported import carried_numbers
from contour.solid.topology.rows import topology_rows
from tests.conftest import circle, prism, rectangle

PLATE = prism([*rectangle(50.8, 25.4), circle(12, 12, 5)], 6.35)
PIN = prism([circle(80, 10, 4)], 20)
PLATE_VOLUME = (50.8 * 25.4 - np.pi * 25) * 6.35
HEAD = b"ISO-10303-21;\nHEADER;\nFILE_DESCRIPTION((''),'2;1');\nFILE_NAME('','',(''),(''),'','','');\nFILE_SCHEMA(('AUTOMOTIVE_DESIGN'));\nENDSEC;\nDATA;\n"
TAIL = b"ENDSEC;\nEND-ISO-10303-21;\n"


def iges(path: Path, *, unit: str = "MM", breps: bool = False) -> Path:
    IGESControl_Controller.Init_s()
    writer = IGESControl_Writer(unit, 1 if breps else 0)
    for shape in (PLATE.shape, PIN.shape):
        writer.AddShape(shape)
    writer.ComputeModel()
    assert writer.Write(str(path))
    return path


@pytest.mark.parametrize("unit", ["mm", "inch"])
def test_step_comes_in_at_true_size_with_names_and_colours(tmp_path, unit):
    path = tmp_path / "plate.step"
    write_step(path, [("Winch Ø plate", PLATE.shape, "#7a3b69"), ("Pin", PIN.shape, None)], unit=unit)
    file = read_solids(path)
    assert (file.format, file.unit_mm) == ("step", 1.0 if unit == "mm" else 25.4)
    assert [(b.name, b.colour, b.closed) for b in file.bodies] == [
        ("Winch Ø plate", "#7a3b69", True),
        ("Pin", None, True),
    ]
    assert volume(file.bodies[0].shape) == pytest.approx(PLATE_VOLUME, rel=1e-6)


@pytest.mark.parametrize("unit", ["MM", "IN"])
@pytest.mark.parametrize("breps", [False, True])
def test_iges_comes_in_at_true_size_as_closed_solids(tmp_path, unit, breps):
    """With solids in it, or with nothing but loose faces, which are sewn."""
    file = read_solids(iges(tmp_path / "plate.igs", unit=unit, breps=breps))
    assert (file.format, file.unit_mm, file.sewn) == ("iges", 1.0 if unit == "MM" else 25.4, not breps)
    facts = [check_solid(b.shape) for b in file.bodies]
    assert [(f.solids, f.faces, f.closed, f.valid) for f in facts] == [(1, 7, True, True), (1, 3, True, True)]
    assert facts[0].volume == pytest.approx(PLATE_VOLUME, rel=1e-6)
    assert facts[1].volume == pytest.approx(np.pi * 16 * 20, rel=1e-6)


def test_an_assembly_places_its_parts_each_time_it_uses_them(tmp_path):
    document = _document()
    tool = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
    part = tool.AddShape(PIN.shape, False)
    TDataStd_Name.Set_s(part, TCollection_ExtendedString("Pin", True))
    whole = tool.NewShape()
    TDataStd_Name.Set_s(whole, TCollection_ExtendedString("Winch", True))
    for x in (0.0, 100.0):
        place = gp_Trsf()
        place.SetTranslation(gp_Vec(x, 0, 5))
        tool.AddComponent(whole, part, TopLoc_Location(place))
    tool.UpdateAssemblies()
    writer = STEPCAFControl_Writer()
    writer.SetNameMode(True)
    Interface_Static.SetCVal_s("write.step.unit", "MM")
    path = tmp_path / "winch.step"
    assert writer.Transfer(document) and writer.Write(str(path)) == IFSelect_ReturnStatus.IFSelect_RetDone
    bodies = read_solids(path).bodies
    assert [b.name for b in bodies] == ["Pin", "Pin (2)"]
    lows = [bounds(b.shape)[0] for b in bodies]
    assert lows[0] == pytest.approx([76, 6, 5], abs=1e-6) and lows[1] == pytest.approx([176, 6, 5], abs=1e-6)


def test_loose_faces_of_a_step_file_are_an_open_body_with_borders(tmp_path):
    writer = STEPControl_Writer()
    for face in faces(PLATE.shape)[:5]:
        writer.Transfer(face, STEPControl_StepModelType.STEPControl_AsIs)
    path = tmp_path / "sheet.step"
    writer.Write(str(path))
    bodies = read_solids(path).bodies
    assert not any(b.closed for b in bodies) and sum(len(faces(b.shape)) for b in bodies) == 5
    assert all(free_edges(b.shape) for b in bodies)
    one = bodies[0].shape
    borders = [
        e for e in topology_rows(NamedShape(one, tuple(map(str, range(len(faces(one)))))))["edges"] if e["border"]
    ]
    assert len(borders) == len(free_edges(one)) and not any(e["smooth"] for e in borders)
    facts = check_solid(read_shape_file(path))
    assert (facts.solids, facts.closed) == (0, False)


def test_iges_faces_that_do_not_close_stay_open(tmp_path):
    IGESControl_Controller.Init_s()
    writer = IGESControl_Writer("MM", 0)
    for face in faces(PLATE.shape)[:6]:
        writer.AddShape(face)
    writer.ComputeModel()
    writer.Write(str(tmp_path / "open.igs"))
    (body,) = read_solids(tmp_path / "open.igs").bodies
    assert not body.closed and len(faces(body.shape)) == 6


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b"", "empty"),
        (b"solid hello\nendsolid\n", "neither STEP nor IGES"),
        (HEAD + TAIL, "holds no shape"),
        (HEAD + b"#1=DOCUMENT_FILE('winch_arm.stp','','',#2,'','');\n" + TAIL, "external references"),
        (HEAD + b"#1=CARTESIAN_POINT('',(NAN,0.,0.));\n" + TAIL, "shape"),
    ],
)
def test_what_cannot_be_read_is_a_sentence_with_the_file(tmp_path, data, said):
    path = tmp_path / "bad.step"
    path.write_bytes(data)
    with pytest.raises(ContourError, match=said) as caught:
        read_solids(path)
    assert caught.value.problem.where.file == "bad.step" and caught.value.problem.remedy
    if "external" in said:
        assert caught.value.problem.got == "winch_arm.stp"


def test_a_file_that_was_cut_off_is_refused_and_a_missing_one_too(tmp_path):
    write_step(tmp_path / "whole.step", [("A", PLATE.shape, None)], unit="mm")
    data = (tmp_path / "whole.step").read_bytes()
    (tmp_path / "cut.step").write_bytes(data[: len(data) // 3])
    for name in ("cut.step", "missing.step"):
        with pytest.raises(ContourError, match=name.replace(".", r"\.")):
            read_solids(tmp_path / name)


def test_the_content_decides_not_the_ending(tmp_path):
    path = iges(tmp_path / "really.step")
    assert format_of(path) == "iges" and is_solid_file(path)
    (tmp_path / "scan.stl").write_bytes(b"solid x\nendsolid x\n")
    assert not is_solid_file(tmp_path / "scan.stl")


def test_another_unit_makes_it_so_much_larger():
    by_inch = scaled(PLATE.shape, 25.4)
    assert volume(by_inch) == pytest.approx(PLATE_VOLUME * 25.4**3, rel=1e-9)
    assert size_of([by_inch]) == pytest.approx((50.8 * 25.4, 25.4 * 25.4, 6.35 * 25.4), abs=1e-4)
    assert scaled(PLATE.shape, 1.0) is PLATE.shape


@pytest.mark.parametrize(
    ("largest", "unit_mm", "like", "doubted"),
    [
        (4.72, 1.0, 120.0, "inch"),
        (120.0, 1.0, 118.0, None),
        (3048.0, 25.4, 120.0, "mm"),
        (120.0, 25.4, 121.0, None),
        (60.0, 1.0, 120.0, None),  # a piece of the part
        (2.4, 1.0, None, "inch"),
        (60.0, 1.0, None, None),
        (9000.0, 25.4, None, "mm"),
        (0.5, 1000.0, None, None),
        (0.0, 1.0, 10.0, None),
    ],
)
def test_a_unit_is_doubted_by_the_scan_or_by_what_parts_measure(largest, unit_mm, like, doubted):
    assert doubted_unit(largest, unit_mm, like) == doubted


def rows(shape) -> list[dict]:
    return face_facts(NamedShape(shape, tuple(str(k) for k in range(len(faces(shape))))))


def carried(before, after) -> tuple[list[dict], list[dict], list[int]]:
    old, new = rows(before), rows(after)
    return old, new, carried_numbers(old, list(range(len(old))), new)


def test_numbers_of_the_first_version_are_the_order_of_the_file():
    assert carried_numbers([], [], rows(PLATE.shape)) == list(range(7))


def test_a_new_version_keeps_the_numbers_of_what_did_not_change():
    """A hole more: the top and the bottom are cut, everything else is as it was."""
    drilled = prism([*rectangle(50.8, 25.4), circle(12, 12, 5), circle(40, 12, 3, "c2")], 6.35)
    old, new, numbers = carried(PLATE.shape, drilled.shape)
    by_number = {n: new[i] for i, n in enumerate(numbers)}
    assert sorted(numbers) == list(range(8))
    for k, row in enumerate(old):
        now = by_number[k]
        assert now["kind"] == row["kind"] and now.get("axis") == row.get("axis")
    assert by_number[7]["diameter"] == 6.0


def test_a_moved_hole_and_a_thicker_plate_are_the_same_faces():
    changed = prism([*rectangle(50.8, 25.4), circle(30, 14, 5)], 8.0)
    old, new, numbers = carried(PLATE.shape, changed.shape)
    by_number = {n: new[i] for i, n in enumerate(numbers)}
    assert sorted(numbers) == list(range(7))
    for k, row in enumerate(old):
        assert by_number[k]["kind"] == row["kind"]
        if row["kind"] == "plane":
            assert by_number[k]["axis"] == row["axis"]


def test_what_could_be_two_faces_is_none_and_gets_a_number_of_its_own():
    holes = [circle(10, 12, 3, "c1"), circle(30, 12, 3, "c2")]
    before = prism([*rectangle(50.8, 25.4), *holes], 6.35)
    moved = prism([*rectangle(50.8, 25.4), circle(15, 8, 3, "c1"), circle(38, 17, 3, "c2")], 6.35)
    old, new, numbers = carried(before.shape, moved.shape)
    bores = [n for n, row in zip(numbers, new, strict=True) if row["kind"] == "cylinder"]
    assert all(n >= len(old) for n in bores)  # either bore could be either: nothing is guessed


def test_a_part_moved_as_a_whole_keeps_its_numbers_by_size():
    away = gp_Trsf()
    away.SetTranslation(gp_Vec(7, 3, 1))
    moved = BRepBuilderAPI_Transform(PIN.shape, away, True).Shape()
    _, _, numbers = carried(PIN.shape, moved)
    assert sorted(numbers)[:1] == [0] and len(set(numbers)) == 3
