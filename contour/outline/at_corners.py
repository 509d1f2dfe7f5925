"""Corners between two lines of a split chain: sharp, filleted or cut off straight, as the points around them speak."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from contour.outline.corners import Corner, averaging_of, corner_of_lines, cut_straight, fillet_radius
from contour.outline.piece_fit import PieceFit, corner_of, direction_at
from contour.outline.split import ARC, LINE

__all__ = ["cut_or_filleted", "with_fillets"]

Array = NDArray[np.float64]
Pieces = list[tuple[int, int, int]]
_LONGEST = 10.0  # facet sides: what a corner is cut by, beyond which a split tells straight from round by itself
_SURE = 25.0  # by how much the other kind has to explain a corner better, in units of noise


def _between(
    chain: Array, pieces: Pieces, fits: list[PieceFit], i: int, j: int, closed: bool, edge: float, size: float = 0.0
) -> Corner | None:
    """The corner that lines i and j make, or would make without what stands between them, some `size` (mm) long at most."""
    last = len(chain) - 1
    b, c = pieces[i][2], pieces[j][1] + (last if j < i else 0)
    middle = chain[((b + c) // 2) % last if closed else (b + c) // 2]
    place = corner_of(fits[i], fits[j], middle)
    before, after = direction_at(fits[i], middle), direction_at(fits[j], middle)
    if place is None or before is None or after is None or np.linalg.norm(place - middle) > size + 6 * edge:
        return None
    turn = float(np.arccos(np.clip(before @ after, -1, 1)))
    if not np.radians(25) < turn < np.radians(160):
        return None
    around = np.vstack([chain[:-1], chain]) if j < i else chain
    low, high = max(b - 24, pieces[i][1] + 1), min(c + 24, pieces[j][2] + (last if j < i else 0) - 1)
    return corner_of_lines(place, before, after, around, low, high, edge, size)


def _corners(chain: Array, pieces: Pieces, fits: list[PieceFit], closed: bool, edge: float) -> dict[int, Corner]:
    """Corners between two lines that follow each other, by the number of the line before."""
    n = len(pieces)
    out = {}
    for i in range(n):
        j = (i + 1) % n
        if n < 2 or (j == 0 and not closed) or not pieces[i][0] == LINE == pieces[j][0]:
            continue
        corner = _between(chain, pieces, fits, i, j, closed, edge)
        if corner is not None:
            out[i] = corner
    return out


def cut_or_filleted(
    chain: Array, pieces: Pieces, fits: list[PieceFit], closed: bool, edge: float, sigma: float
) -> Pieces:
    """The pieces with short ones between two lines made what the corner speaks for: a line that cuts it off, or an arc.

    A scanner rounds both corners of a narrow chamfer off, until an arc goes through its points nearly as well. chain (n, 2), edge (a facet's
    side), sigma (noise): mm.
    """
    n = len(pieces)
    blur: float | None = None
    out = list(pieces)
    for k in range(n):
        i, j = (k - 1) % n, (k + 1) % n
        kind, a, b = pieces[k]
        if n < 4 or (not closed and not 0 < k < n - 1) or kind not in (LINE, ARC):
            continue
        long = float(np.linalg.norm(chain[b] - chain[a]))
        if not pieces[i][0] == LINE == pieces[j][0] or not 2.0 * edge < long < _LONGEST * edge:
            continue
        # Lines that are no longer than what stands between them may be cuts of other corners.
        if min(np.linalg.norm(chain[pieces[m][2]] - chain[pieces[m][1]]) for m in (i, j)) < long:
            continue
        corner = _between(chain, pieces, fits, i, j, closed, edge, size=long)
        if corner is None:
            continue
        if blur is None:
            blur = averaging_of(list(_corners(chain, pieces, fits, closed, edge).values()), edge, sigma)
        place, before, after, _ = corner
        size = long / (2 * float(np.cos(np.arccos(np.clip(before @ after, -1, 1)) / 2)))
        better = cut_straight(corner, blur, edge, sigma, size)
        if abs(better) > _SURE:
            out[k] = (LINE if better > 0 else ARC, a, b)
    return out


def with_fillets(chain: Array, pieces: Pieces, fits: list[PieceFit], closed: bool, edge: float, sigma: float) -> Pieces:
    """The pieces with the fillets that a corner of two lines swallowed, where the points speak for one. chain (n, 2), edge, sigma: mm."""
    corners = _corners(chain, pieces, fits, closed, edge)
    if not corners:
        return pieces
    blur = averaging_of(list(corners.values()), edge, sigma)
    out: Pieces = []
    for i, (kind, a, b) in enumerate(pieces):
        if out and out[-1][2] > a:
            a = out[-1][2]
        out.append((kind, a, b))
        j = (i + 1) % len(pieces)
        if i not in corners or j == 0:
            continue
        c, d = pieces[j][1], pieces[j][2]
        place, before, after, _ = corners[i]
        room = 0.6 * min(float(np.linalg.norm(chain[a] - place)), float(np.linalg.norm(chain[d] - place)))
        radius, _ = fillet_radius(corners[i], blur, edge, sigma, room)
        if radius < 1.6 * edge:
            continue
        reach = radius * np.tan(np.arccos(np.clip(before @ after, -1, 1)) / 2)
        away = np.linalg.norm(chain - place, axis=1)
        start, stop = b, c
        while start > a + 2 and away[start] < reach:
            start -= 1
        while stop < d - 2 and away[stop] < reach:
            stop += 1
        if stop - start >= 3:
            out[-1] = (kind, a, start)
            out.append((ARC, start, stop))
    return out
