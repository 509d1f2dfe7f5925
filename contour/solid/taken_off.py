"""Bodies without some of their faces: those around them run on until they meet."""

from __future__ import annotations

from collections.abc import Sequence

from OCP.BRepAlgoAPI import BRepAlgoAPI_Defeaturing

from contour.recipe.problem import ContourError
from contour.solid.gate import check_solid
from contour.solid.shape import NamedShape, faces, shape_list
from contour.solid.topology.history import OperationHistory
from contour.solid.topology.names import inherit_names

__all__ = ["without_faces"]


def without_faces(body: NamedShape, names: Sequence[str], *, prefix: str) -> NamedShape | None:
    """The body without faces of these names; none where their neighbours do not meet. Names are kept."""
    op = BRepAlgoAPI_Defeaturing()
    op.SetShape(body.shape)
    op.AddFacesToRemove(shape_list([f for n, f in zip(body.names, faces(body.shape), strict=True) if n in names]))
    op.SetRunParallel(False)
    op.Build()
    if not op.IsDone():
        return None
    found = check_solid(op.Shape())
    if not (found.closed and found.valid and found.solids == 1) or found.faces > len(body.names) - len(set(names)):
        return None
    try:
        return inherit_names([(OperationHistory(op), op.Shape())], [body], made=f"{prefix}.sharp")
    except ContourError:
        return None
