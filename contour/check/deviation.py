"""Signed deviation of scan vertices from solids, against an acceptance: the running answer to "does it fit?"."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from contour.check.exact_distance import signed_distances
from contour.check.exact_solid import ExactSolid
from contour.mesh.nearest import build_tree, nearest_on_triangles
from contour.mesh.prepare import PreparedScan

__all__ = ["Fit", "Worst", "at_facet", "deviations", "sample_order", "summarise", "unseen_share"]

_BINS = 48


@dataclass(frozen=True, slots=True)
class Worst:
    """A place where the scan strays most; deviation mm, + when the scan lies outside the solid."""

    point: tuple[float, float, float]
    deviation: float


@dataclass(frozen=True, slots=True)
class Fit:
    """Deviation of a scan, weighted by the area each vertex stands for. Lengths in mm, shares 0..1.

    histogram: area shares of equal bins over ±2 acceptances; what lies beyond is in the outermost bins.
    """

    points: int
    acceptance: float
    inside_share: float
    mean: float
    rms: float
    p95: float
    max: float
    unseen_share: float | None
    worst: tuple[Worst, ...]
    histogram: tuple[float, ...]
    sampled: bool

    def as_json(self) -> dict[str, Any]:
        from dataclasses import asdict

        return asdict(self)


def sample_order(count: int, most: int = 20_000) -> NDArray[np.int64]:
    """A fixed sample of vertices, so that the fit of two states can be compared.

    Ids (k,) int64, ascending, k <= most.
    """
    if count <= most:
        return np.arange(count)
    return np.sort(np.random.default_rng(11).choice(count, most, replace=False))


def deviations(solids: Sequence[ExactSolid], points: NDArray[np.float64]) -> NDArray[np.float64]:
    """Signed distance (n,) to the union of solids: of the nearest surface, inside when inside any of them."""
    out = signed_distances(solids[0], points)[0]
    for solid in solids[1:]:
        d = signed_distances(solid, points)[0]
        nearer = np.abs(d) < np.abs(out)
        # Outside both: the nearer one counts. Inside one of them: the deeper distance to its skin stays negative.
        inside = (d < 0) | (out < 0)
        size = np.where(nearer, np.abs(d), np.abs(out))
        out = np.where(inside, -size, size)
    return out


def unseen_share(
    solids: Sequence[ExactSolid], vertices: NDArray[np.float64], facets: NDArray[np.int32], reach_mm: float
) -> float:
    """Share of the solids' surface with nothing of the scan within `reach_mm`, by 12,000 seeded surface samples.

    vertices (n, 3), mm, in the solids' frame, facets (m, 3): one whose sides are longer than the reach is seen all over, as those of modelled
    meshes are.
    """
    rng = np.random.default_rng(5)
    corners = np.vstack([s.vertices[s.triangles] for s in solids])
    areas = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1)
    pick = np.sort(rng.choice(len(areas), 12_000, p=areas / areas.sum()))
    w = rng.dirichlet([1, 1, 1], len(pick))
    samples = np.einsum("nk,nkd->nd", w, corners[pick])
    # float32 would do, but the tree copies to float64 anyway
    distance, _ = cKDTree(vertices).query(samples, distance_upper_bound=reach_mm)
    far = samples[~np.isfinite(distance)]
    sides = vertices[facets] - vertices[np.roll(facets, -1, axis=1)]
    large = facets[np.einsum("nkd,nkd->nk", sides, sides).max(axis=1, initial=0.0) > reach_mm**2]
    if len(far) and len(large):
        feet, _ = nearest_on_triangles(build_tree(vertices, large), far)
        far = far[np.linalg.norm(feet - far, axis=1) > reach_mm]
    return len(far) / len(samples)


def _worst(points: NDArray[np.float64], d: NDArray[np.float64], acceptance: float, apart: float) -> tuple[Worst, ...]:
    """Up to five places outside the acceptance, each the worst of its neighbourhood."""
    out: list[Worst] = []
    left = np.flatnonzero(np.abs(d) > acceptance)
    while len(left) and len(out) < 5:
        k = left[np.argmax(np.abs(d[left]))]
        p = points[k]
        out.append(Worst((float(p[0]), float(p[1]), float(p[2])), float(d[k])))
        left = left[np.linalg.norm(points[left] - p, axis=1) > apart]
    return tuple(out)


def summarise(
    points: NDArray[np.float64],
    weights: NDArray[np.float64],
    d: NDArray[np.float64],
    *,
    acceptance_mm: float,
    unseen: float | None,
    sampled: bool,
) -> Fit:
    """Figures of deviations `d` (n,) at `points` (n, 3) that stand for areas `weights` (n,). All mm, areas mm²."""
    total = weights.sum()
    w = weights / total if total > 0 else np.full(len(d), 1 / len(d))
    size = np.abs(d)
    order = np.argsort(size)
    rank = int(np.searchsorted(np.cumsum(w[order]), 0.95))
    p95 = float(size[order[min(rank, len(d) - 1)]])
    bins = np.clip(((d / (2 * acceptance_mm) + 1) / 2 * _BINS).astype(int), 0, _BINS - 1)
    extent = float(np.linalg.norm(np.ptp(points, axis=0)))
    k = int(np.argmax(size))
    worst = _worst(points, d, acceptance_mm, 0.15 * extent)
    if not worst:
        worst = (Worst((float(points[k, 0]), float(points[k, 1]), float(points[k, 2])), float(d[k])),)
    return Fit(
        points=len(d),
        acceptance=acceptance_mm,
        inside_share=float(w[size <= acceptance_mm].sum()),
        mean=float(w @ d),
        rms=float(np.sqrt(w @ d**2)),
        p95=p95,
        max=float(d[k]),
        unseen_share=unseen,
        worst=worst,
        histogram=tuple(float(x) for x in np.bincount(bins, w, _BINS)),
        sampled=sampled,
    )


def at_facet(scan: PreparedScan, values: NDArray[Any], facet: int, point: NDArray[np.float64]) -> float:
    """A figure known at the vertices, at a point of a facet (linear between its corners).

    values (n,) in any unit, one each vertex; point (3,), mm.
    """
    corners = scan.facets[facet]
    a, b, c = scan.vertices[corners]
    rows = np.vstack([np.column_stack([a, b, c]), np.ones(3)])
    w = np.linalg.lstsq(rows, np.append(point, 1.0), rcond=None)[0].clip(0, 1)
    return float(values[corners] @ (w / w.sum()))
