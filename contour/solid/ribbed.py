"""Ribs: walls between an open line and the body that it spans."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from contour.geometry.vectors import triple
from contour.recipe.problem import ContourError, Where
from contour.sketch.entities import Entity, Sketch, chains_of, ends_meet, entity_points
from contour.solid.boolean import combine
from contour.solid.halves import left_of_outline
from contour.solid.mass import volume
from contour.solid.pieces import pieces
from contour.solid.shape import NamedShape

__all__ = ["Side", "ribbed"]

Side = Literal["left", "right"]
_ON_LINE_MM = 1e-5
_ALIKE = 1e-6  # of a volume
_STEP_DEG = 5.0


def ribbed(
    body: NamedShape, sketch: Sketch, *, between: tuple[float, float], side: Side | None, prefix: str
) -> tuple[NamedShape, float]:
    """(The body with a wall from the sketch's open line to where the body ends it, volume of what was added in mm³).

    between: heights of the wall's two faces over the sketch, mm · side: of the line that it lies on; none is the one on which the body ends it. The line
    runs on straight from both its ends. The line's faces are ``prefix.side[entity]``, the wall's ``prefix.start[...]`` and ``prefix.end[...]``.

    Raises ContourError (open-end) where the body does not end it, with a place, (wrong-ending) where it would on both sides, (body-broken).
    """
    chain = _chain(sketch)
    spots = _spots(chain, sketch, sum(between) / 2)
    tried: tuple[Side, ...] = ("left", "right") if side is None else (side,)
    found = {s: w for s in tried if (w := _walls(body, sketch, chain, between, s, spots, prefix))}
    if len(found) > 1:
        raise ContourError(
            "wrong-ending",
            "the body ends the rib on both sides of its line",
            where=Where(param="side", point=triple(spots[len(spots) // 2])),
            got="material on both sides",
            need="the side that it lies on",
            remedy="choose the left or the right side of the line",
        )
    if not found:
        raise ContourError(
            "open-end",
            "the rib runs out into the open: the body does not end it",
            where=Where(param="sketch", point=triple(spots[len(spots) // 2])),
            got="no material " + ("on either side of the line" if side is None else f"to the {side} of the line"),
            need="a line whose ends, run on straight, meet the body, which closes the space behind it",
            remedy="draw the line further into the body, make the rib thinner, or choose the other side",
        )
    (walls,) = found.values()
    whole = volume(body.shape)
    made, added = body, 0.0
    for wall in walls:
        made, added = combine(made, wall, "add", what="the rib"), added + volume(wall.shape)
    grown = volume(made.shape) - whole
    if abs(grown - added) > _ALIKE * (whole + added):
        raise ContourError(
            "body-broken",
            "the rib does not join the body as it should",
            where=Where(param="sketch", point=triple(spots[0])),
            got=f"{grown:.3f} mm³ more",
            need=f"{added:.3f} mm³ more",
            remedy="change the thickness a little so that faces do not almost touch",
        )
    return made, added


def _chain(sketch: Sketch) -> list[Entity]:
    if sketch.refused is not None:
        raise ContourError.of(sketch.refused)
    opened = [c for c in chains_of(sketch.entities) if not ends_meet(c[0].start, c[-1].end)]
    if len(opened) != 1:
        raise ContourError(
            "open-end",
            "a rib needs one open line",
            where=Where(param="sketch"),
            got=f"{len(opened)} open lines",
            need="one line of pieces that join, open at both ends",
            remedy="draw the line that the rib ends at, and nothing else open",
        )
    return opened[0]


def _spots(chain: list[Entity], sketch: Sketch, height: float) -> NDArray[np.float64]:
    """Places on the line at half the wall, (n, 3) mm: in the middle of what every piece is drawn of."""
    flat = []
    for entity in chain:
        p = entity_points(entity, step_deg=_STEP_DEG)
        flat.append((p[:-1] + p[1:]) / 2 if entity.kind == "line" else p[1:-1])
    return sketch.frame.to_space(np.vstack(flat)) + height * sketch.frame.normal


def _walls(
    body: NamedShape,
    sketch: Sketch,
    chain: list[Entity],
    between: tuple[float, float],
    side: Side,
    spots: NDArray[np.float64],
    prefix: str,
) -> list[NamedShape] | None:
    """The pieces of the space beside the line that the body closes; none where one of them does not end."""
    along = chain if side == "left" else [e.reversed() for e in reversed(chain)]
    there = replace(sketch, entities=tuple(along), loops=(), faces=None)
    slab = left_of_outline(there, body, prefix, between=between)
    try:
        rest = combine(slab, body, "subtract", what="the body")
    except ContourError as error:
        if error.problem.code == "unchanged" or "no material" in error.problem.message:
            return None
        raise
    touching = [p for p, away in pieces(rest) if min(away(s) for s in spots) < _ON_LINE_MM]
    leaks = any(f"{prefix}.side[around]" in p.names for p in touching)
    return None if leaks or not touching else touching
