"""Sections: a plane's cuts through a scan with their outlines, in space and on the plane."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray
from shapely.geometry import Polygon

from contour.fit.budget import UNLIMITED, Budget
from contour.geometry.frames import PlaneFrame, plane_frame
from contour.mesh.grazing import grazing_facets
from contour.mesh.prepare import PreparedScan
from contour.mesh.slice import Polyline, slice_scan
from contour.outline.assumed import Gap, unseen_along
from contour.outline.bridging import Wish, bridged
from contour.outline.explain import default_outline_tolerance, fit_outline, unexplained
from contour.outline.open_line import OpenLine
from contour.outline.pieces import Outline, Piece, piece_path

__all__ = [
    "SectionLoop",
    "clean_cuts",
    "closed_over_gaps",
    "loop_of",
    "marked_unscanned",
    "outline_tolerance",
    "outline_unscanned",
    "outlines_of",
    "scanned_runs",
    "section_loops",
]

Array = NDArray[np.float64]

_CHORDS = 0.1  # of a facet's side: a chord of one over a radius of seven lies so far off in all


@dataclass(frozen=True, slots=True)
class SectionLoop:
    """One cut with its outline; length mm and area mm² are those of the outline (area 0 for an open one) · line (n, 2): the polyline it
    explains, on the frame's plane; of a loop closed over gaps that has several, none."""

    frame: PlaneFrame
    outline: Outline
    length: float
    area: float
    line: Array | None = None

    def as_json(self) -> dict[str, Any]:
        """Pieces with their places in space, mm, the scan's coordinates; `flat` has the same on the loop's frame."""
        pieces = []
        for p in self.outline.pieces:
            row: dict[str, Any] = {"kind": p.kind, "start": self._space(p.start), "end": self._space(p.end)}
            if p.ellipse is not None:
                x, y, a, b, angle = p.ellipse
                row |= {"centre": self._space((x, y)), "half_axes": [a, b]}
                row["long_axis"] = self._space((x + a * np.cos(angle), y + a * np.sin(angle)))
            elif p.centre is not None:
                row |= {"centre": self._space(p.centre), "radius": p.radius}
            row |= {"rms": p.rms, "flat": _flat(p)}
            if p.assumed:
                row |= {"assumed": True, "unseen": [[self._space(a), self._space(b)] for a, b in p.assumed]}
            pieces.append(row)
        out = {"closed": self.outline.closed, "length": self.length, "area": self.area, "pieces": pieces}
        out["frame"] = {k: getattr(self.frame, k).tolist() for k in ("origin", "u", "v")}
        return out if self.outline.explained else {**out, "unexplained": True}

    def _space(self, p: tuple[float, float]) -> list[float]:
        return [float(x) for x in self.frame.to_space(np.array(p))]


def _flat(p: Piece) -> dict[str, Any]:
    """A piece in the plane's own axes, mm: an arc by a place on it, its centre and radius; an ellipse by centre, half axes and the angle of the
    longer one (radians); a free piece by places along it."""
    row: dict[str, Any] = {"start": list(p.start), "end": list(p.end)}
    if p.mid is not None:
        row["mid"] = list(p.mid)
    if p.ellipse is not None:
        row["ellipse"] = list(p.ellipse)
    elif p.centre is not None:
        row |= {"centre": list(p.centre), "radius": p.radius}
    if p.points:
        row["points"] = [list(q) for q in p.points]
    return row


def _scanned(scan: PreparedScan) -> bool:
    return scan.noise_mm > 0.002 * scan.edge_mm


def outline_tolerance(scan: PreparedScan) -> float:
    """The tolerance outlines of this scan are fitted with when nobody says another. mm.

    Facets are chords: where a surface bends, a section strays from it by more than the noise, the more the larger they are.
    """
    tolerance = default_outline_tolerance(scan.noise_mm, float(np.ptp(scan.vertices, axis=0).max()))
    return max(tolerance, _CHORDS * scan.edge_mm) if _scanned(scan) else tolerance


def loop_of(outline: Outline, frame: PlaneFrame, line: Array | None = None) -> SectionLoop:
    """An outline with its length and the area it encloses; line (n, 2): the polyline it explains."""
    path = np.vstack([piece_path(p, 0.5) for p in outline.pieces])
    length = float(np.linalg.norm(np.diff(path, axis=0), axis=1).sum())
    area = float(abs(Polygon(path).area)) if outline.closed and len(path) > 3 else 0.0
    return SectionLoop(frame, outline, length, area, line)


def section_loops(
    scan: PreparedScan,
    origin: Array,
    normal: Array,
    *,
    tolerance_mm: float | None = None,
    frame: PlaneFrame | None = None,
    budget: Budget = UNLIMITED,
) -> list[SectionLoop]:
    """Outlines of all cuts of a plane, longest first; scraps shorter than a few facets are left out.

    origin (3,) mm, normal (3,) unit.
    """
    frame = frame or plane_frame(origin, normal)
    lines = [(frame.to_plane(c.points), c.closed) for c in slice_scan(scan, frame.origin, frame.normal)]
    return outlines_of(scan, lines, frame, tolerance_mm=tolerance_mm, budget=budget)


def clean_cuts(scan: PreparedScan, cuts: Sequence[Polyline], frame: PlaneFrame) -> list[Polyline]:
    """Cuts without those that mostly run along a face: islands of noise, not borders."""
    if not cuts:
        return []
    # All cuts at once: what is asked of the whole scan is asked once, however many islands there are.
    grazes = grazing_facets(scan, frame.origin, frame.normal, np.concatenate([c.facets for c in cuts]))
    parts = np.split(grazes, np.cumsum([len(c.facets) for c in cuts])[:-1])
    return [c for c, along in zip(cuts, parts, strict=True) if along.mean() < 0.5]


def scanned_runs(scan: PreparedScan, cuts: Sequence[Polyline], frame: PlaneFrame) -> list[Array] | None:
    """Stretches (n, 2) of the cuts, on the frame's plane, that run over what was scanned and not over what a mend has made; none where all of them do."""
    own = scan.seen()
    if all(own[c.facets].all() for c in cuts):
        return None
    runs = []
    for c in cuts:
        flat = frame.to_plane(c.points)
        chords = np.stack([flat, np.roll(flat, -1, axis=0)], axis=1)
        seen = own[c.facets]
        if not c.closed:
            chords, seen = chords[:-1], seen[:-1]
        for part in np.split(np.arange(len(seen)), np.flatnonzero(seen[1:] != seen[:-1]) + 1):
            if len(part) and seen[part[0]]:
                runs.append(np.vstack([chords[part, 0], chords[part[-1:], 1]]))
    return runs


def marked_unscanned(loops: Sequence[SectionLoop], runs: Sequence[Array], reach_mm: float) -> list[SectionLoop]:
    """Loops whose pieces tell where nothing was scanned under them: no stretch (n, 2) of the cut that was runs along there. reach_mm: how near is along."""
    return [replace(loop, outline=outline_unscanned(loop.outline, runs, reach_mm)) for loop in loops]


def outline_unscanned(outline: Outline, runs: Sequence[Array], reach_mm: float) -> Outline:
    """The same of an outline alone. runs: (n, 2), mm."""
    pieces = []
    for p in outline.pieces:
        told = unseen_along(p, runs, reach_mm) if runs else ((p.start, p.end),)
        pieces.append(replace(p, assumed=told or p.assumed))
    return replace(outline, pieces=tuple(pieces))


def _path_mm(flat: Array, closed: bool) -> float:
    ring = np.vstack([flat, flat[:1]]) if closed else flat
    return float(np.linalg.norm(np.diff(ring, axis=0), axis=1).sum())


def _facet_side(scan: PreparedScan, tolerance: float) -> float:
    """A mesh without noise was never scanned: its corners are as sharp, and its fillets as small, as they look. mm."""
    return scan.edge_mm if _scanned(scan) else tolerance


def outlines_of(
    scan: PreparedScan,
    lines: Sequence[tuple[Array, bool]],
    frame: PlaneFrame,
    *,
    tolerance_mm: float | None = None,
    budget: Budget = UNLIMITED,
) -> list[SectionLoop]:
    """Outlines of polylines (points (n, 2) on the frame's plane, closed), longest first; scraps are left out.

    The longest are looked at first; those that the budget does not reach come back unexplained.
    """
    tolerance = tolerance_mm or outline_tolerance(scan)
    edge = _facet_side(scan, tolerance)
    loops = []
    for path_mm, flat, closed in sorted(((_path_mm(p, c), p, c) for p, c in lines), key=lambda row: -row[0]):
        if len(flat) < 3 or path_mm < 1e-6 or (not closed and path_mm < 3 * edge):
            continue
        if budget.spent:
            outline = unexplained(flat, closed)
        else:
            outline = fit_outline(flat, closed=closed, tolerance_mm=tolerance, edge_mm=edge, budget=budget)
        loops.append(loop_of(outline, frame, flat))
    return sorted(loops, key=lambda loop: -loop.length)


def closed_over_gaps(
    scan: PreparedScan,
    loops: Sequence[SectionLoop],
    *,
    tolerance_mm: float | None = None,
    wishes: Sequence[Wish] = (),
    budget: Budget = UNLIMITED,
) -> tuple[list[SectionLoop], list[Gap]]:
    """Loops of a section with the open ones closed over the gaps of the scan, longest first, and the gaps that were bridged; what cannot be
    closed stays open."""
    opened = [k for k, s in enumerate(loops) if not s.outline.closed and s.outline.explained and s.line is not None]
    lines = [OpenLine(line, loops[k].outline) for k in opened if (line := loops[k].line) is not None]
    others = [s.line for s in loops if s.outline.closed and s.line is not None]
    made = bridged(
        lines,
        others,
        tolerance_mm=tolerance_mm or outline_tolerance(scan),
        edge_mm=_facet_side(scan, tolerance_mm or outline_tolerance(scan)),
        wishes=wishes,
        budget=budget,
    )
    used = {opened[k] for b in made for k in b.of}
    left = [s for k, s in enumerate(loops) if k not in used]
    new = [loop_of(b.outline, loops[opened[b.of[0]]].frame) for b in made]
    return sorted(left + new, key=lambda s: -s.length), [gap for b in made for gap in b.gaps]
