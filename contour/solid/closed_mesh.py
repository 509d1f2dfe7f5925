"""A body as one closed mesh, for printers and for everybody who takes no STEP.

The kernel triangulates face by face, and now and then gives a face that touches itself too few triangles, or some twice. A little finer, or by its other
method, the same face comes out whole.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray
from OCP.TopoDS import TopoDS_Shape

from contour.mesh.topology import neighbours, weld_near
from contour.solid.shape import edge_faces
from contour.solid.tessellate import tessellate

__all__ = ["closed_mesh"]

_REACH_MM = 1e-6  # faces share their edges to rounding only: single precision could tear them apart
_OPEN, _JUNCTIONS, _ODD, _MISTURNED = range(4)
_FINER, _TRIES = 0.88, 5


def closed_mesh(
    shape: TopoDS_Shape, *, chord_mm: float, angle_rad: float, report: Callable[[str], None] = lambda _: None
) -> tuple[NDArray[np.float64], NDArray[np.int32]]:
    """(vertices (n, 3) mm, facets (m, 3) outward) no coarser than asked: closed, or where no attempt gives that the first of them."""
    around = edge_faces(shape)
    # Along an edge where two corners of the body touch four facets meet; anywhere else they lie on each other.
    touching = any(around.FindFromIndex(i).Size() > 2 for i in range(1, around.Size() + 1))
    wrong = [_OPEN, _ODD, _MISTURNED] if touching else [_OPEN, _JUNCTIONS, _ODD, _MISTURNED]
    first = None
    for k, steady in itertools.product(range(_TRIES), (False, True)):
        if k or steady:
            report("meshing once more: the mesh was not closed")
        made = tessellate(
            shape, chord_mm=chord_mm * _FINER**k, angle_rad=angle_rad * _FINER**k, sides=False, steady=steady
        )
        vertices, facets = weld_near(made.vertices, made.triangles, _REACH_MM)
        if not neighbours(facets, len(vertices))[1][wrong].any():
            return vertices, facets
        first = first or (vertices, facets)
    assert first is not None
    return first
