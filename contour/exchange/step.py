"""STEP out, with named and coloured bodies, in the job's unit."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Literal

from OCP.IFSelect import IFSelect_ReturnStatus
from OCP.Interface import Interface_Static
from OCP.Message import Message, Message_PrinterOStream
from OCP.Quantity import Quantity_Color, Quantity_TypeOfColor
from OCP.STEPCAFControl import STEPCAFControl_Writer
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDataStd import TDataStd_Name
from OCP.TDocStd import TDocStd_Document
from OCP.TopoDS import TopoDS_Shape
from OCP.XCAFApp import XCAFApp_Application
from OCP.XCAFDoc import XCAFDoc_ColorType, XCAFDoc_DocumentTool

from contour.recipe.problem import ContourError, Where

__all__ = ["write_step"]

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
        raise ContourError(
            "crashed",
            "the STEP file could not be written",
            where=Where(file=path.name),
            got="the writer gave up",
            need="a file that is written whole",
            remedy="deliver it again; if that fails too, make room on the disk",
        )
