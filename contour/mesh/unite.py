"""Closed shells that pass through each other made one skin, by exact booleans of meshes (the manifold3d library)."""

from __future__ import annotations

import manifold3d
import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

from contour.mesh.facets import Mesh, compacted, pieces_of
from contour.mesh.topology import signed_volume

__all__ = ["unite_shells"]


def _solid(mesh: Mesh, ids: NDArray[np.int64]) -> manifold3d.Manifold | None:
    used, facets = np.unique(mesh.facets[ids], return_inverse=True)
    made = manifold3d.Manifold(
        manifold3d.Mesh64(
            vert_properties=np.ascontiguousarray(mesh.vertices[used]),
            tri_verts=np.ascontiguousarray(facets.reshape(-1, 3), dtype=np.uint64),
            face_id=np.ascontiguousarray(ids, dtype=np.uint64),
        )
    )
    return made if made.status() == manifold3d.Error.NoError and not made.is_empty() else None


def unite_shells(mesh: Mesh, pairs: NDArray[np.int64]) -> tuple[Mesh, int]:
    """Closed outward shells that pierce each other replaced by their union; how many shells went into unions.

    pairs : (k, 2) facets that pass through each other (:func:`contour.mesh.piercing.pierced_pairs`).
    Facets of the union keep the source of the facet they are part of. Shells that are open, or pierce themselves, are
    left for other mends.
    """
    across = mesh.across()
    count, piece = pieces_of(mesh.facets, across)
    if count < 2:
        return mesh, 0
    a, b = piece[pairs[:, 0]], piece[pairs[:, 1]]
    sound = np.bincount(piece, (across < 0).any(axis=1), count) == 0
    sound[a[a == b]] = False
    between = (a != b) & sound[a] & sound[b]
    if not between.any():
        return mesh, 0
    order = np.argsort(piece, kind="stable")
    starts = np.searchsorted(piece[order], np.arange(count + 1))
    solids: dict[int, manifold3d.Manifold] = {}
    for k in np.unique(np.concatenate([a[between], b[between]])):
        ids = order[starts[k] : starts[k + 1]]
        if signed_volume(mesh.vertices, mesh.facets[ids]) > 0 and (solid := _solid(mesh, ids)) is not None:
            solids[int(k)] = solid
    links = [(x, y) for x, y in zip(a[between], b[between], strict=True) if int(x) in solids and int(y) in solids]
    if not links:
        return mesh, 0
    x, y = np.array(links).T
    _, group = connected_components(coo_matrix((np.ones(len(x)), (x, y)), shape=(count, count)), directed=False)
    gone = np.zeros(count, np.bool_)
    parts = [mesh.vertices]
    facets, source = [], []
    base = len(mesh.vertices)
    for g in np.unique(group[x]):
        members = [k for k in solids if group[k] == g]
        made = manifold3d.Manifold.batch_boolean([solids[k] for k in members], manifold3d.OpType.Add)
        if made.status() != manifold3d.Error.NoError:
            continue
        out = made.to_mesh64()
        parts.append(np.asarray(out.vert_properties)[:, :3])
        facets.append(np.asarray(out.tri_verts).astype(np.int64) + base)
        source.append(mesh.source[np.asarray(out.face_id).astype(np.int64)])
        base += len(parts[-1])
        gone[members] = True
    kept = ~gone[piece]
    united = Mesh(
        np.vstack(parts),
        np.vstack([mesh.facets[kept], *facets]).astype(np.int32),
        np.concatenate([mesh.source[kept], *source]),
    )
    return compacted(united), int(gone.sum())
