"""What of an outline nobody has seen: the stretches of its pieces that the scan does not run along, and the gaps they bridge."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from contour.outline.along import densely, path_distance
from contour.outline.joins import How
from contour.outline.pieces import Outline, Piece, Span, piece_length, piece_path

__all__ = ["Gap", "assumed_whole", "marked", "stretches", "unseen_along"]

Array = NDArray[np.float64]
_WHOLE = 0.8  # of a piece's length
_BESIDE = 0.25  # of the reach: nearer than that a line still runs along


@dataclass(frozen=True, slots=True)
class Gap:
    """From one end to another (2,) · how it is bridged · options: the ways there are · length mm that is assumed."""

    start: tuple[float, float]
    end: tuple[float, float]
    how: How
    options: tuple[How, ...]
    length: float


def unseen_along(piece: Piece, seen: Sequence[Array], reach_mm: float) -> tuple[Span, ...]:
    """Stretches of a piece that no polyline (n, 2) runs along: from where one ends to where one begins, those that go beyond reach_mm of all."""
    at = densely(piece_path(piece), 0.25 * reach_mm)
    away = np.min([path_distance(at, line) for line in seen if len(line) > 1], axis=0)
    beside = away > _BESIDE * reach_mm
    edges = np.flatnonzero(np.diff(np.concatenate([[False], beside, [False]]).astype(int)))
    spans = [
        (at[i], at[j - 1])
        for i, j in zip(edges[::2], edges[1::2], strict=True)
        if away[i:j].max() > reach_mm and j > i + 1
    ]
    return tuple(((float(p[0]), float(p[1])), (float(q[0]), float(q[1]))) for p, q in spans)


def stretches(piece: Piece, step_deg: float = 3.0) -> list[tuple[Array, bool]]:
    """A piece in order as paths (k, 2) that were seen and paths that are assumed (True)."""
    path = piece_path(piece, step_deg)
    if not piece.assumed:
        return [(path, False)]
    at = densely(path, max(piece_length(piece) / 200, 1e-9))
    ends = [[int(np.linalg.norm(at - np.array(p), axis=1).argmin()) for p in span] for span in piece.assumed]
    unseen = np.zeros(len(at) - 1, bool)
    for a, b in ends:
        unseen[min(a, b) : max(a, b)] = True
    cuts = [0, *(np.flatnonzero(unseen[1:] != unseen[:-1]) + 1).tolist(), len(unseen)]
    return [(at[a : b + 1], bool(unseen[a])) for a, b in itertools.pairwise(cuts)]


def assumed_whole(piece: Piece) -> bool:
    """Whether so little of a piece was seen that all of it counts as assumed."""
    return sum(float(np.hypot(b[0] - a[0], b[1] - a[1])) for a, b in piece.assumed) > _WHOLE * piece_length(piece)


def marked(outline: Outline, seen: Sequence[Array], gaps: Sequence[Gap], reach_mm: float) -> Outline:
    """The outline, its pieces with the stretches of them that no polyline (n, 2) runs along within reach_mm; each gap is marked on the piece nearest to
    it, however short it is."""
    pieces = [replace(p, assumed=unseen_along(p, seen, reach_mm)) for p in outline.pieces]
    for gap in gaps:
        middle = 0.5 * (np.array(gap.start) + np.array(gap.end))
        told = [
            s
            for p in pieces
            for s in p.assumed
            if np.linalg.norm(0.5 * (np.array(s[0]) + np.array(s[1])) - middle) < gap.length + reach_mm
        ]
        if not told:
            k = int(np.argmin([path_distance(middle[None], piece_path(p))[0] for p in pieces]))
            pieces[k] = replace(pieces[k], assumed=(*pieces[k].assumed, (gap.start, gap.end)))
    return replace(outline, pieces=tuple(pieces))
