"""Photos of flat parts of known truth: a random drawing's part on a card, photographed from aside, with a rough drawing of it to be fitted."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from contour.metrology.photo.flat import FlatPixels, flat_of
from contour.metrology.photo.laid import Laid
from contour.metrology.photo.scale import Scale, scale_of
from contour.metrology.photo.squared import squared_up
from contour.simulate.measured_profiles import measured_profile, outline_rings
from contour.simulate.photo import Camera, photograph
from contour.sketch.drawn.text import Drawing

__all__ = ["PhotographedProfile", "photographed_profile"]

Array = NDArray[np.float64]
_U_CORNER_PX, _U_CARD_MM = 0.4, 0.02


@dataclass(frozen=True, slots=True, eq=False)
class PhotographedProfile:
    """truth: solved · rough: the same, drawn by hand · laid: where the photo lies under it, as well as its own card tells."""

    truth: Drawing
    rough: Drawing
    pixels: FlatPixels
    scale: Scale
    laid: Laid


def photographed_profile(
    rng: np.random.Generator, *, corners: int = 7, holes: int = 1, rough: float = 0.004, seed: int = 0
) -> PhotographedProfile:
    """Squared up by its card as a user would: four corners picked to some pixels, then found. Corners of the part are sharp."""
    made = measured_profile(rng, corners=corners, holes=holes, rough=rough)
    rings = outline_rings(made.truth)
    low, high = rings[0].min(axis=0), rings[0].max(axis=0)
    middle, size = (low + high) / 2, high - low
    card = (float(1.5 * size[0] + 10), float(1.5 * size[1] + 10))
    camera = Camera(
        tilt_deg=rng.uniform(3, 12),
        towards_deg=rng.uniform(0, 360),
        spin_deg=rng.uniform(-3, 3),
        bend=rng.uniform(-0.04, 0.04),
        seed=seed,
    )
    round_holes = []
    for ring in rings[1:]:
        centre = ring.mean(axis=0)
        round_holes.append((*(centre - middle), float(np.linalg.norm(ring - centre, axis=1).mean())))
    photo = photograph([rings[0] - middle], camera, card=card, holes=round_holes)
    found = squared_up(photo.grey, photo.card + rng.normal(0, 1.5, (4, 2)))
    flat = flat_of(camera.size, corners=found.corners, bend=found.bend, aspect=card[0] / card[1])
    seen = flat.to_flat(found.corners)
    scale = scale_of(
        float(np.linalg.norm(seen[1] - seen[0])), np.sqrt(2) * _U_CORNER_PX, card[0], _U_CARD_MM, squared=True
    )
    centre = seen.mean(axis=0)
    laid = Laid((float(centre[0]), float(centre[1])), (float(middle[0]), float(middle[1])), 0.0, scale.mm_per_px)
    return PhotographedProfile(made.truth, made.rough, FlatPixels(photo.grey, flat), scale, laid)
