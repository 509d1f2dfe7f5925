"""Relations between the pieces of outlines that nearly hold: what may be put right, and how far off it is now."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence

import numpy as np

from contour.outline.mirror import best_mirror
from contour.outline.pieces import Outline, Piece
from contour.outline.shape import Held

__all__ = ["nearly_held"]

_MOST = 14


def _line_angle(p: Piece) -> float:
    return math.atan2(p.end[1] - p.start[1], p.end[0] - p.start[0]) % math.pi


def _off_parallel(a: float, b: float) -> float:
    d = abs(a - b) % math.pi
    return min(d, math.pi - d)


def nearly_held(outlines: Sequence[Outline], *, near_mm: float) -> list[tuple[Held, float]]:
    """(relation, how far off: mm, or degrees between lines), nearest first; what holds already is left out. Pieces are counted through
    all outlines.

    near_mm: arcs whose radii or middles lie this close may be meant as one; lines within 2 degrees of parallel or square.
    """
    found: list[tuple[float, Held, float]] = []
    begin = 0
    for outline in outlines:
        n = len(outline.pieces)
        joints = np.array([p.end for p in outline.pieces])
        if outline.closed and n >= 3 and (image := best_mirror([p.kind for p in outline.pieces], joints, 2 * near_mm)):
            k, off = image
            if off > 1e-6:
                found.append((off / near_mm / 4, Held("symmetric", begin, begin + k % n), off))
        begin += n
    pieces = [p for outline in outlines for p in outline.pieces]
    for (i, a), (j, b) in itertools.combinations(enumerate(pieces), 2):
        if a.kind == b.kind == "arc" and a.radius and b.radius and a.centre and b.centre:
            apart = abs(a.radius - b.radius)
            if apart <= max(near_mm, 0.06 * min(a.radius, b.radius)):
                found.append((apart / near_mm, Held("equal radius", i, j), apart))
            away = float(np.hypot(a.centre[0] - b.centre[0], a.centre[1] - b.centre[1]))
            if away <= near_mm:
                found.append((away / near_mm, Held("concentric", i, j), away))
        elif a.kind == b.kind == "line":
            off = _off_parallel(_line_angle(a), _line_angle(b))
            for kind, x in (("parallel", off), ("square", abs(math.pi / 2 - off))):
                if x <= math.radians(2):
                    found.append((x / math.radians(2), Held(kind, i, j), math.degrees(x)))  # type: ignore[arg-type]
    return _without_echoes(sorted(found, key=lambda f: f[0]), len(pieces))[:_MOST]


def _without_echoes(found: list[tuple[float, Held, float]], count: int) -> list[tuple[Held, float]]:
    """Relations without those that follow from nearer ones: four equal holes take three, and what holds already ties its pieces too."""
    tied: dict[str, list[int]] = {}
    out = []
    for _, held, off in found:
        if held.kind == "symmetric":
            out.append((held, off))
            continue
        family = tied.setdefault("direction" if held.kind in ("parallel", "square") else held.kind, list(range(count)))
        a, b = family[held.first], family[held.second]
        if a == b:
            continue
        family[:] = [a if x == b else x for x in family]
        if off > (1e-3 if held.kind in ("parallel", "square") else 1e-6):
            out.append((held, off))
    return out
