"""What an operation on a shape tells of its faces, edges and corners: one protocol over the kernel's many ways of saying it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Protocol

from OCP.BRepBuilderAPI import BRepBuilderAPI_Sewing
from OCP.BRepTools import BRepTools_ReShape
from OCP.TopoDS import TopoDS_Shape

from contour.solid.shape import ShapeMap, listed

__all__ = ["History", "OperationHistory", "ReplacedHistory", "ReshapeHistory", "SewingHistory"]


class History(Protocol):
    """Asked with a face, edge or corner as it was before the operation."""

    def modified(self, shape: TopoDS_Shape) -> list[TopoDS_Shape]:
        """What it is after it: itself when nothing has touched it, several when it was parted, none when it is gone."""

    def generated(self, shape: TopoDS_Shape) -> list[TopoDS_Shape]:
        """What has come out of it beside itself: the fillet's face out of its edge, the wall out of the outline's line."""


class OperationHistory:
    """Of booleans, fillets, chamfers, offsets, shells, defeaturing and transformations (``BRepBuilderAPI_MakeShape``, and
    ``BRepTools_History`` of what unites faces)."""

    def __init__(self, operation: Any) -> None:
        self._operation = operation
        self._gone = operation.IsRemoved if hasattr(operation, "IsRemoved") else operation.IsDeleted

    def modified(self, shape: TopoDS_Shape) -> list[TopoDS_Shape]:
        if self._gone(shape):
            return []
        return listed(self._operation.Modified(shape)) or [shape]

    def generated(self, shape: TopoDS_Shape) -> list[TopoDS_Shape]:
        return listed(self._operation.Generated(shape))


class SewingHistory:
    """Of sewing loose faces: edges that meet become one, faces get copies."""

    def __init__(self, sewing: BRepBuilderAPI_Sewing) -> None:
        self._sewing = sewing

    def modified(self, shape: TopoDS_Shape) -> list[TopoDS_Shape]:
        return [self._sewing.ModifiedSubShape(shape) if self._sewing.IsModifiedSubShape(shape) else shape]

    def generated(self, shape: TopoDS_Shape) -> list[TopoDS_Shape]:
        return []


class ReshapeHistory:
    """Of healing, which puts one shape in another's place (``BRepTools_ReShape``, ``ShapeBuild_ReShape``)."""

    def __init__(self, context: BRepTools_ReShape) -> None:
        self._context = context

    def modified(self, shape: TopoDS_Shape) -> list[TopoDS_Shape]:
        now = self._context.Value(shape)
        return [] if now.IsNull() else [now]

    def generated(self, shape: TopoDS_Shape) -> list[TopoDS_Shape]:
        return []


class ReplacedHistory:
    """Of a shape built anew part by part: what stood in a place of the old list stands in that place of the new one."""

    def __init__(self, old: Sequence[TopoDS_Shape], new: Sequence[TopoDS_Shape]) -> None:
        self._place, self._new = ShapeMap(), list(new)
        for shape in old:
            self._place.Add(shape)

    def modified(self, shape: TopoDS_Shape) -> list[TopoDS_Shape]:
        at = self._place.FindIndex(shape)
        return [self._new[at - 1]] if at else [shape]

    def generated(self, shape: TopoDS_Shape) -> list[TopoDS_Shape]:
        return []
