"""Open polylines of a section with their outlines, and how they end: without what the scan has rounded there."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from contour.outline.along import densely, path_distance
from contour.outline.joins import End, end_of
from contour.outline.piece_fit import fit_piece
from contour.outline.pieces import CODES, Outline, Piece, piece_length, piece_path
from contour.outline.split import ARC, LINE

__all__ = ["Cleared", "OpenLine", "without_rounding"]

Array = NDArray[np.float64]
_LEAST_POINTS = 4
_TURNED = 0.8  # facet sides aside: less may be the rounding of an edge that ends there
_ROUNDED = 0.7  # facet sides next to a corner that the scan has rounded


@dataclass(frozen=True, slots=True)
class OpenLine:
    """A polyline (n, 2), mm, with the outline that explains it."""

    points: Array
    outline: Outline


@dataclass(frozen=True, slots=True)
class Cleared:
    """What of a line no corner has rounded: kept (first, last) of its points, as a slice, and the pieces they lie on."""

    line: OpenLine
    kept: tuple[int, int]
    pieces: tuple[Piece, ...]

    @property
    def points(self) -> Array:
        return self.line.points[slice(*self.kept)]

    def ends(self, tolerance_mm: float, edge_mm: float) -> tuple[End, End]:
        """Where it begins and ends, with the pieces that do: without what is rounded where they meet the next one. tolerance_mm: three sigma."""
        points, pieces = self.points, self.pieces
        owner = _owner(points, pieces)
        out = []
        for k, at, last in ((0, points[0], False), (len(pieces) - 1, points[-1], True)):
            own = points[owner == k]
            if len(pieces) > 1 and len(own):
                inner = own[np.linalg.norm(own - own[0 if last else -1], axis=1) > _ROUNDED * edge_mm]
                own = inner if len(inner) >= _LEAST_POINTS else own
            own = own if len(own) >= _LEAST_POINTS else densely(piece_path(pieces[k]), piece_length(pieces[k]) / 6)
            kind = CODES[pieces[k].kind]
            if kind == ARC and _bow(own) < tolerance_mm:
                kind = LINE  # so little of an arc says nothing of where it goes on
            end = end_of(fit_piece(kind, own), at, last)
            beyond = self.line.points[self.kept[1] :] if last else self.line.points[: self.kept[0]][::-1]
            out.append(replace(end, turned=_turned(end, beyond, edge_mm)))
        return out[0], out[1]


def _turned(end: End, beyond: Array, edge: float) -> End | None:
    """Where the scan turns off beyond an end, points (n, 2) in order: a line square to what ends, and the side it goes to. mm."""
    if end.piece.kind != LINE or not len(beyond):
        return None
    aside = np.array([-end.out[1], end.out[0]])
    ahead, side = (beyond - end.at) @ end.out, (beyond - end.at) @ aside
    if abs(side[-1]) < _TURNED * edge or abs(side[-1]) < np.ptp(ahead):
        return None
    corner = end.at + max(float(ahead[-1]), 0.0) * end.out
    way = float(np.sign(side[-1])) * aside
    tip = corner + abs(side[-1]) * way
    return End(corner, way, fit_piece(LINE, np.linspace(corner, tip, _LEAST_POINTS)))


def _owner(points: Array, pieces: tuple[Piece, ...]) -> NDArray[np.int64]:
    """The piece that each point (n, 2) lies nearest to, by number."""
    return np.argmin(np.stack([path_distance(points, piece_path(p)) for p in pieces]), axis=0)


def _bow(points: Array) -> float:
    """How far points (n, 2) lie off the chord between the first and the last."""
    d, chord = points - points[0], points[-1] - points[0]
    return float(np.abs(d[:, 0] * chord[1] - d[:, 1] * chord[0]).max() / max(np.linalg.norm(chord), 1e-12))


def without_rounding(line: OpenLine, tolerance_mm: float, stub_mm: float) -> Cleared:
    """A line without what the scan has rounded at its open ends (pieces shorter than stub_mm): there it turns towards a piece that is missing, and
    says nothing of it."""
    pieces, points = line.outline.pieces, line.points
    owner = _owner(points, pieces)
    first, last = 0, len(pieces) - 1
    while last > first and piece_length(pieces[last]) < stub_mm:
        last -= 1
    while last > first and piece_length(pieces[first]) < stub_mm:
        first += 1
    all_of_it = Cleared(line, (0, len(points)), pieces)
    kept = np.flatnonzero((owner >= first) & (owner <= last))
    if len(kept) < _LEAST_POINTS:
        return all_of_it
    low, high = int(kept[0]), int(kept[-1]) + 1
    for way, piece in ((1, pieces[first]), (-1, pieces[last])):
        part = points[low:high][::way]
        along = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(part, axis=0), axis=1))])
        astray = (path_distance(part, piece_path(piece)) > tolerance_mm) & (along < stub_mm)
        gone = int(np.flatnonzero(astray)[-1]) + 1 if astray.any() else 0
        low, high = (low + gone, high) if way == 1 else (low, high - gone)
    if high - low < _LEAST_POINTS:
        return all_of_it
    return Cleared(line, (low, high), pieces[first : last + 1])
