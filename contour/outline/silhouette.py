"""Silhouette of a scan along a direction: the border of the shadow it throws on a plane, with the holes one can look through."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import Polygon

from contour.geometry.frames import PlaneFrame
from contour.mesh.prepare import PreparedScan

__all__ = ["silhouette"]

Array = NDArray[np.float64]


def silhouette(scan: PreparedScan, frame: PlaneFrame) -> list[tuple[Array, bool]]:
    """Closed polylines (n, 2) on the frame's plane, longest first. Gaps and specks of a few facets are taken for holes in the scan."""
    flat = frame.to_plane(scan.vertices)
    # A closed surface throws the same shadow with its front alone; what is nearly edge-on adds nothing but slivers.
    slope = scan.normals @ frame.normal
    front = scan.facets[np.abs(slope) > 0.03]
    triangles = shapely.polygons(flat[front])
    grid = 0.02 * scan.edge_mm
    whole = shapely.union_all(shapely.make_valid(triangles), grid_size=grid)
    reach = 0.25 * scan.edge_mm
    whole = whole.buffer(reach, join_style="mitre").buffer(-reach, join_style="mitre")  # seams between facets close
    parts: list[Polygon] = [g for g in getattr(whole, "geoms", [whole]) if isinstance(g, Polygon)]
    least = 12 * scan.edge_mm**2
    rings = []
    for part in parts:
        if part.area < least:
            continue
        rings.append(np.array(part.exterior.coords)[:-1])
        rings += [np.array(r.coords)[:-1] for r in part.interiors if Polygon(r).area > least]
    return [(r, True) for r in sorted(rings, key=lambda r: -len(r))]
