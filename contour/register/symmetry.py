"""The symmetry plane of a scan: its mirror image placed on itself.

Reference: the mirrored scan is matched to the scan by pair votes (see :mod:`contour.register.pose_votes`); only placements that
make a pure reflection together with the mirroring are kept, and the plane alone is then settled on the nearest points,
robustly, so that wear on one side does not pull it.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from contour.mesh.nearest import nearest_on_triangles
from contour.recipe.problem import ContourError
from contour.register.best_fit import even_samples
from contour.register.icp import Target, target_of
from contour.register.pose_votes import vote_poses

__all__ = ["SymmetryPlane", "symmetry_planes"]

Array = NDArray[np.float64]
_UNWORN = 0.9  # share on which a plane agrees closely: nothing is left that wear could have pulled off
_NO_BETTER = 10  # parts of the scan that settle to nothing better in a row: wear is not what holds it off


@dataclass(frozen=True, slots=True)
class SymmetryPlane:
    """point, normal (unit) of the plane, scan frame · agree: share of the scan whose mirror image lies on the scan within
    the fine reach · near: within a fiftieth of its size, which wear keeps and a missing feature does not."""

    point: tuple[float, float, float]
    normal: tuple[float, float, float]
    agree: float
    near: float


def _reflected(points: Array, normal: Array, offset: float) -> Array:
    return points - 2 * ((points @ normal) - offset)[:, None] * normal


def _settled(
    target: Target,
    points: Array,
    normals: Array,
    normal: Array,
    offset: float,
    reach: float,
    least: float,
    rounds: int = 20,
) -> tuple[Array, float]:
    """Gauss-Newton on the plane's three numbers; the reach shrinks as in :func:`contour.register.icp.settle`."""
    middle = points.mean(axis=0)
    size = float(np.linalg.norm(np.ptp(points, axis=0))) / 2
    for _ in range(20):
        e = np.eye(3)[int(np.argmin(np.abs(normal)))]
        u = np.cross(normal, e)
        u /= np.linalg.norm(u)
        v = np.cross(normal, u)
        q = _reflected(points, normal, offset)
        feet, owner = nearest_on_triangles(target.tree, q)
        n = target.normals[owner]
        gap = np.einsum("ij,ij->i", q - feet, n)
        away = np.linalg.norm(q - feet, axis=1)
        facing = normals - 2 * (normals @ normal)[:, None] * normal
        counts = (away < reach) & (np.einsum("ij,ij->i", facing, n) > 0.5)
        if target.barred is not None:
            counts &= ~target.barred[owner]
        if counts.sum() < 30:
            break
        weight = np.where(counts, (1 - np.minimum(away / reach, 1) ** 2) ** 2, 0.0)
        h = (points @ normal) - offset
        # q = p - 2 h n; dn = a u + b v, d offset = c (taken at the middle of the scan, where it is independent of the turn)
        rows = []
        for d in (u, v):
            dh = (points - middle) @ d
            rows.append(-2 * (dh * (n @ normal) + h * (n @ d)) / size)
        rows.append(2 * (n @ normal))
        a = np.column_stack(rows)
        step = np.linalg.lstsq(a * np.sqrt(weight)[:, None], -gap * np.sqrt(weight), rcond=None)[0]
        turn = (step[0] * u + step[1] * v) / size
        held = middle @ normal - offset
        normal = normal + turn
        normal /= np.linalg.norm(normal)
        offset = float(middle @ normal - held + step[2])
        spread = 1.4826 * float(np.median(np.abs(gap[counts])))
        narrower = max(least, min(reach, 3.5 * spread, 0.8 * reach))
        if np.abs(step).max() < 0.01 * least and narrower > 0.98 * reach:
            break
        reach = narrower
    return normal, offset


def _past_wear(
    target: Target, points: Array, normals: Array, normal: Array, offset: float, size: float, least: float
) -> tuple[Array, float]:
    """The plane on which most of the scan agrees to the noise.

    Wear over a third of the part holds a fit of everything off the true plane. So parts of the scan settle by
    themselves, all of it is asked how much agrees, and the best answer is refined on what agrees.
    """
    rng = np.random.default_rng(12)
    start = normal, offset
    best, most = start, _closeness(target, points, normals, *start, 0.25 * least)
    since = 0
    for _ in range(24):
        if since == _NO_BETTER:
            break
        since += 1
        about = points[rng.integers(len(points))]
        near = np.linalg.norm(points - about, axis=1) < rng.uniform(0.25, 0.5) * size
        if near.sum() < 60:
            continue
        tried = _settled(target, points[near], normals[near], *start, 0.015 * size, least)
        share = _closeness(target, points, normals, *tried, 0.25 * least)
        if share > most:
            since = 0 if share > 1.02 * most else since
            best, most = tried, share
    # Wear of an end face shifts the plane as a whole; sides that face along its normal pull no other way. Of the shifts the best ones
    # are settled, and some of each gap in the ranking too: two offsets that are nearly as good lie far apart.
    shifts = [(best[0], best[1] + float(k)) for k in np.linspace(-0.012, 0.012, 61) * size]
    shares = [_closeness(target, points, normals, *s, 0.5 * least) for s in shifts]
    fewer, fewer_normals = points[::2], normals[::2]
    for k in dict.fromkeys([*sorted(range(len(shares)), key=lambda i: -shares[i])[:8], *range(0, 61, 6)]):
        tried = _settled(target, fewer, fewer_normals, shifts[k][0], shifts[k][1], 1.2 * least, 0.75 * least)
        share = _closeness(target, points, normals, *tried, 0.25 * least)
        if share > most:
            best, most = tried, share
    last = _settled(target, points, normals, *best, 1.5 * least, 0.75 * least)
    return last if _closeness(target, points, normals, *last, 0.25 * least) >= most else best


def symmetry_planes(
    vertices: Array, facets: NDArray[np.int32], across: NDArray[np.int32], *, noise_mm: float, least_near: float = 0.95
) -> tuple[SymmetryPlane, ...]:
    """Planes of mirror symmetry, best first; at least one.

    Raises ContourError (no-symmetry) with the best plane's share when the scan has none.
    vertices (n, 3) mm, facets and across (m, 3).
    """
    points, normals = even_samples(vertices, facets, 1400)
    size = float(np.linalg.norm(np.ptp(points, axis=0)))
    target = target_of(vertices, facets, across=across)
    mirror = np.diag([-1.0, 1.0, 1.0])
    poses = vote_poses(points @ mirror, normals @ mirror, points, normals, references=80)
    least = max(4 * noise_mm, 2e-4 * size)
    found: list[SymmetryPlane] = []
    tried: list[tuple[Array, float]] = []
    rough: list[tuple[float, Array, float]] = []
    dense, dense_normals = even_samples(vertices, facets, 3000, seed=8)
    cells = np.floor((dense - dense.min(axis=0)) / (size / 24))
    near_by = np.lexsort(cells.T)  # one nearest point is a good start for the next
    dense, dense_normals = dense[near_by], dense_normals[near_by]
    for pose in poses[:160]:
        r = pose[:3, :3] @ mirror
        # A reflection is I - 2 n n^T: its axis is the eigenvector of -1, and what moves along the plane would be a glide.
        values, axes = np.linalg.eigh((r + r.T) / 2)
        normal = axes[:, 0]
        if values[0] > -0.97 or values[1] < 0.9:
            continue
        glide = pose[:3, 3] - (pose[:3, 3] @ normal) * normal
        if np.linalg.norm(glide) > 0.15 * size + 0.15 * np.linalg.norm(pose[:3, 3]):
            continue
        offset = float(pose[:3, 3] @ normal / 2)
        if any(abs(normal @ n) > 0.995 and abs(offset - np.sign(normal @ n) * o) < 0.02 * size for n, o in tried):
            continue
        tried.append((normal, offset))
        if _shares(target, points[:300], normals[:300], normal, offset, 0.03 * size, 0.05 * size)[0] < 0.4:
            continue
        normal, offset = _settled(target, points[:500], normals[:500], normal, offset, 0.05 * size, 0.01 * size)
        rough.append((_shares(target, points, normals, normal, offset, 0.01 * size, 0.02 * size)[1], normal, offset))
        if len(tried) > 30:
            break
    rough.sort(key=lambda r: -r[0])
    middle = points.mean(axis=0)
    plain: list[tuple[float, float, Array, float]] = []
    for share, normal, offset in rough[:4]:
        if plain and share < 0.8 * least_near:
            break
        normal, offset = _settled(target, dense, dense_normals, normal, offset, 0.015 * size, least)
        plain.append((*_shares(target, dense, dense_normals, normal, offset, 0.5 * least, 0.02 * size), normal, offset))
    plain.sort(key=lambda c: -c[0])
    for agree, near, normal, offset in plain:
        if found and agree < 0.5 * found[0].agree:
            continue  # no wear hides a plane on which so little agrees beside one on which so much does
        if agree < _UNWORN:
            normal, offset = _past_wear(target, dense, dense_normals, normal, offset, size, least)
            agree, near = _shares(target, dense, dense_normals, normal, offset, 0.5 * least, 0.02 * size)
        p = middle - (middle @ normal - offset) * normal
        found.append(SymmetryPlane(_triple(p), _triple(normal), agree, near))
    # Among planes that keep every feature the one on which most agrees closely: wear drags others a little off.
    found.sort(key=lambda s: (s.near < least_near, -s.agree))
    best = found[0] if found else None
    if best is None or best.near < least_near or best.agree < 0.25:
        raise ContourError(
            "no-symmetry",
            "the scan has no plane of symmetry",
            got="no candidate"
            if best is None
            else f"the best plane: {100 * best.near:.0f} % of the scan has a counterpart near its "
            f"mirror image, {100 * best.agree:.0f} % within {0.5 * least:.2g} mm",
            need=f"{100 * least_near:.0f} %",
            remedy="ask for a smaller share, or use a plane region or typed values instead",
        )
    out: list[SymmetryPlane] = []
    for s in found:
        same = any(
            abs(np.dot(s.normal, t.normal)) > 0.999
            and abs(np.dot(np.subtract(s.point, t.point), t.normal)) < 0.005 * size
            for t in out
        )
        if s.near >= least_near and s.agree >= 0.25 and not same:
            out.append(s)
    return tuple(out)


def _triple(p: Array) -> tuple[float, float, float]:
    return float(p[0]), float(p[1]), float(p[2])


def _images(
    target: Target, points: Array, normals: Array, normal: Array, offset: float
) -> tuple[Array, NDArray[np.bool_], NDArray[np.bool_]]:
    """Distance of each point's mirror image from the scan, whether both face alike, and whether the scan has a border there."""
    q = _reflected(points, normal, offset)
    facing = normals - 2 * (normals @ normal)[:, None] * normal
    feet, owner = nearest_on_triangles(target.tree, q)
    alike = np.einsum("ij,ij->i", facing, target.normals[owner]) > 0.5
    rim = np.zeros(len(q), np.bool_) if target.barred is None else target.barred[owner]
    return np.linalg.norm(q - feet, axis=1), alike, rim


def _closeness(target: Target, points: Array, normals: Array, normal: Array, offset: float, scale: float) -> float:
    """How much of the scan lies how close to its mirror image (0..1): counts what agrees within about the scale, the closer
    the more, so that one answer beats another that is as wide but not as sharp."""
    away, alike, rim = _images(target, points, normals, normal, offset)
    told = ~(rim & (away > scale))
    return float((np.exp(-((away / scale) ** 2)) * (alike & told)).sum() / max(int(told.sum()), 1))


def _shares(
    target: Target, points: Array, normals: Array, normal: Array, offset: float, fine: float, loose: float
) -> tuple[float, float]:
    """Shares of the points whose mirror image lies on the scan within two reaches; images in its gaps are not counted."""
    away, alike, rim = _images(target, points, normals, normal, offset)
    told = ~(rim & (away > fine))
    count = max(int(told.sum()), 1)
    near = float(((away < loose) & alike & told).sum() / count)
    return float(((away < fine) & alike & told).sum() / count), near
