"""Extruding profiles of a sketch into solids whose faces are named by sketch entity."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from OCP.BRepOffsetAPI import BRepOffsetAPI_DraftAngle
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism
from OCP.gp import gp_Pln, gp_Vec
from OCP.TopoDS import TopoDS, TopoDS_Shape

from contour.geometry.frames import PlaneFrame, plane_frame
from contour.recipe.problem import ContourError, Where
from contour.sketch.entities import Profile
from contour.solid.face_geometry import direction, pnt
from contour.solid.gate import require_solid
from contour.solid.shape import NamedShape
from contour.solid.topology.names import named_together
from contour.solid.wires import profile_face

__all__ = ["extrude"]


def extrude(
    profiles: Sequence[Profile],
    frame: PlaneFrame,
    *,
    start_mm: float,
    end_mm: float,
    draft_deg: float = 0.0,
    prefix: str,
) -> NamedShape:
    """Solid between two heights over the sketch plane, measured along its normal.

    draft_deg: how walls lean against the way it goes, from the sketch's plane on; positive widens the material as it goes.

    Faces are named ``prefix.side[entity]``, ``prefix.start[profile]`` and ``prefix.end[profile]``.
    Raises ContourError (body-broken) when the heights are one or the solid fails the gate.
    """
    if abs(end_mm - start_mm) < 1e-4:
        raise ContourError(
            "body-broken",
            "an extrusion needs a distance",
            got=f"{end_mm - start_mm:g} mm",
            need="at least 0.0001 mm either way",
            remedy="type a distance",
            where=Where(param="distance"),
        )
    n = frame.normal
    there = plane_frame(frame.origin + n * start_mm, n, frame.u)
    vector = gp_Vec(*map(float, n * (end_mm - start_mm)))
    given: list[tuple[TopoDS_Shape, str]] = []
    shapes = []
    for profile in profiles:
        face, keyed = profile_face(profile, there)
        prism = BRepPrimAPI_MakePrism(face, vector)
        shape = prism.Shape()
        require_solid(shape, doing="extruding", pieces=1)
        walls = [(f, entity) for entity, edge in keyed for f in prism.Generated(edge)]
        own = [(f, f"{prefix}.side[{entity}]") for f, entity in walls]
        own += [
            (prism.FirstShape(), f"{prefix}.start[{profile.id}]"),
            (prism.LastShape(), f"{prefix}.end[{profile.id}]"),
        ]
        if abs(draft_deg) > 1e-9:
            leaned = _leaned(shape, walls, frame, draft_deg * (1 if end_mm >= start_mm else -1))
            shape, own = leaned.Shape(), [(leaned.ModifiedShape(f), name) for f, name in own]
        given += own
        shapes.append(shape)
    return named_together(shapes, given)


def _leaned(
    shape: TopoDS_Shape, walls: Sequence[tuple[TopoDS_Shape, str]], frame: PlaneFrame, degrees: float
) -> BRepOffsetAPI_DraftAngle:
    """Walls turned about the lines where they stand on the sketch's plane. Raises ContourError (wrong-kind) at an entity whose wall cannot lean,
    (body-broken)."""
    draft = BRepOffsetAPI_DraftAngle(shape)
    up = direction(frame.normal)
    neutral = gp_Pln(pnt(frame.origin), up)
    for face, entity in walls:
        draft.Add(TopoDS.Face(face), up, -float(np.radians(degrees)), neutral)
        if not draft.AddDone():
            raise ContourError(
                "wrong-kind",
                f"the wall of {entity} cannot lean",
                where=Where(param="draft", entity=entity),
                got="a curve",
                need="lines and arcs",
                remedy="draw it of lines and arcs, or take the draft off",
            )
    try:
        draft.Build()
        done = draft.IsDone()
    except Exception:  # the kernel's own errors have no common base in the binding
        done = False
    if not done:
        raise ContourError(
            "body-broken",
            "walls that lean so far meet each other",
            where=Where(param="draft"),
            got=f"{degrees:g} deg",
            need="walls that stay apart",
            remedy="type a smaller draft, or go less far",
        )
    try:
        require_solid(draft.Shape(), doing="leaning the walls", pieces=1)
    except ContourError as error:
        raise error.at(param="draft") from None
    return draft
