"""Where a step's handles stand in the view, and what value each drives."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from contour.construct.place import triple
from contour.recipe.registry import Handle, HandleKind

if TYPE_CHECKING:
    from OCP.TopoDS import TopoDS_Edge

    from contour.solid.shape import NamedShape

__all__ = ["edge_handle"]


def edge_handle(place: str, edge: TopoDS_Edge, body: NamedShape, *, kind: HandleKind) -> Handle:
    """At the middle of an edge, along the middle between its two faces: into the material of an outer edge, out of that of an
    inner one, which is the way a fillet or chamfer grows."""
    from contour.solid.edge_frame import edge_frame

    frame = edge_frame(body.shape, edge)
    way = frame.into[0] + frame.into[1]
    size = float(np.linalg.norm(way))
    return Handle(place, triple(frame.middle), triple(way / size if size > 1e-9 else frame.into[0]), kind)
