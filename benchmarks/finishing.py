"""Leaning walls and patterns against closed forms: a hundred prisms drafted all round, and a hundred plates with bosses or pockets in rows and circles."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator

import numpy as np
from shapely.affinity import affine_transform
from shapely.geometry import Polygon, box
from shapely.ops import unary_union

from contour.geometry.frames import plane_frame
from contour.recipe.problem import ContourError
from contour.simulate.star_outlines import entities_of, star_outline
from contour.sketch.entities import Sketch, find_profiles
from contour.solid.drafted import drafted
from contour.solid.extrude import extrude
from contour.solid.gate import check_solid
from contour.solid.repeated import copied, put_on
from contour.solid.shape import NamedShape

__all__ = ["run"]

_COUNT = 100
_UP = np.array([0.0, 0.0, 1.0])
_CLOSE = 1e-6

Tried = tuple[NamedShape, float]  # what came of it, and the volume that it has to have, mm³


def run() -> Iterator[tuple[str, str]]:
    yield f"{_COUNT} prisms with all walls leaning: volume within 1e-6 (wanted 95 right, 0 wrong)", _counted(_draft, 26)
    yield (
        f"{_COUNT} plates with 2 to 9 bosses or pockets in rows or circles, some over each other, some left out: the same",
        _counted(_pattern, 27),
    )


def _counted(trial: Callable[[np.random.Generator], Tried], seed: int) -> str:
    right, wrong, refused, placed = 0, 0, 0, 0
    for k in range(_COUNT):
        try:
            made, want = trial(np.random.default_rng([seed, k]))
        except ContourError as error:
            where = error.problem.where
            refused += 1
            placed += bool(where.point or where.entity)
            continue
        found = check_solid(made.shape)
        good = found.closed and found.valid and abs(found.volume / want - 1) < _CLOSE
        right += good
        wrong += not good
    return f"{right} right, {wrong} wrong, {refused} refused, {placed} of these with the face or place"


def _prism(corners: np.ndarray, low: float, high: float, prefix: str) -> NamedShape:
    frame = plane_frame(np.zeros(3), _UP, np.array([1.0, 0.0, 0.0]))
    return extrude(
        find_profiles(Sketch(frame, tuple(entities_of(corners)))), frame, start_mm=low, end_mm=high, prefix=prefix
    )


def _draft(rng: np.random.Generator) -> Tried:
    """Stars too: their inner corners lean outwards where the outer ones lean inwards."""
    corners = star_outline(rng, most=8, radius_mm=(15, 35))
    height, angle = float(rng.uniform(5, 20)), float(rng.uniform(-5, 5))
    body = _prism(corners, 0.0, height, "b")
    made = drafted(body, [n for n in body.names if ".side[" in n], np.zeros(3), _UP, angle)
    part, per_mm = Polygon(corners), math.tan(math.radians(angle))

    def area(z: float) -> float:
        return float(part.buffer(-z * per_mm, join_style="mitre", mitre_limit=100).area)

    # The area is a parabola of the height, as long as no side has gone.
    return made, height / 6 * (area(0.0) + 4 * area(height / 2) + area(height))


def _pattern(rng: np.random.Generator) -> Tried:
    plate = np.array([(-60, -45), (60, -45), (60, 45), (-60, 45)], float)
    body = _prism(plate, 0.0, 10.0, "p")
    outline = star_outline(rng, most=7, radius_mm=(2, 6)) + rng.uniform(-18, 18, 2)
    adds, height = bool(rng.random() < 0.5), float(rng.uniform(2, 8))
    # A hair into the plate, or out of it: what only touches does not join.
    tool = _prism(outline, *((9.0, 10.0 + height) if adds else (10.0 - height, 11.0)), "t")
    placements = _placements(rng)
    copies = [tool, *(copied(tool, m, name=f"c{k}") for k, m in enumerate(placements))]
    made = put_on(body, copies, "add" if adds else "subtract")
    flat = [
        affine_transform(Polygon(outline), [m[0, 0], m[0, 1], m[1, 0], m[1, 1], m[0, 3], m[1, 3]]) for m in placements
    ]
    covered = unary_union([Polygon(outline), *flat])
    if adds:
        over = covered.difference(box(-60, -45, 60, 45)).area  # stands out beyond the plate, from a millimetre lower
        return made, 120 * 90 * 10 + covered.area * height + over * 1.0
    return made, 120 * 90 * 10 - covered.intersection(box(-60, -45, 60, 45)).area * height


def _placements(rng: np.random.Generator) -> list[np.ndarray]:
    """Rows beside each other, or about the middle; now and then a member is left out."""
    out = []
    if rng.random() < 0.5:
        (n, m), (dx, dy) = rng.integers(1, 4, 2), rng.uniform(5, 25, 2)
        for i in range(int(n)):
            for j in range(int(m)):
                if i or j:
                    matrix = np.eye(4)
                    matrix[:2, 3] = i * dx, j * dy
                    out.append(matrix)
    else:
        count = int(rng.integers(2, 10))
        for k in range(1, count):
            a = 2 * math.pi * k / count
            matrix = np.eye(4)
            matrix[:2, :2] = [[math.cos(a), -math.sin(a)], [math.sin(a), math.cos(a)]]
            out.append(matrix)
    return [m for m in out if len(out) == 1 or rng.random() < 0.85]
