"""A loop closed over gaps, with the bridges that somebody wished for as pieces of their own: what was seen may be told well enough without them."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from contour.outline.pieces import CODES, Chain, Outline, PieceKind, piece_path, shape_pieces

__all__ = ["as_wished"]

Array = NDArray[np.float64]
Ints = NDArray[np.int64]

_LEAST = 4  # points of a piece


def as_wished(
    outline: Outline,
    points: Array,
    bridge: Ints,
    kinds: Sequence[PieceKind],
    away: Array,
    *,
    tolerance: float,
    edge: float,
) -> Outline:
    """The outline of a loop with each wished bridge as a piece of its own, where the outline does not follow it as it is.

    points (n, 2): the loop's, in order, mm · bridge (n,): the wished bridge that a point is of, -1 for none · kinds: of the bridges, line or arc ·
    away (n, pieces): of each point from each piece, mm · tolerance: of the outline, edge: a facet's side, mm.
    """
    strays = [k for k in range(len(kinds)) if away[bridge == k].min(axis=1).max() > tolerance / 3]
    if not strays:
        return outline
    count = len(outline.pieces)
    owner = np.where(np.isin(bridge, strays), count + bridge, away.argmin(axis=1))
    begin = int(np.flatnonzero(owner != np.roll(owner, 1))[0])
    points, owner = np.roll(points, -begin, axis=0), np.roll(owner, -begin)
    runs = np.split(np.arange(len(owner)), np.flatnonzero(np.diff(owner)) + 1)
    runs = [r for r in runs if len(r) >= _LEAST or owner[r[0]] >= count]
    codes, data, near = [], [], []
    for run, after in zip(runs, (*runs[1:], runs[0]), strict=True):
        k, own = int(owner[run[0]]), points[run]
        codes.append(CODES[kinds[k - count] if k >= count else outline.pieces[k].kind])
        inner = own[np.minimum(*(np.linalg.norm(own - own[end], axis=1) for end in (0, -1))) > 0.7 * edge]
        data.append(inner if len(inner) >= _LEAST and k < count else own)
        near.append((own[-1] + points[after[0]]) / 2)
    chain = Chain(codes, data, list(near), (points[0], points[-1]), True)
    made = shape_pieces(chain, sigma_mm=tolerance / 3, edge_mm=edge, known=True)
    return made if np.isfinite(np.vstack([piece_path(p) for p in made.pieces])).all() else outline
