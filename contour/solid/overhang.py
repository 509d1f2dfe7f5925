"""Faces that lean out too far to be printed without support, and the chamfer of an edge that does not.

The lean of a place is the angle between the face and the way up: nothing for a wall, 90 degrees for a ceiling; below nothing where it looks up.
"""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepTools import BRepTools
from OCP.TopoDS import TopoDS_Edge, TopoDS_Face
from scipy.optimize import brentq

from contour.geometry.vectors import Vec3, triple, unit
from contour.solid.edge_frame import edge_frame
from contour.solid.face_geometry import array
from contour.solid.mouths import into
from contour.solid.shape import NamedShape, edge_faces, faces, owners_of

__all__ = ["Lean", "Standing", "leaning_most", "owners", "standing_bevel"]

Array = NDArray[np.float64]
_GRID = 13
_SLACK_DEG = 0.1


@dataclass(frozen=True, slots=True)
class Lean:
    """A face that leans out further than it may. deg: how far, at most · at: a place on it where it does, mm."""

    name: str
    deg: float
    at: Vec3


def leaning_most(body: NamedShape, names: Collection[str], up: Array, limit_deg: float) -> list[Lean]:
    """Of some faces those that lean out further than a limit, the worst first. up (3,): the way it is built, unit."""
    out = []
    for name, face in zip(body.names, faces(body.shape), strict=True):
        if name in names:
            deg, at = _lean(face, up)
            if deg > limit_deg + _SLACK_DEG:
                out.append(Lean(name, deg, triple(at)))
    return sorted(out, key=lambda lean: -lean.deg)


def _lean(face: TopoDS_Face, up: Array) -> tuple[float, Array]:
    """(how far it leans out at most, degrees; where), on a grid over its parameters' reach."""
    surface = BRepAdaptor_Surface(face)
    u0, u1, v0, v1 = BRepTools.UVBounds_s(face)
    spots = [array(surface.Value(u, v)) for u in np.linspace(u0, u1, _GRID) for v in np.linspace(v0, v1, _GRID)]
    leans = [float(np.degrees(np.arcsin(np.clip(into(face, p) @ up, -1, 1)))) for p in spots]
    k = int(np.argmax(leans))
    return leans[k], spots[k]


@dataclass(frozen=True, slots=True)
class Standing:
    """A chamfer that leans out as far as it may. side: which of the edge's two faces `first` lies on, the steeper one · first, second: mm on either face."""

    side: int
    first: float
    second: float


def standing_bevel(body: NamedShape, edge: TopoDS_Edge, up: Array, limit_deg: float, size: float) -> Standing | None:
    """The largest chamfer of an edge up to a size (mm, on either face) that leans out no further than a limit; none where even its steeper face does."""
    frame = edge_frame(body.shape, edge)
    lean = [float(np.degrees(np.arcsin(np.clip(-n @ up, -1, 1)))) for n in frame.normals]
    steep = int(np.argmin(lean))
    if lean[steep] > limit_deg:
        return None
    a, b = frame.into[steep], frame.into[1 - steep]
    outside = -(a + b) if frame.outer else a + b

    def too_far(share: float) -> float:
        """Of a chamfer of `size` on the steeper face and so much of it on the other one."""
        n = unit(np.cross(size * a - share * size * b, frame.along))
        n = n if n @ outside > 0 else -n
        return float(np.degrees(np.arcsin(np.clip(-n @ up, -1, 1)))) - limit_deg

    if too_far(1.0) <= 0:
        return Standing(steep, size, size)
    return Standing(steep, size, size * float(brentq(too_far, 1e-6, 1.0)))


def owners(body: NamedShape, edge: TopoDS_Edge) -> list[str]:
    """Names of an edge's faces, in the order that frames have them in."""
    around = edge_faces(body.shape)
    own = list(zip(body.names, faces(body.shape), strict=True))
    return [next(n for n, f in own if f.IsSame(o)) for o in owners_of(around, around.FindIndex(edge))]
