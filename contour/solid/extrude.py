"""Extruding profiles of a sketch into solids whose faces are named by sketch entity."""

from __future__ import annotations

from collections.abc import Sequence

from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism
from OCP.gp import gp_Vec
from OCP.TopoDS import TopoDS_Shape

from contour.geometry.frames import PlaneFrame, plane_frame
from contour.recipe.problem import ContourError, Where
from contour.sketch.entities import Profile
from contour.solid.gate import require_solid
from contour.solid.shape import NamedShape
from contour.solid.topology.names import named_together
from contour.solid.wires import profile_face

__all__ = ["extrude"]


def extrude(
    profiles: Sequence[Profile], frame: PlaneFrame, *, start_mm: float, end_mm: float, prefix: str
) -> NamedShape:
    """Solid between two heights over the sketch plane, measured along its normal.

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
        for entity, edge in keyed:
            given += [(f, f"{prefix}.side[{entity}]") for f in prism.Generated(edge)]
        given += [
            (prism.FirstShape(), f"{prefix}.start[{profile.id}]"),
            (prism.LastShape(), f"{prefix}.end[{profile.id}]"),
        ]
        shapes.append(shape)
    return named_together(shapes, given)
