"""Where one scan lies on another: searched for without any hint, and settled from nearly right."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from contour.geometry.rigid import inverse, moved, turned
from contour.mesh.nearest import nearest_on_triangles
from contour.mesh.prepare import PreparedScan
from contour.register.best_fit import even_samples
from contour.register.icp import Target, settle, target_of
from contour.register.pose_votes import vote_poses

__all__ = ["Laid", "laid_on", "searched"]


@dataclass(frozen=True, slots=True)
class Laid:
    """matrix: T_target_scan (4, 4) · overlap: share of the scan that lies on the target · error, p95: rms and 95 % of its distances
    there, mm."""

    matrix: NDArray[np.float64]
    overlap: float
    error: float
    p95: float


def searched(scan: PreparedScan, b: PreparedScan, target: Target) -> NDArray[np.float64] | None:
    """T_scan_b (4, 4), mm, on which both scans agree most; none when they hardly do. target: of the scan."""
    points, normals = even_samples(b.vertices, b.facets, 1200)
    model, model_normals = even_samples(scan.vertices, scan.facets, 1600)
    own = target_of(b.vertices, b.facets, across=b.across)
    size = float(np.linalg.norm(np.ptp(scan.vertices, axis=0)))
    few, few_model = slice(0, 250), slice(0, 250)

    def agreement(matrix: NDArray[np.float64], reach: float, mine: slice, theirs: slice, weight: float) -> float:
        back = inverse(matrix)
        one = _agreement(target, moved(matrix, points[mine]), turned(matrix, normals[mine]), reach, weight)
        two = _agreement(own, moved(back, model[theirs]), turned(back, model_normals[theirs]), reach, weight)
        return one + two

    scored: list[tuple[float, NDArray[np.float64]]] = []
    for pose in vote_poses(points, normals, model, model_normals, references=160):
        if not any(
            np.linalg.norm(moved(pose, points[:8]) - moved(m, points[:8]), axis=1).max() < 0.03 * size
            for _, m in scored
        ):
            scored.append((agreement(pose, 0.03 * size, few, few_model, 4.0), pose))
    scored.sort(key=lambda r: -r[0])
    best: tuple[float, NDArray[np.float64]] | None = None
    for _, pose in scored[:32]:
        made = settle(
            target, points[few], pose, normals=normals[few], reach_mm=0.05 * size, least_mm=0.006 * size, rounds=20
        ).matrix
        made = settle(
            target, points, made, normals=normals, reach_mm=0.015 * size, least_mm=0.003 * size, rounds=20
        ).matrix
        share = agreement(made, 0.006 * size, slice(None), slice(None), 12.0)
        if best is None or share > best[0]:
            best = (share, made)
    return None if best is None or best[0] < 0.05 else best[1]


def _agreement(
    target: Target, points: NDArray[np.float64], normals: NDArray[np.float64], reach: float, weight: float
) -> float:
    """Share of points on the other scan, less `weight` times the share of those that stand off it and face as it does.

    A large overlap alone proves nothing: two flat sides lie on each other in any pose. But where one scan shows a surface, the
    other cannot show another one before or behind it that faces the same way.
    """
    feet, owner = nearest_on_triangles(target.tree, points)
    away = points - feet
    gap = np.linalg.norm(away, axis=1)
    facing = np.einsum("ij,ij->i", normals, target.normals[owner])
    alike = facing > 0.6
    inside = np.ones(len(points), np.bool_) if target.barred is None else ~target.barred[owner]
    square = np.abs(np.einsum("ij,ij->i", away, target.normals[owner])) > 0.9 * gap
    near = (gap < reach) & alike & inside
    # A wall that stands across, deep under the other's surface, is inside the other's material.
    buried = (np.abs(facing) < 0.4) & (np.einsum("ij,ij->i", away, target.normals[owner]) < 0)
    against = (gap > 2 * reach) & (alike | buried) & inside & square
    return float(near.mean() - weight * against.mean())


def laid_on(target: Target, scan: PreparedScan, b: PreparedScan, start: NDArray[np.float64]) -> Laid:
    """A scan settled on another from a start (4, 4), mm, that is nearly right. target: of all that it is laid on."""
    size = float(np.linalg.norm(np.ptp(scan.vertices, axis=0)))
    points, normals = even_samples(b.vertices, b.facets, 12_000)
    noise = max(scan.noise_mm, b.noise_mm)
    fine = settle(
        target, points, start, normals=normals, reach_mm=0.02 * size, least_mm=max(4 * noise, 2e-4 * size), rounds=60
    )
    p = moved(fine.matrix, points)
    feet, owner = nearest_on_triangles(target.tree, p)
    gap = np.einsum("ij,ij->i", p - feet, target.normals[owner])
    alike = np.einsum("ij,ij->i", turned(fine.matrix, normals), target.normals[owner]) > 0.5
    both = (np.linalg.norm(p - feet, axis=1) < max(6 * noise, 2e-3 * size)) & alike
    if target.barred is not None:
        both &= ~target.barred[owner]
    return Laid(
        fine.matrix,
        float(both.mean()),
        float(np.sqrt((gap[both] ** 2).mean())) if both.any() else 0.0,
        float(np.percentile(np.abs(gap[both]), 95)) if both.any() else 0.0,
    )
