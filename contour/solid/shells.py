"""Closed shells of faces and the material within them."""

from __future__ import annotations

from collections.abc import Sequence

from OCP.BRep import BRep_Builder
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeSolid
from OCP.BRepLib import BRepLib
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import TopoDS, TopoDS_Shape, TopoDS_Shell, TopoDS_Solid

from contour.solid.mass import volume
from contour.solid.shape import shape_map

__all__ = ["filled", "shells", "within"]


def shells(shape: TopoDS_Shape) -> list[TopoDS_Shell]:
    """The shape's shells, each once, in the kernel's order; a face that stands alone, such as a ball's, as a shell of its own."""
    found = shape_map(shape, TopAbs_ShapeEnum.TopAbs_SHELL)
    out = [TopoDS.Shell(found.FindKey(i)) for i in range(1, found.Size() + 1)]
    walk = TopExp_Explorer(shape, TopAbs_ShapeEnum.TopAbs_FACE, TopAbs_ShapeEnum.TopAbs_SHELL)
    while walk.More():
        builder, alone = BRep_Builder(), TopoDS_Shell()
        builder.MakeShell(alone)
        builder.Add(alone, walk.Current())
        alone.Closed(True)
        out.append(alone)
        walk.Next()
    return out


def filled(shell: TopoDS_Shell) -> TopoDS_Solid:
    """What a closed shell lies around, as material."""
    solid = BRepBuilderAPI_MakeSolid(shell).Solid()
    BRepLib.OrientClosedSolid_s(solid)
    # The kernel looks from far away through one place, and where that grazes a wall it takes outside for inside.
    if volume(solid) < 0:
        solid = BRepBuilderAPI_MakeSolid(TopoDS.Shell(shell.Reversed())).Solid()
        if volume(solid) < 0:
            solid = BRepBuilderAPI_MakeSolid(shell).Solid()
    return solid


def within(walls: Sequence[TopoDS_Shell]) -> TopoDS_Solid:
    """The material within the shell around the most room, the other ones being hollows in it: whether they are, the gate tells."""
    parts = sorted((filled(s) for s in walls), key=volume, reverse=True)
    if len(parts) == 1:
        return parts[0]
    maker = BRepBuilderAPI_MakeSolid(shells(parts[0])[0])
    for hollow in parts[1:]:
        maker.Add(TopoDS.Shell(shells(hollow)[0].Reversed()))
    return maker.Solid()
