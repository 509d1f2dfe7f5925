"""Short straight stretches that arcs have swallowed: between two arcs that turn the same way, and between an arc and a corner.

A line between two arcs that it touches has no freedom of its own: it is their common tangent. One that touches an arc and ends in a corner has
one, its direction. A split that pays for every piece alike takes such lines for parts of arcs as soon as they are short, the more so where few
facets lie on them. Here both ways are fitted through the same points by least squares (Nocedal and Wright 2006, ch. 10) and compared by what
they miss.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import least_squares

from contour.outline.piece_fit import turn_of
from contour.outline.seam import begun_at
from contour.outline.split import ARC, LINE, fit_circle

__all__ = ["with_flats"]

Array = NDArray[np.float64]
Pieces = list[tuple[int, int, int]]
# By how much a flat has to explain the points better, in units of what is left of them.
_BETWEEN, _ENDING = 6.0, 30.0
_MEANT = -4.0  # where the arcs stand at a slight angle to each other, which hardly anybody means
_LEAST = 1.6  # facet sides
_ROUNDED = 1.0  # facet sides next to a corner that the scan has rounded
_SHORT = 5.0  # facet sides: so short an arc may be a flat with the rounding of the corner behind it
_STRAY = 3.0  # sigmas that a point of a flat may lie beside it
# At less than the first two arcs go over into each other, at more than the second they meet in a corner, at more than the third in one that
# nothing else explains.
_SLIGHT, _CORNER, _SHARP = np.radians(4.0), np.radians(25.0), np.radians(40.0)
_FEWEST, _MOST = 6, 60  # points of an arc that are looked at
_MISSED = 1e3  # what a shape that cannot be is away from every point


class _Tangent:
    """The line that leaves a circle (x, y, r) at an angle, turn telling which way round the circle is run (1: counter-clockwise)."""

    def __init__(self, circle: Array, angle: float, turn: float) -> None:
        self.normal = np.array([np.cos(angle), np.sin(angle)])
        self.travel = turn * np.array([-self.normal[1], self.normal[0]])
        self.begin = circle[:2] + circle[2] * self.normal

    def along_and_off(self, points: Array) -> tuple[Array, Array]:
        """How far along the line points (n, 2) lie, and how far outwards of it."""
        d = points - self.begin
        return d @ self.travel, d @ self.normal


def _flat_between(shape: Array, turn: float) -> tuple[_Tangent, float] | None:
    """The common tangent of circles (x, y, r, x, y, r) and its length; none where there is no room."""
    along = shape[3:5] - shape[:2]
    apart = float(np.hypot(*along))
    if apart < 1e-9 or abs(shape[2] - shape[5]) >= apart or min(shape[2], shape[5]) <= 0:
        return None
    open_by = np.arccos((shape[2] - shape[5]) / apart)
    angle = float(np.arctan2(along[1], along[0]) - turn * open_by)
    return _Tangent(shape[:3], angle, turn), float(apart * np.sin(open_by))


def _gaps_between(shape: Array, points: Array, turn: float, middle: int) -> Array:
    """Signed distances of points (n, 2) from arc, flat and arc; those before number `middle` lie on the first half."""
    flat = _flat_between(shape, turn)
    if flat is None:
        return np.full(len(points), _MISSED)
    line, length = flat
    at, off = line.along_and_off(points)
    far = off < -0.5 * min(shape[2], shape[5])  # round the back of an arc
    first = (at < 0) | far
    first[middle:] &= ~far[middle:]
    second = ~first & ((at > length) | far)
    off[first] = np.hypot(*(points[first] - shape[:2]).T) - shape[2]
    off[second] = np.hypot(*(points[second] - shape[3:5]).T) - shape[5]
    return off


def _gaps_ending(shape: Array, points: Array, turn: float) -> Array:
    """Signed distances of points (n, 2) from a circle (x, y, r, angle) that is left along its tangent at the angle."""
    if shape[2] <= 0:
        return np.full(len(points), _MISSED)
    at, off = _Tangent(shape[:3], float(shape[3]), turn).along_and_off(points)
    round_ = (at < 0) | (off < -0.5 * shape[2])
    off[round_] = np.hypot(*(points[round_] - shape[:2]).T) - shape[2]
    return off


def _settled(gaps, start: Array, points: Array, *more: float) -> tuple[Array, float]:  # type: ignore[no-untyped-def]
    """Least squares from a start: the shape, and the sum of squares that is left."""
    if len(points) <= len(start):
        return start, np.inf
    found = least_squares(gaps, start, args=(points, *more), method="lm", max_nfev=60 * len(start))
    return found.x, float(2 * found.cost)


def _noise(missed: float, free: int, sigma: float) -> float:
    """Variance of the points about a shape, that of the scan at the most: places are smoother or rougher than the whole."""
    return min(missed / max(free, 1), sigma**2)


def _circle(points: Array) -> Array | None:
    found = fit_circle(points) if len(points) >= 3 else None
    return None if found is None else np.array([*found[0], found[1]])


def _between(
    chain: Array, first: tuple[int, int, int], second: tuple[int, int, int], edge: float, sigma: float
) -> tuple[int, int] | None:
    """Where on the chain a flat between two arcs begins and ends; none where the arcs explain the points as well."""
    (_, a, b), (_, c, d) = first, second
    a, d = max(a, b - _MOST), min(d, c + _MOST)
    one, two = _circle(chain[a : b + 1]), _circle(chain[c : d + 1])
    bend = _bends(chain, first, second)
    if one is None or two is None or bend > _SHARP:
        return None
    turn = turn_of(chain[a : b + 1], one[:2])
    if turn != turn_of(chain[c : d + 1], two[:2]):
        return None
    points, middle = chain[a + 1 : d], (b + c) // 2 - a - 1
    missed_by = [np.abs(np.hypot(*(points - p[:2]).T) - p[2]) for p in (one, two)]
    arcs = float((np.minimum(*missed_by) ** 2).sum())
    # What lies far from the joint is surely round.
    before, after = _circle(chain[a : a + 1 + 2 * (b - a) // 3]), _circle(chain[c + (d - c) // 3 : d + 1])
    start = np.concatenate([one if before is None else before, two if after is None else after])
    shape, missed = _settled(_gaps_between, start, points, turn, middle)
    sure = _MEANT if _SLIGHT < bend < _CORNER else _BETWEEN
    flat = _flat_between(shape, turn)
    if flat is None or arcs - missed < sure * _noise(missed, len(points) - len(shape), sigma):
        return None
    line, length = flat
    at, off = line.along_and_off(chain[a + 3 : d - 2])
    on = a + 3 + np.flatnonzero((at >= 0) & (at <= length) & (np.abs(off) < edge))
    if length < _LEAST * edge or len(on) < 3:
        return None
    return int(on[0]), int(on[-1])


def _ending(chain: Array, a: int, b: int, edge: float, sigma: float) -> int | None:
    """Where on the chain an arc from a on goes over into a straight end before the corner at b; none where it is round to its end."""
    points = chain[max(a, b - _MOST) : b + 1]
    cut = int(np.count_nonzero(np.linalg.norm(points - points[-1], axis=1) < _ROUNDED * edge))
    points = points[: len(points) - cut]
    whole = _circle(points)
    round_ = _circle(points[: 2 * len(points) // 3])
    if whole is None or round_ is None or len(points) < _FEWEST + 3:
        return None
    arcs = float(((np.hypot(*(points - whole[:2]).T) - whole[2]) ** 2).sum())
    turn = turn_of(points, round_[:2])
    leaves = points[2 * len(points) // 3] - round_[:2]
    start = np.append(round_, np.arctan2(leaves[1], leaves[0]))
    shape, missed = _settled(_gaps_ending, start, points, turn)
    if arcs - missed < _ENDING * _noise(missed, len(points) - len(shape), sigma):
        return None
    at, off = _Tangent(shape[:3], float(shape[3]), turn).along_and_off(points)
    on = np.flatnonzero((at > 0) & (off > -0.5 * shape[2]))
    if np.abs(_gaps_ending(shape, points, turn)[on]).max(initial=0.0) > _STRAY * sigma:
        return None  # the corner's own rounding
    if len(on) < 3 or at[on].max() < _LEAST * edge or len(points) - len(on) < _FEWEST:
        return None
    return b - (len(points) - int(on[0]) + cut)


def with_flats(chain: Array, pieces: Pieces, closed: bool, edge: float, sigma: float) -> tuple[Array, Pieces]:
    """The pieces with the flats that arcs have swallowed, where the points speak for one, and the chain, which begins where one cannot be.

    chain (n, 2), edge (a facet's side), sigma (noise): mm.
    """
    if closed and len(pieces) < 3:
        return chain, pieces
    if closed and pieces[0][0] == ARC == pieces[-1][0]:
        seam = next((k for k in range(1, len(pieces)) if not pieces[k - 1][0] == ARC == pieces[k][0]), 0)
        chain, pieces = begun_at(chain, pieces, seam)
    # An arc's last points first, then the same the other way round.
    there = _with_last_ends(chain, pieces, closed, edge, sigma)
    back = _with_last_ends(chain[::-1], _reversed(there, len(chain)), closed, edge, sigma)
    out: Pieces = []
    for piece in _reversed(back, len(chain)):
        if out and out[-1][0] == ARC == piece[0]:
            found = _between(chain, out[-1], piece, edge, sigma)
            if found is not None:
                out[-1:] = [(ARC, out[-1][1], found[0]), (LINE, *found)]
                piece = (ARC, found[1], piece[2])
        out.append(piece)
    return chain, out


def _reversed(pieces: Pieces, n: int) -> Pieces:
    return [(kind, n - 1 - b, n - 1 - a) for kind, a, b in reversed(pieces)]


def _with_last_ends(chain: Array, pieces: Pieces, closed: bool, edge: float, sigma: float) -> Pieces:
    """Arcs that go over into a line before the corner they end in; a short arc there was that line and the corner's rounding."""
    out: Pieces = []
    skip = False
    for k, (kind, a, b) in enumerate(pieces):
        if skip:
            skip = False
            continue
        out.append((kind, a, b))
        if kind != ARC or k + 1 == len(pieces):
            continue
        other, c, d = pieces[k + 1]
        short = other == ARC and k + 2 < len(pieces) and bool(np.linalg.norm(chain[d] - chain[c]) < _SHORT * edge)
        tries = [pieces[k + 2][1], d] if short else []
        if other == ARC and _bends(chain, (kind, a, b), (other, c, d)) > _CORNER:
            tries.append(c)  # the corner itself may lie in what the split has left to nobody
        for stop in tries:
            begins = _ending(chain, a, stop, edge, sigma)
            if begins is not None:
                out[-1:] = [(ARC, a, begins), (LINE, begins, stop)]
                skip = stop != c
                break
    return out


def _bends(chain: Array, before: tuple[int, int, int], after: tuple[int, int, int]) -> float:
    """The angle at which two arcs meet, radians."""
    ways = []
    for (_, a, b), last in ((before, True), (after, False)):
        circle = _circle(chain[a : b + 1])
        if circle is None:
            return 0.0
        at = chain[b if last else a] - circle[:2]
        turn = turn_of(chain[a : b + 1], circle[:2])
        ways.append(float(np.arctan2(turn * at[0], -turn * at[1])))
    return float(abs((ways[1] - ways[0] + np.pi) % (2 * np.pi) - np.pi))
