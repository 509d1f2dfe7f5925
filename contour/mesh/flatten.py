"""A piece of mesh spread out flat, as nearly true to size as it goes: where its vertices lie in two parameters.

First with true angles (Lévy et al., Least squares conformal maps, 2002), then as rigidly as possible facet by facet (Liu et al., A
local/global approach to mesh parameterization, 2008). Pieces may have holes; what bends around itself does not spread.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_matrix, csr_matrix, diags
from scipy.sparse.linalg import factorized, spsolve

from contour.mesh.facets import pieces_of
from contour.mesh.topology import neighbours

__all__ = ["flattened"]

Array = NDArray[np.float64]
Ints = NDArray[np.int64]

_ROUNDS = 30  # of rotating facets and putting them together: what is left moves by less than a thousandth
_STIFF = (1e-3, 50.0)  # cotangents of slivers are held within these


def flattened(vertices: Array, facets: Ints) -> Array | None:
    """(m, 2) of vertices (m, 3), mm, so that every facet of (n, 3) keeps its turn; none where the piece does not spread without folding."""
    narrow = facets.astype(np.int32)
    _, piece = pieces_of(narrow, neighbours(narrow, len(vertices))[0])
    lying, areas = _lying(vertices, facets)
    if piece.max(initial=0) > 0 or len(np.unique(facets)) < len(vertices) or (areas <= 0).any():
        return None
    flat = _rigid(facets, lying, _conformal(vertices, facets, lying, areas))
    a, b, c = (flat[facets[:, k]] for k in range(3))
    turn = (b - a)[:, 0] * (c - a)[:, 1] - (b - a)[:, 1] * (c - a)[:, 0]
    return flat if np.isfinite(flat).all() and turn.min() > 0 else None


def _lying(vertices: Array, facets: Ints) -> tuple[Array, Array]:
    """Each facet by itself in a plane (n, 3, 2), its first side along x, and its area (n,)."""
    a, b, c = (vertices[facets[:, k]] for k in range(3))
    length = np.linalg.norm(b - a, axis=1)
    x = (b - a) / np.maximum(length, 1e-30)[:, None]
    normal = np.cross(b - a, c - a)
    twice = np.linalg.norm(normal, axis=1)
    y = np.cross(normal / np.maximum(twice, 1e-30)[:, None], x)
    out = np.zeros((len(facets), 3, 2))
    out[:, 1, 0] = length
    out[:, 2, 0] = np.einsum("ij,ij->i", c - a, x)
    out[:, 2, 1] = np.einsum("ij,ij->i", c - a, y)
    return out, twice / 2


def _conformal(vertices: Array, facets: Ints, lying: Array, areas: Array) -> Array:
    """(m, 2) that turns and scales facets but bends their angles least; two vertices far from each other are held."""
    z = lying[..., 0] + 1j * lying[..., 1]
    across = np.stack([z[:, 2] - z[:, 1], z[:, 0] - z[:, 2], z[:, 1] - z[:, 0]], axis=1)
    across /= np.sqrt(2 * areas)[:, None]
    rows = np.repeat(np.arange(len(facets)), 3)
    system = csr_matrix((across.ravel(), (rows, facets.ravel())), shape=(len(facets), len(vertices)))
    one = int(np.argmax(np.linalg.norm(vertices - vertices.mean(axis=0), axis=1)))
    other = int(np.argmax(np.linalg.norm(vertices - vertices[one], axis=1)))
    placed = np.zeros(len(vertices), complex)
    placed[other] = np.linalg.norm(vertices[one] - vertices[other])
    free = np.setdiff1d(np.arange(len(vertices)), [one, other])
    own = system[:, free]
    placed[free] = spsolve((own.conj().T @ own).tocsc(), -(own.conj().T @ (system @ placed)))
    return np.stack([placed.real, placed.imag], axis=1)


def _rigid(facets: Ints, lying: Array, flat: Array) -> Array:
    """The same with every facet as nearly its own size as its neighbours allow."""
    after = facets[:, [1, 2, 0]]
    sides = lying[:, [1, 2, 0]] - lying
    from_third = lying - lying[:, [2, 0, 1]]
    to_next = lying[:, [1, 2, 0]] - lying[:, [2, 0, 1]]
    turn = np.abs(from_third[..., 0] * to_next[..., 1] - from_third[..., 1] * to_next[..., 0])
    cotangent = np.clip(np.einsum("nkd,nkd->nk", from_third, to_next) / np.maximum(turn, 1e-30), *_STIFF)
    count = len(flat)
    joined = coo_matrix((cotangent.ravel(), (facets.ravel(), after.ravel())), shape=(count, count))
    joined = (joined + joined.T).tocsr()
    solve = factorized((diags(np.asarray(joined.sum(axis=1)).ravel()) - joined)[1:, 1:].tocsc())
    for _ in range(_ROUNDS):
        spread = flat[after] - flat[facets]
        turned = np.einsum("nk,nki,nkj->nij", cotangent, spread, sides)
        cosine, sine = turned[:, 0, 0] + turned[:, 1, 1], turned[:, 1, 0] - turned[:, 0, 1]
        size = np.maximum(np.hypot(cosine, sine), 1e-30)
        cosine, sine = (cosine / size)[:, None], (sine / size)[:, None]
        pull = cotangent[..., None] * np.stack(
            [cosine * sides[..., 0] - sine * sides[..., 1], sine * sides[..., 0] + cosine * sides[..., 1]], axis=-1
        )
        wanted = np.zeros_like(flat)
        np.add.at(wanted, after.ravel(), pull.reshape(-1, 2))
        np.add.at(wanted, facets.ravel(), -pull.reshape(-1, 2))
        flat = np.vstack([np.zeros((1, 2)), solve(wanted[1:])])
    return flat
