"""A traced outline put onto its edges: every side finds the edge along it, and corners are where sides meet."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from contour.metrology.photo.edges import Picture, SnappedLine, edge_along, snap_line
from contour.recipe.problem import ContourError

__all__ = ["ends_on_edges", "traced"]

Array = NDArray[np.float64]


def ends_on_edges(picture: Picture, a: Array, b: Array, *, reach: float = 8.0) -> tuple[Array, Array]:
    """Both ends of a distance moved along it onto the edges they mean.

    Raises ContourError (fit-failed) where an end has no edge near it.
    """
    way = (b - a) / max(float(np.linalg.norm(b - a)), 1e-9)
    found = []
    for name, p in (("first", a), ("second", b)):
        off = edge_along(picture, p, way, reach=reach, width=5)
        if off is None:
            raise ContourError(
                "fit-failed",
                f"no edge is to be seen near the {name} end",
                remedy="click closer to it, or measure without edges",
            )
        found.append(p + off * way)
    return found[0], found[1]


def traced(picture: Picture, points: Array, *, closed: bool, reach: float = 6.0) -> tuple[Array, float]:
    """(corners (n, 2), largest scatter of a side) of an outline drawn by hand; a side without an edge stays as drawn."""
    n = len(points)
    sides: list[SnappedLine | None] = []
    for k in range(n if closed else n - 1):
        try:
            sides.append(snap_line(picture, points[k], points[(k + 1) % n], reach=reach))
        except ContourError:
            sides.append(None)
    out = np.array(points, float)
    for k in range(n):
        before = sides[k - 1] if (closed or k > 0) else None
        after = sides[k] if k < len(sides) else None
        if before is not None and after is not None:
            da, db = before.b - before.a, after.b - after.a
            cross = da[0] * db[1] - da[1] * db[0]
            if abs(cross) > 0.05 * np.linalg.norm(da) * np.linalg.norm(db):
                t = ((after.a - before.a)[0] * db[1] - (after.a - before.a)[1] * db[0]) / cross
                met = before.a + t * da
                if np.linalg.norm(met - points[k]) < 3 * reach:
                    out[k] = met
                    continue
        one = after if after is not None else before
        if one is not None:
            d = (one.b - one.a) / np.linalg.norm(one.b - one.a)
            out[k] = one.a + ((points[k] - one.a) @ d) * d
    return out, max((s.rms for s in sides if s is not None), default=0.0)
