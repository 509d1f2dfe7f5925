"""Closed regions of a drawing, found by themselves: nested, with islands, also where lines cross; gaps and what is left over.

The drawing is cut where its curves meet; regions are the faces of that planar graph (de Berg et al. 2008, ch. 2), traced with the
sharpest turn to the left at every corner.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree
from shapely.geometry import LineString, Polygon
from shapely.geometry import Point as Spot

from contour.sketch.drawn.text import Constraint, Drawing, ends_of
from contour.sketch.drawn.traces import Trace, crossings, traces_of
from contour.sketch.entities import LoopName, named_by_share

__all__ = ["Gap", "Piece", "Profiles", "Region", "profiles_of", "region_names"]

Array = NDArray[np.float64]
_JOIN_MM = 1e-5
_DOUBLE = 1e-3  # mm between paths that are shown by chords
_NOTHING = 1e-8  # mm²


@dataclass(frozen=True, slots=True)
class Piece:
    """A stretch of an entity, from one of its parameters in [0, 1] to another; backwards where the first is the larger; past 1 it goes on over the
    seam of a closed one. id: the entity's own where all of it is meant, else also what it goes from and to (``l1:l3-l5``): a piece that is cut
    anew gets another name, and none ever gets that of its neighbour."""

    entity: str
    first: float
    last: float
    id: str = ""


@dataclass(frozen=True, slots=True)
class Region:
    """outer: pieces head to tail, counter-clockwise · islands: what is cut out of it, clockwise each · area mm²."""

    outer: tuple[Piece, ...]
    islands: tuple[tuple[Piece, ...], ...]
    area: float


@dataclass(frozen=True, slots=True)
class Gap:
    """Two entities that nearly meet: where (the loose end), at what distance mm · mend: the constraint that would close it."""

    between: tuple[str, str]
    at: tuple[float, float]
    width: float
    mend: Constraint


@dataclass(frozen=True, slots=True)
class Profiles:
    """regions: largest first · gaps: smallest first · loose: pieces that bound nothing."""

    regions: tuple[Region, ...]
    gaps: tuple[Gap, ...]
    loose: tuple[Piece, ...]


@dataclass(slots=True)
class _Edge:
    trace: Trace
    first: float
    last: float
    begin: int
    end: int
    bounds: bool = True
    id: str = ""

    def piece(self, ahead: bool) -> Piece:
        a, b = (self.first, self.last) if ahead else (self.last, self.first)
        return Piece(self.trace.entity, a, b, self.id)

    def places(self, ahead: bool) -> Array:
        t = np.linspace(self.first, self.last, 2 if len(self.trace.shown) == 2 else 33)
        return self.trace.place(t if ahead else t[::-1])

    def length(self) -> float:
        return float(np.linalg.norm(np.diff(self.places(True), axis=0), axis=1).sum())


_Walk = tuple[tuple[int, bool], ...]


def profiles_of(drawing: Drawing, *, gap_mm: float | None = None) -> Profiles:
    """Regions of a solved drawing. gap_mm: how far apart two ends may be to be told as a gap (default: a fiftieth of the size)."""
    traces = traces_of(drawing)
    if not traces:
        return Profiles((), (), ())
    edges, corners = _cut(traces)
    size = float(np.ptp(corners, axis=0).max()) if len(corners) else 1.0
    gaps = _gaps(drawing, edges, corners, gap_mm if gap_mm is not None else size / 50)
    _drop_doubles(edges)
    while True:
        _prune(edges)
        walks = _walks(edges, corners)
        bridges = [k for walk in walks for k, ahead in walk if ahead and (k, False) in walk]
        if not bridges:
            break
        for k in bridges:  # the same region on both sides: it bounds nothing
            edges[k].bounds = False
    loose = tuple(e.piece(True) for e in edges if not e.bounds)
    edges = _joined([e for e in edges if e.bounds])
    _give_ids(edges)
    return Profiles(_regions(edges, _walks(edges, corners)), gaps, loose)


def region_names(regions: Sequence[Region], given: Sequence[LoopName]) -> list[str]:
    """Lasting names of regions, by the pieces on their outer border. given: names that there were, with the pieces they had then."""
    return named_by_share([frozenset(p.id for p in r.outer) for r in regions], given)


def _joined(edges: list[_Edge]) -> list[_Edge]:
    """Neighbours of one entity as one where nothing but they meet: what is loose cuts nothing."""
    meeting: dict[int, list[_Edge]] = {}
    for e in edges:
        meeting.setdefault(e.begin, []).append(e)
        meeting.setdefault(e.end, []).append(e)
    out = list(edges)
    for corner, pair in meeting.items():
        if len(pair) != 2 or pair[0] is pair[1] or pair[0].trace.entity != pair[1].trace.entity:
            continue
        before, after = pair if pair[0].end == corner and pair[1].begin == corner else pair[::-1]
        if before.end != corner or after.begin != corner:
            continue  # a spline that touches itself
        span = after.last - after.first
        whole = _Edge(before.trace, before.first, before.last + span, before.begin, after.end)
        if whole.last > 1.0 and before.last <= 1.0:
            whole.trace = _wrapping(before.trace)
        out = [e for e in out if e is not before and e is not after] + [whole]
        for end in (whole.begin, whole.end):
            meeting[end] = [whole if e is before or e is after else e for e in meeting[end]]
    return out


def _give_ids(edges: list[_Edge]) -> None:
    at: dict[int, set[str]] = {}
    for e in edges:
        at.setdefault(e.begin, set()).add(e.trace.entity)
        at.setdefault(e.end, set()).add(e.trace.entity)
    used: dict[str, int] = {}
    for e in sorted(edges, key=lambda e: (e.trace.entity, e.first)):
        own = e.trace.entity
        if abs(e.last - e.first - 1.0) < 1e-9:
            e.id = own
            continue
        met = [min(at[corner] - {own}, default="") for corner in (e.begin, e.end)]
        name = f"{own}:{met[0]}-{met[1]}"
        used[name] = used.get(name, 0) + 1
        e.id = name if used[name] == 1 else f"{name}:{used[name]}"


def _cut(traces: list[Trace]) -> tuple[list[_Edge], Array]:
    """Edges between the places where curves meet, and these places (n, 2)."""
    pieces = []
    for trace, cuts in zip(traces, crossings(traces, _JOIN_MM), strict=True):
        at = np.unique(np.array([0.0, 1.0, *cuts]))
        if trace.closed and cuts:  # begin at a crossing: a seam is no corner
            at = np.unique(np.array([c % 1.0 for c in cuts]))
            at = np.append(at, at[0] + 1.0)
        pieces += [(trace, float(a), float(b)) for a, b in pairwise(at)]
    wrapped = [(_wrapping(t), a, b) if b > 1.0 else (t, a, b) for t, a, b in pieces]
    tips = np.array([t.place(np.array([a, b])) for t, a, b in wrapped])
    flat = tips.reshape(-1, 2)
    tree = cKDTree(flat)
    number = np.arange(len(flat))
    for i, near in enumerate(tree.query_ball_point(flat, _JOIN_MM)):
        number[i] = number[min(near)]
    used, number = np.unique(number, return_inverse=True)
    edges = [_Edge(t, a, b, int(number[2 * k]), int(number[2 * k + 1])) for k, (t, a, b) in enumerate(wrapped)]
    return [e for e in edges if e.begin != e.end or e.length() > 3 * _JOIN_MM], flat[used]


def _wrapping(t: Trace) -> Trace:
    return Trace(t.entity, lambda s: t.place(s % 1.0), lambda s: t.slope(s % 1.0), True, t.shown)


def _drop_doubles(edges: list[_Edge]) -> None:
    """Of pieces that lie over one another, between the same corners, one is enough."""
    between: dict[tuple[int, int], list[Array]] = {}
    for e in edges:
        middle = e.trace.place(np.array([(e.first + e.last) / 2]))[0]
        there = between.setdefault((min(e.begin, e.end), max(e.begin, e.end)), [])
        # A shared middle is not enough where one runs faster than the other: the nearest place of the path tells.
        e.bounds = not any(_distance(path, middle) <= _DOUBLE for path in there)
        there.append(e.places(True))


def _prune(edges: list[_Edge]) -> None:
    """Edges with a loose end bound nothing, nor do those that are left with one."""
    while True:
        count: dict[int, int] = {}
        for e in edges:
            if e.bounds:
                for corner in (e.begin, e.end):
                    count[corner] = count.get(corner, 0) + 1
        ends = [e for e in edges if e.bounds and (count[e.begin] == 1 or count[e.end] == 1)]
        if not ends:
            return
        for e in ends:
            e.bounds = False


def _walks(edges: list[_Edge], corners: Array) -> list[_Walk]:
    """Round every face of the graph, the face to the left."""
    leaving: dict[int, list[tuple[int, bool]]] = {}
    for k, e in enumerate(edges):
        if e.bounds:
            leaving.setdefault(e.begin, []).append((k, True))
            leaving.setdefault(e.end, []).append((k, False))
    after: dict[tuple[int, bool], tuple[int, bool]] = {}
    for corner, out in leaving.items():
        # Curves that leave one way are told apart a little further on.
        reach = 0.02 * min(edges[k].length() for k, _ in out)
        order = sorted(out, key=lambda step: _bearing(edges[step[0]], step[1], corners[corner], reach))
        for before, here in zip([order[-1], *order[:-1]], order, strict=True):
            k, ahead = here  # arriving against `here`, the next edge clockwise goes on
            after[(k, not ahead)] = before
    walks, seen = [], set[tuple[int, bool]]()
    for begin in after:
        walk, step = [], begin
        while step not in seen:
            seen.add(step)
            walk.append(step)
            step = after[step]
        if walk:
            walks.append(tuple(walk))
    return walks


def _bearing(e: _Edge, ahead: bool, corner: Array, reach: float) -> float:
    share = reach / max(e.length(), 1e-12) * (e.last - e.first)
    t = e.first + share if ahead else e.last - share
    d = e.trace.place(np.array([t]))[0] - corner
    return float(np.arctan2(d[1], d[0]))


def _regions(edges: list[_Edge], walks: list[_Walk]) -> tuple[Region, ...]:
    areas = [
        sum((1 if ahead else -1) * edges[k].trace.area_under(edges[k].first, edges[k].last) for k, ahead in walk)
        for walk in walks
    ]
    faces = [i for i, a in enumerate(areas) if a > _NOTHING]
    shapes = {i: Polygon(np.vstack([edges[k].places(ahead)[:-1] for k, ahead in walks[i]])) for i in faces}
    within: dict[int, list[int]] = {i: [] for i in faces}
    for i, walk in enumerate(walks):
        if areas[i] >= -_NOTHING:
            continue
        own = {k for k, _ in walk}
        spot = Spot(edges[walk[0][0]].places(walk[0][1])[0])
        around = [f for f in faces if not own & {k for k, _ in walks[f]} and shapes[f].contains(spot)]
        if around:
            within[min(around, key=lambda f: areas[f])].append(i)
    found = [
        Region(
            _pieces(edges, walks[f]),
            tuple(_pieces(edges, walks[i]) for i in within[f]),
            areas[f] + sum(areas[i] for i in within[f]),
        )
        for f in faces
    ]
    return tuple(sorted(found, key=lambda r: -r.area))


def _pieces(edges: list[_Edge], walk: _Walk) -> tuple[Piece, ...]:
    return tuple(edges[k].piece(ahead) for k, ahead in walk)


def _gaps(drawing: Drawing, edges: list[_Edge], corners: Array, most: float) -> tuple[Gap, ...]:
    """Loose ends with the nearest other loose end, or else the nearest side of another curve, no further than `most` mm."""
    count = np.bincount([c for e in edges for c in (e.begin, e.end)], minlength=len(corners))
    loose = [(e, c, c == e.end) for e in edges for c in (e.begin, e.end) if count[c] == 1]
    out: dict[frozenset[str], Gap] = {}
    for e, corner, last in loose:
        here, tip = corners[corner], _tip(drawing, e, last)
        ends = [
            (float(np.linalg.norm(corners[other] - here)), f, _tip(drawing, f, at_end))
            for f, other, at_end in loose
            if other != corner and f is not e
        ]
        sides = [(_distance(f.places(True), here), f, "") for f in edges if f is not e]
        width, met, other = min(
            [x for x in ends if x[0] <= most] or [x for x in sides if x[0] <= most] or [(np.inf, e, "")],
            key=lambda x: x[0],
        )
        if width <= most:
            mend = (
                Constraint(kind="coincident", of=(tip, other))
                if other
                else Constraint(kind="on-curve", of=(tip, met.trace.entity))
            )
            gap = Gap((e.trace.entity, met.trace.entity), (float(here[0]), float(here[1])), width, mend)
            out.setdefault(frozenset({tip, other or met.trace.entity}), gap)
    return tuple(sorted(out.values(), key=lambda g: g.width))


def _tip(drawing: Drawing, e: _Edge, last: bool) -> str:
    """The point that an edge's entity ends in."""
    return ends_of(drawing, e.trace.entity)[-1 if last else 0]


def _distance(line: Array, p: Array) -> float:
    return float(LineString(line).distance(Spot(p)))
