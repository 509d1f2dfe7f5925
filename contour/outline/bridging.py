"""Open outlines of a section closed over the gaps of the scan, by proposal: which ends belong together, and how each gap is bridged.

All pairings of few ends are tried, of many the cheapest gaps are taken first; a bridge crosses nothing that was seen. Then every loop is fitted
again as one, so that pieces meet where they would if nothing were missing, and each piece tells which of its stretches nobody has seen.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from shapely import STRtree
from shapely.geometry import LineString

from contour.fit.budget import UNLIMITED, Budget
from contour.outline.along import path_distance
from contour.outline.as_wished import as_wished
from contour.outline.explain import fit_outline
from contour.outline.joins import End, How, Join, end_of, ways_to_join
from contour.outline.piece_fit import fit_piece
from contour.outline.pieces import CODES, Outline, Piece, PieceKind, Span, piece_path
from contour.outline.split import PRICES

__all__ = ["Bridged", "Gap", "OpenLine", "Wish", "assumed_whole", "bridged", "stretches", "unseen_along"]

Array = NDArray[np.float64]
_WHOLE = 0.8  # of a piece's length

_ALL_PAIRINGS = 8  # ends of which every pairing is tried
_NEAR = 9  # ends that each is tried with
_MOST_ENDS = 120  # more are the edge of a lattice, not of a part
_CLEAR = 0.02  # of a bridge at both ends, that may touch what it comes from
# Facet sides: an end so short may be what the scan makes of a corner; the longer one where with the shorter what was seen is missed.
_STUBS = (2.5, 3.4)
_MISSED = 0.02  # of what was seen: a loop that misses more does not follow it
_LEAST_POINTS = 4
_MOST_AWAY = 10.0  # sigmas: beyond it a point is missed, however far
_BESIDE = 0.25  # of the reach: nearer than that a line still runs along


@dataclass(frozen=True, slots=True)
class OpenLine:
    """A polyline (n, 2), mm, with the outline that explains it."""

    points: Array
    outline: Outline


@dataclass(frozen=True, slots=True)
class Wish:
    """How the gap whose middle lies at a place (mm) is to be bridged; without a way it is to stay open."""

    near: tuple[float, float]
    how: How | None


@dataclass(frozen=True, slots=True)
class Gap:
    """From one end to another (2,) · how it is bridged · options: the ways there are · length mm that is assumed."""

    start: tuple[float, float]
    end: tuple[float, float]
    how: How
    options: tuple[How, ...]
    length: float


@dataclass(frozen=True, slots=True)
class Bridged:
    """A loop closed over gaps · of: the open lines it is made of, by number."""

    outline: Outline
    of: tuple[int, ...]
    gaps: tuple[Gap, ...]


@dataclass(frozen=True, slots=True)
class _Pair:
    a: int
    b: int
    joins: list[Join]
    wished: bool = False

    @property
    def best(self) -> Join:
        return self.joins[0]


def _densely(path: Array, step: float) -> Array:
    lengths = np.concatenate([[0], np.cumsum(np.linalg.norm(np.diff(path, axis=0), axis=1))])
    at = np.linspace(0, lengths[-1], max(2, int(np.ceil(lengths[-1] / step)) + 1))
    return np.column_stack([np.interp(at, lengths, path[:, k]) for k in range(2)])


def unseen_along(piece: Piece, seen: Sequence[Array], reach_mm: float) -> tuple[Span, ...]:
    """Stretches of a piece that no polyline (n, 2) runs along: from where one ends to where one begins, those that go beyond reach_mm of all."""
    at = _densely(piece_path(piece), 0.25 * reach_mm)
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
    at = _densely(path, max(_piece_length(piece) / 200, 1e-9))
    ends = [[int(np.linalg.norm(at - np.array(p), axis=1).argmin()) for p in span] for span in piece.assumed]
    unseen = np.zeros(len(at) - 1, bool)
    for a, b in ends:
        unseen[min(a, b) : max(a, b)] = True
    cuts = [0, *(np.flatnonzero(unseen[1:] != unseen[:-1]) + 1).tolist(), len(unseen)]
    return [(at[a : b + 1], bool(unseen[a])) for a, b in itertools.pairwise(cuts)]


def assumed_whole(piece: Piece) -> bool:
    """Whether so little of a piece was seen that all of it counts as assumed."""
    return sum(float(np.hypot(b[0] - a[0], b[1] - a[1])) for a, b in piece.assumed) > _WHOLE * _piece_length(piece)


def _ends(line: OpenLine) -> tuple[End, End]:
    """Where a line begins and ends, with the pieces that do."""
    points, pieces = line.points, line.outline.pieces
    owner = np.argmin(np.stack([path_distance(points, piece_path(p)) for p in pieces]), axis=0)
    out = []
    for k, at, last in ((0, points[0], False), (len(pieces) - 1, points[-1], True)):
        own = points[owner == k]
        own = own if len(own) >= _LEAST_POINTS else _densely(piece_path(pieces[k]), _piece_length(pieces[k]) / 6)
        out.append(end_of(fit_piece(CODES[pieces[k].kind], own), at, last))
    return out[0], out[1]


def _without_rounding(line: OpenLine, tolerance: float, stub: float) -> OpenLine:
    """A line without what the scan has rounded at its open ends (pieces shorter than stub, mm): there it turns towards a piece that is missing, and
    says nothing of it."""
    pieces, points = list(line.outline.pieces), line.points
    owner = np.argmin(np.stack([path_distance(points, piece_path(p)) for p in pieces]), axis=0)
    first, last = 0, len(pieces) - 1
    while last > first and _piece_length(pieces[last]) < stub:
        last -= 1
    while last > first and _piece_length(pieces[first]) < stub:
        first += 1
    kept = np.flatnonzero((owner >= first) & (owner <= last))
    if len(kept) < _LEAST_POINTS:
        return line
    low, high = int(kept[0]), int(kept[-1]) + 1
    for way, piece in ((1, pieces[first]), (-1, pieces[last])):
        part = points[low:high][::way]
        along = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(part, axis=0), axis=1))])
        astray = (path_distance(part, piece_path(piece)) > tolerance) & (along < stub)
        gone = int(np.flatnonzero(astray)[-1]) + 1 if astray.any() else 0
        low, high = (low + gone, high) if way == 1 else (low, high - gone)
    if high - low < _LEAST_POINTS:
        return line
    return OpenLine(points[low:high], replace(line.outline, pieces=tuple(pieces[first : last + 1])))


def _piece_length(piece: Piece) -> float:
    return max(float(np.linalg.norm(np.diff(piece_path(piece), axis=0), axis=1).sum()), 1e-6)


def _clear(path: Array, tree: STRtree, lines: list[LineString], slack: float) -> bool:
    """Whether a bridge crosses nothing that was seen, its own ends left aside."""
    whole = LineString(path)
    if whole.length <= 2 * slack:
        return True
    cut = _CLEAR * whole.length + slack
    middle = (
        LineString([whole.interpolate(d) for d in np.linspace(cut, whole.length - cut, 24)])
        if (whole.length > 2.2 * cut)
        else None
    )
    return middle is None or not any(lines[int(k)].intersects(middle) for k in tree.query(middle))


def _near_pairs(ends: list[End]) -> list[tuple[int, int]]:
    """Pairs of ends that may belong together: each with those nearest to it, and with the other end of its own line."""
    at = np.array([end.at for end in ends])
    away = np.linalg.norm(at[:, None] - at[None], axis=2)
    near = np.argsort(away, axis=1, kind="stable")[:, 1 : _NEAR + 1]
    pairs = {(min(a, int(b)), max(a, int(b))) for a, row in enumerate(near) for b in row if b != a}
    return sorted(pairs | {(a, a + 1) for a in range(0, len(ends), 2)})


def _cheapest(pairs: dict[tuple[int, int], float], ends: list[int]) -> list[tuple[int, int]]:
    """The pairing of ends that costs least; ends that nothing joins stay alone."""
    if len(ends) > _ALL_PAIRINGS:
        out, used = [], set[int]()
        for (a, b), _ in sorted(pairs.items(), key=lambda row: row[1]):
            if not {a, b} & used:
                used |= {a, b}
                out.append((a, b))
        return out
    alone = 10 * max(pairs.values(), default=1.0)

    def best(left: tuple[int, ...]) -> tuple[float, list[tuple[int, int]]]:
        if len(left) < 2:
            return alone * len(left), []
        a, rest = left[0], left[1:]
        cost, found = best(rest)
        top = (cost + alone, found)
        for k, b in enumerate(rest):
            if (a, b) in pairs:
                cost, found = best(rest[:k] + rest[k + 1 :])
                top = min(top, (cost + pairs[a, b], [(a, b), *found]))
        return top

    return best(tuple(ends))[1]


def _wished(pair: _Pair, ends: list[End], wishes: Sequence[Wish]) -> _Pair | None:
    """The pair with the way that somebody wishes for first; None where it is to stay open."""
    a, b = ends[pair.a].at, ends[pair.b].at
    for wish in wishes:
        if np.linalg.norm(0.5 * (a + b) - np.array(wish.near)) <= 0.25 * np.linalg.norm(b - a) + 1e-6:
            if wish.how is None:
                return None
            return _Pair(pair.a, pair.b, sorted(pair.joins, key=lambda j: j.how != wish.how), wished=True)
    return pair


def bridged(
    lines: Sequence[OpenLine],
    others: Sequence[Array],
    *,
    tolerance_mm: float,
    edge_mm: float,
    wishes: Sequence[Wish] = (),
    budget: Budget = UNLIMITED,
) -> list[Bridged]:
    """Loops closed over gaps, from open lines; lines that cannot be closed are in none of them.

    others: closed polylines (n, 2) of the same section, that no bridge may cross. tolerance_mm: three sigma. edge_mm: the side of a facet.
    Nothing is bridged where the budget does not reach.
    """
    if not lines or 2 * len(lines) > _MOST_ENDS:
        return []
    best: tuple[tuple[int, float], list[Bridged]] | None = None
    for stub in _STUBS:
        cleared = [_without_rounding(line, tolerance_mm, stub * edge_mm) for line in lines]
        made = _bridged(cleared, others, tolerance_mm, edge_mm, wishes, budget)
        missed = max((_missed(b, lines, 0.3 * edge_mm + tolerance_mm) for b in made), default=0.0)
        rank = len(lines) - sum(len(b.of) for b in made), missed
        if best is None or rank < best[0]:
            best = rank, made
        if missed < _MISSED:
            break
    assert best is not None
    return best[1]


def _missed(made: Bridged, lines: Sequence[OpenLine], reach: float) -> float:
    """The share of what was seen of a loop that it does not pass within reach (mm)."""
    paths = [piece_path(p) for p in made.outline.pieces]
    points = np.vstack([lines[k].points for k in made.of])
    return float(np.mean(np.min([path_distance(points, path) for path in paths], axis=0) > reach))


def _bridged(
    lines: Sequence[OpenLine],
    others: Sequence[Array],
    tolerance_mm: float,
    edge_mm: float,
    wishes: Sequence[Wish],
    budget: Budget,
) -> list[Bridged]:
    sigma = tolerance_mm / 3
    ends = [end for line in lines for end in _ends(line)]
    seen = [LineString(line.points) for line in lines] + [LineString(np.vstack([o, o[:1]])) for o in others]
    tree = STRtree(seen)
    found: dict[tuple[int, int], _Pair] = {}
    for a, b in _near_pairs(ends):
        if budget.spent:
            return []
        joins = ways_to_join(ends[a], ends[b], sigma_mm=sigma, edge_mm=edge_mm)
        joins = [j for j in joins if _clear(j.path, tree, seen, 2 * edge_mm)]
        if joins:
            found[a, b] = _Pair(a, b, joins)
    pairing = _cheapest({k: p.best.cost for k, p in found.items()}, list(range(len(ends))))
    mates: dict[int, tuple[int, _Pair]] = {}
    for key in pairing:
        pair = _wished(found[key], ends, wishes)
        if pair is not None:
            mates[pair.a], mates[pair.b] = (pair.b, pair), (pair.a, pair)
    out = []
    left = set(range(len(lines)))
    while left:
        ring = _ring(min(left), mates)
        left -= {k for k, _ in ring} or {min(left)}
        if ring:
            made = _closed(ring, lines, mates, ends, tolerance_mm, edge_mm, budget)
            if made is not None:
                out.append(made)
    return out


def _ring(begin: int, mates: dict[int, tuple[int, _Pair]]) -> list[tuple[int, bool]]:
    """Lines in the order in which bridges lead through them, and whether each is run forwards; none where the way ends."""
    ring: list[tuple[int, bool]] = []
    line, forwards = begin, True
    while (line, forwards) not in ring:
        ring.append((line, forwards))
        mate = mates.get(2 * line + int(forwards))
        if mate is None:
            return []
        line, forwards = mate[0] // 2, mate[0] % 2 == 0
    return ring if ring[0] == (line, forwards) else []


def _closed(
    ring: list[tuple[int, bool]],
    lines: Sequence[OpenLine],
    mates: dict[int, tuple[int, _Pair]],
    ends: list[End],
    tolerance: float,
    edge: float,
    budget: Budget,
) -> Bridged | None:
    """The loop of lines and bridges, explained as one. What is assumed only shows the way round: pieces that were seen may go on through it as
    they like, save where nothing but a line or an arc of its own was found to join them, or is wished for."""
    parts: list[Array] = []
    unseen: list[NDArray[np.bool_]] = []
    wished: list[NDArray[np.int64]] = []
    asked: list[PieceKind] = []
    gaps: list[Gap] = []
    for k, forwards in ring:
        points = lines[k].points if forwards else lines[k].points[::-1]
        mine = 2 * k + int(forwards)
        other, pair = mates[mine]
        join = pair.best
        path = _densely(join.path if pair.a == mine else join.path[::-1], 0.5 * edge)[1:-1]
        gaps.append(
            Gap(_xy(ends[mine].at), _xy(ends[other].at), join.how, tuple(j.how for j in pair.joins), join.length)
        )
        loose = join.how in ("one piece", "meet") and not pair.wished
        of_wish = -1
        if pair.wished and (join.how == "line" or join.how == "arc"):
            of_wish = len(asked)
            asked.append(join.how)
        wished += [np.full(len(points), -1), np.full(len(path), of_wish)]
        parts += [points, path]
        unseen += [np.zeros(len(points), bool), np.full(len(path), loose)]
    points, shown = np.vstack(parts), np.concatenate(unseen)
    of = tuple(k for k, _ in ring)
    seen = [lines[k].points for k in of]
    made = [
        fit_outline(points, closed=True, tolerance_mm=tolerance, edge_mm=edge, budget=budget, assumed=assumed, looks=1)
        for assumed in ((shown, None) if shown.any() else (None,))
    ]
    made = [o for o in made if o.closed and o.explained]
    if not made:
        return None
    outline = min(made, key=lambda o: _price(o, seen, tolerance / 3))
    if asked:
        away = np.stack([path_distance(points, piece_path(p)) for p in outline.pieces], axis=1)
        outline = as_wished(outline, points, np.concatenate(wished), asked, away, tolerance=tolerance, edge=edge)
    return Bridged(_marked(outline, seen, gaps, edge + tolerance), of, tuple(gaps))


def _price(outline: Outline, seen: list[Array], sigma: float) -> float:
    """Of telling what was seen by an outline: its pieces, and what it misses."""
    paths = [piece_path(p) for p in outline.pieces]
    away = np.concatenate([np.min([path_distance(points, path) for path in paths], axis=0) for points in seen])
    return sum(PRICES[CODES[p.kind]] for p in outline.pieces) + float(np.sum(np.minimum(away / sigma, _MOST_AWAY) ** 2))


def _xy(p: Array) -> tuple[float, float]:
    return float(p[0]), float(p[1])


def _marked(outline: Outline, seen: list[Array], gaps: list[Gap], reach: float) -> Outline:
    """Pieces with the stretches of them that nobody has seen; each gap is marked on the piece nearest to it, however short it is."""
    pieces = [replace(p, assumed=unseen_along(p, seen, reach)) for p in outline.pieces]
    for gap in gaps:
        middle = 0.5 * (np.array(gap.start) + np.array(gap.end))
        told = [
            s
            for p in pieces
            for s in p.assumed
            if np.linalg.norm(0.5 * (np.array(s[0]) + np.array(s[1])) - middle) < gap.length + reach
        ]
        if not told:
            k = int(np.argmin([path_distance(middle[None], piece_path(p))[0] for p in pieces]))
            pieces[k] = replace(pieces[k], assumed=(*pieces[k].assumed, (gap.start, gap.end)))
    return replace(outline, pieces=tuple(pieces))
