"""A loop of open lines and the bridges between them, explained as one outline.

Bridges are proposals, each by what is known at its two ends. Here all that was seen of the loop is told by as few pieces as it takes: a bridge may count
as evidence, or only show which way the loop goes; and what a line was shortened by, for it may be the rounding of a corner, may count or not. Each
is tried, and what tells the points that were seen for least is taken.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree
from shapely import Polygon

from contour.fit.budget import UNLIMITED, Budget
from contour.outline.along import densely, path_distance
from contour.outline.as_wished import as_wished
from contour.outline.explain import fit_outline
from contour.outline.joins import How
from contour.outline.pieces import CODES, Outline, PieceKind, piece_length, piece_path
from contour.outline.split import PRICES

__all__ = ["Link", "closed_outline"]

Array = NDArray[np.float64]

_MOST_AWAY = 10.0  # sigmas: beyond it a point is missed, however far
_ABOUT = 1.5  # times as long as its bridges are: farther round than that pieces are not taken to go on
_MOST_ONE_BY_ONE = 4  # bridges that may be needed, each of which is left out once: of more, all or none
_ROUNDED_AWAY = 3.0**0.5  # the same of a point that a corner may have rounded, which costs as much as three that fit


@dataclass(frozen=True, slots=True)
class Link:
    """One line of a loop, and the bridge from it to the next.

    seen (n, 2): the line, mm, in the direction of the loop · kept (first, last): the points of it that no corner has rounded, as a slice · way (k, 2):
    the bridge, mm, from the last kept point to the first of the next link · how: it is bridged · wished: by somebody, and not only proposed.
    """

    seen: Array
    kept: tuple[int, int]
    way: Array
    how: How
    wished: bool


@dataclass(frozen=True, slots=True)
class _Laid:
    """The loop as one chain of points (n, 2), mm · bridge (n,): the number of the bridge that a point is of, -1 of what was seen."""

    points: Array
    bridge: NDArray[np.int64]


def _laid(links: Sequence[Link], whole: bool, step: float) -> _Laid:
    """whole: with the ends that corners may have rounded, which bridges then begin beyond."""
    points, bridge = [], []
    for k, link in enumerate(links):
        after = links[(k + 1) % len(links)]
        first, last = (0, len(link.seen)) if whole else link.kept
        way = densely(link.way, step)[1:-1]
        if whole:
            ends = link.seen[-1], after.seen[0]
            shortened = [np.linalg.norm(end - at) for end, at in zip(ends, link.way[[0, -1]], strict=True)]
            clear = np.all(
                [np.linalg.norm(way - at, axis=1) > by for at, by in zip(link.way[[0, -1]], shortened, strict=True)],
                axis=0,
            )
            way = way[clear] if clear.any() else np.linspace(*ends, 5)[1:-1]
        points += [link.seen[first:last], way]
        bridge += [np.full(last - first, -1), np.full(len(way), k)]
    return _Laid(np.vstack(points), np.concatenate(bridge))


def _through(links: Sequence[Link]) -> set[int]:
    """Bridges within which pieces that were seen go on."""
    return {k for k, link in enumerate(links) if not link.wished and link.how in ("one piece", "meet")}


def _length(path: Array) -> float:
    return float(np.linalg.norm(np.diff(path, axis=0), axis=1).sum())


def _encloses(outline: Outline, least: float) -> bool:
    """Whether an outline runs round some area (mm²), and neither there and back nor across itself."""
    loop = Polygon(np.vstack([piece_path(p) for p in outline.pieces]))
    return bool(loop.is_valid and loop.area > least)


def _unseen(outline: Outline, links: Sequence[Link]) -> float:
    """How much longer an outline is than what was seen of it, mm."""
    return sum(piece_length(p) for p in outline.pieces) - sum(_length(link.seen[slice(*link.kept)]) for link in links)


def _tries(links: Sequence[Link], step: float) -> Iterator[tuple[_Laid, set[int]]]:
    """The loop as it may be laid, with the bridges that only show the way: pieces that go on through the gap tell it without them, a line or an arc
    of its own may be needed. What is wished for is evidence, always."""
    free = [k for k, link in enumerate(links) if not link.wished]
    through = _through(links)
    firm = [k for k in free if k not in through]
    ones = [through | {k} for k in firm] if len(firm) <= _MOST_ONE_BY_ONE else []
    sets = [through, set(), *ones, set(free)]
    sets = [s for k, s in enumerate(sets) if s not in sets[:k]]
    shortened = any(link.kept != (0, len(link.seen)) for link in links)
    for whole in (False, True) if shortened and len(free) == len(links) else (False,):
        laid = _laid(links, whole, step)
        for shown in sets:
            yield laid, shown


def closed_outline(
    links: Sequence[Link], *, tolerance_mm: float, edge_mm: float, budget: Budget = UNLIMITED
) -> Outline | None:
    """The closed outline of a loop of lines and bridges; none where nothing closes it, or the budget does not reach.

    tolerance_mm: three sigma. edge_mm: the side of a facet.
    """
    through, bridges = _through(links), sum(_length(link.way) for link in links)
    made = []
    for laid, shown in _tries(links, 0.5 * edge_mm):
        only_shown = np.isin(laid.bridge, list(shown)) if shown else None
        outline = fit_outline(
            laid.points,
            closed=True,
            tolerance_mm=tolerance_mm,
            edge_mm=edge_mm,
            budget=budget,
            assumed=only_shown,
            looks=1,
        )
        if not outline.closed or not outline.explained or not _encloses(outline, edge_mm**2):
            continue
        if shown <= through or _unseen(outline, links) < _ABOUT * bridges + 4 * edge_mm:
            made.append(outline)
    if not made:
        return None
    best = min(made, key=lambda o: _price(o, links, tolerance_mm / 3, edge_mm))
    return _with_wishes(best, links, tolerance_mm, edge_mm)


def _with_wishes(outline: Outline, links: Sequence[Link], tolerance: float, edge: float) -> Outline:
    kinds: dict[int, PieceKind] = {
        k: link.how for k, link in enumerate(links) if link.wished and (link.how == "line" or link.how == "arc")
    }
    if not kinds:
        return outline
    laid = _laid(links, False, 0.5 * edge)
    number = np.full(len(links) + 1, -1)
    number[list(kinds)] = np.arange(len(kinds))
    away = np.stack([path_distance(laid.points, piece_path(p)) for p in outline.pieces], axis=1)
    return as_wished(
        outline, laid.points, number[laid.bridge], list(kinds.values()), away, tolerance=tolerance, edge=edge
    )


def _price(outline: Outline, links: Sequence[Link], sigma: float, edge: float) -> float:
    """Of telling what was seen by an outline: its pieces, and what they miss, less of it where a corner may have been rounded."""
    paths = [piece_path(p) for p in outline.pieces]
    points = np.concatenate([link.seen for link in links])
    kept = np.concatenate([np.isin(np.arange(len(link.seen)), np.arange(*link.kept)) for link in links])
    away = np.min([path_distance(points, path) for path in paths], axis=0)
    corners, _ = cKDTree([p.start for p in outline.pieces]).query(points)
    most = np.where(kept & (corners >= edge), _MOST_AWAY, _ROUNDED_AWAY)
    return sum(PRICES[CODES[p.kind]] for p in outline.pieces) + float(np.sum(np.minimum(away / sigma, most) ** 2))
