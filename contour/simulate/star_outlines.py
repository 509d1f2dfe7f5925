"""Random closed outlines of straight pieces that do not cross themselves, for closed forms to be held against."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from contour.sketch.entities import Entity

__all__ = ["entities_of", "star_outline"]

Array = NDArray[np.float64]


def star_outline(rng: np.random.Generator, *, most: int = 11, radius_mm: tuple[float, float] = (2.0, 6.0)) -> Array:
    """Corners (n, 2) of 3 to `most`, mm, seen from the zero inside, counter-clockwise; no gap between two of them is a half turn wide."""
    count = int(rng.integers(3, most + 1))
    while True:
        a = np.sort(rng.uniform(0, 2 * np.pi, count))
        gaps = np.diff(np.append(a, a[0] + 2 * np.pi))
        if gaps.max() < np.pi - 0.2 and gaps.min() > 0.1:
            break
    r = rng.uniform(*radius_mm, count)
    return np.column_stack([r * np.cos(a), r * np.sin(a)])


def entities_of(corners: Array) -> list[Entity]:
    """Lines e1, e2 … from corner to corner (n, 2)."""
    spots = [(float(x), float(y)) for x, y in corners]
    return [Entity(f"e{k + 1}", "line", p, spots[(k + 1) % len(spots)]) for k, p in enumerate(spots)]
