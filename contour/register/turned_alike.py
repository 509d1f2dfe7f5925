"""How many times a part repeats around an axis: teeth, splines, spokes, holes on a circle.

What turning by any angle leaves where it is, is round and tells nothing; what is left tells by how many turns it comes to lie on the scan again.
The count is the largest at which it does, and half a turn between two of them it must not.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from contour.geometry.rigid import moved, rotation
from contour.mesh.nearest import nearest_on_triangles
from contour.recipe.problem import ContourError
from contour.register.best_fit import even_samples
from contour.register.icp import Target, target_of

__all__ = ["TurnedAlike", "turned_alike"]

Array = NDArray[np.float64]
_MOST = 400
_ASKED, _ASKED_FIRST = 4000, 400  # places on the scan, and so many of them that rule most counts out
_ROUND = 0.02  # of the area: less that tells leaves a round part
_PITCH = 5.0  # sides of a facet, that a pitch has to be wide
_AGREES, _BETWEEN = 0.8, 0.75  # share of what tells: teeth wear; and how much less of it half a pitch on
_ODD_TURNS = (0.2137, 0.5771, 1.1347, 1.9013, 2.7443, 4.0129)  # radians, of no count


@dataclass(frozen=True, slots=True)
class TurnedAlike:
    """count: how many are alike around the axis · agree: share of what is not round that lies on the scan again after a turn by one of them · telling: share of
    the area that is not round."""

    count: int
    agree: float
    telling: float


def turned_alike(
    vertices: Array,
    facets: NDArray[np.int32],
    across: NDArray[np.int32],
    at: Array,
    along: Array,
    *,
    noise_mm: float,
    side_mm: float,
) -> TurnedAlike:
    """Raises ContourError (no-symmetry) where the part is round about the axis, or nothing repeats.

    vertices (n, 3) mm · facets, across (m, 3) · at, along (3,): the axis · side_mm: mean side of a facet.
    """
    target = target_of(vertices, facets, across=across)
    points, normals = even_samples(vertices, facets, _ASKED)
    reach = max(4 * noise_mm, 0.3 * side_mm)  # a sharp edge is cut by so much

    def asked(some: NDArray[np.int64], radians: float) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
        return _lies_again(target, points[some], normals[some], rotation(at, along, radians), reach)

    every = np.arange(len(points))
    off = np.zeros(len(points), np.int64)
    for turn in _ODD_TURNS:
        alike, told = asked(every, turn)
        off += told & ~alike
    tells = np.flatnonzero(off >= 2)
    share = len(tells) / len(points)
    if share < _ROUND:
        raise _refused("the part is round about this axis", f"{100 * share:.1f} % of it is not")
    arm = np.linalg.norm(np.cross(points[tells] - at, along), axis=1)
    most = min(_MOST, int(2 * np.pi * np.quantile(arm, 0.9) / (_PITCH * side_mm)))
    first = np.random.default_rng(3).permutation(tells)[:_ASKED_FIRST]

    def agrees(some: NDArray[np.int64], radians: float) -> float:
        alike, told = asked(some, radians)
        return float(alike.sum() / max(int(told.sum()), 1)) if told.sum() > 0.2 * len(some) else 0.0

    best = 0.0
    for count in range(most, 1, -1):
        pitch = 2 * np.pi / count
        rough = agrees(first, pitch)
        best = max(best, rough)
        if rough < _AGREES - 0.15:
            continue
        found = agrees(tells, pitch)
        if found >= _AGREES and agrees(tells, pitch / 2) < _BETWEEN * found:
            return TurnedAlike(count, found, share)
    raise _refused(
        "nothing repeats around this axis", f"at the best turn {100 * best:.0f} % of what is not round lies on the scan"
    )


def _lies_again(
    target: Target, points: Array, normals: Array, turn: Array, reach: float
) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    """Whether each turned place lies on the scan facing alike, and whether the scan tells: it has no border there."""
    there = moved(turn, points)
    feet, owner = nearest_on_triangles(target.tree, there)
    away = np.linalg.norm(there - feet, axis=1)
    facing = np.einsum("ij,ij->i", normals @ turn[:3, :3].T, target.normals[owner]) > 0.5
    rim = np.zeros(len(points), np.bool_) if target.barred is None else target.barred[owner]
    return (away < reach) & facing, ~(rim & (away > reach))


def _refused(message: str, got: str) -> ContourError:
    return ContourError(
        "no-symmetry", message, got=got, need="features that repeat", remedy="choose another axis, or type the count"
    )
