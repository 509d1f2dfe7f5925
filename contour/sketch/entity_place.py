"""The axis or point that a piece of a sketch stands for."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from contour.construct.place import Place, Shape
from contour.geometry.vectors import triple
from contour.recipe.problem import ContourError, Where
from contour.sketch.entities import Entity, Sketch, entity_points

__all__ = ["place_of_entity"]


def place_of_entity(sketch: Sketch, name: str, *, as_point: bool = False) -> Place:
    """A line's axis, abreast of its middle, or that of an arc or ellipse, at its centre and square to the sketch; `as_point`: the
    middle or centre itself. mm, scan frame. Raises ContourError (ref-lost, wrong-kind): a free curve has no axis."""
    if sketch.refused is not None:
        raise ContourError.of(sketch.refused)
    entity = next((e for e in (*sketch.entities, *sketch.helpers) if e.id == name), None)
    if entity is None:
        raise ContourError(
            "ref-lost",
            "the sketch has no such piece any more",
            where=Where(entity=name),
            got=name,
            need="a piece of the sketch",
            remedy="choose the piece again",
        )
    points = entity_points(entity)
    steps = np.linalg.norm(np.diff(points, axis=0), axis=1)
    reach = float(steps.sum()) / 2
    shape: Shape = "point" if as_point else "axis"
    round_one = _centre(entity)
    if round_one is not None:
        centre, radius = round_one
        at = sketch.frame.to_space(np.array([centre]))[0]
        return Place(shape, triple(at), triple(sketch.frame.normal), radius=radius, reach=reach)
    middle = triple(sketch.frame.to_space(np.array([_half_way(points, steps)]))[0])
    if as_point:
        return Place("point", middle, reach=reach)
    if entity.kind == "line":
        a, b = sketch.frame.to_space(points)
        return Place("axis", middle, triple((b - a) / np.linalg.norm(b - a)), reach=reach)
    raise ContourError(
        "wrong-kind",
        "a free curve has no axis",
        where=Where(entity=name, point=middle),
        got="free curve",
        need="a line, arc or ellipse",
        remedy="choose another piece",
    )


def _centre(entity: Entity) -> tuple[tuple[float, float], float] | None:
    """Centre and radius, where a piece is round; an ellipse has no one radius."""
    if entity.ellipse is not None:
        return (entity.ellipse[0], entity.ellipse[1]), 0.0
    if entity.kind != "arc":
        return None
    centre, radius = entity.circle()
    return (float(centre[0]), float(centre[1])), radius


def _half_way(points: NDArray[np.float64], steps: NDArray[np.float64]) -> NDArray[np.float64]:
    """The place half-way along a path. points (n, 2) · steps (n - 1,) their distances."""
    run = np.concatenate([[0.0], np.cumsum(steps)])
    return np.array([np.interp(run[-1] / 2, run, points[:, k]) for k in (0, 1)])
