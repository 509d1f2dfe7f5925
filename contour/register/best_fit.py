"""Best fit of a scan onto a reference solid, from any starting pose."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from contour.geometry.rigid import moved
from contour.mesh.nearest import nearest_on_triangles
from contour.recipe.problem import ContourError
from contour.register.icp import Target, settle, target_of
from contour.register.pose_votes import vote_poses

__all__ = ["BestFit", "best_fit", "even_samples"]

Array = NDArray[np.float64]


Measure = Callable[[Array], tuple[Array, NDArray[np.int32], Array]]


class Faceted(Protocol):
    """A solid's triangles: vertices (n, 3) mm, triangles (m, 3) outward."""

    @property
    def vertices(self) -> Array: ...
    @property
    def triangles(self) -> NDArray[np.int32]: ...


@dataclass(frozen=True, slots=True)
class BestFit:
    """matrix: T_solid_scan (4x4) · rms, p95 of the distances of all points in mm · inside_share within the acceptance ·
    second: how much of the scan the next best, different placement explains (0..1), to tell symmetric parts."""

    matrix: Array
    rms: float
    p95: float
    inside_share: float
    share: float
    second: float


def even_samples(vertices: Array, triangles: NDArray[np.int32], count: int, seed: int = 5) -> tuple[Array, Array]:
    """About `count` points spread evenly over a surface, and their normals: the first of each cell of a grid.

    vertices (n, 3) mm, triangles (m, 3); answers (count, 3) both.
    """
    rng = np.random.default_rng(seed)
    p = vertices[triangles]
    cross = np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0])
    areas = np.linalg.norm(cross, axis=1)
    pick = rng.choice(len(areas), 12 * count, p=areas / areas.sum())
    w = rng.dirichlet([1, 1, 1], len(pick))
    points = np.einsum("nk,nkd->nd", w, p[pick])
    normals = cross[pick] / areas[pick, None]
    cell = np.sqrt(areas.sum() / 2 / count)
    grid = np.floor((points - points.min(axis=0)) / cell).astype(np.int64)
    # Opposite sides of a thin wall share a cell: the normal's main direction keeps them apart.
    side = np.argmax(np.abs(normals), axis=1) * 2 + (
        normals[np.arange(len(normals)), np.argmax(np.abs(normals), axis=1)] > 0
    )
    _, first = np.unique(np.column_stack([grid, side]), axis=0, return_index=True)
    first = rng.permutation(first)[:count]
    return points[first], normals[first]


def _score(target: Target, points: Array, normals: Array, matrix: Array, reach: float) -> float:
    """Share of points within the reach that face alike."""
    p = moved(matrix, points)
    feet, owner = nearest_on_triangles(target.tree, p)
    alike = np.einsum("ij,ij->i", normals @ matrix[:3, :3].T, target.normals[owner]) > 0.5
    return float(((np.linalg.norm(p - feet, axis=1) < reach) & alike).mean())


def _different(a: Array, b: Array, points: Array, reach: float) -> bool:
    return bool(np.median(np.linalg.norm(moved(a, points) - moved(b, points), axis=1)) > reach)


def best_fit(
    vertices: Array,
    facets: NDArray[np.int32],
    solid: Faceted,
    measure: Measure,
    *,
    noise_mm: float,
    acceptance_mm: float = 0.1,
) -> BestFit:
    """Place a scan (vertices (n, 3), facets (m, 3) outward) on a solid; the scan may lack parts.

    measure: what tells the distances (n,) of points (n, 3) to the solid, the face of each, and the nearest places (n, 3); mm.

    Raises ContourError (not-aligned) when no placement explains at least a third of the scan.
    """
    model, model_normals = even_samples(solid.vertices, solid.triangles, 1600)
    points, normals = even_samples(vertices, facets, 1400)
    size = float(np.linalg.norm(np.ptp(solid.vertices, axis=0)))
    target = target_of(solid.vertices, solid.triangles)
    poses = vote_poses(points, normals, model, model_normals)
    few, few_normals = points[:250], normals[:250]
    scored = sorted(poses, key=lambda m: -_score(target, few, few_normals, m, 0.03 * size))
    rough: list[tuple[float, Array]] = []
    least = max(3.5 * noise_mm, 1e-4 * size)
    for pose in scored[:48]:
        if any(not _different(pose, m, few, 0.02 * size) for _, m in rough[:8]):
            continue
        made = settle(target, few, pose, normals=few_normals, reach_mm=0.08 * size, least_mm=0.004 * size, rounds=15)
        rough.append((_score(target, few, few_normals, made.matrix, 0.006 * size), made.matrix))
        rough.sort(key=lambda r: -r[0])
    finer: list[tuple[float, Array]] = []
    for _, pose in rough[:8]:
        made = settle(target, points, pose, normals=normals, reach_mm=0.02 * size, least_mm=least, rounds=40)
        finer.append((_score(target, points, normals, made.matrix, max(2 * least, 0.001 * size)), made.matrix))
    finer.sort(key=lambda r: -r[0])
    if not finer or finer[0][0] < 0.33:
        share = finer[0][0] if finer else 0.0
        raise ContourError(
            "not-aligned",
            "no placement of the scan on the solid explains enough of it",
            got=f"{100 * share:.0f} % of the scan",
            need="at least 33 %",
            remedy="check that both are the same part and have the same unit",
        )
    share, matrix = finer[0]
    other = max((s for s, m in finer[1:] if _different(m, matrix, points, 0.01 * size)), default=0.0)
    matrix = _exactly(vertices, solid, measure, target, matrix, least)
    d = np.abs(measure(moved(matrix, vertices))[0])
    return BestFit(
        matrix,
        float(np.sqrt((d**2).mean())),
        float(np.percentile(d, 95)),
        float((d <= acceptance_mm).mean()),
        share,
        other,
    )


def _exactly(vertices: Array, solid: Faceted, measure: Measure, target: Target, matrix: Array, least: float) -> Array:
    """The last rounds with many points and distances to the true faces instead of their triangles."""
    rng = np.random.default_rng(9)
    pick = vertices if len(vertices) <= 30_000 else vertices[np.sort(rng.choice(len(vertices), 30_000, replace=False))]
    size = float(np.linalg.norm(np.ptp(solid.vertices, axis=0))) / 2
    from contour.geometry.rigid import small_motion

    for _ in range(8):
        p = moved(matrix, pick)
        d, _, feet = measure(p)
        _, owner = nearest_on_triangles(target.tree, p)
        n = target.normals[owner]
        # Off the surface the way to the foot is the exact normal; on it the triangle's will do.
        off = np.abs(d) > 0.2 * least
        n[off] = (p[off] - feet[off]) / d[off, None]
        reach = max(least, 4.0 * 1.4826 * float(np.median(np.abs(d))))
        weight = (1 - np.minimum(np.abs(d) / reach, 1) ** 2) ** 2
        middle = (weight @ p) / weight.sum()
        rows = np.hstack([np.cross(p - middle, n) / size, n])
        normal = rows.T @ (rows * weight[:, None])
        step = np.linalg.lstsq(normal + 1e-9 * np.trace(normal) * np.eye(6), -rows.T @ (weight * d), rcond=None)[0]
        step[:3] /= size
        about, back = np.eye(4), np.eye(4)
        about[:3, 3], back[:3, 3] = middle, -middle
        matrix = about @ small_motion(step) @ back @ matrix
        if np.linalg.norm(step[3:]) + size * np.linalg.norm(step[:3]) < 1e-6:
            break
    return matrix
