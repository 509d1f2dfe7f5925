"""Uniting and subtracting bodies with names, non-destructively and gated."""

from __future__ import annotations

from typing import Literal

from OCP.BRepAlgoAPI import BRepAlgoAPI_Common, BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from OCP.ShapeUpgrade import ShapeUpgrade_UnifySameDomain
from OCP.TopoDS import TopoDS_Shape

from contour.recipe.problem import ContourError
from contour.solid.gate import require_solid
from contour.solid.mass import volume
from contour.solid.shape import NamedShape, faces, shape_list
from contour.solid.topology.history import History, OperationHistory
from contour.solid.topology.names import inherit_names

__all__ = ["Operation", "combine", "common_volume"]

Operation = Literal["add", "subtract", "intersect"]
_KERNEL = {"add": BRepAlgoAPI_Fuse, "subtract": BRepAlgoAPI_Cut, "intersect": BRepAlgoAPI_Common}
_DOING = {"add": "adding", "subtract": "subtracting", "intersect": "intersecting"}


def combine(body: NamedShape, tool: NamedShape, operation: Operation, *, what: str = "the extrusion") -> NamedShape:
    """`body` with `tool` added, taken away, or what both share; coplanar and co-cylindrical faces that meet become one.

    Raises ContourError (unchanged, body-broken) when nothing changed or the result is no good solid.
    """
    op = _KERNEL[operation]()
    op.SetArguments(shape_list([body.shape]))
    op.SetTools(shape_list([tool.shape]))
    op.SetNonDestructive(True)
    op.SetRunParallel(False)
    op.Build()
    if not op.IsDone():
        raise ContourError(
            "body-broken",
            f"the kernel cannot {operation} here",
            got="no result from the kernel",
            need="bodies that meet or miss each other clearly",
            remedy="change a value a little so that faces do not almost touch",
        )
    passes: list[tuple[History, TopoDS_Shape]] = [(OperationHistory(op), op.Shape())]
    for _ in range(3):
        # One pass joins planes but leaves whole cylinders in two; the next one joins those.
        unify = ShapeUpgrade_UnifySameDomain(passes[-1][1], True, True, False)
        unify.Build()
        if len(faces(unify.Shape())) == len(faces(passes[-1][1])):
            break
        passes.append((OperationHistory(unify.History()), unify.Shape()))
    result = passes[-1][1]
    before, after = volume(body.shape), volume(result)
    doing = f"{_DOING[operation]} {what}"
    require_solid(result, doing=doing)
    grown = after - before
    if abs(grown) < 1e-6 * max(before, 1.0) or (grown > 0) != (operation == "add"):
        raise ContourError(
            "unchanged",
            f"{doing} changes nothing",
            got=f"{grown:+.4f} mm³",
            need="a change of volume",
            remedy="turn the direction round, or choose another body",
        )
    if operation == "add":
        require_solid(result, doing=doing, pieces=1)
    return inherit_names(passes, [body, tool])


def common_volume(a: NamedShape, b: NamedShape) -> float:
    """Volume shared by two solids, mm³."""
    op = BRepAlgoAPI_Common()
    op.SetArguments(shape_list([a.shape]))
    op.SetTools(shape_list([b.shape]))
    op.SetNonDestructive(True)
    op.Build()
    return volume(op.Shape())
