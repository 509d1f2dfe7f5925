"""A virtual scanner: dense, even facets of a solid as a structured-light scanner would deliver them.

Softened edges, noise along the normal, wear, patches that no view saw, and a pose of its own; a seed fixes all of it.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csr_matrix
from scipy.spatial.transform import Rotation

from contour.mesh.exact import ExactSolid, signed_distances
from contour.mesh.topology import facet_geometry

__all__ = ["Pose", "ScanSettings", "VirtualScan", "virtual_scan"]

Array = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Pose:
    """Where the part lay when it was scanned: rotation about x, y, z in degrees, then a shift in mm."""

    turn_deg: tuple[float, float, float] = (0.0, 0.0, 0.0)
    shift_mm: tuple[float, float, float] = (0.0, 0.0, 0.0)

    @property
    def rotation(self) -> Array:
        return np.asarray(Rotation.from_euler("xyz", self.turn_deg, degrees=True).as_matrix())

    def apply(self, points: Array) -> Array:
        return points @ self.rotation.T + np.array(self.shift_mm)


@dataclass(frozen=True, slots=True)
class ScanSettings:
    """How the scan is taken.

    spacing_mm: facet side · noise_mm: sigma along the normal · soften: smoothing rounds, each rounds edges by some
    half a facet side · views: directions the scanner looked from (unit not needed), empty means it saw everything ·
    dropouts: (centre, radius) balls in which facets are missing · wear: moves true points (n, 3) -> (n, 3).
    """

    spacing_mm: float = 0.8
    noise_mm: float = 0.03
    soften: int = 2
    views: tuple[tuple[float, float, float], ...] = ()
    dropouts: tuple[tuple[tuple[float, float, float], float], ...] = ()
    wear: Callable[[Array], Array] | None = None
    pose: Pose = field(default_factory=Pose)
    seed: int = 1


@dataclass(frozen=True, slots=True)
class VirtualScan:
    """vertices (n, 3) mm, facets (m, 3), true_face (m,): the solid's face each facet was seen on."""

    vertices: Array
    facets: NDArray[np.int32]
    true_face: NDArray[np.int32]


def _inside_grid(solid: ExactSolid, origin: Array, shape: tuple[int, ...], step: float) -> NDArray[np.bool_]:
    """True at grid nodes inside the solid. Coarse nodes far from the surface decide for their whole block."""
    block = 4
    coarse = tuple(-(-n // block) + 1 for n in shape)
    nodes = origin + step * block * np.stack(np.meshgrid(*map(np.arange, coarse), indexing="ij"), -1).reshape(-1, 3)
    d = signed_distances(solid, nodes)[0].reshape(coarse)
    fine = np.repeat(np.repeat(np.repeat(d, block, 0), block, 1), block, 2)[: shape[0], : shape[1], : shape[2]]
    inside = fine < 0
    # A block's nodes lie within its diagonal of its first node.
    unsure = np.abs(fine) < step * block * np.sqrt(3) + 1e-9
    ids = np.argwhere(unsure)
    inside[unsure] = signed_distances(solid, origin + step * ids)[0] < 0
    return inside


def _surface_net(inside: NDArray[np.bool_]) -> tuple[Array, NDArray[np.int64]]:
    """Quads around every grid edge that crosses the surface, a vertex per mixed cell. Reference: Gibson 1998."""
    corners = [
        inside[i : i - 1 or None, j : j - 1 or None, k : k - 1 or None] for i in (0, 1) for j in (0, 1) for k in (0, 1)
    ]
    total = np.sum(corners, axis=0)
    mixed = (total > 0) & (total < 8)
    index = np.full(mixed.shape, -1, np.int64)
    index[mixed] = np.arange(mixed.sum())
    vertices = np.argwhere(mixed) + 0.5
    quads = []
    for axis in range(3):
        b, c = (axis + 1) % 3, (axis + 2) % 3
        low = np.moveaxis(inside, (axis, b, c), (0, 1, 2))
        cell = np.moveaxis(index, (axis, b, c), (0, 1, 2))
        a0, a1 = low[:-1, 1:-1, 1:-1], low[1:, 1:-1, 1:-1]
        ring = [cell[:, :-1, :-1], cell[:, 1:, :-1], cell[:, 1:, 1:], cell[:, :-1, 1:]]
        for leaving in (True, False):
            hit = (a0 & ~a1) if leaving else (~a0 & a1)
            quad = np.stack([r[hit] for r in ring], axis=1)
            quads.append(quad if leaving else quad[:, ::-1])
    return vertices.astype(np.float64), np.vstack(quads)


def _averaging(facets: NDArray[np.int32], count: int) -> csr_matrix:
    i = np.concatenate([facets[:, 0], facets[:, 1], facets[:, 2], facets[:, 1], facets[:, 2], facets[:, 0]])
    j = np.concatenate([facets[:, 1], facets[:, 2], facets[:, 0], facets[:, 0], facets[:, 1], facets[:, 2]])
    ring = csr_matrix((np.ones(len(i)), (i, j)), (count, count))
    ring.data[:] = 1.0
    degree = np.asarray(ring.sum(axis=1)).ravel()
    return csr_matrix(ring.multiply(1.0 / np.maximum(degree, 1)[:, None]))


def _seen(
    centroids: Array, normals: Array, inside: NDArray[np.bool_], origin: Array, step: float, views: tuple[Array, ...]
) -> NDArray[np.bool_]:
    """Facets that some view looks at under less than 80 degrees with a free line of sight."""
    seen = np.zeros(len(centroids), np.bool_)
    limit = np.array(inside.shape) - 1
    reach = int(np.linalg.norm(limit)) + 2
    for view in views:
        toward = view / np.linalg.norm(view)
        open_ = np.flatnonzero((normals @ toward > np.cos(np.radians(80))) & ~seen)
        points = centroids[open_] + 1.5 * step * normals[open_]
        free = np.ones(len(open_), np.bool_)
        for k in range(reach):
            node = np.rint((points + k * step * toward - origin) / step).astype(np.int64)
            within = ((node >= 0) & (node <= limit)).all(axis=1) & free
            if not within.any():
                break
            w = np.flatnonzero(within)
            free[w[inside[node[w, 0], node[w, 1], node[w, 2]]]] = False
        seen[open_[free]] = True
    return seen


def virtual_scan(solid: ExactSolid, settings: ScanSettings) -> VirtualScan:
    """Scan a solid (in its own frame); the result lies in the pose's frame."""
    rng = np.random.default_rng(settings.seed)
    step = settings.spacing_mm
    low, high = solid.vertices.min(axis=0), solid.vertices.max(axis=0)
    origin = low - 2.5 * step - rng.uniform(0, 0.5 * step, 3)
    shape = tuple(int(n) for n in np.ceil((high - origin) / step).astype(int) + 4)
    inside = _inside_grid(solid, origin, shape, step)
    net, quads = _surface_net(inside)
    points = signed_distances(solid, origin + step * net)[2]
    half = np.vstack([quads[:, [0, 1, 2]], quads[:, [0, 2, 3]]]).astype(np.int32)
    mean = _averaging(half, len(points))
    for _ in range(3):  # even out along the surface
        points = signed_distances(solid, points + 0.5 * (mean @ points - points))[2]
    short = np.linalg.norm(points[quads[:, 0]] - points[quads[:, 2]], axis=1) <= np.linalg.norm(
        points[quads[:, 1]] - points[quads[:, 3]], axis=1
    )
    q, r = quads[short], quads[~short]
    facets = np.vstack([q[:, [0, 1, 2]], q[:, [0, 2, 3]], r[:, [0, 1, 3]], r[:, [1, 2, 3]]]).astype(np.int32)
    centroids, normals, areas = facet_geometry(points, facets)
    true_face = signed_distances(solid, centroids)[1]
    keep = areas > 1e-4 * step * step
    if settings.views:
        keep &= _seen(centroids, normals, inside, origin, step, tuple(np.array(v, dtype=float) for v in settings.views))
    for centre, radius in settings.dropouts:
        keep &= np.linalg.norm(centroids - np.array(centre), axis=1) > radius
    if settings.wear is not None:
        points = settings.wear(points)
    mean = _averaging(facets, len(points))
    for _ in range(settings.soften):
        points = points + 0.5 * (mean @ points - points)
    _, normals, areas = facet_geometry(points, facets)
    outward = np.zeros_like(points)
    for k in range(3):
        np.add.at(outward, facets[:, k], normals * areas[:, None])
    outward /= np.linalg.norm(outward, axis=1, keepdims=True) + 1e-300
    points = points + outward * rng.normal(0, settings.noise_mm, (len(points), 1))
    facets, true_face = facets[keep], true_face[keep]
    order = rng.permutation(len(facets))  # scanners do not sort their facets
    facets, true_face = facets[order], true_face[order]
    used = np.unique(facets)
    rank = np.full(len(points), -1, np.int32)
    rank[used] = np.arange(len(used), dtype=np.int32)
    return VirtualScan(settings.pose.apply(points[used]), rank[facets], true_face)
