"""Faces that grew to what a simpler surface is a limit of: a torus whose tube goes round no circle is a sphere."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from contour.fit.modelled.chords import Chords
from contour.fit.modelled.growth import LEAST_MAJOR, Grown
from contour.fit.modelled.through import fitted

__all__ = ["simplify"]


def simplify(chords: Chords, xyz: NDArray[np.float64], found: list[Grown], tolerance_mm: float) -> None:
    """Puts spheres in the place of such tori in `found`, where they go through all vertices (xyz (m, 3), mm) within the tolerance."""
    for grown in found:
        s = grown.surface
        if s.kind != "torus" or not len(grown.members) or s.radius >= LEAST_MAJOR * s.minor:
            continue
        ball, worst = fitted(chords, xyz, grown.members, replace(s, kind="sphere", radius=s.minor, minor=0.0))
        if worst <= 2 * tolerance_mm:
            grown.surface = ball
