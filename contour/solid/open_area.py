"""How much of a solid's skin is missing, by its integral: what the kernel calls closed and valid may lack half a wall.

The outward normals of a closed skin add up to nothing (the divergence theorem for a constant field); what they add up to is the area
of a flat lid over the hole. Its part along one way is taken from the volumes of the cones over all faces, seen from two places: how much
those differ.
"""

from __future__ import annotations

import numpy as np
from OCP.BRepGProp import BRepGProp, BRepGProp_Domain, BRepGProp_Face, BRepGProp_Vinert
from OCP.gp import gp_Pnt
from OCP.GProp import GProp_GProps
from OCP.TopoDS import TopoDS_Face, TopoDS_Shape

from contour.solid.extent import bounds
from contour.solid.shape import faces

__all__ = ["open_share"]

# A way that no part is built along. Below this share nothing is missing; what the integrals are asked for where it is not.
_WAY = np.array([0.5342, 0.6188, 0.5759])
_CLEAR, _EPS = 1e-5, 1e-6


def open_share(shape: TopoDS_Shape) -> float:
    """The area of a flat lid over what is missing, as it is seen along one way, as a share of the whole skin: 1e-5 or less of a good solid."""
    box = bounds(shape)
    middle, size = box.mean(axis=0), float(np.linalg.norm(box[1] - box[0]))
    seen = [gp_Pnt(*map(float, p)) for p in (middle, middle + size * _WAY)]
    area = GProp_GProps()
    BRepGProp.SurfaceProperties_s(shape, area)
    # A few places per face are enough but under free curves: then it is asked for once more, adaptively.
    share = 1.0
    for more in ((), (_EPS,)):
        lid = sum(_lid(face, seen, more) for face in faces(shape)) * 3 / size
        share = min(share, abs(lid) / max(area.Mass(), 1e-12))
        if share < _CLEAR:
            break
    return share


def _lid(face: TopoDS_Face, seen: list[gp_Pnt], more: tuple[float, ...]) -> float:
    """By how much the cone over a face grows when it is seen from the other place, mm³."""
    own = BRepGProp_Face(face)
    here, there = (float(BRepGProp_Vinert(own, BRepGProp_Domain(face), p, p, *more).Mass()) for p in seen)
    return there - here
