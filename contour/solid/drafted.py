"""Faces that lean, about where they meet a plane that stays: what a mould, a print or a casting lets go of.

The kernel turns the faces and meets them with their neighbours anew; each one's angle is then measured on the surface that came out.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray
from OCP.BRepOffsetAPI import BRepOffsetAPI_DraftAngle
from OCP.gp import gp_Pln
from OCP.TopoDS import TopoDS_Face

from contour.geometry.surfaces import Surface
from contour.geometry.vectors import triple
from contour.recipe.problem import ContourError, Where
from contour.solid.face_geometry import direction, face_kind, face_surface, pnt
from contour.solid.gate import require_solid
from contour.solid.mass import area
from contour.solid.mouths import place_on
from contour.solid.shape import NamedShape, faces
from contour.solid.shifted import face_middle
from contour.solid.topology.labels import face_label
from contour.solid.topology.names import names_by_face

__all__ = ["drafted"]

Array = NDArray[np.float64]
_AGREES = 1e-7  # radians
_KINDS = ("plane", "cylinder", "cone")


def drafted(
    body: NamedShape,
    names: Sequence[str],
    at: Array,
    pull: Array,
    angle_deg: float,
    *,
    labels: Mapping[str, str] | None = None,
) -> NamedShape:
    """The body with faces leaning by an angle from the way of pull, turned about where they meet the plane through `at` square to it.

    at, pull (3,): mm and unit; positive: there is less material the further one goes that way. All names stay. Raises ContourError (wrong-kind) for a
    face that cannot lean or lies across the pull, (body-broken) with the face where its neighbours cannot follow.
    """
    turn = math.radians(angle_deg)
    op = BRepOffsetAPI_DraftAngle(body.shape)
    plane = gp_Pln(pnt(at), direction(pull))
    by_name = dict(zip(body.names, faces(body.shape), strict=True))
    for name in names:
        face = by_name[name]
        surface = face_surface(face)
        lies_across = surface is not None and surface.kind == "plane" and abs(float(surface.along @ pull)) > 1 - 1e-6
        leans_away = surface is not None and surface.kind != "plane" and abs(float(surface.along @ pull)) < 1 - 1e-6
        if surface is None or surface.kind not in _KINDS or lies_across or leans_away:
            raise ContourError(
                "wrong-kind",
                f"{face_label(name, labels)} cannot lean",
                where=Where(param="faces", point=triple(face_middle(face))),
                got=f"a {face_kind(face)} face{' across the pull' if lies_across else ''}",
                need="flat faces along the pull, or round ones about it",
                remedy="take it out of the list",
            )
        op.Add(face, direction(pull), turn, plane, True)
        if not op.AddDone():
            raise _stuck(name, by_name, labels)
    try:
        op.Build()
        done = op.IsDone()
    except Exception:  # the kernel throws whatever it met: what matters is that there is no result
        done = False
    if not done:
        raise _stuck(names[0], by_name, labels)
    try:
        require_solid(op.Shape(), doing="drafting", pieces=1)
    except ContourError as error:
        # Walls that lean towards each other run out first where one is narrow.
        narrow = min(names, key=lambda n: area(by_name[n]))
        where = Where(param="faces", entity=face_label(narrow, labels), point=triple(place_on(by_name[narrow])))
        raise ContourError.of(error.problem.model_copy(update={"where": where})) from None
    shape = op.Shape()
    made = NamedShape(shape, names_by_face(shape, [(op.ModifiedShape(f), n) for n, f in by_name.items()]))
    for name, face in zip(made.names, faces(made.shape), strict=True):
        if name in names:
            _require_angle(name, face_surface(face), pull, turn, labels)
    return made


def _require_angle(
    name: str, surface: Surface | None, pull: Array, turn: float, labels: Mapping[str, str] | None
) -> None:
    """Raises ContourError (body-broken) unless the face leans as it should, by its own surface."""
    if surface is not None and surface.kind == "plane":
        got = math.asin(float(np.clip(surface.along @ pull, -1, 1)))
    elif surface is not None and surface.kind == "cone":
        # Its axis points to its open end; the material of what bulges gets less towards its tip.
        way = 1.0 if float(surface.along @ pull) < 0 else -1.0
        got = way * surface.half_angle * surface.outward
    else:
        got = 0.0
    if abs(got - turn) > _AGREES:
        raise ContourError(
            "body-broken",
            f"{face_label(name, labels)} comes out at another angle",
            where=Where(param="angle", entity=name),
            got=f"{math.degrees(got):.6f} deg",
            need=f"{math.degrees(turn):.6f} deg",
            remedy="take it out of the list, or type another angle",
        )


def _stuck(name: str, by_name: Mapping[str, TopoDS_Face], labels: Mapping[str, str] | None) -> ContourError:
    return ContourError(
        "body-broken",
        f"{face_label(name, labels)} cannot lean: its neighbours do not follow",
        where=Where(param="faces", point=triple(face_middle(by_name[name]))),
        got="faces that run into it without an edge, or never meet it again",
        need="edges between it and its neighbours",
        remedy="draft the faces before they are rounded, or take this one out",
    )
