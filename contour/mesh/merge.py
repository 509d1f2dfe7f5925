"""Several aligned scans made one mesh: their signed distances averaged on a grid near the surface.

Reference: Curless and Levoy, "A volumetric method for building complex models from range images", 1996, with the
surface taken by nets (Gibson 1998) and its vertices put on the averaged scans themselves, so that the grid leaves no steps.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from contour.mesh.facets import Mesh, compacted
from contour.mesh.nearest import TriangleTree, build_tree, nearest_on_triangles
from contour.mesh.stitch import split_junctions
from contour.mesh.topology import facet_geometry, vertex_normals

__all__ = ["merged"]

Array = NDArray[np.float64]
_MOST_NODES = 60_000_000


@dataclass(frozen=True, slots=True)
class _Layer:
    tree: TriangleTree
    normals: Array
    border: NDArray[np.bool_]  # vertices on an open border
    mesh: Mesh
    smooth: Array  # vertex normals


def _layer(mesh: Mesh) -> _Layer:
    _, normals, _ = facet_geometry(mesh.vertices, mesh.facets)
    border = np.zeros(len(mesh.vertices), np.bool_)
    f, k = np.nonzero(mesh.across() < 0)
    border[mesh.facets[f, k]] = True
    border[mesh.facets[f, (k + 1) % 3]] = True
    return _Layer(
        build_tree(mesh.vertices, mesh.facets), normals, border, mesh, vertex_normals(mesh.vertices, mesh.facets)
    )


def _sense(layer: _Layer, points: Array, reach: float) -> tuple[Array, Array, Array, NDArray[np.int64]]:
    """Signed distance, weight (0: not told), foot and facet. Near a border a scan is least worth, and beyond it nothing."""
    feet, owner = nearest_on_triangles(layer.tree, points)
    away = points - feet
    gap = np.linalg.norm(away, axis=1)
    corners = layer.mesh.facets[owner]
    # Side by the vertices' normals: a facet's own is torn at sharp edges.
    p = layer.mesh.vertices[corners]
    w = 1.0 / np.maximum(np.linalg.norm(p - feet[:, None], axis=2), 1e-9)
    normal = np.einsum("nk,nkd->nd", w, layer.smooth[corners])
    side = np.sign(np.einsum("ij,ij->i", away, normal))
    side[side == 0] = 1.0
    on_rim = layer.border[corners].sum(axis=1)
    weight = np.where(on_rim >= 2, 0.05, np.where(on_rim == 1, 0.4, 1.0))
    # A foot on the rim itself with the point beyond it: the scan ends before this place.
    along = np.abs(np.einsum("ij,ij->i", away, layer.normals[owner]))
    weight[(on_rim >= 2) & (along < 0.7 * gap)] = 0.0
    weight[gap > reach] = 0.0
    return side * gap, weight, feet, owner


def merged(meshes: list[Mesh], *, step_mm: float) -> Mesh:
    """One mesh from meshes that lie in one frame; `source` numbers must already be told apart.

    Facets are about `step_mm` wide. Where no scan saw the part it stays open. Raises ValueError for a grid beyond memory.
    """
    layers = [_layer(m) for m in meshes]
    low = np.min([m.vertices.min(axis=0) for m in meshes], axis=0) - 3 * step_mm
    high = np.max([m.vertices.max(axis=0) for m in meshes], axis=0) + 3 * step_mm
    shape = np.ceil((high - low) / step_mm).astype(np.int64) + 1
    if np.prod(shape.astype(float)) > _MOST_NODES * 20:
        raise ValueError(f"{np.prod(shape.astype(float)):.2g} grid nodes")
    # Only nodes near some vertex (facets are about a step wide) are looked at.
    cells = np.unique(np.vstack([np.floor((m.vertices - low) / step_mm).astype(np.int64) for m in meshes]), axis=0)
    reach = 2
    grow = np.stack(np.meshgrid(*[np.arange(-reach + 1, reach + 1)] * 3, indexing="ij"), -1).reshape(-1, 3)
    keys = np.unique(((cells[:, None] + grow) @ np.array([shape[1] * shape[2], shape[2], 1])).ravel())
    nodes = np.column_stack([keys // (shape[1] * shape[2]), keys // shape[2] % shape[1], keys % shape[2]])
    points = low + step_mm * nodes
    total, weight = np.zeros(len(points)), np.zeros(len(points))
    for layer in layers:
        d, w, _, _ = _sense(layer, points, 2.5 * step_mm)
        total += w * d
        weight += w
    told = weight > 0
    value = np.where(told, total / np.maximum(weight, 1e-300), np.nan)
    vertices, quads = _net(keys, value, shape)
    vertices = low + step_mm * vertices
    facets = np.vstack([quads[:, [0, 1, 2]], quads[:, [0, 2, 3]]]).astype(np.int32)
    fresh = compacted(Mesh(vertices, facets, np.full(len(facets), -1, np.int64)))
    # At sharp edges a cell may hold two sheets, which a net joins in one vertex.
    return split_junctions(_on_scans(fresh, layers, step_mm))[0]


def _net(keys: NDArray[np.int64], value: Array, shape: NDArray[np.int64]) -> tuple[Array, NDArray[np.int64]]:
    """A vertex in every cell whose known corners differ in sign, and quads around every edge that crosses."""
    stride = np.array([shape[1] * shape[2], shape[2], 1], dtype=np.int64)

    def at(k: NDArray[np.int64]) -> Array:
        slot = np.minimum(np.searchsorted(keys, k), len(keys) - 1)
        return np.where(keys[slot] == k, value[slot], np.nan)

    corner = np.array([[i, j, k] for i in (0, 1) for j in (0, 1) for k in (0, 1)])
    values = np.stack([at(keys + c @ stride) for c in corner], axis=1)
    known = np.isfinite(values).all(axis=1)
    mixed = known & (values.min(axis=1) < 0) & (values.max(axis=1) >= 0)
    cells, v = keys[mixed], values[mixed]
    base = np.column_stack([cells // stride[0], cells // stride[1] % shape[1], cells % shape[2]]).astype(np.float64)
    total, count = np.zeros((len(cells), 3)), np.zeros(len(cells))
    for a in range(8):
        for b in range(a + 1, 8):
            if np.abs(corner[a] - corner[b]).sum() != 1:
                continue
            crossing = (v[:, a] < 0) != (v[:, b] < 0)
            t = np.where(crossing, v[:, a] / np.where(crossing, v[:, a] - v[:, b], 1.0), 0.0)
            total += crossing[:, None] * (corner[a] + t[:, None] * (corner[b] - corner[a]))
            count += crossing
    vertices = base + total / np.maximum(count, 1)[:, None]
    quads = []
    for axis in range(3):
        b, c = (axis + 1) % 3, (axis + 2) % 3
        here, there = value, at(keys + stride[axis])
        for leaving in (True, False):
            hit = (
                np.isfinite(there)
                & np.isfinite(here)
                & ((here < 0) & (there >= 0) if leaving else (here >= 0) & (there < 0))
            )
            k = keys[hit]
            ring = [k - stride[b] - stride[c], k - stride[c], k, k - stride[b]]
            slots = [np.minimum(np.searchsorted(cells, r), max(len(cells) - 1, 0)) for r in ring]
            whole = np.all([cells[s] == r for s, r in zip(slots, ring, strict=True)], axis=0)
            quad = np.stack([s[whole] for s in slots], axis=1)
            quads.append(quad if leaving else quad[:, ::-1])
    return vertices, np.vstack(quads)


def _on_scans(mesh: Mesh, layers: list[_Layer], step: float) -> Mesh:
    """Vertices put onto the weighted mean of the scans' nearest points, spread evenly before; facets named after the
    nearest facet of the scan that counts most there."""
    p = mesh.vertices
    f = mesh.facets
    for turn in range(3):
        if turn:
            p = _relaxed(p, f)
        total, weight = np.zeros_like(p), np.zeros(len(p))
        for layer in layers:
            d, w, feet, _ = _sense(layer, p, 2 * step)
            w = w * np.exp(-((d / step) ** 2))
            total += w[:, None] * feet
            weight += w
        near = weight > 1e-6
        p = np.where(near[:, None], total / np.maximum(weight, 1e-300)[:, None], p)
    centre = p[f].mean(axis=1)
    best, source = np.full(len(f), -1.0), np.full(len(f), -1, np.int64)
    for layer in layers:
        d, w, _, owner = _sense(layer, centre, 2 * step)
        w = w * np.exp(-((d / step) ** 2))
        take = w > best
        best[take], source[take] = w[take], layer.mesh.source[owner[take]]
    return Mesh(p, f, source)


def _relaxed(p: Array, f: NDArray[np.int32]) -> Array:
    """Half the way to the middle of the neighbours; borders stay."""
    from contour.mesh.topology import neighbours

    i = np.concatenate([f[:, 0], f[:, 1], f[:, 2]])
    j = np.concatenate([f[:, 1], f[:, 2], f[:, 0]])
    count = np.bincount(i, minlength=len(p)) + np.bincount(j, minlength=len(p))
    total = np.column_stack([np.bincount(i, p[j, d], len(p)) + np.bincount(j, p[i, d], len(p)) for d in range(3)])
    border = np.zeros(len(p), np.bool_)
    g, k = np.nonzero(neighbours(f, len(p))[0] < 0)
    border[f[g, k]] = True
    border[f[g, (k + 1) % 3]] = True
    mean = total / np.maximum(count, 1)[:, None]
    return np.where(border[:, None], p, p + 0.5 * (mean - p))
