"""From pixels to mm: a scale from one known length, tried on a second one, and what is measured with it."""

from __future__ import annotations

import math
from dataclasses import dataclass

from contour.recipe.problem import ContourError

__all__ = ["Measured", "Scale", "length_mm", "scale_check", "scale_of"]

# How well a squared-up picture keeps its scale from place to place: what four picked corners leave of perspective and lens.
_UNEVEN = 0.0012


@dataclass(frozen=True, slots=True)
class Scale:
    """mm per pixel, with relative standard uncertainty; `uneven`: how much it may differ across the picture."""

    mm_per_px: float
    relative_u: float
    uneven: float


@dataclass(frozen=True, slots=True)
class Measured:
    """mm with standard uncertainty."""

    mm: float
    u: float


def scale_of(px: float, u_px: float, mm: float, u_mm: float, *, squared: bool) -> Scale:
    """A scale from a length of `px` pixels that is `mm` long.

    squared: whether the picture has been squared up. If not, perspective is anybody's guess and says so.
    Raises ContourError (bad-params).
    """
    if px < 5 or not mm > 0:
        raise ContourError(
            "bad-params",
            "the known length is too short to scale a picture by",
            got=f"{px:.0f} pixels, {mm:g} mm",
            need="5 pixels and more than 0 mm",
            remedy="take the longest length that is known",
        )
    return Scale(mm / px, math.hypot(u_px / px, u_mm / mm), _UNEVEN if squared else 0.01)


def length_mm(scale: Scale, px: float, u_px: float) -> Measured:
    """A distance of pixels in mm: its ends, the scale, and how even that is."""
    mm = px * scale.mm_per_px
    relative = math.hypot(scale.relative_u, scale.uneven)
    return Measured(mm, math.hypot(u_px * scale.mm_per_px, relative * mm))


def scale_check(scale: Scale, px: float, u_px: float, mm: float, u_mm: float) -> tuple[float, float]:
    """(relative error of the scale by a second known length, how many standard uncertainties that is).

    px, u_px: pixels.
    """
    found = length_mm(scale, px, u_px)
    error = found.mm / mm - 1
    return error, error / math.hypot(found.u / mm, u_mm / mm)
