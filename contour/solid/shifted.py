"""Faces moved along their normals: with their neighbours following, or, where these cannot, by material put on or taken off behind their outline."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.BRepGProp import BRepGProp
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism
from OCP.gp import gp_Pnt, gp_Vec
from OCP.GProp import GProp_GProps
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopoDS import TopoDS_Face, TopoDS_Shape

from contour.geometry.surfaces import Surface
from contour.recipe.problem import ContourError
from contour.solid.boolean import combine
from contour.solid.face_geometry import face_surface
from contour.solid.resurface import resurface
from contour.solid.shape import NamedShape, edges, faces, shape_map
from contour.solid.topology.edges import edge_names
from contour.solid.topology.names import named_together

__all__ = ["across", "face_middle", "shifted"]

Array = NDArray[np.float64]
_ANTIPARALLEL = 1 - 1e-8


def shifted(body: NamedShape, moves: Mapping[int, float], *, prefix: str) -> NamedShape:
    """`body` with faces moved by signed distances, + out of the material; keys are places in ``faces(shape)``.

    Neighbours follow where that keeps every face; else, for flat faces, what lies between the old and the new place is added or taken away. Moved faces
    keep their names; walls that this makes are called ``prefix.wall[edge]``. Raises ContourError (wrong-kind), (body-broken), (unchanged).
    """
    try:
        return resurface(body, moves)
    except ContourError as first:
        flat = [face_surface(faces(body.shape)[k]) for k in moves]
        if first.problem.code != "body-broken" or any(s is None or s.kind != "plane" for s in flat):
            raise
        made = body
        try:
            for k, d in moves.items():
                made = _behind_outline(made, body.names[k], d, prefix)
        except ContourError:
            raise first from None
        return made


def _behind_outline(body: NamedShape, name: str, d: float, prefix: str) -> NamedShape:
    k = body.names.index(name) if name in body.names else -1
    if k < 0:
        raise ContourError("ref-lost", "the face has gone into another one", remedy="move it in a step of its own")
    face = faces(body.shape)[k]
    surface = face_surface(face)
    assert surface is not None
    prism = BRepPrimAPI_MakePrism(face, gp_Vec(*map(float, d * surface.along)))
    lookup, names = shape_map(body.shape, TopAbs_ShapeEnum.TopAbs_EDGE), edge_names(body)
    given: list[tuple[TopoDS_Shape, str]] = [(prism.LastShape(), name), (prism.FirstShape(), f"{prefix}.base")]
    for edge in edges(face):
        given += [(f, f"{prefix}.wall[{names[lookup.FindIndex(edge) - 1]}]") for f in prism.Generated(edge)]
    tool = named_together([prism.Shape()], given)
    return combine(body, tool, "add" if d > 0 else "subtract", what="what the face moves over")


def face_middle(face: TopoDS_Face) -> Array:
    """The centre of a face's area (3,), mm."""
    props = GProp_GProps()
    BRepGProp.SurfaceProperties_s(face, props)
    c = props.CentreOfMass()
    return np.array([c.X(), c.Y(), c.Z()])


def across(body: NamedShape, k: int) -> float:
    """The size of the material at a face: to the flat face that looks the other way behind it, mm; of a round face its diameter.

    Raises ContourError (wrong-kind) where the face is neither, (not-found) where nothing lies behind.
    """
    own_faces = faces(body.shape)
    own = face_surface(own_faces[k])
    if own is not None and own.kind == "cylinder":
        return 2 * own.radius
    if own is None or own.kind != "plane":
        raise ContourError(
            "wrong-kind",
            "only flat and cylindrical faces have a size across",
            got="another face",
            need="a plane or a cylinder",
            remedy="choose another face",
        )
    middle = face_middle(own_faces[k])
    found = [
        (depth, _hit(f, middle - depth * own.along))
        for f in own_faces
        if (s := face_surface(f)) is not None
        and s.kind == "plane"
        and float(s.along @ own.along) < -_ANTIPARALLEL
        and (depth := _depth(own, s, middle)) > 1e-9
    ]
    # The nearest that lies right behind its middle; of a face with a hole there, the nearest at all.
    behind = [d for d, hit in found if hit] or [d for d, _ in found]
    if not behind:
        raise ContourError(
            "not-found",
            "no face looks the other way behind this one",
            got="no parallel face",
            need="a parallel face on the other side of the material",
            remedy="move it by a distance",
        )
    return min(behind)


def _depth(own: Surface, other: Surface, middle: Array) -> float:
    return float((middle - other.at) @ own.along)


def _hit(face: TopoDS_Face, at: Array) -> bool:
    vertex = BRepBuilderAPI_MakeVertex(gp_Pnt(*map(float, at))).Vertex()
    return bool(BRepExtrema_DistShapeShape(vertex, face).Value() < 1e-6)
