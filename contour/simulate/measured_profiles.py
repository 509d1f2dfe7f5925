"""Measured profiles of known truth: a random drawing's outline with softened corners, sampled unevenly, with noise, perhaps with stretches missing."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import Polygon

from contour.simulate.drawings import perturbed, random_drawing
from contour.sketch.drawn.profiles import profiles_of
from contour.sketch.drawn.solution import solved
from contour.sketch.drawn.text import Drawing
from contour.sketch.drawn.traces import traces_shown

__all__ = ["MeasuredProfile", "measured_profile", "outline_rings"]

Array = NDArray[np.float64]


@dataclass(frozen=True, slots=True, eq=False)
class MeasuredProfile:
    """truth: solved · rough: the same, drawn by hand · chains: measured places (n, 2), mm, in order along each closed line."""

    truth: Drawing
    rough: Drawing
    chains: tuple[Array, ...]


def measured_profile(
    rng: np.random.Generator,
    *,
    corners: int = 8,
    holes: int = 2,
    noise_mm: float = 0.03,
    soft_mm: float = 0.4,
    spacing_mm: float = 0.8,
    missing: float = 0.0,
    rough: float = 0.004,
) -> MeasuredProfile:
    """soft_mm: radius that every sharp corner is rounded by · missing: share of every line nobody saw, in one to three stretches · rough: of the
    whole size, how far the drawn points lie off."""
    while True:
        made = random_drawing(rng, corners, holes)
        truth = solved(made.drawing())
        if not truth.solved:
            continue
        found = profiles_of(truth.drawing).regions
        if len(found) != holes + 1 or len(found[0].islands) != holes:
            continue  # holes that run into one another, or out of the outline
        drawn = solved(
            perturbed(rng, made, rough).model_copy(
                update={"dimensions": tuple(d.model_copy(update={"reference": True}) for d in truth.drawing.dimensions)}
            )
        )
        if drawn.solved:
            break
    rings = outline_rings(truth.drawing)
    part = Polygon(rings[0], rings[1:])
    part = part.buffer(-soft_mm, 64).buffer(2 * soft_mm, 64).buffer(-soft_mm, 64)
    chains = [_seen(rng, np.array(r.coords), noise_mm, spacing_mm, missing) for r in (part.exterior, *part.interiors)]
    asked = drawn.drawing.model_copy(update={"dimensions": truth.drawing.dimensions})
    return MeasuredProfile(truth.drawing, asked, tuple(chains))


def outline_rings(drawing: Drawing) -> list[Array]:
    """The first region of a solved drawing as rings (n, 2), mm: the outer one, then its holes."""
    traces = {t.entity: t for t in traces_shown(drawing)}
    first = profiles_of(drawing).regions[0]
    rings = []
    for walk in (first.outer, *first.islands):
        path = [
            traces[p.entity].place(
                np.linspace(p.first, p.last, 200) % 1.0
                if traces[p.entity].closed
                else np.linspace(p.first, p.last, 200)
            )
            for p in walk
        ]
        rings.append(np.vstack([q[:-1] for q in path]))
    return rings


def _seen(rng: np.random.Generator, ring: Array, noise: float, spacing: float, missing: float) -> Array:
    line = shapely.LineString(ring)
    count = max(int(line.length / spacing), 12)
    at = np.sort(rng.uniform(0, line.length, count))
    if missing:
        gaps = int(rng.integers(1, 4))
        starts = rng.uniform(0, line.length, gaps)
        gone = np.zeros(count, np.bool_)
        for s in starts:
            gone |= (at - s) % line.length < missing / gaps * line.length
        at = at[~gone]
    places = shapely.get_coordinates(shapely.line_interpolate_point(line, at))
    return np.asarray(places + rng.normal(0, noise, places.shape))
