"""Open outlines of a section closed over the gaps of the scan, by proposal: which ends belong together, and how each gap is bridged.

Of all pairings of ends the one that assumes least is taken; a bridge crosses nothing that was seen. Then every loop is fitted
again as one, so that pieces meet where they would if nothing were missing, and each piece tells which of its stretches nobody has seen.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from shapely import STRtree
from shapely.geometry import LineString

from contour.fit.budget import UNLIMITED, Budget
from contour.outline.along import path_distance
from contour.outline.assumed import Gap, marked
from contour.outline.closing import Link, closed_outline
from contour.outline.joins import End, How, Join, ways_to_join
from contour.outline.open_line import Cleared, OpenLine, without_rounding
from contour.outline.pairing import least_pairing
from contour.outline.pieces import Outline, piece_path

__all__ = ["Bridged", "Wish", "bridged"]

Array = NDArray[np.float64]

_NEAR = 9  # ends that each is tried with
_MOST_ENDS = 120  # more are the edge of a lattice, not of a part
_CLEAR = 0.02  # of a bridge at both ends, that may touch what it comes from
# Facet sides: an end so short may be what the scan makes of a corner; the longer one where with the shorter what was seen is missed.
_STUBS = (2.5, 3.4)
_MISSED = 0.02  # of what was seen: a loop that misses more does not follow it


@dataclass(frozen=True, slots=True)
class Wish:
    """How the gap whose middle lies at a place (mm) is to be bridged; without a way it is to stay open."""

    near: tuple[float, float]
    how: How | None


@dataclass(frozen=True, slots=True)
class Bridged:
    """A loop closed over gaps · of: the open lines it is made of, by number."""

    outline: Outline
    of: tuple[int, ...]
    gaps: tuple[Gap, ...]


@dataclass(frozen=True, slots=True)
class _Pair:
    """Two ends, by number: line number k begins with end 2 k and ends with end 2 k + 1."""

    a: int
    b: int
    joins: list[Join]
    wished: bool = False

    @property
    def best(self) -> Join:
        return self.joins[0]

    def other(self, end: int) -> int:
        return self.b if end == self.a else self.a

    def way_from(self, end: int) -> Array:
        return self.best.path if end == self.a else self.best.path[::-1]


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
        cleared = [without_rounding(line, tolerance_mm, stub * edge_mm) for line in lines]
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
    lines: Sequence[Cleared],
    others: Sequence[Array],
    tolerance_mm: float,
    edge_mm: float,
    wishes: Sequence[Wish],
    budget: Budget,
) -> list[Bridged]:
    ends = [end for line in lines for end in line.ends(tolerance_mm, edge_mm)]
    seen = [LineString(line.points) for line in lines] + [LineString(np.vstack([o, o[:1]])) for o in others]
    tree = STRtree(seen)
    found: dict[tuple[int, int], _Pair] = {}
    for a, b in _near_pairs(ends):
        if budget.spent:
            return []
        joins = ways_to_join(ends[a], ends[b], sigma_mm=tolerance_mm / 3, edge_mm=edge_mm)
        joins = [j for j in joins if _clear(j.path, tree, seen, 2 * edge_mm)]
        if joins:
            found[a, b] = _Pair(a, b, joins)
    pairing = least_pairing({k: p.best.cost for k, p in found.items()}, len(ends))
    mates: dict[int, _Pair] = {}
    for key in pairing:
        pair = _wished(found[key], ends, wishes)
        if pair is not None:
            mates[pair.a] = mates[pair.b] = pair
    out = []
    for ring in _rings(len(lines), mates):
        links = [_link(lines[k], forwards, mates[2 * k + int(forwards)], 2 * k + int(forwards)) for k, forwards in ring]
        outline = closed_outline(links, tolerance_mm=tolerance_mm, edge_mm=edge_mm, budget=budget)
        if outline is not None:
            gaps = [_gap(mates[2 * k + int(forwards)], 2 * k + int(forwards), ends) for k, forwards in ring]
            kept = [lines[k].points for k, _ in ring]
            out.append(
                Bridged(marked(outline, kept, gaps, edge_mm + tolerance_mm), tuple(k for k, _ in ring), tuple(gaps))
            )
    return out


def _link(line: Cleared, forwards: bool, pair: _Pair, end: int) -> Link:
    """A line run forwards or backwards, and the bridge from its end of that number."""
    seen, (first, last) = line.line.points, line.kept
    if not forwards:
        seen, (first, last) = seen[::-1], (len(seen) - last, len(seen) - first)
    return Link(seen, (first, last), pair.way_from(end), pair.best.how, pair.wished)


def _gap(pair: _Pair, end: int, ends: Sequence[End]) -> Gap:
    """What a pair bridges, seen from one of its ends."""
    return Gap(
        _xy(ends[end].at),
        _xy(ends[pair.other(end)].at),
        pair.best.how,
        tuple(j.how for j in pair.joins),
        pair.best.length,
    )


def _xy(p: Array) -> tuple[float, float]:
    return float(p[0]), float(p[1])


def _rings(count: int, mates: dict[int, _Pair]) -> Iterator[list[tuple[int, bool]]]:
    """All loops that bridges close, each as its lines in order."""
    left = set(range(count))
    while left:
        ring = _ring(min(left), mates)
        left -= {k for k, _ in ring} or {min(left)}
        if ring:
            yield ring


def _ring(begin: int, mates: dict[int, _Pair]) -> list[tuple[int, bool]]:
    """Lines in the order in which bridges lead through them, and whether each is run forwards; none where the way ends."""
    ring: list[tuple[int, bool]] = []
    line, forwards = begin, True
    while (line, forwards) not in ring:
        ring.append((line, forwards))
        end = 2 * line + int(forwards)
        if end not in mates:
            return []
        other = mates[end].other(end)
        line, forwards = other // 2, other % 2 == 0
    return ring if ring[0] == (line, forwards) else []
