"""Wall thickness of a scan: from a place on it straight through the material to the other side.

Both ends are read from a plane through their neighbourhood, so that the noise of single facets is averaged out.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from contour.construct.place import Array
from contour.fit.covariance import fit_covariance
from contour.fit.region import patch_around
from contour.fit.surface import fit_surface
from contour.geometry.vectors import triple
from contour.mesh.prepare import PreparedScan
from contour.recipe.problem import ContourError, Where

__all__ = ["Thickness", "first_hit", "wall_thickness"]

_PATCH_EDGES = 4.0


@dataclass(frozen=True, slots=True)
class Thickness:
    """mm along the normal at `start`; u: standard uncertainty; lean: degrees between both sides."""

    value: float
    u: float
    start: tuple[float, float, float]
    end: tuple[float, float, float]
    lean: float


def first_hit(corners: Array, origin: Array, way: Array, *, beyond: float) -> tuple[float, int] | None:
    """Distance and number of the first triangle (n, 3, 3) that a ray meets farther than `beyond`.

    Reference: Möller & Trumbore, Fast, minimum storage ray/triangle intersection, JGT 2(1), 1997.
    origin (3,), mm; way (3,) unit; beyond, mm.
    """
    e1, e2 = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    h = np.cross(way, e2)
    det = np.einsum("ij,ij->i", e1, h)
    flat = np.abs(det) < 1e-15
    inv = 1.0 / np.where(flat, 1.0, det)
    s = origin - corners[:, 0]
    u = np.einsum("ij,ij->i", s, h) * inv
    q = np.cross(s, e1)
    v = (q @ way) * inv
    t = np.einsum("ij,ij->i", e2, q) * inv
    hit = ~flat & (u >= -1e-9) & (v >= -1e-9) & (u + v <= 1 + 1e-9) & (t > beyond)
    if not hit.any():
        return None
    ids = np.flatnonzero(hit)
    k = int(ids[np.argmin(t[ids])])
    return float(t[k]), k


def _local_plane(scan: PreparedScan, facet: int) -> tuple[Array, Array, float]:
    """Point, outward normal and the plane's standard uncertainty there."""
    patch: NDArray[np.int64] = np.asarray(
        patch_around(scan.across, scan.centroids, facet, _PATCH_EDGES * scan.edge_mm), np.int64
    )
    ids = np.unique(scan.facets[patch])
    points = scan.vertices[ids]
    mean = scan.normals[patch].T @ scan.areas[patch]
    n0 = mean / max(float(np.linalg.norm(mean)), 1e-12)
    fitted = fit_surface(points, np.tile(n0, (len(points), 1)), kind="plane") if len(points) >= 6 else None
    if fitted is None:
        return scan.centroids[facet], scan.normals[facet], scan.noise_mm
    surface = fitted[0]
    spread = fit_covariance(surface, points, edge_mm=scan.edge_mm)
    o, n = np.array(surface.origin), np.array(surface.axis)
    n = n if n @ n0 > 0 else -n
    u = spread.position if np.isfinite(spread.position) else scan.noise_mm
    return o, n, max(u, 1e-6)


def wall_thickness(scan: PreparedScan, facet: int, place: Array) -> Thickness:
    """Along the inward normal at a place on a facet. Raises ContourError (nothing-found) where the ray leaves the scan open.

    place (3,), mm.
    """
    o, n, u0 = _local_plane(scan, facet)
    start = place - ((place - o) @ n) * n
    found = first_hit(scan.vertices[scan.facets], start, -n, beyond=max(0.6 * scan.edge_mm, 5 * scan.noise_mm))
    if found is None:
        raise ContourError(
            "nothing-found",
            "there is no other side behind this place",
            where=Where(point=triple(start)),
            got="the line through the material leaves the scan by a hole, or the scan is an open sheet",
            need="a scanned surface on the far side",
            remedy="choose another place, or fill the hole first",
        )
    _, other = found
    p, m, u1 = _local_plane(scan, other)
    t = float((p - start) @ m) / float(-n @ m) if abs(float(n @ m)) > 0.2 else found[0]
    return Thickness(
        t,
        float(np.hypot(u0, u1 / max(abs(float(n @ m)), 0.2))),
        triple(start),
        triple(start - t * n),
        float(np.degrees(np.arccos(min(1.0, abs(float(n @ m)))))),
    )
