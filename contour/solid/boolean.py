"""Uniting, subtracting and intersecting bodies with names, non-destructively and gated."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

from OCP.BRepAlgoAPI import BRepAlgoAPI_Common, BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from OCP.ShapeUpgrade import ShapeUpgrade_UnifySameDomain
from OCP.TopoDS import TopoDS_Shape

from contour.recipe.problem import ContourError, Where
from contour.solid.agreement import meeting_place, misplaced
from contour.solid.gate import require_pieces, require_solid
from contour.solid.glance import at_a_glance
from contour.solid.inner_edges import without_inner_edges
from contour.solid.mass import volume
from contour.solid.open_area import open_share
from contour.solid.shape import NamedShape, faces, shape_list
from contour.solid.squared_up import squared_up
from contour.solid.topology.history import History, OperationHistory
from contour.solid.topology.names import inherit_names

__all__ = ["Operation", "combine", "common_volume"]

Operation = Literal["add", "subtract", "intersect"]
_KERNEL = {"add": BRepAlgoAPI_Fuse, "subtract": BRepAlgoAPI_Cut, "intersect": BRepAlgoAPI_Common}
_DOING = {"add": "adding", "subtract": "subtracting", "intersect": "intersecting"}
# What lies nearer than this is taken for one, mm: exactly at first, then more generously where faces almost touch.
_CLOSENESS = (0.0, 1e-6, 1e-5, 1e-4)
_ALIKE = 1e-6  # of a volume
_OPEN = 1e-4  # of the skin: good results leave 1e-5 or less

_Passes = list[tuple[History, TopoDS_Shape]]


def combine(body: NamedShape, tool: NamedShape, operation: Operation, *, what: str = "the extrusion") -> NamedShape:
    """`body` with `tool` added, taken away, or what both share; coplanar and co-cylindrical faces that meet become one.

    No result is passed on unless its volume can be that of the two and places in and around both lie on the right side of it; for a picture
    (:mod:`contour.solid.glance`) the volume is enough.
    Raises ContourError (unchanged, body-broken) with the place where both meet when nothing changed or the result is no good solid.
    """
    doing = f"{_DOING[operation]} {what}"
    refused: ContourError | None = None
    for by, closeness in _ways(body, tool):
        try:
            passes = _operate(body, by, operation, closeness)
            _require_right(body, by, operation, passes[-1][1], (volume(body.shape), volume(by.shape)), doing)
        except ContourError as error:
            refused = refused or error
            if error.problem.code == "unchanged":
                refused = error
                break
            continue
        return inherit_names(passes, [body, by])
    assert refused is not None
    raise _placed(refused, body, tool)


def _ways(body: NamedShape, tool: NamedShape) -> Iterator[tuple[NamedShape, float]]:
    """The tool, and what lies nearer than how much is taken for one: as it is; squared up to the body; then more and more generously."""
    yield tool, _CLOSENESS[0]
    square = squared_up(tool, body)
    if square is not None:
        yield square, _CLOSENESS[0]
    for closeness in _CLOSENESS[1:]:
        yield tool, closeness


def _placed(error: ContourError, body: NamedShape, tool: NamedShape) -> ContourError:
    """The error with the place where both solids meet, where it names none."""
    where = error.problem.where
    if where.point is not None:
        return error
    at = meeting_place(body.shape, tool.shape)
    return ContourError.of(error.problem.model_copy(update={"where": where.model_copy(update={"point": at})}))


def _operate(body: NamedShape, tool: NamedShape, operation: Operation, closeness_mm: float) -> _Passes:
    op = _KERNEL[operation]()
    op.SetArguments(shape_list([body.shape]))
    op.SetTools(shape_list([tool.shape]))
    op.SetNonDestructive(True)
    op.SetRunParallel(False)
    if closeness_mm:
        op.SetFuzzyValue(closeness_mm)
    op.Build()
    if not op.IsDone():
        raise ContourError(
            "body-broken",
            f"the kernel cannot {operation} here",
            got="no result from the kernel",
            need="bodies that meet or miss each other clearly",
            remedy="change a value a little so that faces do not almost touch",
        )
    passes: _Passes = [(OperationHistory(op), op.Shape())]
    if cleared := without_inner_edges(op.Shape()):
        passes.append(cleared)
    for _ in range(3):
        # One pass joins planes but leaves whole cylinders in two; the next one joins those.
        unify = ShapeUpgrade_UnifySameDomain(passes[-1][1], True, True, False)
        unify.Build()
        if len(faces(unify.Shape())) == len(faces(passes[-1][1])):
            break
        passes.append((OperationHistory(unify.History()), unify.Shape()))
    return passes


def _require_right(
    body: NamedShape,
    tool: NamedShape,
    operation: Operation,
    result: TopoDS_Shape,
    volumes: tuple[float, float],
    doing: str,
) -> None:
    """Raises ContourError (unchanged, body-broken)."""
    own, other = volumes
    facts = require_solid(result, doing=doing)
    after = facts.volume
    grown = after - own
    nothing = abs(grown) < _ALIKE * max(own, 1.0)
    glance = at_a_glance()
    wrong = None if glance else misplaced(body.shape, tool.shape, result, operation)
    if nothing and wrong is None:
        raise ContourError(
            "unchanged",
            f"{doing} changes nothing",
            got="nothing" if abs(grown) < 5e-5 else f"{grown:+.4f} mm³",
            need="a change of volume",
            remedy="turn the direction round, or choose another body",
        )
    missing = 0.0 if glance else open_share(result)
    if missing > _OPEN:
        raise ContourError(
            "body-broken",
            f"{doing} leaves a wall with a part missing",
            got=f"{100 * missing:.2g} % of the skin is not there",
            need="a closed skin",
            remedy="change a value a little so that faces do not almost touch",
        )
    if operation == "add":
        require_pieces(facts, 1, doing=doing)
    low, high = {
        "add": (max(own, other), own + other),
        "subtract": (own - other, own),
        "intersect": (0.0, min(own, other)),
    }[operation]
    slack = 1e-5 * (own + other)
    if not low - slack <= after <= high + slack:
        raise ContourError(
            "body-broken",
            f"{doing} gives a volume that cannot be",
            got=f"{after:.3f} mm³",
            need=f"between {max(low, 0.0):.3f} and {high:.3f} mm³",
            remedy="change a value a little so that faces do not almost touch",
        )
    if wrong is not None:
        raise ContourError(
            "body-broken",
            f"{doing} gives a solid that is wrong in a place",
            where=Where(point=wrong),
            got="material where there should be none, or none where there should be some",
            need="the right material everywhere",
            remedy="change a value a little so that faces do not almost touch",
        )


def common_volume(a: NamedShape, b: NamedShape) -> float:
    """Volume shared by two solids, mm³."""
    op = BRepAlgoAPI_Common()
    op.SetArguments(shape_list([a.shape]))
    op.SetTools(shape_list([b.shape]))
    op.SetNonDestructive(True)
    op.Build()
    return volume(op.Shape())
