"""A virtual scanner: dense, even facets of a solid as a structured-light scanner would deliver them.

Softened edges, noise along the normal, wear, patches that no view saw, and a pose of its own; a seed fixes all of it.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray
from scipy.spatial.transform import Rotation

from contour.check.exact_distance import signed_distances
from contour.check.exact_solid import ExactSolid
from contour.mesh.topology import facet_geometry, vertex_normals
from contour.recipe.problem import ContourError, Where
from contour.simulate.net import averaging, split_quads, surface_net

__all__ = ["Pose", "ScanSettings", "VirtualScan", "Wear", "require_settings", "turntable", "virtual_scan"]

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
class Wear:
    """A worn zone: the surface within `radius_mm` of `centre` has gone inwards, by `depth_mm` in the middle."""

    centre: tuple[float, float, float]
    radius_mm: float
    depth_mm: float


@dataclass(frozen=True, slots=True)
class ScanSettings:
    """How the scan is taken.

    spacing_mm: facet side · noise_mm: sigma along the normal · soften: smoothing rounds, each rounds edges by some
    half a facet side · views: directions the scanner looked from (unit not needed), empty means it saw everything ·
    dropouts: (centre, radius) balls in which facets are missing · deep: what sees less than this share of the sky is
    lost (0: nothing) · worn: worn zones · wear: moves true points (n, 3) -> (n, 3), for wear no ball describes.
    """

    spacing_mm: float = 0.8
    noise_mm: float = 0.03
    soften: int = 2
    views: tuple[tuple[float, float, float], ...] = ()
    dropouts: tuple[tuple[tuple[float, float, float], float], ...] = ()
    deep: float = 0.0
    worn: tuple[Wear, ...] = ()
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


def _free(points: Array, toward: Array, inside: NDArray[np.bool_], origin: Array, step: float) -> NDArray[np.bool_]:
    """Points from which nothing of the part lies in a direction."""
    limit = np.array(inside.shape) - 1
    free = np.ones(len(points), np.bool_)
    for k in range(int(np.linalg.norm(limit)) + 2):
        node = np.rint((points + k * step * toward - origin) / step).astype(np.int64)
        within = ((node >= 0) & (node <= limit)).all(axis=1) & free
        if not within.any():
            break
        w = np.flatnonzero(within)
        free[w[inside[node[w, 0], node[w, 1], node[w, 2]]]] = False
    return free


def _seen(
    centroids: Array, normals: Array, inside: NDArray[np.bool_], origin: Array, step: float, views: tuple[Array, ...]
) -> NDArray[np.bool_]:
    """Facets that some view looks at under less than 80 degrees with a free line of sight."""
    seen = np.zeros(len(centroids), np.bool_)
    for view in views:
        toward = view / np.linalg.norm(view)
        open_ = np.flatnonzero((normals @ toward > np.cos(np.radians(80))) & ~seen)
        points = centroids[open_] + 1.5 * step * normals[open_]
        seen[open_[_free(points, toward, inside, origin, step)]] = True
    return seen


def _sky(centroids: Array, normals: Array, inside: NDArray[np.bool_], origin: Array, step: float) -> Array:
    """Share of the sky over each facet that it sees, by 60 even directions (a spiral of the golden angle), 0..1."""
    k = np.arange(60) + 0.5
    z, turn = 1 - 2 * k / 60, np.pi * (1 + np.sqrt(5)) * k
    directions = np.column_stack([np.cos(turn) * np.sqrt(1 - z**2), np.sin(turn) * np.sqrt(1 - z**2), z])
    got, most = np.zeros(len(centroids)), np.zeros(len(centroids))
    points = centroids + 1.5 * step * normals
    for toward in directions:
        facing = np.clip(normals @ toward, 0, None)
        ids = np.flatnonzero(facing > 0)
        most += facing
        got[ids] += facing[ids] * _free(points[ids], toward, inside, origin, step)
    return got / np.maximum(most, 1e-300)


def turntable(steps: int, elevations_deg: tuple[float, ...]) -> tuple[tuple[float, float, float], ...]:
    """Directions of a scanner looking at a part that turns about z, from each elevation."""
    out = []
    for e in np.radians(elevations_deg):
        for a in np.arange(steps) * 2 * np.pi / steps:
            out.append((float(np.cos(a) * np.cos(e)), float(np.sin(a) * np.cos(e)), float(np.sin(e))))
    return tuple(out)


def _worn(points: Array, outward: Array, zones: tuple[Wear, ...]) -> Array:
    for zone in zones:
        r = np.linalg.norm(points - np.array(zone.centre), axis=1) / zone.radius_mm
        points = points - (zone.depth_mm * np.clip(1 - r**2, 0, 1) ** 2)[:, None] * outward
    return points


_MOST_NODES = 150_000_000


def require_settings(settings: ScanSettings, solid: ExactSolid) -> None:
    """Raises ContourError (bad-params) for settings that no scan can be taken with."""
    size = np.ptp(solid.vertices, axis=0)
    checks = (
        ("spacing", settings.spacing_mm, settings.spacing_mm > 0, "more than 0 mm"),
        ("noise", settings.noise_mm, 0 <= settings.noise_mm <= 0.5 * settings.spacing_mm, "0 to half the spacing"),
        ("soften", settings.soften, 0 <= settings.soften <= 50, "0 to 50 rounds"),
        ("deep", settings.deep, 0 <= settings.deep < 1, "0 to 1"),
        ("wear", len(settings.worn), all(w.radius_mm > 0 for w in settings.worn), "a radius of more than 0 mm"),
    )
    for name, got, good, need in checks:
        if not good:
            raise ContourError(
                "bad-params",
                f"the scanner cannot work with this {name}",
                where=Where(param=name),
                got=f"{got:g}",
                need=need,
                remedy="choose another value",
            )
    nodes = float(np.prod(size / settings.spacing_mm + 6))
    if nodes > _MOST_NODES or settings.spacing_mm > 0.34 * float(size.max()):
        need = f"{float(np.cbrt(np.prod(size) / _MOST_NODES)):.2g} to {0.34 * float(size.max()):.2g} mm"
        raise ContourError(
            "bad-params",
            "this spacing does not suit the part's size",
            where=Where(param="spacing"),
            got=f"{settings.spacing_mm:g} mm",
            need=need,
            remedy="choose a spacing between the two",
        )


def virtual_scan(solid: ExactSolid, settings: ScanSettings) -> VirtualScan:
    """Scan a solid (in its own frame); the result lies in the pose's frame."""
    rng = np.random.default_rng(settings.seed)
    step = settings.spacing_mm
    low, high = solid.vertices.min(axis=0), solid.vertices.max(axis=0)
    origin = low - 2.5 * step - rng.uniform(0, 0.5 * step, 3)
    shape = tuple(int(n) for n in np.ceil((high - origin) / step).astype(int) + 4)
    inside = _inside_grid(solid, origin, shape, step)
    net, quads = surface_net(inside)
    points = signed_distances(solid, origin + step * net)[2]
    mean = averaging(np.vstack([quads[:, [0, 1, 2]], quads[:, [0, 2, 3]]]).astype(np.int32), len(points))
    for _ in range(3):  # even out along the surface
        points = signed_distances(solid, points + 0.5 * (mean @ points - points))[2]
    facets = split_quads(points, quads)
    centroids, normals, areas = facet_geometry(points, facets)
    true_face = signed_distances(solid, centroids)[1]
    keep = areas > 1e-4 * step * step
    if settings.views:
        keep &= _seen(centroids, normals, inside, origin, step, tuple(np.array(v, dtype=float) for v in settings.views))
    if settings.deep > 0:
        keep &= _sky(centroids, normals, inside, origin, step) >= settings.deep
    for centre, radius in settings.dropouts:
        keep &= np.linalg.norm(centroids - np.array(centre), axis=1) > radius
    if settings.wear is not None:
        points = settings.wear(points)
    if settings.worn:
        points = _worn(points, vertex_normals(points, facets), settings.worn)
    mean = averaging(facets, len(points))
    for _ in range(settings.soften):
        points = points + 0.5 * (mean @ points - points)
    points = points + vertex_normals(points, facets) * rng.normal(0, settings.noise_mm, (len(points), 1))
    facets, true_face = facets[keep], true_face[keep]
    order = rng.permutation(len(facets))  # scanners do not sort their facets
    facets, true_face = facets[order], true_face[order]
    used = np.unique(facets)
    rank = np.full(len(points), -1, np.int32)
    rank[used] = np.arange(len(used), dtype=np.int32)
    return VirtualScan(settings.pose.apply(points[used]), rank[facets], true_face)
