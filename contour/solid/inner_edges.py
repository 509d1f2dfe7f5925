"""Edges that lie in the middle of a face, with the same material on both sides: booleans leave them where an edge of one body lay on a face of the other."""

from __future__ import annotations

from OCP.BRepTools import BRepTools_ReShape
from OCP.TopAbs import TopAbs_Orientation, TopAbs_ShapeEnum
from OCP.TopoDS import TopoDS_Iterator, TopoDS_Shape

from contour.solid.shape import faces, free_edges
from contour.solid.topology.history import ReshapeHistory

__all__ = ["without_inner_edges"]

_INTERNAL = TopAbs_Orientation.TopAbs_INTERNAL


def _parts(shape: TopoDS_Shape) -> list[TopoDS_Shape]:
    out, at = [], TopoDS_Iterator(shape)
    while at.More():
        out.append(at.Value())
        at.Next()
    return out


def without_inner_edges(shape: TopoDS_Shape) -> tuple[ReshapeHistory, TopoDS_Shape] | None:
    """The shape with such edges taken out of their faces, and what became of the rest; None where it has none."""
    inner = [e for e in free_edges(shape) if e.Orientation() == _INTERNAL]
    if not inner:
        return None
    context = BRepTools_ReShape()
    for face in faces(shape):
        for wire in _parts(face):
            if wire.ShapeType() != TopAbs_ShapeEnum.TopAbs_WIRE:
                continue
            own = _parts(wire)
            gone = [e for e in own if any(e.IsSame(i) for i in inner)]
            # A wire of nothing else would stay behind without an edge.
            for part in [wire] if gone and len(gone) == len(own) else gone:
                context.Remove(part)
    return ReshapeHistory(context), context.Apply(shape)
