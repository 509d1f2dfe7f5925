"""The lines that pieces of an outline are looked for on: a plane's cut through a scan, a turned profile, or a shadow's border."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from contour.geometry.frames import PlaneFrame
from contour.mesh.prepare import PreparedScan
from contour.mesh.slice import slice_scan
from contour.outline.radial import radial_profile, runout_of
from contour.outline.silhouette import silhouette

__all__ = ["LineSource", "Lines", "ScanLines", "scan_lines"]

Lines = list[tuple[NDArray[np.float64], bool]]  # polylines (n, 2) on a frame, mm, and whether each is closed
LineSource = Literal["section", "radial", "silhouette"]


@dataclass(frozen=True, slots=True)
class ScanLines:
    """lines: polylines (n, 2) on the frame, mm, and whether each is closed · runout: the largest over the half-sections, mm, full span · seen: the
    smallest share of them that has a piece; both only of a turned profile."""

    lines: Lines
    runout: float | None = None
    seen: float | None = None


def scan_lines(scan: PreparedScan, frame: PlaneFrame, source: LineSource) -> ScanLines:
    """Of a turned profile the frame is a half-plane beside the axis (`radial_frame`). Raises ContourError as its source does."""
    if source == "radial":
        found = radial_profile(scan, frame)
        return ScanLines([(r.points, r.closed) for r in found], runout_of(found), min(r.seen for r in found))
    if source == "silhouette":
        return ScanLines(silhouette(scan, frame))
    return ScanLines([(frame.to_plane(c.points), c.closed) for c in slice_scan(scan, frame.origin, frame.normal)])
