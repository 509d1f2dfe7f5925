"""Changing a mesh's facets on purpose: smoothing, thinning, refining, offsetting and trimming."""

from __future__ import annotations

import fast_simplification
import numba as nb
import numpy as np
from numpy.typing import NDArray

from contour.mesh.facets import Mesh, compacted
from contour.mesh.nearest import build_tree, nearest_on_triangles
from contour.mesh.prepare import PreparedScan
from contour.mesh.topology import facet_geometry, vertex_facets

__all__ = ["decimated", "decimated_within", "offset_mesh", "refined", "smoothed", "split_by_plane"]

Array = NDArray[np.float64]


@nb.njit(cache=True, nogil=True)
def _toward_normals(vertices, facets, normals, offsets, around, rounds, start, most):  # type: ignore[no-untyped-def]
    """Vertices moved until facets face along given normals; none farther than `most` from where it started."""
    p = vertices.copy()
    centre = np.empty((len(facets), 3))
    for _ in range(rounds):
        for f in range(len(facets)):
            for d in range(3):
                centre[f, d] = (p[facets[f, 0], d] + p[facets[f, 1], d] + p[facets[f, 2], d]) / 3
        for v in range(len(p)):
            a, b = offsets[v], offsets[v + 1]
            if a == b:
                continue
            x, y, z = 0.0, 0.0, 0.0
            for i in range(a, b):
                f = around[i]
                h = 0.0
                for d in range(3):
                    h += normals[f, d] * (centre[f, d] - p[v, d])
                x += h * normals[f, 0]
                y += h * normals[f, 1]
                z += h * normals[f, 2]
            p[v, 0] += x / (b - a)
            p[v, 1] += y / (b - a)
            p[v, 2] += z / (b - a)
        for v in range(len(p)):
            far = 0.0
            for d in range(3):
                far += (p[v, d] - start[v, d]) ** 2
            far = np.sqrt(far)
            if far > most:
                for d in range(3):
                    p[v, d] = start[v, d] + (p[v, d] - start[v, d]) * most / far
    return p


def smoothed(scan: PreparedScan, *, rounds: int, most_mm: float) -> Array:
    """Vertices of a scan with its noise taken out and its edges kept; facets stay.

    Facet normals are filtered bilaterally (the scan carries them), then vertices follow the normals, which neither
    shrinks the part nor rounds its edges. Reference: Sun et al., "Fast and effective feature-preserving mesh denoising", 2007.
    (n, 3), mm.
    """
    offsets, around = vertex_facets(scan.facets, len(scan.vertices))
    start = np.array(scan.vertices)
    return _toward_normals(start, scan.facets, scan.smooth_normals, offsets, around, rounds, start, most_mm)


def _with_sources(mesh: Mesh, vertices: Array, facets: NDArray[np.int32]) -> Mesh:
    """New facets named after the old facet they lie on."""
    tree = build_tree(mesh.vertices, mesh.facets)
    _, owner = nearest_on_triangles(tree, vertices[facets].mean(axis=1))
    return Mesh(vertices, facets, mesh.source[owner])


def decimated(mesh: Mesh, count: int) -> Mesh:
    """Thinned to about `count` facets by quadric edge collapses (Garland and Heckbert 1997, fast-simplification)."""
    if count >= len(mesh.facets):
        return mesh
    # The package works in single precision: relative to the middle nothing is lost that a scanner could measure.
    middle = mesh.vertices.mean(axis=0)
    points, facets = fast_simplification.simplify(
        (mesh.vertices - middle).astype(np.float32), mesh.facets.astype(np.int32), target_count=max(count, 4), agg=7
    )[:2]
    return compacted(
        _with_sources(mesh, points.astype(np.float64) + middle, np.ascontiguousarray(facets, dtype=np.int32))
    )


def deviation_between(before: Mesh, after: Mesh) -> float:
    """Largest distance of any vertex of either mesh from the other's surface, mm."""
    far = 0.0
    for a, b in ((before, after), (after, before)):
        ids = np.unique(a.facets)
        feet, _ = nearest_on_triangles(build_tree(b.vertices, b.facets), a.vertices[ids])
        far = max(far, float(np.linalg.norm(feet - a.vertices[ids], axis=1).max(initial=0.0)))
    return far


def decimated_within(mesh: Mesh, error_mm: float) -> tuple[Mesh, float]:
    """Thinned as far as no vertex lies farther than `error_mm` from the other surface; the mesh and its true error."""
    low, high = 0.0, 1.0
    best, error = mesh, 0.0
    for _ in range(7):
        share = np.sqrt(max(low, 1e-3) * high)
        made = decimated(mesh, int(share * len(mesh.facets)))
        far = deviation_between(mesh, made)
        if far <= error_mm:
            best, error, high = made, far, share
        else:
            low = share
        if high - low < 0.02 * high:
            break
    return best, error


def refined(mesh: Mesh, longest_mm: float, *, most_facets: int = 5_000_000) -> Mesh:
    """Sides longer than `longest_mm` split in their middles until none is left; neighbours share the new vertices."""
    for _ in range(12):
        f = mesh.facets
        a, b = f.astype(np.int64), np.roll(f, -1, axis=1).astype(np.int64)
        length = np.linalg.norm(mesh.vertices[a] - mesh.vertices[b], axis=2)
        key = np.minimum(a, b) * len(mesh.vertices) + np.maximum(a, b)
        long = length > longest_mm
        if not long.any() or len(f) > most_facets:
            break
        edges, index = np.unique(key[long], return_inverse=True)
        middle = np.full(f.shape, -1, np.int64)
        middle[long] = len(mesh.vertices) + index
        ends = np.column_stack([edges // len(mesh.vertices), edges % len(mesh.vertices)])
        vertices = np.vstack([mesh.vertices, mesh.vertices[ends].mean(axis=1)])
        mesh = _split_sides(Mesh(vertices, f, mesh.source), middle)
    return mesh


def _split_sides(mesh: Mesh, middle: NDArray[np.int64]) -> Mesh:
    """Facets with new vertices on one, two or three sides (-1: none) cut up accordingly."""
    f = mesh.facets.astype(np.int64)
    count = (middle >= 0).sum(axis=1)
    out, source = [f[count == 0]], [mesh.source[count == 0]]
    for wanted in (1, 2, 3):
        rows = np.flatnonzero(count == wanted)
        if len(rows) == 0:
            continue
        # Turned so that the first side is split (and, of two, the third is not).
        m = middle[rows]
        turn = (
            np.argmax(m >= 0, axis=1)
            if wanted == 1
            else (np.argmax(m < 0, axis=1) + 1) % 3
            if wanted == 2
            else np.zeros(len(rows), np.int64)
        )
        order = (turn[:, None] + np.arange(3)) % 3
        v, m = np.take_along_axis(f[rows], order, axis=1), np.take_along_axis(m, order, axis=1)
        a, b, c = v.T
        ab, bc, ca = m.T
        if wanted == 1:
            parts = [(a, ab, c), (ab, b, c)]
        elif wanted == 2:
            parts = [(ab, b, bc), (a, ab, bc), (a, bc, c)]
        else:
            parts = [(a, ab, ca), (ab, b, bc), (ca, bc, c), (ab, bc, ca)]
        for part in parts:
            out.append(np.column_stack(part))
            source.append(mesh.source[rows])
    return Mesh(mesh.vertices, np.vstack(out).astype(np.int32), np.concatenate(source))


def offset_mesh(mesh: Mesh, distance_mm: float) -> Mesh:
    """Every facet's plane moved outwards by the distance (inwards when negative); vertices go where their planes meet.

    The least-squares meeting point keeps sharp edges sharp. It is held to three distances, where planes nearly agree.
    """
    _, normals, areas = facet_geometry(mesh.vertices, mesh.facets)
    count = len(mesh.vertices)
    a = np.zeros((count, 3, 3))
    b = np.zeros((count, 3))
    outer = normals[:, :, None] * normals[:, None, :] * areas[:, None, None]
    for k in range(3):
        np.add.at(a, mesh.facets[:, k], outer)
        np.add.at(b, mesh.facets[:, k], normals * areas[:, None])
    # Directions in which the planes next to a vertex say nothing are left where they are.
    weight, axes = np.linalg.eigh(a)
    told = weight > 2e-2 * np.maximum(weight[:, -1:], 1e-300)
    along = np.einsum("nij,ni->nj", axes, b)
    step = np.einsum("nij,nj->ni", axes, np.where(told, along / np.where(told, weight, 1.0), 0.0))
    far = np.linalg.norm(step, axis=1, keepdims=True)
    step *= np.minimum(1.0, 3.0 / np.maximum(far, 1e-300))
    return Mesh(mesh.vertices + distance_mm * step, mesh.facets, mesh.source)


def split_by_plane(mesh: Mesh, origin: Array, normal: Array) -> tuple[Mesh, NDArray[np.bool_]]:
    """Facets that the plane passes through cut along it; the mesh, and which facets lie in front of the plane.

    origin (3,) mm, normal (3,); marks (m,).
    """
    n = normal / np.linalg.norm(normal)
    size = float(np.linalg.norm(np.ptp(mesh.vertices, axis=0)))
    h = (mesh.vertices - origin) @ n
    h[np.abs(h) < 1e-9 * size] = 0.0
    f = mesh.facets
    a, b = f.astype(np.int64), np.roll(f, -1, axis=1).astype(np.int64)
    cut = h[a] * h[b] < 0
    if cut.any():
        key = np.minimum(a, b) * len(mesh.vertices) + np.maximum(a, b)
        edges, index = np.unique(key[cut], return_inverse=True)
        p, q = edges // len(mesh.vertices), edges % len(mesh.vertices)
        t = (h[p] / (h[p] - h[q]))[:, None]
        middle = np.full(f.shape, -1, np.int64)
        middle[cut] = len(mesh.vertices) + index
        fresh = mesh.vertices[p] + t * (mesh.vertices[q] - mesh.vertices[p])
        mesh = _split_sides(Mesh(np.vstack([mesh.vertices, fresh]), f, mesh.source), middle)
        h = np.concatenate([h, np.zeros(len(fresh))])
    return mesh, h[mesh.facets].sum(axis=1) > 0
