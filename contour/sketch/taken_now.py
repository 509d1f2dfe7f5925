"""A drawing whose taken pieces have followed the scan, and how well the scan bears them out."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from contour.geometry.frames import PlaneFrame
from contour.mesh.prepare import PreparedScan
from contour.outline.lines import LineSource, scan_lines
from contour.outline.reach import Reach, outline_reach, shared_reach
from contour.outline.section import outline_tolerance
from contour.recipe.problem import ContourError, Where
from contour.sketch.drawn.text import Drawing
from contour.sketch.following import followed
from contour.sketch.refit import refit_loops
from contour.sketch.taken import TakenLoop

__all__ = ["TakenNow", "taken_now"]


@dataclass(frozen=True, slots=True)
class TakenNow:
    """drawing: where its taken pieces are now · rms: the worst of these pieces', mm · tolerance: mm · runout, seen: of a turned profile · reach: how far the
    part goes on over them, mm · assumed: mm of them under which the scan has nothing; None where no loop was closed over gaps."""

    drawing: Drawing
    rms: float
    tolerance: float
    runout: float | None
    seen: float | None
    reach: Reach | None
    assumed: float | None


def taken_now(
    drawing: Drawing,
    loops: Sequence[TakenLoop],
    scan: PreparedScan,
    frame: PlaneFrame,
    *,
    source: LineSource = "section",
    tolerance_mm: float | None = None,
) -> TakenNow | None:
    """None where nothing is drawn any more of what was taken. scan: in mm · tolerance_mm: how far the scan may stray from a piece. Raises ContourError (outline-changed, no-section)."""
    loops = [loop for loop in loops if any(p.taken and p.id in drawing.entities for p in loop.pieces)]
    if not loops:
        return None
    found = scan_lines(scan, frame, source)
    if not found.lines:
        raise ContourError(
            "no-section",
            "the sketch's plane does not cut the scan, and pieces of it were taken from there",
            where=Where(param="offset"),
            got="0 loops",
            need="a plane that cuts the part",
            remedy="move it back into the part, or detach the pieces from the scan",
        )
    tolerance = tolerance_mm or outline_tolerance(scan)
    fitted = refit_loops(loops, found.lines, frame, tolerance / 3, scan.edge_mm)
    pairs = [(a, b) for loop, o in zip(loops, fitted, strict=True) for a, b in zip(loop.pieces, o.pieces, strict=True)]
    bridged = any(loop.bridged for loop in loops)
    return TakenNow(
        drawing=followed(drawing, pairs),
        rms=max((now.rms for was, now in pairs if was.taken), default=0.0),
        tolerance=tolerance,
        runout=found.runout,
        seen=found.seen,
        reach=shared_reach(outline_reach(scan, frame, fitted)) if source == "section" else None,
        assumed=sum(math.dist(*span) for _, now in pairs for span in now.assumed) if bridged else None,
    )
