"""Profiles raised from faces or sunk into them: walls along the sketch's normal, between the faces and others that run beside them at an even height."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from contour.geometry.frames import PlaneFrame
from contour.recipe.problem import ContourError, Where
from contour.sketch.entities import Profile
from contour.solid.boolean import Operation, combine
from contour.solid.extrude import extrude
from contour.solid.halves import reach_of
from contour.solid.pieces import pieces
from contour.solid.shape import NamedShape
from contour.solid.thickened import thickened

__all__ = ["Relief", "relief"]

_INTO_MM = 0.1  # how far it goes on past the faces, into the material or out of it, so that nothing lies on them


@dataclass(frozen=True, slots=True)
class Relief:
    """The body, and whether the profile ran beyond the faces, where there is nothing of it."""

    body: NamedShape
    clipped: bool


def relief(
    body: NamedShape,
    profiles: Sequence[Profile],
    frame: PlaneFrame,
    chosen: Sequence[str],
    height: float,
    *,
    prefix: str,
    labels: Mapping[str, str] | None = None,
) -> Relief:
    """Profiles raised from faces of a body that hang together, or sunk into them where height (mm) is negative.

    Of several places where the profile meets the faces it is the one nearest to its plane. Faces are called ``prefix.over[face]`` or
    ``prefix.under[face]`` beside the chosen ones, ``prefix.side[entity]``. Raises ContourError (bad-params), (unchanged) where the profile misses the faces,
    (body-broken).
    """
    if abs(height) < 1e-3:
        raise ContourError(
            "bad-params",
            "it is neither raised nor sunk",
            where=Where(param="height"),
            got=f"{height:g} mm",
            need="at least 0.001 mm, either way",
            remedy="type a height such as 1 mm, or -1 mm to sink it",
        )
    beyond = min(_INTO_MM, abs(height) / 2)
    out, into = (height, beyond) if height > 0 else (beyond, -height)
    skin = thickened(body, chosen, out, into, prefix=prefix, labels=labels)
    low, high = reach_of(skin.shape, frame.origin, frame.normal)
    clipped = False
    operation: Operation = "add" if height > 0 else "subtract"
    for profile in profiles:
        prism = extrude([profile], frame, start_mm=low - 1, end_mm=high + 1, prefix=prefix)
        made = _nearest(_shared(prism, skin), profile, frame)
        clipped |= any(".rim" in n for n in made.names)
        body = combine(body, made, operation, what="the profile")
    return Relief(body, clipped)


def _shared(prism: NamedShape, skin: NamedShape) -> NamedShape:
    try:
        return combine(prism, skin, "intersect", what="the profile and the faces")
    except ContourError as error:
        if "leaves no material" not in error.problem.message:
            raise
        raise ContourError(
            "unchanged",
            "the profile does not meet the faces",
            where=Where(param="faces", point=error.problem.where.point),
            got="nothing of them over or under it",
            need="faces that it can be seen against, along the sketch's normal",
            remedy="choose the face that lies over or under the profile, or move the sketch",
        ) from None


def _nearest(found: NamedShape, profile: Profile, frame: PlaneFrame) -> NamedShape:
    """Of pieces one over the other the one nearest to the plane."""
    parts = pieces(found)
    spots = frame.to_space(np.array([e.start for e in profile.outer.entities]))
    return min(parts, key=lambda part: min(part[1](p) for p in spots))[0] if len(parts) > 1 else found
