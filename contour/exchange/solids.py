"""Shapes from STEP and IGES files: the parts of their assemblies placed, named and coloured, in mm whatever the file's unit is."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from OCP.collections import Sequence_TCollection_AsciiString, Sequence_TDF_Label
from OCP.IFSelect import IFSelect_ReturnStatus
from OCP.IGESCAFControl import IGESCAFControl_Reader
from OCP.IGESControl import IGESControl_Controller
from OCP.Message import Message, Message_PrinterOStream
from OCP.Quantity import Quantity_Color
from OCP.STEPCAFControl import STEPCAFControl_Reader
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDataStd import TDataStd_Name
from OCP.TDF import TDF_Label
from OCP.TDocStd import TDocStd_Document
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import TopoDS_Shape
from OCP.XCAFApp import XCAFApp_Application
from OCP.XCAFDoc import XCAFDoc_ColorTool, XCAFDoc_ColorType, XCAFDoc_DocumentTool, XCAFDoc_ShapeTool

from contour.exchange.limits import file_limit_s, hard_limit
from contour.exchange.solid_format import Format, format_of
from contour.recipe.problem import ContourError, Where

__all__ = ["MOST_FACES", "FilePart", "PartsFile", "read_parts"]

# The kernel's readers talk on stdout; whoever pipes our JSON must not hear it.
Message.DefaultMessenger_s().RemovePrinters(Message_PrinterOStream.get_type_descriptor_s())

MOST_FACES = 20_000
_UNITS = {"millimetre": 1.0, "centimetre": 10.0, "metre": 1000.0, "inch": 25.4, "foot": 304.8, "micrometre": 0.001}
_IGES_UNITS = {1: 25.4, 2: 1.0, 4: 304.8, 6: 1000.0, 9: 0.001, 10: 10.0}  # by the flag in its global section
# What translators say for want of a name.
_NAMELESS = re.compile(r"|SOLID|SHELL|COMPOUND|FACE|.*STEP TRANSLATOR.*|NONE|UNTITLED", re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class FilePart:
    """One part of a file, placed where the file's assembly has it, mm. colour: #rrggbb, or none where the file gives none."""

    name: str
    colour: str | None
    shape: TopoDS_Shape


@dataclass(frozen=True, slots=True)
class PartsFile:
    """unit_mm: one unit of the file in mm."""

    format: Format
    unit_mm: float
    parts: tuple[FilePart, ...]


def _not_read(path: Path, message: str, **more: Any) -> ContourError:
    remedy = more.pop("remedy", "export the solid again, as STEP AP214 or AP242")
    return ContourError("file-not-understood", message, where=Where(file=path.name), remedy=remedy, **more)


def _document() -> TDocStd_Document:
    application = XCAFApp_Application.GetApplication_s()
    document = TDocStd_Document(TCollection_ExtendedString("XmlOcaf"))
    application.NewDocument(TCollection_ExtendedString("MDTV-XCAF"), document)
    XCAFDoc_DocumentTool.SetLengthUnit_s(document, 0.001)
    return document


def _outside_files(path: Path) -> list[str]:
    """Files that a STEP file only points to."""
    text = path.read_bytes().decode("latin-1")
    names = re.findall(r"(?:DOCUMENT_FILE|APPLIED_EXTERNAL_IDENTIFICATION_ASSIGNMENT)\s*\(\s*'([^']+)'", text)
    return list(dict.fromkeys(n for n in names if n.strip()))


def _step(path: Path) -> tuple[TDocStd_Document, float]:
    reader = STEPCAFControl_Reader()
    reader.SetNameMode(True)
    reader.SetColorMode(True)
    document = _document()
    try:
        read = reader.ReadFile(str(path)) == IFSelect_ReturnStatus.IFSelect_RetDone
    except Exception:  # the binding raises bare C++ errors on some broken files
        read = False
    if not read:
        raise _not_read(path, "not a STEP file that can be read", need="STEP AP203, AP214 or AP242, whole to its end")
    try:
        reader.Transfer(document)  # gives nothing for a file without shapes, which is told later
    except Exception as error:
        raise _not_read(path, "the kernel gives up on this STEP file", got=type(error).__name__) from None
    lengths, angles, solid = (Sequence_TCollection_AsciiString() for _ in range(3))
    try:
        reader.Reader().FileUnits(lengths, angles, solid)
    except Exception:  # no unit said
        pass
    said = [lengths.Value(i).ToCString().lower() for i in range(1, lengths.Length() + 1)]
    unit = next(
        (mm for name, mm in _UNITS.items() for s in said[:1] if name in s or name.replace("re", "er") in s), 1.0
    )
    return document, unit


def _iges(path: Path) -> tuple[TDocStd_Document, float]:
    IGESControl_Controller.Init_s()
    reader = IGESCAFControl_Reader()
    reader.SetNameMode(True)
    reader.SetColorMode(True)
    document = _document()
    try:
        done = reader.ReadFile(str(path)) == IFSelect_ReturnStatus.IFSelect_RetDone and reader.Transfer(document)
    except Exception:  # as above
        done = False
    if not done:
        raise _not_read(path, "not an IGES file that can be read", need="IGES 5.3 with surfaces or solids")
    flag = int(reader.IGESModel().GlobalSection().UnitFlag())
    return document, _IGES_UNITS.get(flag, 1.0)


def _name_of(label: TDF_Label) -> str:
    found = TDataStd_Name()
    if not label.FindAttribute(TDataStd_Name.GetID_s(), found):
        return ""
    return str(found.Get().ToExtString()).strip()


def _colour_of(colours: XCAFDoc_ColorTool, label: TDF_Label, shape: TopoDS_Shape | None = None) -> str | None:
    found = Quantity_Color()
    for kind in (XCAFDoc_ColorType.XCAFDoc_ColorGen, XCAFDoc_ColorType.XCAFDoc_ColorSurf):
        if colours.GetColor_s(label, kind, found) or (shape is not None and colours.GetColor(shape, kind, found)):
            return str(Quantity_Color.ColorToHex_s(found, True).ToCString()).lower()
    return None


def _leaves(colours: XCAFDoc_ColorTool, label: TDF_Label, name: str, colour: str | None) -> Iterator[FilePart]:
    """Parts of an assembly, each placed, with the name of the part and the colour nearest to it."""
    own = _name_of(label)
    own = name if _NAMELESS.fullmatch(own) else own
    shade = _colour_of(colours, label) or colour
    if XCAFDoc_ShapeTool.IsAssembly_s(label):
        children = Sequence_TDF_Label()
        XCAFDoc_ShapeTool.GetComponents_s(label, children)
        for i in range(1, children.Length() + 1):
            component = children.Value(i)
            target = TDF_Label()
            if not XCAFDoc_ShapeTool.GetReferredShape_s(component, target):
                continue
            place = XCAFDoc_ShapeTool.GetLocation_s(component)
            tint = _colour_of(colours, component) or shade
            for part in _leaves(colours, target, own, tint):
                yield replace(part, shape=part.shape.Moved(place))
        return
    shape = XCAFDoc_ShapeTool.GetShape_s(label)
    if shape is None or shape.IsNull():
        return
    hue = shade or _colour_of(colours, label, shape) or _of_first_solid(colours, label, shape)
    yield FilePart(own, hue, shape)


def _of_first_solid(colours: XCAFDoc_ColorTool, label: TDF_Label, shape: TopoDS_Shape) -> str | None:
    walk = TopExp_Explorer(shape, TopAbs_ShapeEnum.TopAbs_SOLID)
    return _colour_of(colours, label, walk.Current()) if walk.More() else None


def _faces_in(shape: TopoDS_Shape) -> int:
    walk, count = TopExp_Explorer(shape, TopAbs_ShapeEnum.TopAbs_FACE), 0
    while walk.More():
        count += 1
        walk.Next()
    return count


def read_parts(path: Path) -> PartsFile:
    """Every part of a STEP or IGES file, mm. Raises ContourError (file-missing, file-empty, file-not-understood, file-too-large).

    Damaged files can crash or hang the kernel: files from outside are read in a child (:mod:`contour.exchange.limits`).
    """
    format = format_of(path)
    with hard_limit(file_limit_s(path)):
        document, unit_mm = _step(path) if format == "step" else _iges(path)
        tool = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
        colours = XCAFDoc_DocumentTool.ColorTool_s(document.Main())
        roots = Sequence_TDF_Label()
        tool.GetFreeShapes(roots)
        found = [p for i in range(1, roots.Length() + 1) for p in _leaves(colours, roots.Value(i), path.stem, None)]
        counts = [_faces_in(p.shape) for p in found]
    _require_shapes(path, format, sum(counts))
    return PartsFile(format, unit_mm, tuple(p for p, n in zip(found, counts, strict=True) if n))


def _require_shapes(path: Path, format: Format, count: int) -> None:
    outside = _outside_files(path) if format == "step" and not count else []
    if outside:
        raise _not_read(
            path,
            "the file only points to others (external references)",
            got=", ".join(outside[:6]),
            need="the shapes themselves",
            remedy="bring in these files, or export the assembly with its parts inside",
        )
    if not count:
        raise _not_read(path, f"the {format.upper()} file holds no shape", need="solids or surfaces")
    if count > MOST_FACES:
        raise ContourError(
            "file-too-large",
            "the file has more faces than can be worked on",
            where=Where(file=path.name),
            got=f"{count} faces",
            need=f"up to {MOST_FACES}",
            remedy="export fewer parts at once",
        )
