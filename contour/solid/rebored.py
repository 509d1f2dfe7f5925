"""A hole closed and bored again about another axis and with another radius; its faces keep their names."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from OCP.BRepAlgoAPI import BRepAlgoAPI_Defeaturing
from OCP.TopAbs import TopAbs_ShapeEnum

from contour.recipe.problem import ContourError, Where
from contour.solid.agreement import sides
from contour.solid.boolean import combine
from contour.solid.extent import bounds
from contour.solid.face_geometry import face_surface
from contour.solid.gate import require_solid
from contour.solid.primitives import cone
from contour.solid.shape import NamedShape, edge_faces, faces, owners_of, shape_map
from contour.solid.topology.history import OperationHistory
from contour.solid.topology.names import inherit_names

__all__ = ["rebored"]

Array = NDArray[np.float64]
_JUST_MM = 0.05


def rebored(body: NamedShape, name: str, at: Array, way: Array, radius: float, *, prefix: str) -> NamedShape:
    """The hole whose round wall is `name` about another axis (at, way (3,), unit) with a radius, mm: as deep as it was, or through where it was.

    Raises ContourError (wrong-kind) for a wall that is no plain hole's, (body-broken).
    """
    listed = faces(body.shape)
    k = body.names.index(name)
    own = face_surface(listed[k])
    if own is None or own.kind != "cylinder" or own.outward > 0:
        raise _no_hole(own.kind if own is not None else "another face")
    floor = _floors(body, k)
    if len(floor) > 1 or any((s := face_surface(listed[f])) is None or s.kind != "plane" for f in floor):
        raise _no_hole("a hole with more than a flat bottom")
    healed = _closed(body, [k, *floor])
    low, high = _heights(body, k, own.at, own.along)
    ends = []
    for height, out in ((low, -1.0), (high, 1.0)):
        spot = own.at + (height + out * _JUST_MM) * own.along
        ends.append(int(sides(healed.shape, spot[None])[0]) < 0)
    along = way if float(way @ own.along) > 0 else -way
    far = 2 * float(np.linalg.norm(np.diff(bounds(body.shape), axis=0)))
    # Heights along the new axis of where the hole ended along the old one.
    spots = [float((own.at + h * own.along - at) @ along) for h in (low, high)]
    begin = -far if ends[0] else spots[0]
    end = far if ends[1] else spots[1]
    tool = cone(at, along, (begin, end), (radius, radius), prefix=prefix)
    said = {f"{prefix}.side[wall]": name}
    if floor:
        shut = "bottom" if not ends[0] else "top"
        said[f"{prefix}.side[{shut}]"] = body.names[floor[0]]
    named = NamedShape(tool.shape, tuple(said.get(n, n) for n in tool.names))
    return combine(healed, named, "subtract", what="the hole")


def _no_hole(got: str) -> ContourError:
    return ContourError(
        "wrong-kind",
        "only a plain hole is bored again",
        where=Where(param="face"),
        got=got,
        need="the round wall of a hole, through or with a flat bottom",
        remedy="choose the wall of such a hole",
    )


def _floors(body: NamedShape, wall: int) -> list[int]:
    """Faces whose only neighbour is the wall: what the hole ends in."""
    place = shape_map(body.shape, TopAbs_ShapeEnum.TopAbs_FACE)
    around = edge_faces(body.shape)
    beside: dict[int, set[int]] = {}
    for i in range(1, around.Size() + 1):
        owners = {place.FindIndex(f) - 1 for f in owners_of(around, i)}
        for f in owners:
            beside.setdefault(f, set()).update(owners - {f})
    return sorted(f for f, others in beside.items() if f != wall and others == {wall})


def _closed(body: NamedShape, gone: list[int]) -> NamedShape:
    """The body without these faces, their neighbours grown over the place."""
    listed = faces(body.shape)
    op = BRepAlgoAPI_Defeaturing()
    op.SetShape(body.shape)
    for k in gone:
        op.AddFaceToRemove(listed[k])
    op.SetRunParallel(False)
    op.Build()
    # "Done" proves nothing: what could not be closed comes back as it was.
    if not op.IsDone() or not all(op.IsDeleted(listed[k]) for k in gone):
        raise ContourError(
            "body-broken",
            "the hole cannot be closed here",
            where=Where(param="face"),
            got="faces around it that do not meet",
            need="a hole whose neighbours can be grown over it",
            remedy="cut the new hole beside it, or fill the old one with a primitive first",
        )
    require_solid(op.Shape(), doing="closing the hole")
    return inherit_names([(OperationHistory(op), op.Shape())], [body])


def _heights(body: NamedShape, wall: int, at: Array, along: Array) -> tuple[float, float]:
    """Where the wall begins and ends along its axis at the middle: of borders aslant the mean of their ends."""
    from contour.solid.tessellate import tessellate

    mesh = tessellate(body.shape, chord_mm=0.05)
    own = mesh.triangles[mesh.face == wall]
    heights = (mesh.vertices[np.unique(own)] - at) @ along
    return float(heights.min()), float(heights.max())
