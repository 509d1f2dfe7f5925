"""Bodies from STEP and IGES files: solids, and open bodies of what closes none.

STEP keeps which faces belong together; IGES mostly does not, so that its loose faces are sewn where they meet. What does not close
stays an open body, with its borders.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from OCP.BRep import BRep_Builder
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeSolid, BRepBuilderAPI_Sewing, BRepBuilderAPI_Transform
from OCP.BRepLib import BRepLib
from OCP.gp import gp_Pnt, gp_Trsf
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopoDS import TopoDS, TopoDS_Compound, TopoDS_Iterator, TopoDS_Shape

from contour.exchange.solid_format import Format
from contour.exchange.solids import FilePart, read_parts
from contour.geometry.vectors import triple
from contour.solid.extent import bounds
from contour.solid.mass import volume
from contour.solid.shape import free_edges, solids

__all__ = ["FileBody", "SolidsFile", "read_shape_file", "read_solids", "scaled", "size_of"]

_SEWN_MM = (1e-3, 1e-2)  # how far faces of an IGES file may be apart where they meet: first the finer one


@dataclass(frozen=True, slots=True)
class FileBody:
    """One body of a file, placed where the file's assembly has it, mm. closed: a solid; an open one has faces alone.

    colour: #rrggbb, or none where the file gives none.
    """

    name: str
    colour: str | None
    shape: TopoDS_Shape
    closed: bool


@dataclass(frozen=True, slots=True)
class SolidsFile:
    """unit_mm: one unit of the file in mm · sewn: whether loose faces were joined into bodies."""

    format: Format
    unit_mm: float
    bodies: tuple[FileBody, ...]
    sewn: bool = False


def _pieces(shape: TopoDS_Shape) -> Iterator[TopoDS_Shape]:
    """Solids, and shells and faces that belong to none."""
    kinds = TopAbs_ShapeEnum
    kind = shape.ShapeType()
    if kind in (kinds.TopAbs_SOLID, kinds.TopAbs_SHELL, kinds.TopAbs_FACE):
        yield shape
    elif kind in (kinds.TopAbs_COMPOUND, kinds.TopAbs_COMPSOLID):
        walk = TopoDS_Iterator(shape)
        while walk.More():
            yield from _pieces(walk.Value())
            walk.Next()


def _as_solid(shell: TopoDS_Shape) -> TopoDS_Shape | None:
    """The solid that a closed shell bounds, its material inside; none for an open one."""
    if free_edges(shell):
        return None
    try:
        solid = BRepBuilderAPI_MakeSolid(TopoDS.Shell(shell)).Solid()
        BRepLib.OrientClosedSolid_s(solid)
    except Exception:  # a shell that bounds nothing
        return None
    return solid if volume(solid) > 0 else None


def _sewn(loose: list[TopoDS_Shape]) -> list[TopoDS_Shape]:
    """Loose faces joined where they meet: shells, or faces that meet nothing."""
    best: list[TopoDS_Shape] = loose
    for tolerance in _SEWN_MM:
        sewing = BRepBuilderAPI_Sewing(tolerance)
        for shape in loose:
            sewing.Add(shape)
        sewing.Perform()
        found = sewing.SewedShape()
        if found is None or found.IsNull():
            continue
        best = list(_pieces(found))
        if all(not free_edges(s) for s in best):
            break
    return best


def _together(shapes: list[TopoDS_Shape]) -> TopoDS_Shape:
    if len(shapes) == 1:
        return shapes[0]
    whole, builder = TopoDS_Compound(), BRep_Builder()
    builder.MakeCompound(whole)
    for shape in shapes:
        builder.Add(whole, shape)
    return whole


def _bodies_of(name: str, colour: str | None, shape: TopoDS_Shape, sew: bool) -> Iterator[FileBody]:
    """A part's solids, each a body of its own; its loose faces together one open body, unless they close."""
    kinds = TopAbs_ShapeEnum
    pieces = list(_pieces(shape))
    loose = [p for p in pieces if p.ShapeType() != kinds.TopAbs_SOLID]
    made = [p for p in pieces if p.ShapeType() == kinds.TopAbs_SOLID]
    if loose and sew:
        loose = _sewn(loose)
    rest = []
    for piece in loose:
        solid = _as_solid(piece) if piece.ShapeType() == kinds.TopAbs_SHELL else None
        if solid is None:
            rest.append(piece)
        else:
            made.append(solid)
    for k, solid in enumerate(made):
        yield FileBody(f"{name} {k + 1}" if len(made) > 1 else name, colour, solid, not free_edges(solid))
    if rest:
        yield FileBody(f"{name} (open)" if made else name, colour, _together(rest), False)


def _faces_as_one(name: str, parts: tuple[FilePart, ...]) -> list[FilePart]:
    """Without topology every face is a part of its own: what belongs together is found by sewing all of them."""
    loose = [p for p in parts if not solids(p.shape)]
    whole = [p for p in parts if solids(p.shape)]
    return [*whole, FilePart(name, loose[0].colour, _together([p.shape for p in loose]))] if loose else whole


def read_solids(path: Path) -> SolidsFile:
    """Every body of a STEP or IGES file, mm. Raises like :func:`contour.exchange.solids.read_parts`."""
    file = read_parts(path)
    iges = file.format == "iges"
    parts = _faces_as_one(path.stem, file.parts) if iges else list(file.parts)
    bodies = [b for p in parts for b in _bodies_of(p.name, p.colour, p.shape, iges)]
    return SolidsFile(file.format, file.unit_mm, _with_names(bodies, path.stem), iges and len(parts) < len(file.parts))


def _with_names(bodies: list[FileBody], stem: str) -> tuple[FileBody, ...]:
    """Bodies with names that tell them apart."""
    seen: dict[str, int] = {}
    out = []
    for body in bodies:
        name = body.name or stem
        seen[name] = seen.get(name, 0) + 1
        out.append(replace(body, name=name if seen[name] == 1 else f"{name} ({seen[name]})"))
    return tuple(out)


def scaled(shape: TopoDS_Shape, factor: float) -> TopoDS_Shape:
    """A shape as if its file's unit had been another one."""
    if factor == 1.0:
        return shape
    by = gp_Trsf()
    by.SetScale(gp_Pnt(0, 0, 0), factor)
    return BRepBuilderAPI_Transform(shape, by, True).Shape()


def size_of(shapes: Sequence[TopoDS_Shape]) -> tuple[float, float, float]:
    """Of all shapes together along x, y and z, mm."""
    box = bounds(_together(list(shapes)))
    return triple(box[1] - box[0])


def read_shape_file(path: Path) -> TopoDS_Shape:
    """All bodies of a STEP or IGES file as one shape, mm. Raises like :func:`read_solids`."""
    return _together([b.shape for b in read_solids(path).bodies])
