"""Turned profiles of solid parts: they begin and end on the axis, and are closed along it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from contour.geometry.frames import PlaneFrame
from contour.outline.lines import Lines
from contour.outline.section import SectionLoop, loop_of
from contour.recipe.problem import ContourError
from contour.sketch.refit import refit_loops
from contour.sketch.taken import TakenLoop, TakenPiece, taken_pieces

__all__ = ["closed_along_axis"]


def closed_along_axis(
    loops: Sequence[SectionLoop], lines: Lines, frame: PlaneFrame, sigma: float, edge: float
) -> list[SectionLoop]:
    """Loops of a turned profile (x along its axis, y away from it): those that begin and end on the axis get a line along it, which is assumed.

    lines: the profile's polylines (n, 2), mm, and whether each is closed · sigma: of the scan, edge: the mean length of a facet's side, mm.
    """
    return [_closed(loop, lines, frame, sigma, edge) for loop in loops]


def _closed(loop: SectionLoop, lines: Lines, frame: PlaneFrame, sigma: float, edge: float) -> SectionLoop:
    pieces = loop.outline.pieces
    begin, end = pieces[0].start, pieces[-1].end
    off_axis = max(abs(begin[1]), abs(end[1]))
    if loop.outline.closed or off_axis > max(3 * sigma, 0.1 * edge) or abs(begin[0] - end[0]) < edge:
        return loop
    own = taken_pieces(loop.outline)
    axis = TakenPiece(id=f"e{len(own) + 1}", kind="line", start=(end[0], 0.0), end=(begin[0], 0.0), assumed=True)
    taken = TakenLoop(closed=True, bridged=True, pieces=[*own, axis])
    try:
        (outline,) = refit_loops([taken], lines, frame, sigma, edge)
    except ContourError:
        return loop  # it stays open, as it was found
    ends = np.array([p.start for p in outline.pieces])
    return loop if ends[:, 1].min() < -3 * sigma else loop_of(outline, frame, loop.line)
