"""Sections: a plane's cuts through a scan with their outlines, in space and on the plane."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from shapely.geometry import Polygon

from contour.fit.budget import UNLIMITED, Budget
from contour.geometry.frames import PlaneFrame, plane_frame
from contour.mesh.grazing import grazing_facets
from contour.mesh.prepare import PreparedScan
from contour.mesh.slice import Polyline, slice_scan
from contour.outline.arcs import arc_points
from contour.outline.ellipses import ellipse_path
from contour.outline.explain import default_outline_tolerance, fit_outline, unexplained
from contour.outline.pieces import Outline, Piece

__all__ = ["SectionLoop", "clean_cuts", "loop_of", "outline_tolerance", "outlines_of", "piece_points", "section_loops"]

Array = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class SectionLoop:
    """One cut with its outline; length mm and area mm² are those of the outline (area 0 for an open one)."""

    frame: PlaneFrame
    outline: Outline
    length: float
    area: float

    def as_json(self) -> dict[str, Any]:
        """Pieces with their places in space, mm, the scan's coordinates."""
        pieces = []
        for p in self.outline.pieces:
            row: dict[str, Any] = {"kind": p.kind, "start": self._space(p.start), "end": self._space(p.end)}
            if p.ellipse is not None:
                x, y, a, b, angle = p.ellipse
                row |= {"centre": self._space((x, y)), "half_axes": [a, b]}
                row["long_axis"] = self._space((x + a * np.cos(angle), y + a * np.sin(angle)))
            elif p.centre is not None:
                row |= {"centre": self._space(p.centre), "radius": p.radius}
            pieces.append({**row, "rms": p.rms})
        out = {"closed": self.outline.closed, "length": self.length, "area": self.area, "pieces": pieces}
        return out if self.outline.explained else {**out, "unexplained": True}

    def _space(self, p: tuple[float, float]) -> list[float]:
        return [float(x) for x in self.frame.to_space(np.array(p))]


def outline_tolerance(scan: PreparedScan) -> float:
    """The tolerance outlines of this scan are fitted with when nobody says another. mm."""
    return default_outline_tolerance(scan.noise_mm, float(np.ptp(scan.vertices, axis=0).max()))


def piece_points(piece: Piece, step_deg: float = 3.0) -> Array:
    """Points along a piece from start to end, (n, 2)."""
    if piece.ellipse is not None and piece.mid is not None:
        ends = (np.array(p) for p in (piece.start, piece.mid, piece.end))
        return ellipse_path(piece.ellipse, *ends, step_deg=step_deg)
    if piece.mid is not None:
        return arc_points(piece.start, piece.mid, piece.end, step_deg=step_deg)
    return np.array(piece.points or (piece.start, piece.end))


def loop_of(outline: Outline, frame: PlaneFrame) -> SectionLoop:
    """An outline with its length and the area it encloses."""
    path = np.vstack([piece_points(p, 0.5) for p in outline.pieces])
    length = float(np.linalg.norm(np.diff(path, axis=0), axis=1).sum())
    area = float(abs(Polygon(path).area)) if outline.closed and len(path) > 3 else 0.0
    return SectionLoop(frame, outline, length, area)


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


def _path_mm(flat: Array, closed: bool) -> float:
    ring = np.vstack([flat, flat[:1]]) if closed else flat
    return float(np.linalg.norm(np.diff(ring, axis=0), axis=1).sum())


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
    # A mesh without noise was never scanned: its corners are as sharp, and its fillets as small, as they look.
    edge = scan.edge_mm if scan.noise_mm > 0.002 * scan.edge_mm else tolerance
    loops = []
    for path_mm, flat, closed in sorted(((_path_mm(p, c), p, c) for p, c in lines), key=lambda row: -row[0]):
        if len(flat) < 3 or path_mm < 1e-6 or (not closed and path_mm < 3 * edge):
            continue
        if budget.spent:
            outline = unexplained(flat, closed)
        else:
            outline = fit_outline(flat, closed=closed, tolerance_mm=tolerance, edge_mm=edge, budget=budget)
        loops.append(loop_of(outline, frame))
    return sorted(loops, key=lambda loop: -loop.length)
