"""Where the borders of regions run: corners where their surfaces meet, and a curve along each chain of mesh sides."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from OCP.Geom import Geom_BSplineCurve

from contour.geometry.surfaces import Surface
from contour.solid.of_regions.borders import Borders
from contour.solid.of_regions.curves import Run, corner_of, run_along

__all__ = ["Courses", "courses_of", "kinks_of"]

Array = NDArray[np.float64]

_CURVES = 10.0  # times the tolerance of vertices: what a curve may be off both its surfaces to be told as a line, a circle or an ellipse
# Radians that a chain turns by at a kink, and how many times what it turns by at the vertices beside it.
_KINK, _ALONE = 0.9, 3.0


@dataclass(frozen=True, slots=True)
class Courses:
    """spots: where corners are, by vertex, (3,) mm · runs: of each chain."""

    spots: dict[int, Array]
    runs: list[Run]


def courses_of(
    vertices: Array, borders: Borders, surfaces: list[Surface | None], flat: NDArray[np.bool_], tolerance_mm: float
) -> Courses:
    """Corners and curves of borders. surfaces: of each region, none of a patch · flat (regions,): facets of something that no surface explains,
    whose corners and sides stay where the mesh has them."""
    held = [None if f else s for s, f in zip(surfaces, flat, strict=True)]
    around: dict[int, set[int]] = {}
    for c in borders.chains:
        for v in (int(c.vertices[0]), int(c.vertices[-1])):
            around.setdefault(v, set()).update(r for r in (c.left, c.right) if r >= 0)
    spots = {}
    for v, regions in around.items():
        own = [s for s in (held[r] for r in sorted(regions)) if s is not None]
        spots[v] = corner_of(vertices[v], own, 4 * tolerance_mm) if own else vertices[v]
    runs = []
    for c in borders.chains:
        points = vertices[c.vertices].copy()
        first, last = int(c.vertices[0]), int(c.vertices[-1])
        points[0], points[-1] = spots[first], spots[last]
        sides = [held[r] for r in (c.left, c.right) if r >= 0]
        own = [s for s in sides if s is not None]
        bare = len(points) == 2 and (len(own) < len(sides) or not own)
        runs.append(run_along(points, own, c.ring or first == last, _CURVES * tolerance_mm, flat=bare))
    return Courses(spots, runs)


def kinks_of(vertices: Array, borders: Borders, courses: Courses) -> frozenset[int]:
    """Vertices at which a chain turns sharply though no third region is there, where its curve is a free one: through a kink that would swing
    far out to either side."""
    out = set()
    for c, run in zip(borders.chains, courses.runs, strict=True):
        if c.ring or len(c.vertices) < 3 or not isinstance(run.curve, Geom_BSplineCurve):
            continue
        way = np.diff(vertices[c.vertices], axis=0)
        way /= np.maximum(np.linalg.norm(way, axis=1), 1e-30)[:, None]
        turn = np.arccos(np.clip(np.einsum("ij,ij->i", way[:-1], way[1:]), -1, 1))
        beside = np.maximum(np.append(turn[1:], 0.0), np.append(0.0, turn[:-1]))
        at = np.flatnonzero((turn > _KINK) & (turn > _ALONE * beside)) + 1
        out.update(c.vertices[at].tolist())
    return frozenset(out)
