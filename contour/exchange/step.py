"""STEP out with named bodies in the job's unit, and in for checking and comparing."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Literal

from OCP.IFSelect import IFSelect_ReturnStatus
from OCP.Interface import Interface_Static
from OCP.Message import Message, Message_PrinterOStream
from OCP.Quantity import Quantity_Color, Quantity_TypeOfColor
from OCP.STEPCAFControl import STEPCAFControl_Writer
from OCP.STEPControl import STEPControl_Reader
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDataStd import TDataStd_Name
from OCP.TDocStd import TDocStd_Document
from OCP.TopoDS import TopoDS_Shape
from OCP.XCAFApp import XCAFApp_Application
from OCP.XCAFDoc import XCAFDoc_ColorType, XCAFDoc_DocumentTool

from contour.exchange.limits import file_limit_s, hard_limit
from contour.recipe.problem import ContourError, Where

__all__ = ["read_step", "write_step"]

# The kernel's readers talk on stdout; whoever pipes our JSON must not hear it.
Message.DefaultMessenger_s().RemovePrinters(Message_PrinterOStream.get_type_descriptor_s())


def write_step(
    path: Path, bodies: Sequence[tuple[str, TopoDS_Shape, str | None]], *, unit: Literal["mm", "inch"]
) -> None:
    """One product per (name, shape, colour as #rrggbb or none), in mm or inch. Shapes are in mm; the writer converts."""
    application = XCAFApp_Application.GetApplication_s()
    document = TDocStd_Document(TCollection_ExtendedString("XmlOcaf"))
    application.NewDocument(TCollection_ExtendedString("MDTV-XCAF"), document)
    XCAFDoc_DocumentTool.SetLengthUnit_s(document, 0.001)
    tool = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
    colours = XCAFDoc_DocumentTool.ColorTool_s(document.Main())
    for name, shape, colour in bodies:
        label = tool.AddShape(shape, False)
        TDataStd_Name.Set_s(label, TCollection_ExtendedString(name, True))
        if colour is not None:
            red, green, blue = (int(colour[k : k + 2], 16) / 255 for k in (1, 3, 5))
            shade = Quantity_Color(red, green, blue, Quantity_TypeOfColor.Quantity_TOC_sRGB)
            colours.SetColor(label, shade, XCAFDoc_ColorType.XCAFDoc_ColorSurf)
    writer = STEPCAFControl_Writer()
    writer.SetNameMode(True)
    writer.SetColorMode(True)
    Interface_Static.SetCVal_s("write.step.unit", "MM" if unit == "mm" else "INCH")
    Interface_Static.SetCVal_s("write.step.schema", "AP214IS")
    if not writer.Transfer(document) or writer.Write(str(path)) != IFSelect_ReturnStatus.IFSelect_RetDone:
        raise ContourError("crashed", "the STEP file could not be written", where=Where(file=path.name))


def read_step(path: Path) -> TopoDS_Shape:
    """All shapes of a file as one, in mm. Raises ContourError (file-missing, file-not-understood).

    Damaged files can crash or hang the kernel: files from outside are read in a child (:mod:`contour.exchange.limits`).
    """
    where = Where(file=path.name)
    if not path.is_file():
        raise ContourError("file-missing", "there is no such file", where=where, remedy="check the path")
    with hard_limit(file_limit_s(path)):
        return _read(path, where)


def _read(path: Path, where: Where) -> TopoDS_Shape:
    reader = STEPControl_Reader()
    try:
        status = reader.ReadFile(str(path))
    except Exception:  # the binding raises bare C++ errors on some broken files
        status = None
    if status != IFSelect_ReturnStatus.IFSelect_RetDone:
        raise ContourError(
            "file-not-understood",
            "not a STEP file that can be read",
            where=where,
            need="STEP AP203, AP214 or AP242",
            remedy="export the solid again",
        )
    try:
        reader.TransferRoots()
        shape = reader.OneShape()
    except Exception as error:
        raise ContourError(
            "file-not-understood",
            "the kernel gives up on this STEP file",
            where=where,
            got=type(error).__name__,
            remedy="export the solid again",
        ) from None
    if shape is None or shape.IsNull():
        raise ContourError(
            "file-not-understood", "the STEP file holds no shape", where=where, remedy="export the solid again"
        )
    return shape
