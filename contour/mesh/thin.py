"""Facets without area taken out where a cut would be too much: short sides collapsed, long ones turned."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from contour.mesh.defects import fold_facets
from contour.mesh.facets import Mesh, compacted, near_facets, side_lengths
from contour.mesh.topology import facet_geometry, vertex_facets

__all__ = ["drop_thin"]


def _thin(mesh: Mesh, size: float, lengths: NDArray[np.float64]) -> NDArray[np.int64]:
    """Facets that are flat, and those of folds that are next to flat: their normals mean nothing."""
    _, normals, areas = facet_geometry(mesh.vertices, mesh.facets)
    longest = lengths.max(axis=1, initial=0)
    height = 2 * areas / np.maximum(longest, 1e-300)
    flat = height <= np.maximum(1e-6 * longest, 1e-7 * size)
    suspect = np.flatnonzero(height < 2e-4 * size)
    if len(suspect):
        folded = fold_facets(mesh, mesh.across(), normals)
        flat[suspect] |= folded[suspect]
    return np.flatnonzero(flat)


def _ring(facets: NDArray[np.int32], fan: NDArray[np.int32], v: int) -> set[int]:
    return set(facets[fan].ravel().tolist()) - {v}


def drop_thin(mesh: Mesh) -> tuple[Mesh, int, float]:
    """Flat facets gone without opening the mesh: the mesh, how many went or were turned, the largest movement.

    The shorter side of a needle is collapsed, the long side of a cap is turned over to its neighbour. What neither
    works for is left for a cut.
    """
    size = float(np.linalg.norm(np.ptp(mesh.vertices, axis=0))) if len(mesh.vertices) else 0.0
    marked = np.zeros(len(mesh.facets), np.bool_)
    marked[_thin(mesh, size, side_lengths(mesh))] = True
    if not marked.any() or marked.mean() > 0.2:
        return mesh, 0, 0.0
    # Everything happens within a few rings; the rest of a large mesh need not be looked at again and again.
    near = near_facets(mesh.facets, marked, 3, len(mesh.vertices))
    held = np.zeros(len(mesh.vertices), np.bool_)
    held[mesh.facets[~near].ravel()] = True
    used, local = np.unique(mesh.facets[near], return_inverse=True)
    part = Mesh(mesh.vertices[used], local.reshape(-1, 3).astype(np.int32), mesh.source[near])
    part, names, total, moved = _without_thin(part, used.astype(np.int64), held, size)
    base = len(mesh.vertices)
    vertices = np.vstack([mesh.vertices, part.vertices])
    facets = np.where(held[names][part.facets], names[part.facets], part.facets + base)
    rest = mesh.without(near)
    joined = Mesh(
        vertices, np.vstack([rest.facets, facets]).astype(np.int32), np.concatenate([rest.source, part.source])
    )
    return compacted(joined), total, moved


def _without_thin(
    mesh: Mesh, names: NDArray[np.int64], held: NDArray[np.bool_], size: float
) -> tuple[Mesh, NDArray[np.int64], int, float]:
    """`names` are the vertices' numbers in the whole mesh, `held` those the rest of it uses: they stay as they are."""
    total, moved = 0, 0.0
    for _ in range(80):
        lengths = side_lengths(mesh)
        ids = _thin(mesh, size, lengths)
        if len(ids) == 0:
            break
        across = mesh.across()
        offsets, around = vertex_facets(mesh.facets, len(mesh.vertices))
        facets, vertices = mesh.facets.copy(), mesh.vertices.copy()
        gone = np.zeros(len(facets), np.bool_)
        locked = held[names]
        is_thin = np.zeros(len(facets), np.bool_)
        is_thin[ids] = True
        count = 0

        def fan(v: int) -> NDArray[np.int32]:
            return around[offsets[v] : offsets[v + 1]]

        for f in ids[np.argsort(lengths[ids].min(axis=1))]:
            if gone[f] or locked[mesh.facets[f]].any():
                continue
            k, long = int(np.argmin(lengths[f])), int(np.argmax(lengths[f]))
            h = across[f, k]
            a, b = int(mesh.facets[f, k]), int(mesh.facets[f, (k + 1) % 3])
            shared = _ring(mesh.facets, fan(a), a) & _ring(mesh.facets, fan(b), b)
            # Link condition: only the tips of the two facets on this side may be neighbours of both.
            may_collapse = h != -2 and len(shared) <= (1 if h == -1 else 2)
            if may_collapse and lengths[f, k] < 0.05 * lengths[f, long]:
                near = np.concatenate([fan(a), fan(b)])
                facets[near] = np.where(facets[near] == b, a, facets[near])
                vertices[a] = (vertices[a] + vertices[b]) / 2
                moved = max(moved, float(lengths[f, k]) / 2)
                gone[f] = True
                if h >= 0:
                    gone[h // 3] = True
                locked[np.unique(mesh.facets[near])] = True
                count += 1
                continue
            h = across[f, long]
            a, b, c = (int(mesh.facets[f, (long + i) % 3]) for i in range(3))
            if h == -1:
                gone[f] = True
                locked[[a, b, c]] = True
                count += 1
            elif h >= 0:
                g, j = h // 3, h % 3
                d = int(mesh.facets[g, (j + 2) % 3])
                if locked[d] or gone[g] or is_thin[g] or d in _ring(mesh.facets, fan(c), c) or mesh.facets[g, j] != b:
                    continue  # a neighbour that is flat itself turns first, from the outermost of a chain inwards
                facets[f] = (c, a, d)
                facets[g] = (d, b, c)
                locked[[a, b, c, d]] = True
                count += 1
        if count == 0:
            break
        total += count
        used = np.unique(facets[~gone])
        names = names[used]
        mesh = compacted(Mesh(vertices, facets[~gone], mesh.source[~gone]))
    return mesh, names, total, moved
