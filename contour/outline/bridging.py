"""Open outlines of a section closed over the gaps of the scan, by proposal: which ends belong together, and how each gap is bridged.

Of all pairings of ends the one that assumes least is taken; a bridge crosses nothing that was seen. Then every loop is fitted
again as one, so that pieces meet where they would if nothing were missing, and each piece tells which of its stretches nobody has seen.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
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
_NONE = 0.25  # the same: a loop that misses so much is not what was seen


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
    """The end of a line (last) and the beginning of one (first), by number: line k begins with end 2 k and ends with end 2 k + 1."""

    last: int
    first: int
    joins: list[Join]
    wished: bool = False

    @property
    def best(self) -> Join:
        return self.joins[0]


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
    """Where one line ends and one begins that may belong together (the material lies to the same side of both): each with those nearest to it, and
    with the other end of its own line."""
    at = np.array([e.at for e in ends])
    away = np.linalg.norm(at[1::2, None] - at[None, ::2], axis=2)
    np.fill_diagonal(away, -1.0)
    near = [np.argsort(np.argsort(away, axis=k, kind="stable"), axis=k, kind="stable") < _NEAR for k in (0, 1)]
    return [(2 * int(k) + 1, 2 * int(j)) for k, j in np.argwhere(near[0] | near[1])]


def _wished(pair: _Pair, ends: list[End], wishes: Sequence[Wish]) -> _Pair | None:
    """The pair with the way that somebody wishes for first; None where it is to stay open."""
    a, b = ends[pair.last].at, ends[pair.first].at
    for wish in wishes:
        if np.linalg.norm(0.5 * (a + b) - np.array(wish.near)) <= 0.25 * np.linalg.norm(b - a) + 1e-6:
            if wish.how is None:
                return None
            return _Pair(pair.last, pair.first, sorted(pair.joins, key=lambda j: j.how != wish.how), wished=True)
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
    """Loops closed over gaps, from open lines, the material to the left of each; lines that cannot be closed are in none of them.

    others: closed polylines (n, 2) of the same section, that no bridge may cross. tolerance_mm: three sigma. edge_mm: the side of a facet.
    Nothing is bridged where the budget does not reach.
    """
    if not lines or 2 * len(lines) > _MOST_ENDS:
        return []
    best: tuple[tuple[int, float], list[Bridged]] | None = None
    for stub in _STUBS:
        cleared = [without_rounding(line, tolerance_mm, stub * edge_mm) for line in lines]
        found = _bridged(cleared, others, tolerance_mm, edge_mm, wishes, budget)
        shares = [_missed(b, lines, 0.3 * edge_mm + tolerance_mm) for b in found]
        made = [b for b, share in zip(found, shares, strict=True) if share < _NONE]
        missed = max((share for share in shares if share < _NONE), default=0.0)
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
    for last, first in _near_pairs(ends):
        if budget.spent:
            return []
        joins = ways_to_join(ends[last], ends[first], sigma_mm=tolerance_mm / 3, edge_mm=edge_mm)
        joins = [j for j in joins if _clear(j.path, tree, seen, 2 * edge_mm)]
        if joins:
            found[last, first] = _Pair(last, first, joins)
    pairing = least_pairing({k: p.best.cost for k, p in found.items()})
    mates: dict[int, _Pair] = {}
    for key in pairing:
        pair = _wished(found[key], ends, wishes)
        if pair is not None:
            mates[pair.last] = pair
    out = []
    for ring in _rings(len(lines), mates):
        links = [_link(lines[k], mates[2 * k + 1]) for k in ring]
        outline = closed_outline(links, tolerance_mm=tolerance_mm, edge_mm=edge_mm, budget=budget)
        if outline is not None:
            gaps = [_gap(mates[2 * k + 1], ends) for k in ring]
            kept = [lines[k].points for k in ring]
            out.append(Bridged(marked(outline, kept, gaps, edge_mm + tolerance_mm), tuple(ring), tuple(gaps)))
    return out


def _link(line: Cleared, pair: _Pair) -> Link:
    return Link(line.line.points, line.kept, pair.best.path, pair.best.how, pair.wished)


def _gap(pair: _Pair, ends: Sequence[End]) -> Gap:
    return Gap(
        _xy(ends[pair.last].at),
        _xy(ends[pair.first].at),
        pair.best.how,
        tuple(j.how for j in pair.joins),
        pair.best.length,
    )


def _xy(p: Array) -> tuple[float, float]:
    return float(p[0]), float(p[1])


def _rings(count: int, mates: Mapping[int, _Pair]) -> Iterator[list[int]]:
    """All loops that bridges close, each as the numbers of its lines in order."""
    left = set(range(count))
    while left:
        line, ring = min(left), list[int]()
        while line in left:
            left.remove(line)
            ring.append(line)
            if 2 * line + 1 not in mates:
                break
            line = mates[2 * line + 1].first // 2
        else:
            if line == ring[0]:
                yield ring
