"""How far the walls of an outline go on to either side of its plane: what a block over it usually reaches.

Walls are facets square to the plane that stand over the outline. Followed from the plane outwards they end where too few of them are left, or where
most of them are gone at a wide face over the outline: what goes on from there is a boss on it. A face that closes the part soon after (their rim may
be filleted or chamfered) says more precisely where.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from contour.geometry.frames import PlaneFrame
from contour.mesh.prepare import PreparedScan
from contour.outline.pieces import Outline, piece_path

__all__ = ["Reach", "outline_reach", "shared_reach", "wall_reach"]

Array = NDArray[np.float64]

_LOOKED_AT = 60_000  # wall facets; more say nothing new
_BINS = 60  # at most, over the part's height; never finer than the scan's own facets
_STANDING = 0.3  # of the outline's length that must still have a wall
_GOES_ON = 0.5  # of the walls so far, that still stand beyond a face: less of them are those of a boss on it
_WIDE = 0.2  # of the outline's area, that such a face has
_CLOSING = 0.05  # of the outline's area that a face must have to end a block
_RIM = 0.12  # of the part's height: how far a rounded rim may lie between wall and face


@dataclass(frozen=True, slots=True)
class Reach:
    """behind, ahead: mm against and along the plane's normal, never negative · stands_behind, stands_ahead: it ends there on something wider ·
    within: how many other loops this one lies in."""

    behind: float
    ahead: float
    within: int = 0
    stands_behind: bool = False
    stands_ahead: bool = False


def _ends(
    walls: tuple[Array, Array],
    faces: dict[int, tuple[Array, Array]],
    low: float,
    high: float,
    length: float,
    width: float,
    wide: float,
) -> tuple[float, float]:
    """How far bins that hold enough wall follow each other from height 0: below and above, mm. walls, and faces looking out to either side: their
    heights and areas over the outline · wide: mm², a face that what is left of the walls may stand on as another block."""
    bins = max(2, round((high - low) / width))
    edges = np.linspace(low, high, bins + 1)
    held, _ = np.histogram(walls[0], edges, weights=walls[1])
    standing = held >= _STANDING * length * (edges[1] - edges[0])
    here = int(np.clip(np.searchsorted(edges, 0.0, side="right") - 1, 0, bins - 1))
    ends = []
    for way, (heights, areas) in sorted(faces.items()):
        run = held[here::way]
        some, middles = standing[here::way], 0.5 * (edges[1:] + edges[:-1])[here::way]
        count = max(1, len(some) if some.all() else int(np.argmin(some)))
        flat = np.histogram(heights, edges, weights=areas)[0][here::way]
        last = here + way * (count - 1)
        end = float(min(edges[last], 0.0) if way < 0 else max(edges[last + 1], 0.0))
        for k in range(1, count):
            # A rim may be rounded: its face lies a bin or two further.
            near = slice(max(k - 2, 0), k + 3)
            if run[k:count].max() < _GOES_ON * np.median(run[:k]) and flat[near].sum() >= wide:
                end = way * max(way * float(middles[near][np.argmax(flat[near])]), 0.0)
                break
        ends.append(end)
    return ends[0], ends[1]


def _face_near(
    heights: Array, areas: Array, end: float, way: int, least: float, rim: float, width: float
) -> float | None:
    """Where the first face beyond (or just before) the end of the walls lies; None where none has `least` mm²."""
    off = way * (heights - end)
    near = (off > -2 * width) & (off < rim)
    if areas[near].sum() < least:
        return None
    order = np.argsort(off[near])
    h, a = heights[near][order], areas[near][order]
    # The first stretch of one bin's width that is a face worth the name.
    grown = np.concatenate([[0.0], np.cumsum(a)])
    upto = np.searchsorted(way * h, way * h + width, side="right")
    held = grown[upto] - grown[:-1]
    enough = np.flatnonzero(held >= least)
    if not len(enough):
        return None
    # Most of it: the rounded rim before the face is not the face.
    k = enough[0] + int(np.argmax(held[enough[0] : upto[enough[0]]]))
    some_h, some_a = h[k : upto[k]], a[k : upto[k]]
    by_height = np.argsort(some_h)
    half = np.searchsorted(np.cumsum(some_a[by_height]), some_a.sum() / 2)
    return float(some_h[by_height][half])


@dataclass(frozen=True, slots=True)
class _Some:
    """Facets that were looked at, on the plane's axes; areas mm² stand for all of their kind."""

    flat: Array
    heights: Array
    areas: Array


def _some(scan: PreparedScan, frame: PlaneFrame, which: NDArray[np.bool_]) -> _Some:
    facets = np.flatnonzero(which)
    thin = max(1, -(-len(facets) // _LOOKED_AT))
    facets = facets[::thin]
    at = scan.centroids[facets]
    return _Some(frame.to_plane(at), (at - frame.origin) @ frame.normal, scan.areas[facets] * thin)


def _nearest(walls: _Some, rings: Sequence[Array], near: float) -> NDArray[np.int64]:
    """The ring that each wall facet stands over, -1 for none."""
    along = [shapely.get_coordinates(shapely.segmentize(shapely.LinearRing(ring), near / 2)) for ring in rings]
    owner = np.append(np.repeat(np.arange(len(rings)), [len(a) for a in along]), -1)
    _, at = cKDTree(np.vstack(along)).query(walls.flat, distance_upper_bound=near)
    return np.asarray(owner[np.minimum(at, len(owner) - 1)])


def _within(polygons: list[shapely.Geometry]) -> list[int]:
    """How many of the others each lies in."""
    inside = [p.representative_point() for p in polygons]
    return [
        sum(i != j and q.area > p.area and q.covers(inside[i]) for j, q in enumerate(polygons))
        for i, p in enumerate(polygons)
    ]


def wall_reach(scan: PreparedScan, frame: PlaneFrame, rings: Sequence[Array]) -> list[Reach | None]:
    """How far each loop's walls go on; None where nothing stands over it.

    frame: the outline's plane, mm, the scan's coordinates. rings: closed loops on that plane, (n, 2) mm each.
    """
    across = (scan.vertices - frame.origin) @ frame.normal
    low, high = (float(across.min()), float(across.max())) if len(across) else (0.0, 0.0)
    polygons = [shapely.make_valid(shapely.Polygon(ring)) for ring in rings]
    if not polygons or not low < high:
        return [None] * len(polygons)
    lean = scan.smooth_normals @ frame.normal
    walls = _some(scan, frame, np.abs(lean) < 0.2)
    caps = {way: _some(scan, frame, way * lean > 0.97) for way in (-1, 1)}
    over = _nearest(walls, rings, max(1.5 * scan.edge_mm, 6 * scan.noise_mm))
    width, rim = max((high - low) / _BINS, 1.5 * scan.edge_mm), _RIM * (high - low)
    out: list[Reach | None] = []
    for k, (ring, polygon, depth) in enumerate(zip(rings, polygons, _within(polygons), strict=True)):
        own = over == k
        if not own.any() or polygon.area <= 0:
            out.append(None)
            continue
        length = float(shapely.LinearRing(ring).length)
        # What closes a block looks outwards; of a pocket it is the other way round.
        sides = {way: caps[way if depth % 2 == 0 else -way] for way in (-1, 1)}
        over_it = {way: shapely.contains_xy(polygon, *c.flat.T) for way, c in sides.items()}
        faces = {way: (c.heights[over_it[way]], c.areas[over_it[way]]) for way, c in sides.items()}
        ends = _ends((walls.heights[own], walls.areas[own]), faces, low, high, length, width, _WIDE * polygon.area)
        found, stands = [], []
        for end, way in zip(ends, (-1, 1), strict=True):
            # What closes a block lies over it; where it stands on something, that looks towards it and lies around it.
            out_of = way if depth % 2 == 0 else -way
            around = polygon.buffer((1 if depth % 2 == 0 else -1) * 4 * scan.edge_mm).symmetric_difference(polygon)
            at, on = None, False
            for facing, area, share in ((out_of, polygon, _CLOSING), (-out_of, around, _STANDING)):
                if at is None:
                    on = facing != out_of
                    some = caps[facing]
                    near = np.abs(some.heights - end) < rim + 2 * width
                    near[near] = shapely.contains_xy(area, some.flat[near, 0], some.flat[near, 1])
                    least = share * area.area
                    at = _face_near(some.heights[near], some.areas[near], end, way, least, rim, width)
            found.append(end if at is None else at)
            stands.append(on and at is not None)
        out.append(Reach(max(-found[0], 0.0), max(found[1], 0.0), depth, *stands))
    return out


def outline_reach(scan: PreparedScan, frame: PlaneFrame, outlines: Sequence[Outline]) -> list[Reach | None]:
    """The same of outlines; None of an open one."""
    closed = [o for o in outlines if o.closed]
    rings = [np.vstack([piece_path(p) for p in o.pieces]) for o in closed]
    told = iter(wall_reach(scan, frame, rings))
    return [next(told) if o.closed else None for o in outlines]


def shared_reach(reaches: Sequence[Reach | None]) -> Reach | None:
    """What all outermost loops hold, the shortest either way: holes are often seen less deep than the block they go through."""
    known = [r for r in reaches if r is not None]
    outermost = min((r.within for r in known), default=0)
    outer = [r for r in known if r.within == outermost]
    if not outer:
        return None
    behind, ahead = min(outer, key=lambda r: r.behind), min(outer, key=lambda r: r.ahead)
    return Reach(behind.behind, ahead.ahead, outermost, behind.stands_behind, ahead.stands_ahead)
