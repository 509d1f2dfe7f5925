"""A drawing fitted to the edges of a picture that lies under it: found from where it is drawn, adjusted, and looked for anew from there."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from contour.metrology.photo.edges import Picture
from contour.metrology.photo.laid import Laid
from contour.metrology.photo.scale import Scale
from contour.recipe.formula import LengthUnit, Lookup
from contour.sketch.drawn.fitted import FittedDrawing, Source, fitted
from contour.sketch.drawn.kept import KeptDrawing, drawing_of
from contour.sketch.drawn.seen_edges import REACH_PX, SeenEdges, edges_near
from contour.sketch.drawn.solution import solved
from contour.sketch.drawn.text import Drawing

__all__ = ["fitted_to_edges", "fitted_to_picture", "picture_source"]

Array = NDArray[np.float64]
T = TypeVar("T")

_ROUNDS = 4
_STILL_PX = 0.05
U_EDGE_PX = 0.3  # how well an edge is where it seems to be: light that spills over it moves both edges of a size apart


def picture_source(scale: Scale, name: str) -> Source:
    """What all edges of one picture share: its scale, how even that is from place to place, and how its light falls."""
    return Source(
        mark="photo",
        words=name,
        changes=("assumed", "photo"),
        relative_u=math.hypot(scale.relative_u, scale.uneven),
        u_mm=math.sqrt(2) * U_EDGE_PX * scale.mm_per_px,
        u_deg=math.degrees(scale.uneven),
    )


def fitted_to_picture(
    kept: KeptDrawing,
    pixels: Picture,
    laid: Laid,
    source: Source,
    *,
    lines: bool = False,
    lookup: Lookup | None = None,
    unit: LengthUnit = "mm",
) -> tuple[FittedDrawing, SeenEdges]:
    """(as :func:`contour.sketch.drawn.fitted.fitted` gives it, the edges near what came of it).

    Raises ContourError (fit-failed) where no edge is to be seen, and as `fitted` does.
    """

    def fit(chains: Sequence[Array]) -> tuple[FittedDrawing, Drawing]:
        found = fitted(kept, chains, lookup=lookup, unit=unit, source=source)
        return found, found.found.drawing

    return fitted_to_edges(solved(drawing_of(kept), lookup).drawing, pixels, laid, fit, lines=lines)


def fitted_to_edges(
    drawing: Drawing,
    pixels: Picture,
    laid: Laid,
    fit: Callable[[Sequence[Array]], tuple[T, Drawing]],
    *,
    lines: bool = False,
) -> tuple[T, SeenEdges]:
    """What `fit` gives of the edges near a drawing, which are looked for anew, and nearer, from where it comes to lie; and the last of them."""
    seen = edges_near(drawing, pixels, laid, reach_px=REACH_PX, lines=lines)
    for k in range(_ROUNDS):
        found, there = fit(seen.chains)
        reach = REACH_PX / (2 if k else 1.3)
        now = edges_near(there, pixels, laid, reach_px=reach, lines=lines)
        still = _same(seen, now, laid)
        seen = now
        if still:
            break
    return found, seen


def _same(before: SeenEdges, now: SeenEdges, laid: Laid) -> bool:
    if len(before.off) != len(now.off):
        return False
    return float(np.median(np.linalg.norm(before.places - now.places, axis=1))) < _STILL_PX * laid.mm_per_px
