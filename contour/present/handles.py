"""Where a step's handles stand in the view, and what value each drives."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from contour.geometry.vectors import triple
from contour.recipe.registry import Handle, HandleKind

if TYPE_CHECKING:
    from OCP.TopoDS import TopoDS_Edge

    from contour.solid.shape import NamedShape

Array = NDArray[np.float64]

__all__ = ["angle_handle", "edge_handle", "point_handles"]


def edge_handle(place: str, edge: TopoDS_Edge, body: NamedShape, *, kind: HandleKind) -> Handle:
    """At the middle of an edge, along the middle between its two faces: into the material of an outer edge, out of that of an
    inner one, which is the way a fillet or chamfer grows."""
    from contour.solid.edge_frame import edge_frame

    frame = edge_frame(body.shape, edge)
    way = frame.into[0] + frame.into[1]
    size = float(np.linalg.norm(way))
    return Handle(place, triple(frame.middle), triple(way / size if size > 1e-9 else frame.into[0]), kind)


def angle_handle(place: str, origin: Array, axis: Array, zero: Array) -> Handle:
    """About an axis through a place (3,), mm; zero (3,): where it points when the angle is nothing, square to the axis or nearly."""
    along = axis / np.linalg.norm(axis)
    square = zero - (zero @ along) * along
    return Handle(place, triple(origin), triple(along), "angle", zero=triple(square / np.linalg.norm(square)))


def point_handles(base: Array, at: Array) -> tuple[Handle, ...]:
    """Three at a point (3,), for the values x, y and z that it is moved by from a base (3,), mm, along the part's own axes."""
    return tuple(
        Handle(name, triple(np.where(np.eye(3)[k] > 0, base, at)), triple(np.eye(3)[k])) for k, name in enumerate("xyz")
    )
