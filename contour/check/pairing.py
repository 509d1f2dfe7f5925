"""Which region of the scan each face of a body should lie on: found by looking from the face along its normal."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from contour.fit.region import Region, grow_region
from contour.geometry.surfaces import Surface, distances
from contour.mesh.prepare import PreparedScan
from contour.recipe.problem import ContourError
from contour.solid.face_geometry import face_surface
from contour.solid.moved_faces import rolling_faces
from contour.solid.shape import NamedShape, faces
from contour.solid.tessellate import tessellate

__all__ = ["SEATED", "Lay", "Pairing", "default_reach", "lay_of", "propose_pairs", "region_points"]

Array = NDArray[np.float64]
_SAMPLES = 240
_FEW_FACETS = 12
# Kinds of faces that are moved onto the scan: tori follow, as fillets do.
SEATED = ("plane", "cylinder", "cone", "sphere")


@dataclass(frozen=True, slots=True)
class Lay:
    """How a region lies to a face: `offset` mm along the face's outward normal brings the face onto it; what is left
    then is `tilt_deg` and, for cylinders, `shift_mm` between the axes. `before` and `after` are rms distances, mm."""

    offset: float
    tilt_deg: float
    shift_mm: float
    before: float
    after: float


@dataclass(frozen=True, slots=True)
class Pairing:
    """A proposed pair: place of the face in ``faces(shape)``, the seed facet its region grows from (prepared scan's
    numbering), or the region step it agrees with; and how they lie."""

    face: int
    seed: int
    region: str | None
    facets: int
    lay: Lay


def default_reach(scan: PreparedScan) -> float:
    """How far a rough face may lie off the scan and still be paired, mm."""
    return max(2.0, 0.03 * float(np.ptp(scan.vertices, axis=0).max()))


def _robust_mean(d: Array) -> float:
    """Mean after three rounds of leaving out what lies beyond 3 sigma."""
    kept = d
    for _ in range(3):
        centre, spread = float(np.median(kept)), 1.4826 * float(np.median(np.abs(kept - np.median(kept))))
        inside = np.abs(kept - centre) <= 3 * spread + 1e-9
        if inside.all() or inside.sum() < 6:
            break
        kept = kept[inside]
    return float(kept.mean())


def lay_of(face: Surface, surface: Surface, points: Array, *, rolls: Array | None = None) -> Lay:
    """How the points of a region (n, 3), with the surface fitted to them, lie to a face of the same kind. Cones of other angles are tilted.

    A face that rolls between its tangent neighbours moves its axis by `rolls` (3,) per millimetre of radius: the offset
    is then the one change of radius that brings it nearest to the points.
    """
    cosine = abs(float(face.along @ surface.along)) if face.kind != "sphere" else 1.0
    tilt = float(np.degrees(np.arccos(min(1.0, cosine)) + abs(face.half_angle - surface.half_angle)))
    d = distances(face, points)
    offset, shift, left = _robust_mean(d), 0.0, None
    if face.kind != "plane":
        if rolls is not None:
            offset, left = _rolled(face, rolls, points)
        middle = points.mean(axis=0)
        at = surface.at + ((middle - surface.at) @ surface.along) * surface.along if surface.round else surface.at
        off = at - face.at
        shift = float(np.linalg.norm(off if face.kind == "sphere" else off - (off @ face.along) * face.along))
    left = d - offset if left is None else left
    return Lay(offset, tilt, shift, float(np.sqrt(np.mean(d**2))), float(np.sqrt(np.mean(left**2))))


def _rolled(face: Surface, way: Array, points: Array) -> tuple[float, Array]:
    """Gauss-Newton on the radius alone, the axis following; gives the offset and the residuals that remain."""
    change = 0.0
    for _ in range(8):
        radial = points - (face.at + change * way)
        radial = radial - np.outer(radial @ face.along, face.along)
        far = np.linalg.norm(radial, axis=1)
        r = far - face.radius - change
        slope = -(radial / np.maximum(far, 1e-12)[:, None]) @ way - 1.0
        weight = np.minimum(1.0, 2.5 * np.median(np.abs(r)) / np.maximum(np.abs(r), 1e-12))
        step = -float((weight * r) @ slope) / max(float((weight * slope) @ slope), 1e-12)
        change += max(step, -0.5 * face.radius)
    return change * face.outward, r


def region_points(scan: PreparedScan, facets: NDArray[np.int64]) -> Array:
    """Vertices of a region away from its rim, where edges are softened; all of them when hardly any are left.

    (k, 3), mm, from the vertices of `facets` (m,).
    """
    kept = facets
    for _ in range(2):
        inside = np.zeros(len(scan.facets) + 1, np.bool_)
        inside[kept] = True
        beyond = np.where(scan.across[kept] < 0, -1, scan.across[kept] // 3)
        core = kept[inside[beyond].all(axis=1)]
        if len(core) < max(24, 0.2 * len(facets)):
            break
        kept = core
    return np.asarray(scan.vertices[np.unique(scan.facets[kept])])


def _samples(mesh: tuple[Array, NDArray[np.int32]], seed: int) -> tuple[Array, Array]:
    """Points spread over a face's triangles by area, with the triangles' normals."""
    vertices, triangles = mesh
    a, b, c = (vertices[triangles[:, k]] for k in range(3))
    cross = np.cross(b - a, c - a)
    size = np.linalg.norm(cross, axis=1)
    rng = np.random.default_rng(seed)
    pick = rng.choice(len(triangles), _SAMPLES, p=size / size.sum())
    u, v = rng.random((2, _SAMPLES))
    flip = u + v > 1
    u[flip], v[flip] = 1 - u[flip], 1 - v[flip]
    points = a[pick] + u[:, None] * (b - a)[pick] + v[:, None] * (c - a)[pick]
    return points, cross[pick] / size[pick, None]


def _coverage(scan: PreparedScan, region: Region, points: Array, lay: Lay) -> float:
    """Share of the face that has the region opposite it."""
    tree = cKDTree(scan.centroids[region.facets])
    away, _ = tree.query(points)
    return float(np.mean(away < abs(lay.offset) + 2.5 * scan.edge_mm))


def _seeds(scan: PreparedScan, near: NDArray[np.int64], offsets: Array) -> list[int]:
    """Facets to try, from the level nearest to the face on; in each level those in its middle first."""
    order = np.argsort(np.abs(offsets), kind="stable")
    best = offsets[order[: max(8, len(order) // 4)]]
    level = float(np.median(best))
    band = near[np.abs(offsets - level) < max(6 * scan.noise_mm, 0.3 * scan.edge_mm, 0.02)]
    band = band if len(band) else near[order[:8]]
    middle = np.median(scan.centroids[band], axis=0)
    inward = band[np.argsort(np.linalg.norm(scan.centroids[band] - middle, axis=1), kind="stable")]
    return [int(inward[int(k)]) for k in np.linspace(0, len(inward) - 1, min(6, len(inward)))]


def propose_pairs(
    scan: PreparedScan,
    body: NamedShape,
    *,
    wanted: Sequence[int] | None = None,
    tilt_deg: float = 3.0,
    reach_mm: float | None = None,
    regions: Mapping[str, NDArray[np.int64]] | None = None,
    kinds: Mapping[str, str] | None = None,
) -> list[Pairing]:
    """Pairs for the wanted faces (all when none): nearest, of the same kind, tilted less than the limit.

    `regions` are the facets (prepared numbering) of region steps that exist already, preferred where the seed lies in
    one of the same kind. Faces without a good partner are left out.
    region facets (m,) int64; `tilt_deg` degrees, `reach_mm` mm.
    """
    reach = reach_mm or default_reach(scan)
    mesh = tessellate(body.shape, chord_mm=0.1)
    owner = np.full(len(scan.facets), -1, np.int64)
    steps = list(regions or {})
    for k, step in enumerate(steps):
        owner[(regions or {})[step]] = k
    tree = cKDTree(scan.centroids)
    rolling = rolling_faces(body.shape)
    out = []
    for k, shape_face in enumerate(faces(body.shape)):
        if wanted is not None and k not in wanted:
            continue
        face = face_surface(shape_face)
        own = mesh.triangles[mesh.face == k]
        if face is None or face.kind not in SEATED or len(own) == 0:
            continue
        pairing = _pair(
            scan,
            tree,
            k,
            face,
            (mesh.vertices, own),
            tilt_deg,
            reach,
            owner,
            steps,
            kinds or {},
            regions or {},
            rolling.get(k),
        )
        if pairing is not None:
            out.append(pairing)
    return out


def _pair(
    scan: PreparedScan,
    tree: cKDTree,
    k: int,
    face: Surface,
    mesh: tuple[Array, NDArray[np.int32]],
    tilt_deg: float,
    reach: float,
    owner: NDArray[np.int64],
    steps: list[str],
    kinds: Mapping[str, str],
    regions: Mapping[str, NDArray[np.int64]],
    rolls: Array | None,
) -> Pairing | None:
    points, normals = _samples(mesh, k)
    # Look along the normal, both ways: sideways there may be other faces of the same direction.
    steps_out = np.linspace(-reach, reach, 9)
    probes = (points[:, None] + steps_out[None, :, None] * normals[:, None]).reshape(-1, 3)
    away, hit = tree.query(probes, distance_upper_bound=max(reach / 8, 1.2 * scan.edge_mm))
    found = np.isfinite(away)
    if found.sum() < 6:
        return None
    facet, normal = hit[found], np.repeat(normals, len(steps_out), axis=0)[found]
    facing = np.einsum("ij,ij->i", scan.smooth_normals[facet], normal) > np.cos(np.radians(tilt_deg + 12))
    near = np.unique(facet[facing])
    if len(near) < 4:
        return None
    offsets = distances(face, scan.centroids[near])
    kept = np.abs(offsets) <= reach
    near, offsets = near[kept], offsets[kept]
    if len(near) < 4:
        return None
    best: Pairing | None = None
    best_share = 0.0
    for seed in _seeds(scan, near, offsets):
        at = int(owner[seed])
        step = steps[at] if at >= 0 and kinds.get(steps[at]) == face.kind else None
        try:
            region = grow_region(scan, np.array([seed]), kind=face.kind)
        except ContourError:
            continue
        s = region.surface
        if len(region.facets) < _FEW_FACETS or (face.kind != "plane" and s.outward != face.outward):
            continue
        own = regions[step] if step is not None else region.facets
        lay = lay_of(face, s, region_points(scan, own), rolls=rolls)
        if lay.tilt_deg > tilt_deg or abs(lay.offset) > reach or lay.shift_mm > reach:
            continue
        if face.kind == "plane" and float(s.along @ face.along) < 0:
            continue
        share = _coverage(scan, region, points, lay)
        if share > best_share + 0.1 or (best is None and share > 0.2):
            best, best_share = Pairing(k, seed, step, len(own), lay), share
        if share > 0.6:
            break
    return best
