"""Which faces look as if they were meant to be level with another one: flat ones nearly in its plane, round ones of nearly its diameter."""

from __future__ import annotations

import math

import numpy as np

from contour.geometry.surfaces import Surface
from contour.solid.face_geometry import face_surface, goes_round
from contour.solid.shape import NamedShape, faces
from contour.solid.shifted import face_middle

__all__ = ["nearly_level", "tilt_between"]

_ALIKE = 0.05  # of a diameter: bores of one part that are meant to differ differ by more
_LEVEL_MM = 1e-9


def tilt_between(a: Surface, b: Surface) -> float:
    """Between the planes or axes of two surfaces, whichever way they look, degrees."""
    # By the sine too: the cosine alone tells angles below a millionth of a degree from nothing no more.
    return math.degrees(math.atan2(float(np.linalg.norm(np.cross(a.along, b.along))), abs(float(a.along @ b.along))))


def nearly_level(body: NamedShape, lead: int, *, reach_mm: float, tilt_deg: float) -> dict[int, float]:
    """Places in ``faces(shape)`` of what may be brought to a lead face there, each with how far it is to move, mm, + out of the material: flat faces that look
    the same way within a tilt, round ones with an axis as parallel and material on the same side
    that go all round as it does, or do not either. What is level already is left out.
    """
    shapes = faces(body.shape)
    first = face_surface(shapes[lead])
    out: dict[int, float] = {}
    for k, face in enumerate(shapes):
        own = face_surface(face)
        if k == lead or own is None or first is None or own.kind != first.kind or tilt_between(first, own) > tilt_deg:
            continue
        if own.kind == "plane" and float(own.along @ first.along) > 0:
            way = float((first.at - face_middle(face)) @ first.along) / float(own.along @ first.along)
            near = reach_mm
        elif own.kind == "cylinder" and own.outward == first.outward and goes_round(face) == goes_round(shapes[lead]):
            way = (first.radius - own.radius) * own.outward
            near = min(reach_mm, _ALIKE * first.radius)
        else:
            continue
        if _LEVEL_MM < abs(way) <= near:
            out[k] = way
    return out
