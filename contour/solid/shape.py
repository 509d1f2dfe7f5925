"""Shapes of the kernel: sub-shapes, bytes, measures. The only place that hides the binding's oddities."""

from __future__ import annotations

import hashlib
import io
from collections import deque
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import wraps
from typing import TypeVar

from OCP.BinTools import BinTools
from OCP.BRep import BRep_Tool
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.BRepTools import BRepTools
from OCP.collections import IndexedDataMap_TopoDS_Shape_List_TopoDS_Shape_TopTools_ShapeMapHasher as AncestorMap
from OCP.collections import IndexedMap_TopoDS_Shape_TopTools_ShapeMapHasher as ShapeMap
from OCP.collections import List_TopoDS_Shape
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopExp import TopExp
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Face, TopoDS_Shape, TopoDS_Solid

__all__ = [
    "AncestorMap",
    "NamedShape",
    "ShapeMap",
    "edge_faces",
    "edges",
    "faces",
    "free_edges",
    "is_valid",
    "listed",
    "measured",
    "owners_of",
    "read_shape",
    "remembered",
    "shape_list",
    "shape_map",
    "solids",
    "write_shape",
]

T = TypeVar("T")
_FACE, _EDGE, _SOLID = TopAbs_ShapeEnum.TopAbs_FACE, TopAbs_ShapeEnum.TopAbs_EDGE, TopAbs_ShapeEnum.TopAbs_SOLID


@dataclass(frozen=True, slots=True)
class NamedShape:
    """A solid whose faces carry lasting names: ``names[i]`` belongs to ``faces(shape)[i]``."""

    shape: TopoDS_Shape
    names: tuple[str, ...]


def remembered(count: int) -> Callable[[Callable[[NamedShape], T]], Callable[[NamedShape], T]]:
    """For a function of a body alone: what it gave for the last few of them. A step asks again and again about the one it works on, and
    shapes are never changed once they are whole."""

    def around(function: Callable[[NamedShape], T]) -> Callable[[NamedShape], T]:
        last: deque[tuple[NamedShape, T]] = deque(maxlen=count)

        @wraps(function)
        def asked(named: NamedShape) -> T:
            for known, told in last:
                if known.shape.IsEqual(named.shape) and known.names == named.names:
                    return told
            told = function(named)
            last.append((named, told))
            return told

        return asked

    return around


def shape_list(shapes: Iterable[TopoDS_Shape]) -> List_TopoDS_Shape:
    """Shapes as the kernel's list."""
    out = List_TopoDS_Shape()
    for s in shapes:
        out.Append(s)
    return out


def shape_map(shape: TopoDS_Shape, kind: TopAbs_ShapeEnum) -> ShapeMap:
    """The shape's parts of one kind, each once, in the kernel's order: places count from 1."""
    out = ShapeMap()
    TopExp.MapShapes_s(shape, kind, out)
    return out


def faces(shape: TopoDS_Shape) -> list[TopoDS_Face]:
    """The shape's faces, each once, in the kernel's order."""
    found = shape_map(shape, _FACE)
    return [TopoDS.Face(found.FindKey(i)) for i in range(1, found.Size() + 1)]


def edges(shape: TopoDS_Shape) -> list[TopoDS_Edge]:
    """The shape's edges, each once, in the kernel's order."""
    found = shape_map(shape, _EDGE)
    return [TopoDS.Edge(found.FindKey(i)) for i in range(1, found.Size() + 1)]


def solids(shape: TopoDS_Shape) -> list[TopoDS_Solid]:
    """The shape's solids, each once, in the kernel's order."""
    found = shape_map(shape, _SOLID)
    return [TopoDS.Solid(found.FindKey(i)) for i in range(1, found.Size() + 1)]


def edge_faces(shape: TopoDS_Shape) -> AncestorMap:
    """The faces at each edge."""
    out = AncestorMap()
    TopExp.MapShapesAndAncestors_s(shape, _EDGE, _FACE, out)
    return out


def listed(shapes: List_TopoDS_Shape) -> list[TopoDS_Shape]:
    """The kernel's list as shapes. Most have one or two, and walking it through the binding takes a hundred times as long."""
    count = shapes.Size()
    if count > 2:
        return list(shapes)
    return [[], [shapes.First()], [shapes.First(), shapes.Last()]][count] if count else []


def owners_of(around: AncestorMap, i: int) -> list[TopoDS_Face]:
    """The faces at an edge (its place from 1 on), each once."""
    out: list[TopoDS_Face] = []
    for item in listed(around.FindFromIndex(i)):
        if not any(item.IsSame(o) for o in out):
            out.append(TopoDS.Face(item))
    return out


def free_edges(shape: TopoDS_Shape) -> list[TopoDS_Edge]:
    """Edges with material on one side only (poles of spheres and cones do not count)."""
    around = edge_faces(shape)
    out = []
    for i in range(1, around.Size() + 1):
        edge = TopoDS.Edge(around.FindKey(i))
        owners = owners_of(around, i)
        seam = len(owners) == 1 and BRep_Tool.IsClosed_s(edge, owners[0])
        if len(owners) < 2 and not seam and not BRep_Tool.Degenerated_s(edge):
            out.append(edge)
    return out


def is_valid(shape: TopoDS_Shape) -> bool:
    """Whether the kernel's own analyser finds nothing wrong."""
    return bool(BRepCheck_Analyzer(shape).IsValid())


# Of which bytes the shapes are that were written and read last: what has been measured of one holds for its twins.
_bytes_of: deque[tuple[TopoDS_Shape, bytes]] = deque(maxlen=8)


def write_shape(shape: TopoDS_Shape) -> bytes:
    """Kernel bytes without triangulation, so that viewing a body does not change what is stored."""
    BRepTools.Clean_s(shape)
    buffer = io.BytesIO()
    BinTools.Write_s(shape, buffer)
    data = buffer.getvalue()
    _bytes_of.append((shape, hashlib.sha256(data).digest()))
    return data


def read_shape(data: bytes) -> TopoDS_Shape:
    """The shape that these bytes keep; the kernel's binary format, without triangles."""
    shape = TopoDS_Shape()
    BinTools.Read_s(shape, io.BytesIO(data))
    _bytes_of.append((shape, hashlib.sha256(data).digest()))
    return shape


def measured(function: Callable[[TopoDS_Shape], T]) -> Callable[[TopoDS_Shape], T]:
    """For a function of a shape alone: what it gave for the last few of them, and for their twins (shapes are never changed once they are whole). What it
    gives is not to be changed."""
    last: deque[tuple[TopoDS_Shape, T]] = deque(maxlen=8)

    @wraps(function)
    def asked(shape: TopoDS_Shape) -> T:
        for same in (shape, *_twins(shape)):
            for known, told in last:
                if known.IsEqual(same):
                    return told
        told = function(shape)
        last.append((shape, told))
        return told

    return asked


def _twins(shape: TopoDS_Shape) -> list[TopoDS_Shape]:
    """Shapes of the very same bytes, among those that were written and read last."""
    own = next((digest for known, digest in _bytes_of if known.IsEqual(shape)), None)
    return [known for known, digest in _bytes_of if digest == own and not known.IsEqual(shape)]
