"""Where to cut: section positions along a direction, ranked by how simply and how closely an outline explains them.

A good place lies where the section stays the same for a while (clear of rounds and chamfers along the cut, whose walls lean to the plane),
where the scan is whole (clear of rims), or closes over its gaps with little assumed, and where few pieces leave little residual (clear of wear).
"""

from __future__ import annotations

import time
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from contour.fit.budget import Budget
from contour.geometry.frames import plane_frame
from contour.mesh.prepare import PreparedScan
from contour.mesh.slice import slice_scan
from contour.outline.pieces import piece_path
from contour.outline.section import SectionLoop, closed_over_gaps, outlines_of
from contour.recipe.problem import ContourError, Where

__all__ = ["RankedCut", "ranked_cuts"]

_CUT_S = 0.5  # of one place: one that takes longer is no good place to cut
_ALL_S = 4.0  # of all of them: what earlier places leave is the later ones'

Array = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class RankedCut:
    """offset: mm along the normal · steady: mm over which the section stays like this · leaning: share of the cut whose wall is not square
    to the plane · open_share: of the cut's length, that stays open · assumed_share: of the outline's length, that bridges over gaps of the
    scan assume · gaps: how many of them · grade: lower is better · paths: the outline on its plane, for a preview."""

    offset: float
    steady: float
    pieces: int
    loops: int
    rms: float
    free: int
    leaning: float
    open_share: float
    assumed_share: float
    gaps: int
    grade: float
    paths: tuple[tuple[tuple[float, float], ...], ...]


@dataclass(slots=True)
class _Cut:
    offset: float
    loops: list[SectionLoop]
    leaning: float
    open_share: float
    assumed_share: float
    gaps: int

    @property
    def pieces(self) -> int:
        return sum(len(loop.outline.pieces) for loop in self.loops)

    @property
    def length(self) -> float:
        return sum(loop.length for loop in self.loops)

    @property
    def rms(self) -> float:
        rows = [(p.rms, 1) for loop in self.loops for p in loop.outline.pieces]
        return float(np.sqrt(np.mean([r * r for r, _ in rows]))) if rows else 0.0

    @property
    def free(self) -> int:
        return sum(p.kind == "free" for loop in self.loops for p in loop.outline.pieces)


def _cut(scan: PreparedScan, origin: Array, normal: Array, offset: float, budget: Budget) -> _Cut | None:
    frame = plane_frame(origin + offset * normal, normal)
    lines = slice_scan(scan, frame.origin, frame.normal)
    if not lines:
        return None
    long = np.array([float(np.linalg.norm(np.diff(c.points, axis=0), axis=1).sum()) for c in lines])
    slope = np.concatenate([np.abs(scan.smooth_normals[c.facets] @ frame.normal) for c in lines])
    loops = outlines_of(scan, [(frame.to_plane(c.points), c.closed) for c in lines], frame, budget=budget)
    if not loops:
        return None
    raw = float(sum(x for x, c in zip(long, lines, strict=True) if not c.closed) / max(long.sum(), 1e-9))
    leaning = float((slope > 0.26).mean())
    if raw == 0 or budget.spent:
        return _Cut(offset, loops, leaning, raw, 0.0, 0)
    closed, gaps = closed_over_gaps(scan, loops, budget=budget)
    length = max(sum(loop.length for loop in closed), 1e-9)
    # Scraps that no outline was made of were open too, and stay so.
    still = sum(loop.length for loop in closed if not loop.outline.closed) / length
    return _Cut(offset, closed, leaning, still, sum(gap.length for gap in gaps) / length, len(gaps))


def _alike(a: _Cut, b: _Cut) -> bool:
    return len(a.loops) == len(b.loops) and abs(a.length - b.length) < 0.03 * max(a.length, b.length)


def ranked_cuts(scan: PreparedScan, origin: Array, normal: Array, *, tried: int = 28, best: int = 6) -> list[RankedCut]:
    """The best places along the normal through `origin`, best first, one for each stretch over which the section stays alike.

    Raises ContourError (no-section) when nothing there can be outlined. origin (3,) mm, normal (3,) unit.
    """
    n = normal / np.linalg.norm(normal)
    heights = (scan.vertices - origin) @ n
    low, high = float(heights.min()), float(heights.max())
    margin = max(1.5 * scan.edge_mm, 0.01 * (high - low))
    at = np.linspace(low + margin, high - margin, tried)
    begun = time.monotonic()

    def share(k: int) -> Budget:
        """By then this place's turn is over; never more than one place may take."""
        left = begun + (k + 1) * _ALL_S / tried - time.monotonic()
        return Budget(min(max(left, 0.0), _CUT_S))

    cuts = [_cut(scan, origin, n, float(h), share(k)) for k, h in enumerate(at)]
    step = float(at[1] - at[0])
    out: list[RankedCut] = []
    k = 0
    while k < tried:
        first = cuts[k]
        if first is None:
            k += 1
            continue
        group = [first]
        while k + len(group) < tried and (nxt := cuts[k + len(group)]) is not None and _alike(group[-1], nxt):
            group.append(nxt)
        k += len(group)
        steady = step * (len(group) - 1)

        def cost(c: _Cut, steady: float = steady) -> float:
            noise = max(scan.noise_mm, 1e-6)
            return (
                c.pieces
                + 6 * c.free
                + 12 * c.leaning
                + 20 * c.open_share
                + 8 * c.assumed_share
                + c.gaps
                + 2 * min(c.rms / noise, 10)
                + 6 / (1 + steady / (3 * step))
            )

        chosen = min(group, key=cost)
        paths = tuple(
            tuple((float(x), float(y)) for x, y in np.vstack([piece_path(p, 8.0) for p in loop.outline.pieces]))
            for loop in chosen.loops
        )
        out.append(
            RankedCut(
                chosen.offset,
                steady,
                chosen.pieces,
                len(chosen.loops),
                chosen.rms,
                chosen.free,
                chosen.leaning,
                chosen.open_share,
                chosen.assumed_share,
                chosen.gaps,
                cost(chosen),
                paths,
            )
        )
    if not out:
        raise ContourError(
            "no-section",
            "no plane along this direction gives an outline",
            got="0 outlines",
            need="a plane that cuts the scan",
            where=Where(param="normal"),
            remedy="choose another direction",
        )
    return sorted(out, key=lambda c: c.grade)[:best]
